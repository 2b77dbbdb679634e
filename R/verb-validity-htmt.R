# Intervals of the heterotrait-monotrait ratio.

# Bootstrap intervals from the complete cases; where the confirmation is of everybody, or of polychoric correlations, from moments drawn by the
# covariance matrix of these.
htmt_bounds <- function(x, m, first, second, replicates, geometric, level, seed) {
  none <- list(low = rep(NA_real_, length(first)), high = rep(NA_real_, length(first)))
  if (replicates < 20 || (is.null(x$parts$source) && is.null(x$parts$quadratic$gamma))) {
    return(none)
  }
  known <- all(c(first, second) %in% names(m$blocks))
  if (!known) {
    return(none)
  }
  found <- htmt_intervals(x, m, replicates, geometric, level, seed)
  if (is.null(found)) {
    return(none)
  }
  at <- cbind(match(second, names(m$blocks)), match(first, names(m$blocks)))
  of <- (at[, 2] - 1) * length(m$blocks) + at[, 1]
  list(low = found[1, of], high = found[2, of])
}

# Both ends by all pairs of subscales (2 x pairs); NULL where nothing can be drawn.
htmt_intervals <- function(x, m, replicates, geometric, level, seed) {
  by_draws <- function(draw, centre, gamma, pooled, n) {
    of <- function(gamma) core_htmt_of(with_seed(seed, draw(centre, gamma, n, replicates, random_draws)), m$blocks, geometric)
    core_pooled_percentiles(of, gamma, pooled, n - 1, level)$ends
  }
  if (startsWith(x$about$options$estimator, "ordinal")) {
    of <- x$parts$quadratic
    return(by_draws(core_drawn_correlations, x$parts$observed, of$gamma, of$pooled, x$about$n))
  }
  survey <- survey_behind(x)
  items <- colnames(m$r)
  options <- x$about$options
  if (options$missing %in% c("fiml", "imputed") || !is.null(survey$weight) || !is.null(survey$cluster)) {
    moments <- survey_moments(survey, items, if (options$missing == "imputed") "auto" else options$missing, also = options$also, spread = TRUE)
    if (is.null(moments$gamma)) {
      return(NULL)
    }
    return(by_draws(core_drawn_covariances, moments$covariance, moments$gamma, moments$pooled, moments$n))
  }
  if (!gives_rows(survey, items)) {
    return(NULL)
  }
  answers <- source_complete_rows(survey, items)
  if (nrow(answers) >= 20) apply(core_resample_htmt(answers, m$blocks, replicates, seed, geometric), 2, core_percentile_interval, level)
}
