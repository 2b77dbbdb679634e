# Fit of a model from its chi-square and that of the model of unrelated items.

# Baseline: chi-square of unrelated items, n * (ln|diag S| - ln|S|).
core_baseline <- function(s, n) {
  p <- ncol(s)
  list(
    chi_square = n * (sum(log(diag(s))) - as.numeric(determinant(s)$modulus)),
    df = p * (p - 1) / 2
  )
}

# Comparative fit index (Bentler, 1990) and Tucker-Lewis index (1973).
core_cfi <- function(chi_square, df, baseline) {
  model <- max(chi_square - df, 0)
  worst <- max(baseline$chi_square - baseline$df, model)
  if (worst == 0) 1 else 1 - model / worst
}

core_tli <- function(chi_square, df, baseline) {
  if (df == 0) {
    return(NA_real_)
  }
  ratio <- baseline$chi_square / baseline$df
  (ratio - chi_square / df) / (ratio - 1)
}

# Root mean square error of approximation (Steiger & Lind, 1980) with divisor
# n, its interval from the noncentral chi-square, and the p of the test of close
# fit, RMSEA <= .05 (Browne & Cudeck, 1993).
core_rmsea <- function(chi_square, df, n, level = 0.90, close = 0.05) {
  if (df == 0) {
    return(list(estimate = NA_real_, low = NA_real_, high = NA_real_, p_close = NA_real_))
  }
  tail <- (1 - level) / 2
  size <- function(noncentrality) sqrt(noncentrality / (df * n))
  list(
    estimate = size(max(chi_square - df, 0)),
    low = size(core_noncentrality(chi_square, df, 1 - tail)),
    high = size(core_noncentrality(chi_square, df, tail)),
    p_close = upper_noncentral(chi_square, df, close^2 * df * n)
  )
}

# Upper tail of the noncentral chi-square. R warns where the tail is so thin
# that its digits are lost; what is left is 0 to every digit shown.
upper_noncentral <- function(q, df, ncp) {
  max(suppressWarnings(stats::pchisq(q, df, ncp = ncp, lower.tail = FALSE)), 0)
}

# The noncentrality at which `chi_square` stands at probability `at`; 0 where
# even the central distribution puts it lower.
core_noncentrality <- function(chi_square, df, at) {
  excess <- function(ncp) stats::pchisq(chi_square, df, ncp = ncp) - at
  if (excess(0) <= 0) {
    return(0)
  }
  top <- max(chi_square, df, 1)
  while (excess(top) > 0) top <- 2 * top
  stats::uniroot(excess, c(0, top), tol = 1e-9)$root
}

# Standardised root mean square residual: residual covariances over the sample
# standard deviations, lower triangle with the diagonal.
core_srmr <- function(s, implied) {
  scale <- sqrt(diag(s))
  residual <- (s - implied) / outer(scale, scale)
  sqrt(mean(residual[lower.tri(residual, diag = TRUE)]^2))
}

# Correlation residuals: sample less implied correlations.
core_residual_r <- function(s, implied) {
  stats::cov2cor(s) - stats::cov2cor(implied)
}
