# Where a confirmed structure misses, and what freeing a cell would do.

# Cells that could be freed: every loading and every residual pair that is plainly zero
# or fixed at zero. A data frame of cells.
core_candidates <- function(cells, items, factors) {
  used <- cells$free > 0 | cells$value != 0
  loading <- matrix(FALSE, items, factors)
  loading[cbind(cells$row, cells$column)[used & cells$part == core_parts[["loading"]], , drop = FALSE]] <- TRUE
  pair <- upper.tri(diag(items), diag = TRUE)
  taken <- used & cells$part == core_parts[["residual"]]
  pair[cbind(pmax(cells$row, cells$column), pmin(cells$row, cells$column))[taken, , drop = FALSE]] <- TRUE
  places <- rbind(which(!loading, arr.ind = TRUE), which(!pair, arr.ind = TRUE))
  count <- c(sum(!loading), sum(!pair))
  list2DF(list(
    part = rep(unname(core_parts[c("loading", "residual")]), count), row = unname(places[, 1]), column = unname(places[, 2]),
    free = integer(sum(count)), value = numeric(sum(count))
  ))
}

# Modification index (Sorbom, 1989), its p, expected change, and expected change of the
# standardised value, of each candidate; NA where it cannot be told from what is free.
# patterns: of incomplete answers, in place of s.
core_modifications <- function(cells, theta, s, items, factors, n, candidates, matrices, implied, patterns = NULL) {
  at <- if (is.null(patterns)) {
    kernel_score_tests(cells, items, factors, s, theta, candidates)
  } else {
    kernel_incomplete_score_tests(cells, items, factors, patterns, theta, candidates)
  }
  known <- at$curvature > 0
  curvature <- ifelse(known, at$curvature, NA)
  change <- -at$slope / curvature
  index <- n / 2 * at$slope^2 / curvature
  list2DF(c(candidates, list(
    index = index, p = stats::pchisq(index, 1, lower.tail = FALSE), change = change,
    standard_change = core_standardise(candidates, change, matrices, implied)
  )))
}

# Power of the score test, at `level`, to see a standardised change of `size` (Saris,
# Satorra & van der Veld, 2009).
core_change_power <- function(index, standard_change, size, level = .05) {
  edge <- stats::qnorm(1 - level / 2)
  shift <- sqrt(index) * abs(size / standard_change)
  stats::pnorm(shift - edge) + stats::pnorm(-shift - edge)
}

# Derivative of the implied covariances (lower triangle with diagonal, by column) in each
# free parameter: p(p + 1)/2 x q.
core_structure_jacobian <- function(cells, theta, items, factors) kernel_structure_jacobian(cells, items, factors, theta)

# Standardised residuals (Joreskog & Sorbom, 1988): s - sigma over its standard error,
# which allows for the estimates. A symmetric matrix; NA where the error vanishes.
core_standardised_residuals <- function(s, implied, jacobian, estimate_covariance, n) {
  lower <- lower.tri(s, diag = TRUE)
  spread <- (outer(diag(implied), diag(implied)) + implied^2)[lower]
  explained <- n * kernel_row_forms(jacobian, estimate_covariance)
  error <- sqrt(ifelse(spread - explained > 1e-8 * spread, spread - explained, NA) / n)
  out <- matrix(NA_real_, nrow(s), ncol(s), dimnames = dimnames(s))
  out[lower] <- (s - implied)[lower] / error
  out[upper.tri(out)] <- t(out)[upper.tri(out)]
  out
}
