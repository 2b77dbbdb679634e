# Omega (McDonald, 1999) from the one-factor maximum likelihood solution.

# list(status, omega, omega_observed, loadings, rmsea, p): omega over the variance
# the model implies, and over the variance observed; loadings in the items' units.
# Needs three items.
core_omega <- function(s, n) {
  none <- list(status = "too_few_items", omega = NA_real_, omega_observed = NA_real_, loadings = NULL, rmsea = NA_real_, bound = FALSE)
  variance <- diag(s)
  if (ncol(s) < 3 || any(!is.finite(variance) | variance <= 0)) {
    return(none)
  }
  r <- core_correlation(s)
  if (core_definiteness(r) < 1e-10) {
    none$status <- "not_positive_definite"
    return(none)
  }
  fit <- core_extract_ml(r, 1L)
  scale <- sqrt(variance)
  loadings <- as.vector(fit$loadings) * scale
  if (sum(loadings) < 0) loadings <- -loadings
  common <- sum(loadings)^2
  p <- ncol(s)
  df <- core_exploration_df(p, 1)
  list(
    status = fit$status, omega = common / (common + sum(fit$uniqueness * variance)), omega_observed = common / sum(s),
    loadings = loadings, rmsea = if (df > 0) core_rmsea(n * fit$discrepancy, df, n)$estimate else NA_real_,
    bound = any(fit$uniqueness < .005 + 1e-9)
  )
}

core_omega_without <- function(s, n) {
  if (ncol(s) < 4) {
    return(rep(NA_real_, ncol(s)))
  }
  vapply(seq_len(ncol(s)), function(j) core_omega(s[-j, -j], n)$omega, 0)
}
