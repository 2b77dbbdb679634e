# What kind of answers items have, and what follows for correlations and estimators that are chosen by themselves.

# list(options: how many different answers the middle item has, skewness: mean size, kurtosis: mean excess, missing: share), from
# counts alone.
answer_kind <- function(survey, items) {
  shapes <- vapply(items, function(item) {
    tally <- source_tally(survey, item)
    there <- tally$counts > 0
    shape <- core_describe(tally$values[there], tally$counts[there])
    c(options = sum(there), skewness = abs(shape[["skewness_simple"]]), kurtosis = shape[["kurtosis_simple"]])
  }, c(options = 0, skewness = 0, kurtosis = 0))
  count <- source_count(survey, items)
  list(
    options = stats::median(shapes["options", ]), skewness = mean(shapes["skewness", ], na.rm = TRUE), kurtosis = mean(shapes["kurtosis", ],
      na.rm = TRUE),
    missing = mean(count$missing) / max(count$used, 1)
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
  plain <- list(correlation = if (correlation == "auto") "pearson" else correlation, reason = "")
  if (correlation != "auto") {
    return(plain)
  }
  if (!has_answers(x)) {
    plain$correlation <- x$correlation
    return(plain)
  }
  items <- pick_items(x, items)
  kind <- answer_kind(x, items)
  reason <- ordered_reason(kind)
  if (reason == "" || missing == "fiml") {
    return(plain)
  }
  if (!is.null(x$weight) || !is.null(x$cluster)) {
    plain$reason <- paste0(reason, ", but polychoric correlations know nothing of weights and clusters")
    return(plain)
  }
  if (missing == "auto" && kind$missing > .10 && !has_imputations(x, items)) {
    plain$reason <- paste0(reason, ", but more than a tenth of them is missing, which polychoric correlations take as completely random and ",
      "likelihood does not")
    return(plain)
  }
  found <- source_pairs(x, items, FALSE)
  if (found$status != "ok" || anyNA(found$r) || core_definiteness(found$r) < 1e-8) {
    return(list(correlation = "pearson", reason = paste0(reason, ", but polychoric correlations cannot be had from them together")))
  }
  list(correlation = "polychoric", reason = reason)
}

correlation_note <- function(resolved) {
  if (resolved$reason != "") note("auto_correlation", paste0(sentence_start(resolved$correlation), " correlations, since ", resolved$reason,
    "; `correlation` changes that."), rank = 2L)
}

sentence_start <- function(text) paste0(toupper(substr(text, 1, 1)), substring(text, 2))

# Which estimator is taken for "auto", and why: list(estimator, reason).
resolved_estimator <- function(x, items, estimator, missing = NULL, structured_means = FALSE, needs_robust = "", ordinal = TRUE) {
  if (estimator != "auto") {
    return(list(estimator = estimator, reason = ""))
  }
  if (needs_robust == "stages" && has_answers(x) && ordered_reason(answer_kind(x, items)) != "" && has_imputations(x, items)) {
    return(list(estimator = "ordinal", reason = ordered_reason(answer_kind(x, items))))
  }
  if (needs_robust != "") {
    return(list(estimator = "robust", reason = "weights, clusters and two stages need it"))
  }
  if (!has_answers(x) || length(intersect(items, analysed_items(x))) < length(items)) {
    return(list(estimator = "ml", reason = ""))
  }
  kind <- answer_kind(x, items)
  reason <- ordered_reason(kind)
  by_likelihood <- identical(missing, "fiml") || structured_means || !ordinal || length(items) > 60
  if (reason != "" && by_likelihood) {
    return(list(estimator = "robust", reason = paste0(reason, ", and ordered answers cannot be fitted as such here")))
  }
  if (reason != "" && kind$missing > .10 && is.null(missing) && !has_imputations(x, items)) {
    return(list(estimator = "robust", reason = paste0(reason,
      ", but more than a tenth of them is missing, which the ordinal estimator takes as completely random")))
  }
  if (reason != "") {
    return(list(estimator = "ordinal", reason = reason))
  }
  if (isTRUE(abs(kind$kurtosis) > 1 || kind$skewness > 1)) {
    return(list(estimator = "robust", reason = paste0("answers are not near normal (excess kurtosis ", coefficient_text(kind$kurtosis, 1),
      " on average)")))
  }
  list(estimator = "ml", reason = "")
}

estimator_note <- function(resolved) {
  if (resolved$reason != "") note("auto_estimator", paste0("Fitted by `estimator = \"", resolved$estimator, "\"`, since ", resolved$reason, "."),
    rank = 2L)
}
