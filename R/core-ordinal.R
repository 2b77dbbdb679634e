# Structures behind ordered answers: polychoric correlations, diagonally weighted least squares
# (Muthén, 1984, 1993) or unweighted ones.

# r: correlations; gamma: n times the covariance matrix of the correlations (lower triangle by
# column); weighted: by the inverse of gamma's diagonal, else all alike. Residual variances
# are what the factors leave of one: the cells have none free. list(fit, weights, gamma,
# inference, test); `alone`: without the last two.
core_fit_ordinal <- function(cells, r, gamma, n, factors, weighted, start, alone = FALSE) {
  lower <- lower.tri(r)
  w <- if (weighted) 1 / diag(gamma) else rep(1, sum(lower))
  weight <- matrix(0, ncol(r), ncol(r))
  weight[lower] <- w
  weight <- weight + t(weight)
  fit <- core_fit_least_squares(cells, r, factors, weight, TRUE, start)
  diag(fit$implied) <- 1
  raw <- n * fit$discrepancy
  nothing <- n * sum(w * r[lower]^2)
  out <- c(fit, list(weights = w, raw = raw, nothing_raw = nothing))
  if (alone) {
    return(out)
  }
  j <- core_structure_jacobian(cells, fit$theta, ncol(r), factors)[lower[lower.tri(r, diag = TRUE)], , drop = FALSE]
  at <- core_weighted_inference(j, w, gamma, n, fit$held)
  whole <- if (is.null(at)) kernel_weighted_square(gamma, w) else at$whole
  c(out, list(
    jacobian = j, inference = at, test = if (!is.null(at)) core_adjusted_test(raw, length(w) - length(fit$theta), at$first, at$second),
    nothing = core_adjusted_test(nothing, length(w), sum(w * diag(gamma)), whole)
  ))
}

# The structure's cells without residual variances: they are not free here.
ordinal_cells <- function(cells) {
  own <- cells$part == core_parts[["residual"]] & cells$row == cells$column
  cells$free[own] <- 0L
  cells$value[own] <- 0
  cells$free <- match(cells$free, c(0L, sort(unique(cells$free[cells$free > 0])))) - 1L
  cells
}

# The matrices with the residual variances that make every item's variance one.
ordinal_matrices <- function(cells, theta, items, factors) {
  out <- core_structure_matrices(cells, theta, items, factors)
  diag(out$residual) <- 1 - diag(out$loading %*% core_factor_covariance(out) %*% t(out$loading))
  out
}
