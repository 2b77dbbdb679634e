# Where a confirmation misses: its tables of modifications and of missed correlations.

# What freeing one more loading or residual pair would change, largest index first.
modification_table <- function(cells, fit, basis, items, factors, options) {
  candidates <- core_candidates(cells, length(items), length(factors))
  if (basis$kind == "ordinal") candidates <- candidates[!(candidates$part == core_parts[["residual"]] & candidates$row == candidates$column), ]
  if (nrow(candidates) == 0 || fit$status != "ok" || is.null(fit$covariance)) {
    return(plain_table(what = character(), item = character(), with = character(), index = numeric()))
  }
  found <- candidate_scores(cells, fit, basis, candidates, length(factors), options)
  found$standard_change <- core_standardise(candidates, found$change, fit$matrices, fit$implied)
  found <- found[!is.na(found$index), ]
  loading <- found$part == core_parts[["loading"]]
  matters <- ifelse(loading, .20, .10)
  power <- core_change_power(found$index, found$standard_change, matters)
  p <- stats::pchisq(found$index, 1, lower.tail = FALSE)
  large <- p < .01
  reading <- ifelse(large & abs(found$standard_change) >= matters, "large, and it matters",
    ifelse(large, "large, yet trivial", ifelse(power < .75, "too few cases to tell", "nothing")))
  out <- plain_table(
    what = ifelse(loading, "item wants another factor", "two items share something"),
    item = ifelse(loading, items[found$row], items[found$column]), with = ifelse(loading, factors[found$column], items[found$row]),
    index = found$index, p.value = p, change = found$change, standard_change = found$standard_change, power = power, reading = reading
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
    statistic = z[at], verdict = judge(abs(left[at]), limits, "residual_r")
  )
  out[order(-abs(out$residual)), ]
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
  if (!options$estimator %in% c("ml", "gls") || basis$kind != "complete" || core_has_means(cells)) {
    return(none)
  }
  core_standardised_residuals(basis$s, fit$implied, core_structure_jacobian(cells, fit$theta, p, ncol(fit$matrices$factor)), fit$covariance, basis$n)
}
