# Several variables at once: distances and normality.

# Squared Mahalanobis distances of the rows from `mean`, each by the variables it has (means and
# covariances from the EM algorithm): list(distance, df); NA for a row without any.
core_distances <- function(x, mean, covariance) {
  kernel_distances(x, mean, covariance)
}

# Mardia's (1970) multivariate skewness and kurtosis of a complete matrix, with
# his large-sample tests: n b1 / 6 is chi-square on p(p + 1)(p + 2) / 6 df,
# (b2 - p(p + 2)) / sqrt(8 p (p + 2) / n) normal. Covariances with divisor n.
core_mardia <- function(x) {
  n <- nrow(x)
  p <- ncol(x)
  s <- stats::cov(x) * (n - 1) / n
  if (n <= p || core_definiteness(s) < 1e-10) {
    return(NULL)
  }
  z <- t(backsolve(chol(s), t(sweep(x, 2, colMeans(x))), transpose = TRUE))
  mardia_of(whitened_skewness(z), mean(rowSums(z^2)^2), n, p)
}

# Mardia's figures of the complete rows of a matrix; NULL where there are too few, or a column does not vary.
core_complete_mardia <- function(answers) {
  complete <- answers[rowSums(is.na(answers)) == 0, , drop = FALSE]
  varies <- apply(complete, 2, function(x) length(unique(x)) > 1)
  if (nrow(complete) > 3 && all(varies)) core_mardia(complete)
}

mardia_of <- function(skewness, kurtosis, n, p) {
  df <- p * (p + 1) * (p + 2) / 6
  centred <- (kurtosis - p * (p + 2)) / sqrt(8 * p * (p + 2) / n)
  list(
    skewness = skewness, skewness_statistic = n * skewness / 6, skewness_df = df,
    skewness_p = core_chi_square_p(n * skewness / 6, df),
    kurtosis = kurtosis, kurtosis_statistic = centred, kurtosis_p = 2 * stats::pnorm(-abs(centred)),
    n = n
  )
}

# What a part of the rows adds: list(third: items x items x items of sums, fourth: of squared distances). root: Cholesky factor of the covariance
# matrix with divisor n.
core_mardia_sums <- function(x, mean, root) {
  z <- t(backsolve(root, t(sweep(x, 2, mean)), transpose = TRUE))
  turned <- t(z)
  list(third = vapply(seq_len(ncol(z)), function(j) kernel_product(turned, z * z[, j]), matrix(0, ncol(z), ncol(z))), fourth = sum(rowSums(z^2)^2))
}

# Sum of squared third moments of whitened data, z: cases x items; or, the same, of cubed products of two cases, whichever takes
# less. Neither needs an n x n matrix.
whitened_skewness <- function(z) {
  n <- nrow(z)
  if (n > ncol(z)^2) {
    turned <- t(z)
    return(sum(vapply(seq_len(ncol(z)), function(j) sum((kernel_product(turned, z * z[, j]) / n)^2), 0)))
  }
  parts <- split(seq_len(n), ceiling(seq_len(n) / 500))
  sum(vapply(parts, function(rows) sum(kernel_product(z[rows, , drop = FALSE], t(z))^3), 0)) / n^2
}
