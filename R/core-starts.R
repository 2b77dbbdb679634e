# Several starts of one search, where the first does not end well: how a solution is told to be
# possible, where else to begin, and which end is taken.

# Smallest eigenvalues of the matrices of a structure at its solution: residual covariances, factor
# covariances, implied covariances, each over its largest. Below zero, no data could have them.
core_possible <- function(matrices, implied) {
  least <- function(m) {
    if (any(!is.finite(m))) {
      return(-Inf)
    }
    roots <- eigen(m, symmetric = TRUE, only.values = TRUE)$values
    utils::tail(roots, 1) / max(roots[1], 1e-12)
  }
  c(residual = least(matrices$residual), factor = least(core_factor_covariance(matrices)), implied = least(implied))
}

core_is_possible <- function(matrices, implied) all(core_possible(matrices, implied) > -1e-9)

# Further starting values, `count` of them, around `start`: loadings of half to one and a half
# times their size, residual variances of a tenth to nine tenths of the item's variance,
# covariances of factors up to half their size either way. Points of a low-discrepancy sequence
# (Halton, 1960), so that a fit is the same every time.
core_further_starts <- function(cells, start, s, count = 8L) {
  free <- cells$free > 0
  first <- match(seq_along(start), cells$free)
  own <- (cells$row == cells$column)[first]
  part <- cells$part[first]
  primes <- c(2, 3, 5, 7, 11, 13, 17, 19, 23, 29)
  lapply(seq_len(count), function(i) {
    u <- vapply(seq_along(start), function(k) core_radical_inverse(i + count * (k %/% 10), primes[k %% 10 + 1]), 0)
    value <- start
    loading <- part %in% core_parts[c("loading", "path")]
    value[loading] <- start[loading] * (.5 + u[loading])
    residual <- part == core_parts[["residual"]]
    value[residual & own] <- (.1 + .8 * u[residual & own]) * diag(s)[cells$row[first]][residual & own]
    apart <- part == core_parts[["factor"]] & !own
    value[apart] <- start[apart] + (u[apart] - .5) * factor_sizes(cells, start, cells$row[first][apart], cells$column[first][apart])
    value
  })
}

# Product of the standard deviations of two factors at the start.
factor_sizes <- function(cells, start, one, other) {
  value <- core_cell_values(cells, start)
  own <- cells$part == core_parts[["factor"]] & cells$row == cells$column
  sd <- sqrt(abs(value[own]))
  sd[match(one, cells$row[own])] * sd[match(other, cells$row[own])]
}

# Parameters of `cells` from matrices in which the factors have another scale: each factor is
# stretched so that its fixed variance, or its fixed loading, is what the cells say.
core_rescaled_theta <- function(cells, matrices) {
  loading <- cells$part == core_parts[["loading"]]
  own <- cells$part == core_parts[["factor"]] & cells$row == cells$column
  stretch <- vapply(seq_len(ncol(matrices$factor)), function(k) {
    fixed <- which(loading & cells$column == k & cells$free == 0 & cells$value != 0)
    if (length(fixed) > 0) cells$value[fixed[1]] / matrices$loading[cells$row[fixed[1]], k] else
      sqrt(abs(matrices$factor[k, k] / cells$value[own & cells$row == k]))
  }, 0)
  matrices$loading <- sweep(matrices$loading, 2, stretch, "*")
  matrices$factor <- matrices$factor / outer(stretch, stretch)
  matrices$mean <- matrices$mean / stretch
  from <- c("loading", "factor", "residual", "path", "intercept", "mean")[cells$part + 1L]
  value <- mapply(function(name, row, column) if (is.matrix(matrices[[name]])) matrices[[name]][row, column] else matrices[[name]][row],
    from, cells$row, cells$column)
  free <- cells$free > 0
  as.vector(tapply(value[free], factor(cells$free[free], seq_len(max(cells$free))), base::mean))
}

# fit_from(start) fits; well(fit) says whether a fit may stand without looking further. The best
# proper minimum is taken, else the best minimum, else the first end. The fit gains `starts` (how
# many were tried), `reached` (how many ended at it) and `lower` (whether an improper minimum lies
# lower).
core_best_of_starts <- function(fit_from, start, further, proper, well = proper) {
  first <- fit_from(start)
  if (well(first)) {
    return(c(first, list(starts = 1L, reached = 1L, lower = FALSE)))
  }
  fits <- c(list(first), lapply(further(), fit_from))
  ended <- vapply(fits, function(f) f$status == "ok", TRUE)
  good <- ended
  good[ended] <- vapply(fits[ended], proper, TRUE)
  value <- vapply(fits, function(f) if (is.finite(f$discrepancy)) f$discrepancy else Inf, 0)
  among <- if (any(good)) which(good) else if (any(ended)) which(ended) else 1L
  best <- among[which.min(value[among])]
  near <- 1e-6 * max(1, value[best])
  c(fits[[best]], list(
    starts = length(fits), reached = sum(value[among] < value[best] + near), lower = any(value[ended & !good] < value[best] - near)
  ))
}
