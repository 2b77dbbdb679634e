# One likelihood-ratio test from several imputations (Meng & Rubin, 1992).

# samples: list(covariance: divisor n, mean) an imputation; cells, factors, start: of the structure; df: its degrees of freedom.
# list(statistic: F, df, df2, p, rise: relative rise of variance by what is missing); NULL where some imputation gives no solution.
core_pooled_ratio <- function(samples, n, cells, factors, start, df) {
  m <- length(samples)
  fits <- lapply(samples, function(one) core_fit_structure(cells, one$covariance, factors, start))
  if (df < 1 || m < 2 || any(vapply(fits, `[[`, "", "status") != "ok")) {
    return(NULL)
  }
  average <- function(values) Reduce(`+`, values) / m
  p <- ncol(samples[[1]]$covariance)
  theta <- average(lapply(fits, `[[`, "theta"))
  implied <- core_implied(core_structure_matrices(cells, theta, p, factors))
  free <- average(lapply(samples, `[[`, "covariance"))
  centre <- average(lapply(samples, `[[`, "mean"))
  likelihood <- function(s, at) as.numeric(determinant(at)$modulus) + sum(s * chol2inv(chol(at)))
  own <- mean(vapply(fits, function(fit) n * fit$discrepancy, 0))
  pooled <- mean(vapply(samples, function(one) {
    s <- one$covariance + tcrossprod(one$mean - centre)
    n * (likelihood(s, implied) - likelihood(s, free))
  }, 0))
  rise <- max((m + 1) / (df * (m - 1)) * (own - pooled), 0)
  statistic <- pooled / (df * (1 + rise))
  t <- df * (m - 1)
  df2 <- if (rise == 0) Inf else if (t > 4) 4 + (t - 4) * (1 + (1 - 2 / t) / rise)^2 else t * (1 + 1 / df) * (1 + 1 / rise)^2 / 2
  list(statistic = statistic, df = df, df2 = df2, p = stats::pf(statistic, df, df2, lower.tail = FALSE), rise = rise)
}
