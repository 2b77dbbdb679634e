# Correlations of the normal variables behind ordered answers.

# columns: a named list of answers, whose values are shift + sign * x; keep: NULL or
# which cases; `complete` takes only cases that miss nothing. Polychoric correlations
# (Olsson, 1979): two-step maximum likelihood. In a 2 x 2 table an empty cell counts as
# half a case. list(status, values: the answers that occur per item, cases, r,
# std_error, n, state, thresholds), matrices items x items; with `covariance` also the
# asymptotic covariance matrix, times n, of all thresholds followed by the correlations
# (lower triangle by column), for complete answers. status: "ok", "constant_item",
# "too_many_categories" (above `most`); `state` of a pair: "ok", "not_converged",
# "at_bound", "empty_cell", "too_few_cases".
core_polychoric <- function(columns, shift = rep(0, length(columns)), sign = rep(1, length(columns)), keep = NULL, complete = FALSE,
                            covariance = FALSE, most = 20L, threads = 2L) {
  known <- rep(list(NULL), length(columns))
  for (j in which(!vapply(columns, is.integer, TRUE))) {
    x <- as.double(columns[[j]])
    x[is.infinite(x)] <- NA
    if (all(is.na(x) | (x == round(x) & abs(x) < 2^31))) {
      columns[[j]] <- as.integer(x)
    } else {
      known[[j]] <- sort(unique(shift[j] + sign[j] * x))
      columns[[j]] <- match(shift[j] + sign[j] * x, known[[j]])
      shift[j] <- 0
      sign[j] <- 1
    }
  }
  out <- kernel_polychoric(unclass(columns), shift, sign, keep,
    list(complete = complete, most = most, empty_cell = .5, covariance = covariance, threads = threads))
  out$values <- Map(function(values, known) if (is.null(known)) values else known[values], out$values, known)
  names(out$values) <- names(columns)
  if (out$status != "ok") {
    return(out)
  }
  items <- list(names(columns), names(columns))
  dimnames(out$r) <- dimnames(out$std_error) <- dimnames(out$n) <- items
  dimnames(out$state) <- items
  names(out$thresholds) <- names(columns)
  out
}

# P(X < h, Y < k) for standard normals with correlation r.
core_bivariate_normal <- function(h, k, r) {
  size <- max(length(h), length(k), length(r))
  kernel_bivariate_normal(rep_len(h, size), rep_len(k, size), rep_len(r, size))
}

# A positive definite correlation matrix near r: eigenvalues below `least` are raised to
# it and the diagonal is brought back to one.
core_smooth <- function(r, least = 1e-6) {
  e <- eigen(r, symmetric = TRUE)
  raised <- e$vectors %*% (pmax(e$values, least) * t(e$vectors))
  out <- stats::cov2cor(raised)
  dimnames(out) <- dimnames(r)
  out
}
