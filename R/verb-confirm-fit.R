# The fit of a confirmation, by estimator, in one shape: what the core returns, and
# matrices, covariance (of the estimates; NULL where there is none), chi_square, baseline,
# scale and shift of an adjusted test.

confirm_cells <- function(structure, basis, options) {
  items <- colnames(basis$s)
  scaling <- if (options$scaling == "effects") "variance" else options$scaling
  cells <- structure_cells(structure, items, scaling, diag(basis$s))
  if (basis$kind == "ordinal") {
    refuse_residuals(structure)
    cells <- ordinal_cells(cells)
  }
  if (options$improper == "bound") cells <- bound_variances(cells)
  if (basis$kind == "incomplete" && !core_has_means(cells)) cells <- core_free_intercepts(cells, length(items))
  if (core_has_means(cells) && basis$kind == "complete" && !is.null(basis$gamma)) {
    stop_structure(message_of("e_these_moments_say"), hint = message_of("e_take_missing_fiml"))
  }
  if (core_has_means(cells) && anyNA(basis$mean)) {
    stop_structure(message_of("e_structure_says_something"), hint = message_of("e_give_mean_sw"))
  }
  cells
}

# Residual variances cannot be fixed or made equal where they follow from the rest.
refuse_residuals <- function(structure) {
  own <- function(parameter) length(unlist(parameter)) == 1 && unlist(parameter) %in% structure_items(structure)
  named <- c(lapply(structure$fixed, function(f) c(f$one, f$other)), unlist(structure$equal, recursive = FALSE))
  if (any(vapply(named, own, TRUE))) {
    stop_structure(message_of("e_residual_variances_ordered"), hint = message_of("e_leave_out_parallel"))
  }
}

bound_variances <- function(cells) {
  own <- cells$row == cells$column & cells$part %in% core_parts[c("residual", "factor")]
  if (is.null(cells$low)) {
    cells$low <- -Inf
    cells$high <- Inf
  }
  cells$low[own] <- pmax(cells$low[own], 0)
  cells
}

# Where the first search does not end at a possible solution, or is held at a bound, others begin
# at the end of a bounded search, at that of a search in the other scaling, and around the start.
fit_sample <- function(basis, cells, factors, start, options, structure) {
  fit_from <- function(start) fit_once(basis, cells, factors, start, options)
  proper <- function(fit) core_is_possible(sample_matrices(basis, cells, fit, factors), fit$implied)
  fit <- core_best_of_starts(fit_from, start,
    further = function() {
      bounded <- fit_once(basis, bound_variances(cells), factors, start, options)
      c(list(bounded$theta), other_scaling_ends(structure, basis, cells, factors, options), core_further_starts(cells, start, basis$s))
    },
    proper, well = function(fit) fit$status == "ok" && length(fit$held) == 0 && proper(fit)
  )
  fit$implied <- dimnames_like(fit$implied, basis$s)
  fit$df <- fitted_moments(basis, cells) - length(fit$theta)
  items <- ncol(basis$s)
  fit$matrices <- sample_matrices(basis, cells, fit, factors)
  fit$parameters <- length(fit$theta) - if (means_are_free(cells, items)) items else 0
  # Information criteria count the items' means in every fit.
  fit$counted <- length(fit$theta) + if (core_has_means(cells)) 0 else items
  fit
}

# Where searches end whose factors have their scale from the other convention, in these cells; none
# where single parameters are spoken of.
other_scaling_ends <- function(structure, basis, cells, factors, options) {
  if (length(c(structure$higher, structure$fixed, structure$equal, structure$bounds)) > 0) {
    return(NULL)
  }
  first <- options$scaling == "first"
  options$scaling <- if (first) "variance" else "first"
  other <- confirm_cells(structure, basis, options)
  start <- core_structure_start(other, basis$s, factors, basis$mean)
  ends <- lapply(c(list(start), core_further_starts(other, start, basis$s)), function(from) fit_once(basis, other, factors, from, options))
  ends <- Filter(function(end) end$status == "ok", ends)
  ends <- ends[!duplicated(vapply(ends, function(end) signif(end$discrepancy, 6), 0))]
  rescaled <- lapply(ends, function(end) core_rescaled_theta(cells, core_structure_matrices(other, end$theta, ncol(basis$s), factors)))
  Filter(function(theta) all(is.finite(theta)), rescaled)
}

fit_once <- function(basis, cells, factors, start, options) {
  switch(basis$kind,
    incomplete = fit_incomplete(basis, cells, factors, start, options),
    ordinal = fit_ordered(basis, cells, factors, start, options),
    switch(options$estimator,
      gls = , uls = fit_squares(basis, cells, factors, start, options),
      fit_likelihood(basis, cells, factors, start, options)
    )
  )
}

sample_matrices <- function(basis, cells, fit, factors) {
  matrices <- if (basis$kind == "ordinal") ordinal_matrices else core_structure_matrices
  matrices(cells, fit$theta, ncol(basis$s), factors)
}

# How many moments are fitted.
fitted_moments <- function(basis, cells) {
  p <- ncol(basis$s)
  if (basis$kind == "ordinal") p * (p - 1) / 2 else p * (p + 1) / 2 + if (core_has_means(cells)) p else 0
}

# One free intercept per item, and no mean of a factor: the means say nothing.
means_are_free <- function(cells, items) {
  core_has_means(cells) && sum(cells$part == core_parts[["intercept"]] & cells$free > 0) == items &&
    !any(cells$part == core_parts[["mean"]] & (cells$free > 0 | cells$value != 0)) &&
    anyDuplicated(cells$free[cells$part == core_parts[["intercept"]]]) == 0
}

fit_likelihood <- function(basis, cells, factors, start, options) {
  n <- basis$n
  fit <- core_fit_structure(cells, basis$s, factors, start, basis$mean)
  fit$chi_square <- core_chi_square(n, fit$discrepancy)
  fit$baseline <- core_baseline(basis$s, n)
  df <- fitted_moments(basis, cells) - length(fit$theta)
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

fit_incomplete <- function(basis, cells, factors, start, options) {
  fit <- core_fit_incomplete(cells, basis$patterns, basis$em, factors, start)
  fit$chi_square <- core_chi_square(basis$n, fit$discrepancy)
  fit$baseline <- core_incomplete_baseline(basis$answers, fit$saturated, case_weights(basis), basis$patterns)
  if (options$estimator != "robust" || fit$status != "ok") {
    fit$covariance <- core_estimate_covariance(fit$expected_hessian, basis$n, fit$held)
    return(fit)
  }
  if (is.null(core_inverse_information(fit$expected_hessian, fit$held))) {
    return(fit)
  }
  df <- fitted_moments(basis, cells) - length(fit$theta)
  robust <- core_robust_incomplete(sample_rows(basis), basis$patterns, basis$em, cells, fit$theta, factors, fit$expected_hessian, df,
    basis$cluster, fit$held, basis$weight)
  fit$baseline$scale <- robust$baseline_scale
  c(fit, robust[c("scale", "covariance")])
}

# The answers, or where they are too many at once the way through them.
sample_rows <- function(basis) if (is.null(basis$answers)) basis$rows else basis$answers

# Sampling weights of mean one; ones without any.
case_weights <- function(basis) if (is.null(basis$weight)) rep(1, NROW(basis$answers)) else basis$weight

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

# Counts first, then the rank of the Jacobian away from the plain start.
check_identified <- function(structure, cells, start, basis, factors) {
  count <- fitted_moments(basis, cells)
  alone <- names(structure$factors)[lengths(structure$factors) == 1]
  advice <- if (length(alone) > 0) message_of("e_factor_of_one_item", factors = alone) else message_of("e_three_items_each")
  if (count < length(start)) {
    stop_structure(message_of("e_structure_not_identified", start = length(start), count = count,
      cells_said = if (core_has_means(cells)) message_of("e_means_variances_covariances") else message_of("e_variances_covariances")), hint = advice)
  }
  p <- ncol(basis$s)
  rows <- if (basis$kind == "ordinal") which(lower.tri(basis$s)[lower.tri(basis$s, diag = TRUE)])
  found <- core_identified(cells, away_from_start(cells, start), p, length(factors), rows)
  if (isFALSE(found$identified)) {
    stop_structure(message_of("e_structure_not_identified_some"), faults = unclear_words(cells, found$unclear, colnames(basis$s), factors),
      hint = advice)
  }
}
