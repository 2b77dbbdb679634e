# Where a confirmed structure misses, and what freeing a cell would do.

# Cells that could be freed: every loading and every residual pair that is plainly zero
# or fixed at zero. A data frame of cells.
core_candidates <- function(cells, items, factors) {
  taken <- paste(cells$part, cells$row, cells$column)[cells$free > 0 | cells$value != 0]
  pair <- utils::combn(items, 2)
  out <- rbind(
    data.frame(part = core_parts[["loading"]], row = rep(seq_len(items), factors), column = rep(seq_len(factors), each = items)),
    data.frame(part = core_parts[["residual"]], row = pair[2, ], column = pair[1, ])
  )
  swapped <- paste(out$part, out$column, out$row)
  used <- paste(out$part, out$row, out$column) %in% taken | (out$part == core_parts[["residual"]] & swapped %in% taken)
  out <- out[!used, ]
  out$free <- 0L
  out$value <- 0
  rownames(out) <- NULL
  out
}

# Modification index (Sorbom, 1989), its p, expected change, and expected change of the
# standardised value, of each candidate; NA where it cannot be told from what is free.
core_modifications <- function(cells, theta, s, items, factors, n, candidates, matrices, implied) {
  at <- kernel_score_tests(cells, items, factors, s, theta, candidates)
  known <- at$curvature > 0
  curvature <- ifelse(known, at$curvature, NA)
  change <- -at$slope / curvature
  index <- n / 2 * at$slope^2 / curvature
  data.frame(
    candidates, index = index, p = stats::pchisq(index, 1, lower.tail = FALSE), change = change,
    standard_change = core_standardise(candidates, change, matrices, implied)
  )
}

# Power of the score test, at `level`, to see a standardised change of `size` (Saris,
# Satorra & van der Veld, 2009).
core_change_power <- function(index, standard_change, size, level = .05) {
  noncentrality <- index * (size / standard_change)^2
  stats::pchisq(stats::qchisq(1 - level, 1), 1, ncp = pmin(noncentrality, 1e4), lower.tail = FALSE)
}

# Derivative of the implied covariances (lower triangle with diagonal, by column) in each
# free parameter: p(p + 1)/2 x q.
core_structure_jacobian <- function(cells, matrices) {
  p <- nrow(matrices$loading)
  m <- ncol(matrices$loading)
  inverse <- solve(diag(m) - matrices$path)
  reach <- matrices$loading %*% inverse
  pull <- reach %*% matrices$factor %*% t(inverse)
  free <- which(cells$free > 0)
  out <- matrix(0, p * (p + 1) / 2, max(cells$free))
  lower <- lower.tri(diag(p), diag = TRUE)
  unit <- function(i) replace(numeric(p), i, 1)
  for (i in free) {
    row <- cells$row[i]
    column <- cells$column[i]
    slope <- switch(names(core_parts)[cells$part[i] + 1L],
      loading = outer(unit(row), pull[, column]), path = outer(reach[, row], pull[, column]), factor = outer(reach[, row], reach[, column]),
      residual = outer(unit(row), unit(column))
    )
    slope <- slope + t(slope)
    if (row == column && cells$part[i] %in% core_parts[c("factor", "residual")]) slope <- slope / 2
    out[, cells$free[i]] <- out[, cells$free[i]] + slope[lower]
  }
  out
}

# Standardised residuals (Joreskog & Sorbom, 1988): s - sigma over its standard error,
# which allows for the estimates. A symmetric matrix; NA where the error vanishes.
core_standardised_residuals <- function(s, implied, jacobian, estimate_covariance, n) {
  lower <- lower.tri(s, diag = TRUE)
  spread <- (outer(diag(implied), diag(implied)) + implied^2)[lower]
  explained <- n * rowSums((jacobian %*% estimate_covariance) * jacobian)
  error <- sqrt(ifelse(spread - explained > 1e-8 * spread, spread - explained, NA) / n)
  out <- matrix(NA_real_, nrow(s), ncol(s), dimnames = dimnames(s))
  out[lower] <- (s - implied)[lower] / error
  out[upper.tri(out)] <- t(out)[upper.tri(out)]
  out
}
