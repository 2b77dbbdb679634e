# Errors of what is a function of loadings, by its slopes.

# Of each factor of items: composite reliability of the sum of its items, and the variance they share with it.
core_shared_and_reliable <- function(structure, items, matrices, spread, implied) {
  out <- vapply(seq_along(structure$factors), function(k) {
    mine <- match(structure$factors[[k]], items)
    loading <- matrices$loading[mine, k] * sqrt(max(spread[k, k], 0))
    c(core_sum_reliability(loading, matrices$residual[mine, mine]), core_variance_extracted(loading / sqrt(pmax(diag(implied)[mine], 1e-12))))
  }, c(0, 0))
  t(out)
}

# Slopes of the same in the estimates: a row for each composite reliability, then each AVE. NULL where factors have others above
# them, or ordered items belong to several: there the variances in it are no parameters.
core_reliability_slopes <- function(structure, items, cells, fit, basis) {
  ordinal <- basis$kind == "ordinal"
  if (length(structure$higher) > 0 || (ordinal && anyDuplicated(unlist(structure$factors)) > 0)) {
    return(NULL)
  }
  standard <- core_standardised(cells, fit$theta, length(items), length(structure$factors), NULL, ordinal)
  loading <- cells$part == core_parts[["loading"]]
  out <- lapply(seq_along(structure$factors), function(k) {
    mine <- match(structure$factors[[k]], items)
    own <- which(loading & cells$column == k)
    raw <- fit$matrices$loading[cells$row[own], k]
    spread <- fit$matrices$factor[k, k]
    left <- sum(fit$matrices$residual[mine, mine])
    whole <- sum(raw)^2 * spread + left
    by_cell <- numeric(nrow(cells))
    by_cell[own] <- 2 * sum(raw) * spread * left
    variance <- cells$part == core_parts[["factor"]] & cells$row == k & cells$column == k
    by_cell[variance] <- sum(raw)^2 * left
    rest <- cells$part == core_parts[["residual"]] & cells$row %in% mine & cells$column %in% mine
    by_cell[rest] <- -sum(raw)^2 * spread * ifelse(cells$row == cells$column, 1, 2)[rest]
    # What ordered answers leave is one less what the factor explains.
    if (ordinal) {
      by_cell[rest & cells$row == cells$column] <- 0
      by_cell[own] <- by_cell[own] + sum(raw)^2 * spread * 2 * raw * spread
      by_cell[variance] <- by_cell[variance] + sum(raw)^2 * spread * sum(raw^2)
    }
    reliable <- numeric(length(fit$theta))
    free <- which(cells$free > 0 & by_cell != 0)
    for (i in free) reliable[cells$free[i]] <- reliable[cells$free[i]] + by_cell[i] / whole^2
    list(reliable, 2 / length(own) * colSums(standard$value[own] * standard$jacobian[own, , drop = FALSE]))
  })
  rbind(do.call(rbind, lapply(out, `[[`, 1)), do.call(rbind, lapply(out, `[[`, 2)))
}

core_slope_errors <- function(value, slopes, covariance) {
  if (is.null(covariance)) replace(value, TRUE, NA_real_) else replace(value, TRUE, sqrt(pmax(kernel_row_forms(slopes, covariance), 0)))
}

# Standard errors of a function of the estimates, from its slopes by central differences; shaped as its value. NA without
# covariances of the estimates.
core_delta_errors <- function(at, theta, covariance) {
  value <- at(theta)
  if (is.null(covariance)) {
    return(replace(value, TRUE, NA_real_))
  }
  slopes <- vapply(seq_along(theta), function(k) {
    step <- replace(numeric(length(theta)), k, 1e-5)
    as.vector(at(theta + step) - at(theta - step)) / 2e-5
  }, numeric(length(value)))
  core_slope_errors(value, matrix(slopes, length(value)), covariance)
}
