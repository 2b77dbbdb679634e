# Fits of a structure to one sample, by estimator, and their figures.

core_bound_variances <- function(cells) {
  own <- cells$row == cells$column & cells$part %in% core_parts[c("residual", "factor")]
  if (is.null(cells$low)) {
    cells$low <- -Inf
    cells$high <- Inf
  }
  cells$low[own] <- pmax(cells$low[own], 0)
  cells
}

core_sample_matrices <- function(basis, cells, fit, factors) {
  matrices <- if (basis$kind == "ordinal") ordinal_matrices else core_structure_matrices
  matrices(cells, fit$theta, ncol(basis$s), factors)
}

# How many moments are fitted.
core_fitted_moments <- function(basis, cells) {
  p <- ncol(basis$s)
  if (basis$kind == "ordinal") p * (p - 1) / 2 else p * (p + 1) / 2 + if (core_has_means(cells)) p else 0
}

# One free intercept per item, and no mean of a factor: the means say nothing.
core_means_are_free <- function(cells, items) {
  core_has_means(cells) && sum(cells$part == core_parts[["intercept"]] & cells$free > 0) == items &&
    !any(cells$part == core_parts[["mean"]] & (cells$free > 0 | cells$value != 0)) &&
    anyDuplicated(cells$free[cells$part == core_parts[["intercept"]]]) == 0
}

# Errors and test of moments that come with their own covariance matrix (Yuan & Bentler, 2000; Savalei & Bentler, 2009).
second_stage <- function(fit, basis, cells, factors, df) {
  p <- ncol(basis$s)
  stage <- core_second_stage(core_structure_jacobian(cells, fit$theta, p, factors), fit$implied, basis$gamma, fit$held)
  if (is.null(stage)) {
    return(fit)
  }
  apart <- diag(p)[lower.tri(diag(p), diag = TRUE)] > 0
  alone <- diag(nrow(basis$gamma))[, apart, drop = FALSE]
  fit$baseline$scale <- core_stage_scale(alone, diag(diag(basis$s)), basis$gamma, p * (p - 1) / 2)
  covariance_by <- function(gamma) kernel_product(kernel_product(stage$slopes, gamma), t(stage$slopes)) / basis$n
  c(fit, list(
    scale = if (df > 0) stage$first / df else 1, covariance = covariance_by(basis$gamma), left = stage$left,
    within = if (!is.null(basis$pooled)) covariance_by(basis$pooled$within)
  ))
}

# The answers, or where they are too many at once the way through them.
sample_rows <- function(basis) if (is.null(basis$answers)) basis$rows else basis$answers

# Sampling weights of mean one; ones without any.
core_case_weights <- function(basis) if (is.null(basis$weight)) rep(1, NROW(basis$answers)) else basis$weight

fit_squares <- function(basis, cells, factors, start, options) {
  n <- basis$n
  if (options$estimator == "gls") {
    fit <- core_fit_least_squares(cells, basis$s, factors, solve(basis$s), FALSE, start)
    return(c(fit, list(
      chi_square = n * fit$discrepancy, baseline = core_gls_baseline(basis$s, n),
      covariance = core_estimate_covariance(fit$expected_hessian, n, fit$held), squares = TRUE
    )))
  }
  fit <- core_fit_least_squares(cells, basis$s, factors, uls_weight(ncol(basis$s)), TRUE, start)
  inference <- core_uls_inference(cells, fit$theta, basis$s, fit$implied, factors, n, fit$held)
  c(fit, inference, list(baseline = core_uls_baseline(basis$s, n), squares = TRUE))
}

fit_ordered <- function(basis, cells, factors, start, options) {
  fit <- core_fit_ordinal(cells, basis$s, basis$gamma, basis$n, factors, options$estimator == "ordinal", start, isTRUE(options$alone))
  c(fit[c("status", "theta", "discrepancy", "implied", "implied_mean", "expected_hessian", "gradient", "decrement", "iterations", "held")], list(
    chi_square = fit$raw, baseline = list(chi_square = fit$nothing_raw, df = length(fit$weights), adjusted = fit[["nothing"]]$chi_square),
    adjusted = fit$test, covariance = fit$inference$covariance,
    within = if (!is.null(basis$pooled) && !is.null(fit$jacobian)) core_weighted_inference(fit$jacobian, fit$weights, basis$pooled$within, basis$n,
      fit$held)$covariance,
    quadratic = list(inference = fit$inference, jacobian = fit$jacobian, weights = fit$weights, gamma = basis$gamma,
      pooled = basis$pooled)
  ))
}

fit_likelihood <- function(basis, cells, factors, start, options) {
  n <- basis$n
  fit <- core_fit_structure(cells, basis$s, factors, start, basis$mean)
  fit$chi_square <- core_chi_square(n, fit$discrepancy)
  fit$baseline <- core_baseline(basis$s, n)
  df <- core_fitted_moments(basis, cells) - length(fit$theta)
  if (!is.null(basis$gamma) && fit$status == "ok" && !isTRUE(options$alone)) {
    return(second_stage(fit, basis, cells, factors, df))
  }
  if (options$estimator != "robust" || fit$status != "ok") {
    fit$covariance <- core_estimate_covariance(fit$expected_hessian, n, fit$held)
    return(fit)
  }
  if (is.null(core_inverse_information(fit$expected_hessian, fit$held))) {
    return(fit)
  }
  robust <- core_robust(basis$answers, basis$s, fit$implied, cells, fit$theta, factors, fit$expected_hessian, df, basis$weight, basis$cluster,
    fit$held, fit$implied_mean)
  fit$baseline$scale <- core_baseline_scale(basis$answers, basis$s, basis$weight, basis$cluster)
  c(fit, robust)
}

fit_incomplete <- function(basis, cells, factors, start, options) {
  fit <- core_fit_incomplete(cells, basis$patterns, basis$em, factors, start)
  fit$chi_square <- core_chi_square(basis$n, fit$discrepancy)
  fit$baseline <- core_incomplete_baseline(basis$answers, fit$saturated, core_case_weights(basis), basis$patterns)
  if (options$estimator != "robust" || fit$status != "ok") {
    fit$covariance <- core_estimate_covariance(fit$expected_hessian, basis$n, fit$held)
    return(fit)
  }
  if (is.null(core_inverse_information(fit$expected_hessian, fit$held))) {
    return(fit)
  }
  df <- core_fitted_moments(basis, cells) - length(fit$theta)
  robust <- core_robust_incomplete(sample_rows(basis), basis$patterns, basis$em, cells, fit$theta, factors, fit$expected_hessian, df,
    basis$cluster, fit$held, basis$weight)
  fit$baseline$scale <- robust$baseline_scale
  c(fit, robust[c("scale", "covariance")])
}

core_fit_once <- function(basis, cells, factors, start, options) {
  switch(basis$kind,
    incomplete = fit_incomplete(basis, cells, factors, start, options),
    ordinal = fit_ordered(basis, cells, factors, start, options),
    switch(options$estimator,
      gls = , uls = fit_squares(basis, cells, factors, start, options),
      fit_likelihood(basis, cells, factors, start, options)
    )
  )
}

# Least squares have no likelihood.
has_likelihood <- function(fit) is.null(fit$adjusted) && !isTRUE(fit$squares)

core_confirmation_figures <- function(fit, basis) {
  # The chi-square that indices of fit come from, and its baseline.
  tested <- if (is.null(fit$adjusted)) fit$chi_square else fit$adjusted$chi_square
  baseline <- fit$baseline
  if (!is.null(fit$adjusted)) baseline$chi_square <- baseline$adjusted
  figures <- core_fit_figures(fit$chi_square, fit$df, basis$n, baseline, if (is.null(fit$adjusted)) fit$scale, fit$adjusted)
  more <- core_fit_indices(tested, fit$df, baseline, basis$s, fit$implied, basis$n, fit$counted, has_likelihood(fit), fit$log_likelihood)
  c(figures, list(srmr = core_srmr(basis$s, fit$implied)), more[setdiff(names(more), names(figures))])
}
