# What kind of answers items have, and what follows for correlations and estimators that are chosen by themselves.

# list(options: how many different answers the middle item has, skewness: mean size, kurtosis: mean excess, missing: share), from
# counts alone.
answer_kind <- function(survey, items) {
  shapes <- vapply(items, function(item) {
    tally <- source_tally(survey, item)
    there <- tally$counts > 0
    shape <- core_tally_shape(tally)
    c(options = sum(there) + length(tally$hidden), skewness = abs(shape[["skewness_simple"]]), kurtosis = shape[["kurtosis_simple"]])
  }, c(options = 0, skewness = 0, kurtosis = 0))
  count <- source_count(survey, items)
  list(
    options = stats::median(shapes["options", ]), skewness = mean(shapes["skewness", ], na.rm = TRUE), kurtosis = mean(shapes["kurtosis", ],
      na.rm = TRUE),
    missing = mean(count$missing, na.rm = TRUE) / max(count$used, 1)
  )
}

# Few options (up to four), or skewed ordered ones (mean skewness above 1 in size, up to ten options): a message, NULL for neither.
ordered_reason <- function(kind) {
  if (kind$options <= 4) {
    return(message_of("answers_have_options", options = kind$options))
  }
  if (kind$options <= 10 && isTRUE(kind$skewness > 1)) message_of("answers_are_skewed", skewness = kind$skewness)
}

# Which correlation is taken for "auto", and why: list(correlation, reason); reason a message, NULL where it is
# the plain one.
resolved_correlation <- function(x, items, correlation, missing = "auto") {
  plain <- function(correlation = "pearson", reason = NULL) list(correlation = correlation, reason = reason)
  if (correlation != "auto") {
    return(plain(correlation))
  }
  if (!has_answers(x)) {
    return(plain(if (inherits(x, "sw_moments")) x$correlation else "pearson"))
  }
  items <- pick_items(x, items)
  kind <- answer_kind(x, items)
  reason <- ordered_reason(kind)
  if (is.null(reason) || missing == "fiml") {
    return(plain())
  }
  against <- against_polychoric(x, items, kind, missing)
  if (is.null(against)) plain("polychoric", reason) else plain(reason = message_of(against, reason = reason))
}

# Why polychoric correlations are not taken of ordered answers, a code; NULL where they are.
against_polychoric <- function(x, items, kind, missing) {
  if (!is.null(x$weight) || !is.null(x$cluster)) {
    return("but_weights_and_clusters")
  }
  if (missing == "auto" && kind$missing > .10 && !has_imputations(x, items)) {
    return("but_gaps_for_polychoric")
  }
  found <- source_pairs(x, items, FALSE)
  possible <- found$status == "ok" && !anyNA(found$r) && core_definiteness(found$r) >= 1e-8
  if (!possible) "but_no_polychoric_matrix"
}

correlation_note <- function(resolved) {
  if (!is.null(resolved$reason)) note("auto_correlation",
    message_of(if (resolved$correlation == "polychoric") "polychoric_since" else "pearson_since", reason = resolved$reason))
}

# Which estimator is taken for "auto", and why: list(estimator, reason), reason a message or NULL. needs_robust: "design" (weights, clusters),
# "stages" (moments with their own covariance matrix) or "".
resolved_estimator <- function(x, items, estimator, missing = NULL, structured_means = FALSE, needs_robust = "", ordinal = TRUE) {
  if (estimator != "auto") {
    return(list(estimator = estimator))
  }
  if (needs_robust == "design") {
    return(list(estimator = "robust", reason = message_of("design_needs_it")))
  }
  robust <- list(estimator = "robust", reason = message_of("stages_need_it"))
  if (!goes_by_rows(x) || !all(items %in% analysed_items(x))) {
    return(if (needs_robust == "stages") robust else likelihood_alone(x))
  }
  kind <- answer_kind(x, items)
  reason <- ordered_reason(kind)
  imputed <- has_imputations(x, items)
  if (needs_robust == "stages" && !(imputed && !is.null(reason))) {
    return(robust)
  }
  by_likelihood <- identical(missing, "fiml") || structured_means || !ordinal || length(items) > 60
  estimator_of_kind(kind, reason, by_likelihood, by_pairs = is.null(missing) && !imputed)
}

estimator_of_kind <- function(kind, reason, ...) if (is.null(reason)) plain_estimator(kind) else ordered_estimator(kind, reason, ...)

plain_estimator <- function(kind) {
  if (isTRUE(abs(kind$kurtosis) > 1 || kind$skewness > 1)) {
    return(list(estimator = "robust", reason = message_of("answers_not_normal", kurtosis = kind$kurtosis)))
  }
  list(estimator = "ml")
}

# Likelihood, and why where a database gives sums only.
likelihood_alone <- function(x) {
  list(estimator = "ml", reason = if (has_answers(x) && !goes_by_rows(x)) message_of("else_needs_answers"))
}

# Of ordered answers; by_likelihood: nothing else can be done; by_pairs: gaps would be left to pairs.
ordered_estimator <- function(kind, reason, by_likelihood, by_pairs) {
  if (by_likelihood) {
    return(list(estimator = "robust", reason = message_of("and_not_ordinal_here", reason = reason)))
  }
  if (by_pairs && kind$missing > .10) {
    return(list(estimator = "robust", reason = message_of("but_gaps_for_ordinal", reason = reason)))
  }
  list(estimator = "ordinal", reason = reason)
}

estimator_note <- function(resolved) {
  if (!is.null(resolved$reason)) note("auto_estimator", message_of("fitted_by", estimator = resolved$estimator, reason = resolved$reason))
}
