# Means and covariances of a numeric matrix. `NA` marks a missing cell.

core_status <- c("ok", "not_converged", "not_positive_definite", "too_few_cases")

# The word for a kernel's status number.
status_word <- function(code) core_status[[code + 1L]]

# Complete rows only: list(status, n, mean, covariance).
core_complete_moments <- function(x) {
  storage.mode(x) <- "double"
  name_moments(kernel_matrix_moments(x), colnames(x))
}

# The same of a named list of integer or double columns, read where they lie: the
# value of column j is shift[j] + sign[j] * x. keep: NULL, or a logical value per
# row.
core_column_moments <- function(columns, shift, sign, keep = NULL) {
  real <- !vapply(columns, function(x) is.integer(x) || is.double(x), TRUE)
  columns[real] <- lapply(columns[real], as.double)
  name_moments(kernel_complete_moments(unclass(columns), shift, sign, keep), names(columns))
}

name_moments <- function(out, names) {
  out$status <- status_word(out$status)
  names(out$mean) <- names
  dimnames(out$covariance) <- list(names, names)
  out
}

# Each pair of columns over the rows where both are there:
# list(status, n = smallest pair, pairs = n of each pair, mean, covariance).
core_pairwise_moments <- function(x) {
  storage.mode(x) <- "double"
  seen <- !is.na(x)
  mean <- colMeans(x, na.rm = TRUE)
  centred <- sweep(x, 2, mean)
  centred[!seen] <- 0
  storage.mode(seen) <- "double"
  pairs <- crossprod(seen)
  sums <- crossprod(centred, seen)
  covariance <- (crossprod(centred) - sums * t(sums) / pairs) / (pairs - 1)
  covariance[pairs < 2] <- NA_real_
  list(
    status = if (min(pairs) < 2) "too_few_cases" else "ok",
    n = min(pairs), pairs = pairs, mean = mean, covariance = covariance
  )
}

# Correlations of a covariance matrix; NA for a variable without variance.
core_correlation <- function(covariance) {
  variance <- diag(covariance)
  variance[!is.na(variance) & variance <= 0] <- NA_real_
  r <- covariance / sqrt(outer(variance, variance))
  diag(r) <- ifelse(is.na(variance), NA_real_, 1)
  r
}

# Smallest eigenvalue of a symmetric matrix over its largest; below about 1e-8
# the matrix cannot be inverted with any digits left.
core_definiteness <- function(m) {
  values <- eigen(m, symmetric = TRUE, only.values = TRUE)$values
  values[length(values)] / values[1]
}
