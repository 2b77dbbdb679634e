# Omega (McDonald, 1999) from the one-factor maximum likelihood solution.

# list(status, omega, omega_observed, loadings, rmsea, rmsea_low): omega over the variance
# the model implies, and over the variance observed; loadings in the items' units; rmsea_low: the lower end of the 90% interval of one factor's
# RMSEA, from chi-square corrected for small samples (Swain, 1975). Needs three items.
core_omega <- function(s, n) {
  out <- one_factor(s)
  df <- core_exploration_df(ncol(s), 1)
  out$rmsea <- if (is.na(out$discrepancy)) NA_real_ else core_rmsea_estimate(n * out$discrepancy, df, n)
  tested <- core_small_sample(ncol(s), 1, 2 * ncol(s), n)$factor * n * out$discrepancy
  out$rmsea_low <- if (is.na(out$discrepancy) || df < 1) NA_real_ else sqrt(core_noncentrality(tested, df, .95) / (df * n))
  out[setdiff(names(out), "discrepancy")]
}

# All of that but the RMSEA, with the discrepancy.
one_factor <- function(s) {
  none <- list(status = "too_few_items", omega = NA_real_, omega_observed = NA_real_, loadings = NULL, unique = NULL, discrepancy = NA_real_,
    bound = FALSE)
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
  list(
    status = fit$status, omega = common / (common + sum(fit$uniqueness * variance)), omega_observed = common / sum(s),
    loadings = loadings, unique = unname(fit$uniqueness * variance), discrepancy = fit$discrepancy, bound = any(fit$uniqueness < .005 + 1e-9)
  )
}

# Standard error of omega by the delta method from the one-factor solution; `answers` (complete, cases x items): by the
# sandwich, for answers that are not normal; `gamma`, n times the covariance
# matrix of the covariances: from that; without either for normal answers. NA at a bound.
core_omega_error <- function(omega, s, n, answers = NULL, gamma = NULL) {
  if (is.null(omega$loadings) || omega$status != "ok" || omega$bound) {
    return(NA_real_)
  }
  p <- ncol(s)
  # Covariances with divisor n, as gamma and the sandwich have them.
  share <- (n - 1) / n
  s <- s * share
  loadings <- omega$loadings * sqrt(share)
  unique <- omega$unique * share
  implied <- tcrossprod(loadings) + diag(unique, p)
  cells <- list2DF(list(
    part = rep(unname(core_parts[c("loading", "factor", "residual")]), c(p, 1, p)), row = c(seq_len(p), 1L, seq_len(p)),
    column = c(rep(1L, p), 1L, seq_len(p)), free = c(seq_len(p), 0L, p + seq_len(p)), value = c(numeric(p), 1, numeric(p))
  ))
  theta <- c(loadings, unique)
  common <- sum(loadings)
  apart <- sum(unique)
  slope <- c(rep(2 * common * apart, p), rep(-common^2, p)) / (common^2 + apart)^2
  if (!is.null(gamma)) {
    stage <- core_second_stage(core_structure_jacobian(cells, theta, p, 1L), implied, gamma)
    if (is.null(stage)) {
      return(NA_real_)
    }
    through <- slope %*% stage$slopes
    return(sqrt(max(sum((through %*% gamma) * through), 0) / n))
  }
  at <- kernel_evaluate_structure(cells, p, 1L, list(list(share = 1, covariance = s, mean = numeric(p))), theta)
  if (is.null(core_inverse_information(at$expected_hessian))) {
    return(NA_real_)
  }
  covariance <- if (is.null(answers)) core_estimate_covariance(at$expected_hessian, n) else
    core_robust(answers, s, implied, cells, theta, 1L, at$expected_hessian, 0)$covariance
  sqrt(max(sum(slope * (covariance %*% slope)), 0))
}

# Omega of the others, for each item in turn; NA with fewer than four items.
core_omega_without <- function(s) {
  if (ncol(s) < 4) {
    return(rep(NA_real_, ncol(s)))
  }
  vapply(seq_len(ncol(s)), function(j) one_factor(s[-j, -j])$omega, 0)
}
