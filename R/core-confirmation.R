# Maximum likelihood fit of a structure (Joreskog, 1969).

# s: covariance matrix with divisor n. Returns list(status, theta,
# discrepancy, implied, expected_hessian, gradient, decrement, iterations).
core_fit_structure <- function(cells, s, factors, start = core_structure_start(cells, s, factors),
                               tolerance = 1e-15, max_iterations = 300L) {
  out <- kernel_fit_structure(cells, ncol(s), factors, s, start, tolerance, max_iterations)
  out$status <- status_word(out$status)
  out
}

# Covariances of the estimates: the inverse of the expected information
# n / 2 * expected Hessian; NULL where it is singular.
core_estimate_covariance <- function(expected_hessian, n) {
  information <- n / 2 * expected_hessian
  scale <- 1 / sqrt(diag(information))
  if (any(!is.finite(scale))) {
    return(NULL)
  }
  scaled <- information * outer(scale, scale)
  if (rcond(scaled) < 1e-12) {
    return(NULL)
  }
  solve(scaled) * outer(scale, scale)
}

# Standardised value of each cell: loadings by the spread of factor and item,
# factor and residual covariances as correlations, paths by both factors.
# `standard` holds the models' standard deviations of items and factors.
core_standardise <- function(cells, value, matrices, implied) {
  factor_sd <- sqrt(diag(core_factor_covariance(matrices)))
  item_sd <- sqrt(diag(implied))
  residual <- diag(matrices$residual)
  residual_sd <- sqrt(ifelse(residual > 0, residual, NA))
  own <- cells$row == cells$column
  part <- names(core_parts)[cells$part + 1L]
  scale <- numeric(length(value))
  pick <- part == "loading"
  scale[pick] <- factor_sd[cells$column[pick]] / item_sd[cells$row[pick]]
  pick <- part == "path"
  scale[pick] <- factor_sd[cells$column[pick]] / factor_sd[cells$row[pick]]
  pick <- part == "factor"
  scale[pick] <- 1 / (factor_sd[cells$row[pick]] * factor_sd[cells$column[pick]])
  pick <- part == "residual" & own
  scale[pick] <- 1 / item_sd[cells$row[pick]]^2
  pick <- part == "residual" & !own
  scale[pick] <- 1 / (residual_sd[cells$row[pick]] * residual_sd[cells$column[pick]])
  value * scale
}
