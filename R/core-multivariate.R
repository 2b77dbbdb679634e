# Several variables at once: distances and normality.

# Squared Mahalanobis distances of the rows of a complete matrix from `mean`.
core_distances <- function(x, mean, covariance) {
  root <- chol(covariance)
  z <- backsolve(root, t(sweep(x, 2, mean)), transpose = TRUE)
  colSums(z^2)
}

# Distances of rows with missing cells, each by the variables it has (means and
# covariances from the EM algorithm): list(distance, df).
core_distances_missing <- function(x, mean, covariance) {
  patterns <- core_patterns(x)
  out <- list(distance = rep(NA_real_, nrow(x)), df = rowSums(!is.na(x)))
  for (k in seq_along(patterns$n)) {
    seen <- which(!patterns$missing[k, ])
    rows <- which(patterns$of == k)
    if (length(seen) > 0) {
      out$distance[rows] <- core_distances(x[rows, seen, drop = FALSE], mean[seen], covariance[seen, seen, drop = FALSE])
    }
  }
  out
}

# Mardia's (1970) multivariate skewness and kurtosis of a complete matrix, with
# his large-sample tests: n b1 / 6 is chi-square on p(p + 1)(p + 2) / 6 df,
# (b2 - p(p + 2)) / sqrt(8 p (p + 2) / n) normal. Covariances with divisor n. The
# skewness is the sum of squared third moments of the whitened data, which needs
# no n x n matrix.
core_mardia <- function(x) {
  n <- nrow(x)
  p <- ncol(x)
  s <- stats::cov(x) * (n - 1) / n
  if (n <= p || core_definiteness(s) < 1e-10) {
    return(NULL)
  }
  z <- t(backsolve(chol(s), t(sweep(x, 2, colMeans(x))), transpose = TRUE))
  skewness <- sum(vapply(seq_len(p), function(j) sum((crossprod(z * z[, j], z) / n)^2), 0))
  kurtosis <- mean(rowSums(z^2)^2)
  df <- p * (p + 1) * (p + 2) / 6
  centred <- (kurtosis - p * (p + 2)) / sqrt(8 * p * (p + 2) / n)
  list(
    skewness = skewness, skewness_statistic = n * skewness / 6, skewness_df = df,
    skewness_p = stats::pchisq(n * skewness / 6, df, lower.tail = FALSE),
    kurtosis = kurtosis, kurtosis_statistic = centred, kurtosis_p = 2 * stats::pnorm(-abs(centred))
  )
}
