# A factor structure as numbers: a data frame of cells, one row a cell of the
# model's matrices that is not plainly zero.
#   part    0 loading, 1 factor (co)variance, 2 residual (co)variance, 3 path,
#           4 intercept, 5 mean of a factor, 6 threshold (never in the kernels)
#   row, column   position, from 1
#   free    number of the free parameter, from 1; cells with the same number are
#           equal; 0 for a fixed cell
#   value   the fixed value
#   low, high   bounds, where there are any
#   group   number of the group, from 1, where there are several

core_parts <- c(loading = 0L, factor = 1L, residual = 2L, path = 3L, intercept = 4L, mean = 5L, threshold = 6L)

# Starting values, one a free parameter. Loadings of each factor from the first
# principal axis of its items; residuals from what they leave; factor variances
# from the scaling; covariances zero; intercepts at the means, those of factors zero.
core_structure_start <- function(cells, s, factors, mean = NULL) {
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
  is_intercept <- cells$part == core_parts[["intercept"]] & cells$free > 0
  value[is_intercept] <- mean[cells$row[is_intercept]]
  start <- numeric(max(cells$free, 0L))
  # Cells made equal start at their mean.
  free <- cells$free > 0
  start[] <- tapply(value[free], factor(cells$free[free], seq_along(start)), base::mean)
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

# Does the structure say anything about means?
core_has_means <- function(cells) any(cells$part >= core_parts[["intercept"]])

# The value of each cell at theta.
core_cell_values <- function(cells, theta) {
  value <- cells$value
  value[cells$free > 0] <- theta[cells$free[cells$free > 0]]
  value
}

# Bounds of the free parameters, list(low, high); both empty where there are none.
core_bounds <- function(cells) {
  if (is.null(cells$low) || all(is.infinite(cells$low) & is.infinite(cells$high))) {
    return(list(low = numeric(), high = numeric()))
  }
  free <- cells$free > 0
  number <- factor(cells$free[free], seq_len(max(cells$free)))
  list(low = as.vector(tapply(cells$low[free], number, max)), high = as.vector(tapply(cells$high[free], number, min)))
}

# The model's matrices at theta: list(loading, factor, residual, path, intercept, mean).
core_structure_matrices <- function(cells, theta, items, factors) {
  value <- core_cell_values(cells, theta)
  put <- function(part, rows, columns, symmetric) {
    m <- matrix(0, rows, columns)
    mine <- cells$part == core_parts[[part]]
    m[cbind(cells$row, cells$column)[mine, , drop = FALSE]] <- value[mine]
    if (symmetric) m[cbind(cells$column, cells$row)[mine, , drop = FALSE]] <- value[mine]
    m
  }
  list(
    loading = put("loading", items, factors, FALSE), factor = put("factor", factors, factors, TRUE),
    residual = put("residual", items, items, TRUE), path = put("path", factors, factors, FALSE),
    intercept = put("intercept", items, 1, FALSE)[, 1], mean = put("mean", factors, 1, FALSE)[, 1]
  )
}

# Covariances of the factors, and with Lambda those the model implies.
core_factor_covariance <- function(matrices) {
  m <- ncol(matrices$factor)
  reach <- solve(diag(m) - matrices$path)
  reach %*% matrices$factor %*% t(reach)
}

# The covariances that matrices of a model imply.
core_implied <- function(matrices) matrices$loading %*% core_factor_covariance(matrices) %*% t(matrices$loading) + matrices$residual

# Can every parameter be told from the others at theta? list(identified, unclear: numbers of
# parameters that cannot). The Jacobian of the implied moments has full rank (Wald, 1950;
# Rothenberg, 1971). `rows`: which moments are fitted; all by default.
core_identified <- function(cells, theta, items, factors, rows = NULL) {
  slopes <- function() {
    out <- core_structure_jacobian(cells, theta, items, factors)
    if (is.null(rows)) out else out[rows, , drop = FALSE]
  }
  # The products of all rows are quicker to have than the rows.
  gram <- if (is.null(rows)) core_jacobian_products(cells, theta, items, factors) else kernel_crossproduct(slopes())
  size <- sqrt(diag(gram))
  if (!all(is.finite(size))) {
    return(list(identified = NA, unclear = integer()))
  }
  none <- which(size == 0)
  if (length(none) > 0) {
    return(list(identified = FALSE, unclear = none))
  }
  # Well apart: the condition of the products says so, which is quick.
  moments <- if (is.null(rows)) items * (items + 1) / 2 + if (core_has_means(cells)) items else 0 else length(rows)
  if (moments >= length(size) && rcond(gram / outer(size, size)) > 1e-9) {
    return(list(identified = TRUE, unclear = integer()))
  }
  jacobian <- slopes()
  parts <- svd(sweep(jacobian, 2, size, "/"), nu = 0)
  flat <- c(parts$d, numeric(max(0, ncol(jacobian) - length(parts$d)))) < 1e-5 * parts$d[1]
  if (!any(flat)) {
    return(list(identified = TRUE, unclear = integer()))
  }
  loose <- rowSums(parts$v[, flat[seq_len(ncol(parts$v))], drop = FALSE]^2)
  list(identified = FALSE, unclear = which(loose > .01))
}
