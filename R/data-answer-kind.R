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

# Few options (up to four), or skewed ordered ones (mean skewness above 1 in size, up to ten options): "" for neither.
ordered_reason <- function(kind) {
  if (kind$options <= 4) {
    return(paste0("answers have ", kind$options, " options"))
  }
  if (kind$options <= 10 && isTRUE(kind$skewness > 1)) paste0("answers are skewed (", coefficient_text(kind$skewness, 1), " on average)") else ""
}

# Which correlation is taken for "auto", and why: list(correlation, reason); reason "" where it is the plain one.
resolved_correlation <- function(x, items, correlation, missing = "auto") {
  plain <- function(correlation = "pearson", reason = "") list(correlation = correlation, reason = reason)
  if (correlation != "auto") {
    return(plain(correlation))
  }
  if (!has_answers(x)) {
    return(plain(if (inherits(x, "sw_moments")) x$correlation else "pearson"))
  }
  items <- pick_items(x, items)
  kind <- answer_kind(x, items)
  reason <- ordered_reason(kind)
  if (reason == "" || missing == "fiml") {
    return(plain())
  }
  against <- against_polychoric(x, items, kind, missing)
  if (against == "") plain("polychoric", reason) else plain(reason = paste0(reason, against))
}

# Why polychoric correlations are not taken of ordered answers; "" where they are.
against_polychoric <- function(x, items, kind, missing) {
  if (!is.null(x$weight) || !is.null(x$cluster)) {
    return(", but polychoric correlations know nothing of weights and clusters")
  }
  if (missing == "auto" && kind$missing > .10 && !has_imputations(x, items)) {
    return(", but more than a tenth of them is missing, which polychoric correlations take as completely random and likelihood does not")
  }
  found <- source_pairs(x, items, FALSE)
  possible <- found$status == "ok" && !anyNA(found$r) && core_definiteness(found$r) >= 1e-8
  if (possible) "" else ", but polychoric correlations cannot be had from them together"
}

correlation_note <- function(resolved) {
  if (resolved$reason != "") note("auto_correlation", paste0(sentence_start(resolved$correlation), " correlations, since ", resolved$reason,
    "; `correlation` changes that."), rank = 2L)
}

sentence_start <- function(text) paste0(toupper(substr(text, 1, 1)), substring(text, 2))

# Which estimator is taken for "auto", and why: list(estimator, reason). needs_robust: "design" (weights, clusters), "stages" (moments with
# their own covariance matrix) or "".
resolved_estimator <- function(x, items, estimator, missing = NULL, structured_means = FALSE, needs_robust = "", ordinal = TRUE) {
  if (estimator != "auto") {
    return(list(estimator = estimator, reason = ""))
  }
  robust <- list(estimator = "robust", reason = if (needs_robust == "design") "weights and clusters need it" else
    "moments with errors of their own need it")
  if (needs_robust == "design") {
    return(robust)
  }
  if (!goes_by_rows(x) || !all(items %in% analysed_items(x))) {
    return(if (needs_robust == "stages") robust else likelihood_alone(x))
  }
  kind <- answer_kind(x, items)
  reason <- ordered_reason(kind)
  imputed <- has_imputations(x, items)
  if (needs_robust == "stages" && !(imputed && reason != "")) {
    return(robust)
  }
  by_likelihood <- identical(missing, "fiml") || structured_means || !ordinal || length(items) > 60
  if (reason == "") plain_estimator(kind) else ordered_estimator(kind, reason, by_likelihood, is.null(missing) && !imputed)
}

plain_estimator <- function(kind) {
  if (isTRUE(abs(kind$kurtosis) > 1 || kind$skewness > 1)) {
    return(list(estimator = "robust", reason = paste0("answers are not near normal (excess kurtosis ", coefficient_text(kind$kurtosis, 1),
      " on average)")))
  }
  list(estimator = "ml", reason = "")
}

# Likelihood, and why where a database gives sums only.
likelihood_alone <- function(x) {
  list(estimator = "ml", reason = if (has_answers(x) && !goes_by_rows(x)) "anything else needs single answers" else "")
}

# Of ordered answers; by_likelihood: nothing else can be done; by_pairs: gaps would be left to pairs.
ordered_estimator <- function(kind, reason, by_likelihood, by_pairs) {
  if (by_likelihood) {
    return(list(estimator = "robust", reason = paste0(reason, ", and ordered answers cannot be fitted as such here")))
  }
  if (by_pairs && kind$missing > .10) {
    return(list(estimator = "robust", reason = paste0(reason,
      ", but more than a tenth of them is missing, which the ordinal estimator takes as completely random")))
  }
  list(estimator = "ordinal", reason = reason)
}

estimator_note <- function(resolved) {
  if (resolved$reason != "") note("auto_estimator", paste0("Fitted by `estimator = \"", resolved$estimator, "\"`, since ", resolved$reason, "."),
    rank = 2L)
}
