# A factor structure as numbers: a data frame of cells, one row a cell of the
# model's matrices that is not plainly zero.
#   part    0 loading, 1 factor (co)variance, 2 residual (co)variance, 3 path
#   row, column   position, from 1
#   free    number of the free parameter, from 1; cells with the same number are
#           equal; 0 for a fixed cell
#   value   the fixed value

core_parts <- c(loading = 0L, factor = 1L, residual = 2L, path = 3L)

# Starting values, one a free parameter. Loadings of each factor from the first
# principal axis of its items; residuals from what they leave; factor variances
# from the scaling; covariances zero.
core_structure_start <- function(cells, s, factors) {
  value <- cells$value
  loading <- cells$part == core_parts[["loading"]]
  variance <- rep(1, factors)
  for (k in seq_len(factors)) {
    mine <- which(loading & cells$column == k)
    if (length(mine) == 0) next
    size <- axis_loadings(s, cells$row[mine])
    fixed <- cells$free[mine] == 0 & cells$value[mine] != 0
    scale <- if (any(fixed)) size[which(fixed)[1]] / cells$value[mine][which(fixed)[1]] else 1
    variance[k] <- scale^2
    value[mine] <- size / scale
  }
  own <- cells$row == cells$column
  is_factor <- cells$part == core_parts[["factor"]] & own
  value[is_factor] <- variance[cells$row[is_factor]]
  is_residual <- cells$part == core_parts[["residual"]] & own
  value[is_residual] <- 0.5 * diag(s)[cells$row[is_residual]]
  is_path <- cells$part == core_parts[["path"]]
  value[is_path] <- 0.7 * sqrt(variance[cells$row[is_path]])
  start <- numeric(max(cells$free, 0L))
  # Cells made equal start at their mean.
  free <- cells$free > 0
  start[] <- tapply(value[free], factor(cells$free[free], seq_along(start)), mean)
  start
}

# Loadings of items on their first principal axis, shrunk to what is common.
axis_loadings <- function(s, rows) {
  if (length(rows) == 1) {
    return(sqrt(0.5 * s[rows, rows]))
  }
  roots <- eigen(s[rows, rows], symmetric = TRUE)
  axis <- roots$vectors[, 1]
  if (sum(axis) < 0) axis <- -axis
  size <- 0.8 * axis * sqrt(roots$values[1])
  small <- 0.1 * sqrt(diag(s)[rows])
  ifelse(abs(size) < small, small * ifelse(size < 0, -1, 1), size)
}

# The model's matrices at theta: list(loading, factor, residual, path).
core_structure_matrices <- function(cells, theta, items, factors) {
  value <- cells$value
  value[cells$free > 0] <- theta[cells$free[cells$free > 0]]
  put <- function(part, rows, columns, symmetric) {
    m <- matrix(0, rows, columns)
    mine <- cells$part == core_parts[[part]]
    m[cbind(cells$row, cells$column)[mine, , drop = FALSE]] <- value[mine]
    if (symmetric) m[cbind(cells$column, cells$row)[mine, , drop = FALSE]] <- value[mine]
    m
  }
  list(
    loading = put("loading", items, factors, FALSE), factor = put("factor", factors, factors, TRUE),
    residual = put("residual", items, items, TRUE), path = put("path", factors, factors, FALSE)
  )
}

# Covariances of the factors, and with Lambda those the model implies.
core_factor_covariance <- function(matrices) {
  m <- ncol(matrices$factor)
  reach <- solve(diag(m) - matrices$path)
  reach %*% matrices$factor %*% t(reach)
}

# Can every parameter be told from the others at theta? The expected Hessian has
# the rank of the implied covariances' Jacobian (Wald, 1950; Rothenberg, 1971).
core_identified <- function(cells, theta, s, factors) {
  at <- kernel_evaluate_structure(cells, ncol(s), factors, s, theta)
  if (!at$defined) {
    return(NA)
  }
  scale <- sqrt(diag(at$expected_hessian))
  if (any(scale == 0)) {
    return(FALSE)
  }
  core_definiteness(at$expected_hessian / outer(scale, scale)) > 1e-10
}
