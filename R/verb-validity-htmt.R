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
  values <- htmt_replicates(x, m, replicates, geometric, seed)
  if (is.null(values)) {
    return(none)
  }
  at <- cbind(match(second, names(m$blocks)), match(first, names(m$blocks)))
  of <- (at[, 2] - 1) * length(m$blocks) + at[, 1]
  ends <- vapply(of, function(k) core_percentile_interval(values[, k], level), numeric(2))
  list(low = ends[1, ], high = ends[2, ])
}

htmt_replicates <- function(x, m, replicates, geometric, seed) {
  if (startsWith(x$about$options$estimator, "ordinal")) {
    drawn <- with_seed(seed, core_drawn_correlations(x$parts$observed, x$parts$quadratic$gamma, x$about$n, replicates, random_draws))
    return(core_htmt_of(drawn, m$blocks, geometric))
  }
  survey <- survey_behind(x)
  items <- colnames(m$r)
  options <- x$about$options
  if (options$missing %in% c("fiml", "imputed") || !is.null(survey$weight) || !is.null(survey$cluster)) {
    moments <- survey_moments(survey, items, if (options$missing == "imputed") "auto" else options$missing, also = options$also, spread = TRUE)
    if (is.null(moments$gamma)) {
      return(NULL)
    }
    drawn <- with_seed(seed, core_drawn_covariances(moments$covariance, moments$gamma, moments$n, replicates, random_draws))
    return(core_htmt_of(drawn, m$blocks, geometric))
  }
  if (!gives_rows(survey, items)) {
    return(NULL)
  }
  answers <- source_complete_rows(survey, items)
  if (nrow(answers) >= 20) core_resample_htmt(answers, m$blocks, replicates, seed, geometric)
}
