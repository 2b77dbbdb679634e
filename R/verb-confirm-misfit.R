# Where a confirmation misses: its tables of modifications and of missed correlations.

# What freeing one more loading or residual pair would change, largest index first.
modification_table <- function(cells, fit, basis, items, factors, options, limits) {
  candidates <- core_candidates(cells, length(items), length(factors))
  if (basis$kind == "ordinal") candidates <- candidates[!(candidates$part == core_parts[["residual"]] & candidates$row == candidates$column), ]
  if (nrow(candidates) == 0 || fit$status != "ok" || is.null(fit$covariance)) {
    return(plain_table(what = character(), item = character(), with = character(), index = numeric()))
  }
  found <- candidate_scores(cells, fit, basis, candidates, length(factors), options)
  found$standard_change <- core_standardise(candidates, found$change, fit$matrices, fit$implied)
  found <- found[!is.na(found$index), ]
  loading <- found$part == core_parts[["loading"]]
  matters <- c(limit(limits, "residual_change")$bound, limit(limits, "loading_change")$bound)[loading + 1]
  power <- core_change_power(found$index, found$standard_change, matters)
  p <- stats::pchisq(found$index, 1, lower.tail = FALSE)
  large <- meets(p, limits, "score_test_p")
  code <- c("nothing", "too_few_cases")[(!meets(power, limits, "change_power")) + 1]
  code[large] <- c("trivial", "matters")[(abs(found$standard_change[large]) >= matters[large]) + 1]
  reading <- c(nothing = "nothing", too_few_cases = "too few cases to tell", trivial = "large, yet trivial", matters = "large, and it matters")[code]
  out <- plain_table(
    change_of = c("pair", "loading")[loading + 1], what = c("two items share something", "item wants another factor")[loading + 1],
    item = items[replace(found$column, loading, found$row[loading])], with = replace(items[found$row], loading, factors[found$column[loading]]),
    index = found$index, p.value = p, change = found$change, standard_change = found$standard_change, power = power, reading_code = code,
      reading = reading
  )
  out[order(-out$index), ]
}

# The candidates with index and change.
candidate_scores <- function(cells, fit, basis, candidates, factors, options) {
  if (!is.null(fit$quadratic)) {
    return(core_correlation_scores(cells, fit, basis$s, factors, candidates))
  }
  if (options$estimator == "uls") {
    return(core_uls_scores(cells, fit, basis$s, basis$n, factors, candidates))
  }
  if (options$estimator == "gls") {
    return(core_gls_scores(cells, fit, basis$s, basis$n, factors, candidates))
  }
  core_modifications(cells, fit$theta, basis$s, basis$mean, factors, basis$n, candidates, basis$patterns)
}

# Sample less implied correlations, largest in size first.
missed_correlations <- function(cells, fit, basis, options, limits) {
  r <- stats::cov2cor(basis$s)
  left <- core_residual_r(basis$s, fit$implied)
  z <- residual_statistics(cells, fit, basis, options)
  at <- which(lower.tri(r), arr.ind = TRUE)
  out <- plain_table(
    item = colnames(r)[at[, 2]], with = rownames(r)[at[, 1]], correlation = r[at], implied = r[at] - left[at], residual = left[at],
    statistic = z[at], verdict = judge_code(abs(left[at]), limits, "residual_r")
  )
  judged_table(out[order(-abs(out$residual)), ], verdict = "residual_r")
}

# Residuals over their standard errors; missing where these are not known.
residual_statistics <- function(cells, fit, basis, options) {
  p <- ncol(basis$s)
  none <- matrix(NA_real_, p, p)
  if (is.null(fit$covariance) || fit$status != "ok") {
    return(none)
  }
  if (basis$kind == "ordinal") {
    error <- core_weighted_residual_errors(fit$quadratic$inference, fit$quadratic$jacobian, fit$quadratic$weights, fit$quadratic$gamma)
    none[lower.tri(none)] <- (basis$s - fit$implied)[lower.tri(none)] / error
    return(none)
  }
  factors <- ncol(fit$matrices$factor)
  whole <- core_structure_jacobian(cells, fit$theta, p, factors)
  jacobian <- covariance_rows(whole, p)
  if (basis$kind == "complete" && options$estimator %in% c("ml", "gls")) {
    return(core_standardised_residuals(basis$s, fit$implied, jacobian, fit$covariance, basis$n))
  }
  error <- if (options$estimator == "uls") {
    uls_residual_errors(fit, jacobian, basis)
  } else if (options$estimator == "robust") {
    robust_residual_errors(cells, fit, jacobian, basis, factors)
  } else if (nrow(jacobian) <= most_incomplete_moments) {
    incomplete_residual_errors(fit, whole, basis)
  } else {
    rep(NA_real_, nrow(jacobian))
  }
  core_symmetric((basis$s - fit$implied)[lower.tri(none, diag = TRUE)] / error, p)
}

# The information of more free covariances than this takes too long: 36 items.
most_incomplete_moments <- 666

# The part of the Jacobian that belongs to covariances: the last rows.
covariance_rows <- function(jacobian, p) {
  before <- nrow(jacobian) - p * (p + 1) / 2
  if (before == 0) jacobian else jacobian[-seq_len(before), , drop = FALSE]
}

uls_residual_errors <- function(fit, jacobian, basis) {
  gamma <- core_normal_gamma(fit$implied)
  w <- uls_weight(ncol(basis$s))[lower.tri(basis$s, diag = TRUE)]
  at <- core_weighted_inference(jacobian, w, gamma, basis$n, fit$held)
  if (is.null(at)) rep(NA_real_, length(w)) else core_weighted_residual_errors(at, jacobian, w, gamma)
}

# Weights, clusters and answers that are not normal are allowed for.
robust_residual_errors <- function(cells, fit, jacobian, basis, factors) {
  bread <- core_inverse_information(fit$expected_hessian, fit$held)
  p <- ncol(basis$s)
  weight <- case_weights(basis)
  x <- basis$answers
  if (basis$kind == "incomplete") {
    pull <- kernel_saturated_hessian(basis$patterns, basis$em$covariance, basis$em$mean)
    free <- weight * kernel_saturated_gradients(x, basis$em$covariance, basis$em$mean)
    z <- -kernel_product(free, core_inverse_information(pull))[, -seq_len(p), drop = FALSE]
  } else {
    z <- core_product_influence(x, weight)
    if (!core_has_means(cells)) x <- sweep(x, 2, basis$mean)
  }
  scores <- weight * kernel_case_gradients(cells, p, factors, x, fit$theta, 1L)
  core_case_residual_errors(z, jacobian, sweep(scores, 2, colMeans(scores)), bread, basis$cluster)
}

# Of normal answers, by the observed information of free means and covariances, taken through the
# whole Jacobian, so that what the estimates explain is never more than there is.
incomplete_residual_errors <- function(fit, jacobian, basis) {
  p <- ncol(basis$s)
  information <- kernel_saturated_hessian(basis$patterns, basis$em$covariance, basis$em$mean)
  free <- diag(core_inverse_information(information))
  bread <- core_inverse_information(crossprod(jacobian, kernel_product(information, jacobian)), fit$held)
  spread <- free - kernel_row_forms(jacobian, bread)
  sqrt(2 / basis$n * ifelse(spread > 1e-8 * free, spread, NA))[-seq_len(p)]
}
