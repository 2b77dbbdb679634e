# Maximum likelihood fit of a structure (Jöreskog, 1969), to one sample or to several groups.

# s: covariance matrix with divisor n; mean: where the structure says something about means.
# Returns list(status, theta, discrepancy, implied, implied_mean, expected_hessian, gradient,
# decrement, iterations, held: numbers of parameters at a bound).
core_fit_structure <- function(cells, s, factors, start = core_structure_start(cells, s, factors, mean), mean = numeric(ncol(s)),
                               tolerance = 1e-15, max_iterations = 300L) {
  one_group(core_fit_groups(cells, list(list(share = 1, covariance = s, mean = mean)), factors, start, tolerance, max_iterations))
}

# moments: one list(share, covariance, mean) a group. `implied` and `implied_mean` are lists,
# one a group.
core_fit_groups <- function(cells, moments, factors, start, tolerance = 1e-15, max_iterations = 300L) {
  kernel_fit_likelihood(cells, ncol(moments[[1]]$covariance), factors, moments, start, core_search(cells, tolerance, max_iterations))
}

# How a search ends, and the bounds of its parameters, as the kernels take them.
core_search <- function(cells, tolerance, max_iterations) c(list(tolerance = tolerance, max_iterations = max_iterations), core_bounds(cells))

one_group <- function(fit) {
  fit$implied <- fit$implied[[1]]
  fit$implied_mean <- fit$implied_mean[[1]]
  fit
}

# Covariances of the estimates: the inverse of the information n / 2 * Hessian; NULL where it
# is singular. Parameters held at a bound have none.
core_estimate_covariance <- function(hessian, n, held = integer()) {
  inverse <- core_inverse_information(hessian, held)
  if (is.null(inverse)) NULL else 2 / n * inverse
}

core_inverse_information <- function(hessian, held = integer()) {
  out <- matrix(0, nrow(hessian), ncol(hessian))
  open <- setdiff(seq_len(nrow(hessian)), held)
  part <- hessian[open, open, drop = FALSE]
  if (length(open) == 0) {
    return(out)
  }
  if (any(!is.finite(part)) || any(diag(part) <= 0)) {
    return(NULL)
  }
  scale <- 1 / sqrt(diag(part))
  scaled <- part * outer(scale, scale)
  inverse <- kernel_inverse(scaled)
  if (length(inverse) == 0) {
    if (rcond(scaled) < 1e-12) {
      return(NULL)
    }
    inverse <- solve(scaled)
  }
  out[open, open] <- inverse * outer(scale, scale)
  out
}

# Standardised value of each cell, and its standard error by the delta method (`covariance`
# of the estimates; NULL for none). list(value, error). unit_items: the items are those
# behind ordered answers, of variance one.
core_standardised <- function(cells, theta, items, factors, covariance = NULL, unit_items = FALSE) {
  at <- kernel_standardise(cells, items, factors, theta, unit_items, TRUE)
  value <- unlist(at$value)
  jacobian <- do.call(rbind, at$jacobian)
  if (!is.null(cells$group)) {
    place <- order(cells$group)
    value[place] <- value
    jacobian[place, ] <- jacobian
  }
  error <- if (is.null(covariance)) rep(NA_real_, length(value)) else sqrt(pmax(kernel_row_forms(jacobian, covariance), 0))
  list(value = value, error = replace(error, error <= 1e-12, NA), jacobian = jacobian)
}

# Standardised change of cells by `value`: loadings by the spread of factor and item,
# covariances as correlations.
core_standardise <- function(cells, value, matrices, implied) {
  factor_sd <- sqrt(diag(core_factor_covariance(matrices)))
  item_sd <- sqrt(diag(implied))
  residual <- diag(matrices$residual)
  residual_sd <- sqrt(ifelse(residual > 0, residual, NA))
  loading <- cells$part == core_parts[["loading"]]
  scale <- numeric(length(value))
  scale[loading] <- factor_sd[cells$column[loading]] / item_sd[cells$row[loading]]
  scale[!loading] <- 1 / (residual_sd[cells$row[!loading]] * residual_sd[cells$column[!loading]])
  value * scale
}

# Derivative of the implied moments in each free parameter: the means where the structure has
# them, then the covariances (lower triangle with diagonal, by column).
core_structure_jacobian <- function(cells, theta, items, factors) {
  out <- kernel_structure_jacobian(cells, items, factors, theta)
  if (length(out) == 1) out[[1]] else do.call(rbind, out)
}

# The products of that derivative's columns.
core_jacobian_products <- function(cells, theta, items, factors) kernel_jacobian_products(cells, items, factors, theta)

# Intercepts of all items, free: the means say nothing.
core_free_intercepts <- function(cells, items) {
  one <- function(x) rep_len(x, items)
  rows <- list(part = one(core_parts[["intercept"]]), row = seq_len(items), column = one(1L), free = max(cells$free) + seq_len(items), value = one(0))
  if (!is.null(cells$low)) rows <- c(rows, list(low = one(-Inf), high = one(Inf)))
  rbind(cells, list2DF(rows))
}

# Raw values of all cells when each factor's loadings average one in place of its variance being
# one (Little, Slegers & Card, 2006), with errors by the delta method: list(value, error, free).
core_effects_values <- function(cells, theta, covariance) {
  loading <- cells$part == core_parts[["loading"]]
  at <- function(theta) {
    value <- core_cell_values(cells, theta)
    size <- tapply(value[loading], cells$column[loading], mean)
    of <- function(k) unname(size[as.character(k)])
    value[loading] <- value[loading] / of(cells$column[loading])
    covary <- cells$part == core_parts[["factor"]]
    value[covary] <- value[covary] * of(cells$row[covary]) * of(cells$column[covary])
    level <- cells$part == core_parts[["mean"]]
    value[level] <- value[level] * of(cells$row[level])
    value
  }
  free <- cells$free > 0 | (cells$part == core_parts[["factor"]] & cells$row == cells$column)
  error <- rep(NA_real_, nrow(cells))
  if (!is.null(covariance)) {
    jacobian <- vapply(seq_along(theta), function(k) {
      step <- replace(numeric(length(theta)), k, 1e-5)
      (at(theta + step) - at(theta - step)) / 2e-5
    }, numeric(nrow(cells)))
    error <- sqrt(pmax(kernel_row_forms(jacobian, covariance), 0))
  }
  list(value = at(theta), error = ifelse(error > 1e-12, error, NA), free = free)
}
