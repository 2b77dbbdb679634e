# What a confirmation is fitted to: options checked, and the sample in one shape.

confirm_options <- function(x, estimator, missing, scaling, improper, weights, cluster, level, also = NULL) {
  check_class(x, c("sw_survey", "sw_moments"), "x", "`sw_survey()` or `sw_moments()`")
  single <- estimator %in% c("robust", "ordinal", "ordinal_uls")
  # Moments by likelihood know their own errors.
  if (inherits(x, "sw_moments") && !is.null(x$gamma)) single <- single && estimator != "robust"
  asked <- c(if (single) paste0("`estimator = \"", estimator, "\"`"), if (identical(missing, "fiml")) "`missing = \"fiml\"`")
  if (length(asked) > 0 && !has_answers(x)) {
    stop_input(message_of("e_needs_single_answers", asked = asked[1]), hint = message_of("e_give_survey"))
  }
  if (identical(missing, "fiml") && !estimator %in% c("ml", "robust")) {
    stop_input(message_of("e_do_not_go", asked = asked), hint = message_of("e_take_estimator_ml"))
  }
  if (identical(missing, "pairwise") && !startsWith(estimator, "ordinal")) {
    stop_input(message_of("e_correlations_from_pairs"), hint = message_of("e_take_fiml_listwise"))
  }
  refuse_also(also, estimator)
  for (column in c(weights, cluster)) check_string(column, "weights and cluster")
  if ((!is.null(weights) || !is.null(cluster)) && estimator != "robust") {
    stop_input(message_of("e_weights_cluster_go"))
  }
  list(estimator = estimator, missing = missing, scaling = scaling, improper = improper, weights = weights, cluster = cluster, level = level,
    also = also)
}

# Helping columns make moments whose errors only likelihood's two stages know.
refuse_also <- function(also, estimator) {
  if (length(also) > 0 && !estimator %in% c("ml", "robust")) {
    stop_input(message_of("e_helping_columns_also_do", estimator = estimator), hint = message_of("e_take_ml_robust"))
  }
}

check_means_allowed <- function(structure, options) {
  if (!is.null(structure$means) && !options$estimator %in% c("ml", "robust")) {
    stop_structure(message_of("e_structure_says_something_about", estimator = options$estimator), hint = message_of("e_take_ml_robust_two"))
  }
  if (options$scaling == "effects" && (length(structure$higher) > 0 || length(structure$equal) > 0 || length(structure$fixed) > 0)) {
    stop_structure(message_of("e_scaling_effects_plain"), hint = message_of("e_use_variance_first"))
  }
}

# list(kind: complete, incomplete or ordinal; n, n_left_out, missing (as results say it),
# treatment, s (divisor n, or correlations), mean, answers, patterns, em, gamma, weight,
# cluster, origin, notes).
confirm_sample <- function(x, items, options) {
  check_items_known(items, known_items(x))
  if (startsWith(options$estimator, "ordinal")) {
    return(ordinal_sample(x, items, options))
  }
  if (length(options$also) > 0 && has_answers(x) && misses_any(x, items)) {
    return(stages_sample(survey_moments(x, items, "fiml", also = options$also, spread = TRUE)))
  }
  if (is.null(options$missing) && has_answers(x) && has_imputations(x, items) && misses_any(x, items)) {
    return(stages_sample(survey_moments(x, items, "auto", spread = TRUE), options$estimator))
  }
  gaps <- options$estimator %in% c("ml", "robust") && misses_any(x, items)
  treatment <- if (is.null(options$missing)) gap_treatment(x, items, gaps) else options$missing
  if (treatment == "fiml") incomplete_sample(x, items, options) else complete_sample(x, items, options)
}

gap_treatment <- function(x, items, gaps) if (gaps && !withholds_patterns(x, items)) "fiml" else "listwise"

complete_sample <- function(x, items, options) {
  moments <- as_moments(x, items, "listwise")
  if (!is.null(moments$gamma) && inherits(x, "sw_moments")) {
    return(stages_sample(moments, options$estimator))
  }
  check_variance(moments)
  check_positive_definite(moments)
  out <- list(
    kind = "complete", treatment = "listwise", n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing, origin = moments$origin,
    s = moments$covariance * (moments$n - 1) / moments$n, mean = unname(moments$mean)
  )
  if (options$estimator != "robust") {
    return(out)
  }
  if (!gives_rows(x, items)) {
    return(stages_sample(moments_with_spread(x, items, moments, options)))
  }
  answers <- source_rows(x, items)
  rows <- stats::complete.cases(answers)
  out$answers <- answers[rows, , drop = FALSE]
  out$cluster <- case_column(x, options$cluster, "cluster")[rows]
  out$weight <- sampling_weights(x, options, rows)
  if (!is.null(options$weights)) {
    weighted <- core_weighted_covariance(out$answers, out$weight)
    out$s <- weighted$covariance
    out$mean <- unname(weighted$mean)
  }
  check_clusters(out$cluster)
  out
}

# Moments of complete cases who are too many at once, with their covariance matrix.
moments_with_spread <- function(x, items, moments, options) {
  if (is.null(options$weights) && is.null(options$cluster)) {
    moments$gamma <- source_gamma(x, items)
    return(moments)
  }
  check_design(x, options)
  x$weight <- options$weights
  x$cluster <- options$cluster
  as_moments(x, items, "listwise", spread = TRUE)
}

check_design <- function(x, options) {
  sampling_weights(x, options, TRUE)
  check_clusters(case_column(x, options$cluster, "cluster"))
}

# Moments that come with their covariance matrix: a structure is then fitted in a second stage.
stages_sample <- function(moments, estimator = "ml") {
  if (!estimator %in% c("ml", "robust")) {
    stop_input(message_of("e_estimator_would_take", estimator = estimator, n = moments$n), hint = message_of("e_take_ml_robust_two"))
  }
  check_variance(moments)
  check_positive_definite(moments)
  list(
    kind = "complete", treatment = moments$missing, n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    origin = moments$origin, s = moments$covariance * (moments$n - 1) / moments$n, mean = unname(moments$mean), gamma = moments$gamma,
      pooled = moments$pooled
  )
}

# Weights of some cases in use, of mean one; NULL for none.
sampling_weights <- function(x, options, rows) {
  weight <- case_column(x, options$weights, "weights")[rows]
  if (is.null(weight)) {
    return(NULL)
  }
  if (!is.numeric(weight) || any(weight <= 0)) stop_input(message_of("e_sampling_weights_must"), hint = message_of("e_set_cases_without"))
  weight / mean(weight)
}

# Means and covariances (divisor n) by maximum likelihood of everyone who answered
# anything.
incomplete_sample <- function(x, items, options) {
  if (!gives_rows(x, items) && (options$estimator == "ml" || goes_by_rows(x))) {
    check_design(x, options)
    return(pattern_sample(x, items, options))
  }
  answers <- source_rows(x, items)
  some <- rowSums(!is.na(answers)) > 0
  weight <- sampling_weights(x, options, some)
  answers <- answers[some, , drop = FALSE]
  em <- core_em(answers, weight)
  if (em$status != "ok") {
    stop_numeric(message_of("e_means_covariances_answers_cannot"), hint = message_of("e_leave_items_out_use"))
  }
  moments <- new_moments(sum(some), sum(!some), em$mean, em$covariance, "fiml", "answers", list(all = items), case_origin(x))
  check_variance(moments)
  check_positive_definite(moments)
  cluster <- case_column(x, options$cluster, "cluster")[some]
  check_clusters(cluster)
  list(
    kind = "incomplete", treatment = "fiml", n = moments$n, n_left_out = moments$n_left_out, missing = "fiml", origin = moments$origin,
    s = em$covariance, mean = unname(em$mean), em = list(mean = unname(em$mean), covariance = unname(em$covariance)),
    answers = answers, patterns = core_answer_patterns(answers, weight), cluster = cluster, weight = weight
  )
}

# The same from patterns of missing answers and, for errors that do not take answers as normal, a way through the people.
pattern_sample <- function(x, items, options) {
  found <- designed_patterns(x, items, options$weights)
  patterns <- found$patterns
  if (isTRUE(attr(patterns, "withheld") > 0)) stop_rare_patterns(x, attr(patterns, "withheld"))
  em <- core_em_patterns(patterns, items)
  if (em$status != "ok") {
    stop_numeric(message_of("e_means_covariances_answers_cannot"), hint = message_of("e_leave_items_out_use"))
  }
  n <- found$n
  moments <- new_moments(n, source_count(x)$used - n, em$mean, em$covariance, "fiml", "answers", list(all = items), case_origin(x))
  check_variance(moments)
  check_positive_definite(moments)
  list(
    kind = "incomplete", treatment = "fiml", n = n, n_left_out = moments$n_left_out, missing = "fiml", origin = moments$origin,
    s = em$covariance, mean = unname(em$mean), em = list(mean = unname(em$mean), covariance = unname(em$covariance)), patterns = patterns,
    rows = designed_rows(x, items, options$weights, options$cluster, found$mean_weight)
  )
}

# Ordered answers: of everyone who answered one, each correlation from the cases that answered
# both items; or of complete cases.
ordinal_sample <- function(x, items, options) {
  treatment <- if (is.null(options$missing)) resolved_missing(x, items, "auto", "polychoric") else options$missing
  whole <- treatment == "listwise"
  kept <- source_count(x)$used
  found <- polychoric_pairs(x, items, treatment, covariance = TRUE)
  core <- polychoric_moments(found, items, empty_items(x, items))
  if (core$status != "ok") {
    stop_numeric(message_of("e_fewer_two_cases_answers", whole_said = if (whole) message_of("e_all_items") else message_of("e_both_items_some")),
      hint = message_of("e_leave_out_items_cases"))
  }
  if (core$n <= length(items)) {
    stop_numeric(message_of("e_there_too_few"), faults = messages_of("e_only_items_two", n = core$n, items = length(items)),
      hint = if (whole) message_of("e_take_everybody_s") else message_of("e_leave_out_items_gather"))
  }
  pairs <- length(items) * (length(items) - 1) / 2
  steps <- nrow(found$covariance) - pairs
  # A case without influence on a pair, or a correlation at its bound, leaves no variance.
  own <- steps + seq_len(pairs)
  gamma <- found$covariance[own, own]
  if (any(!is.finite(diag(gamma))) || any(diag(gamma) <= 0)) {
    stop_numeric(message_of("e_some_polychoric_correlation"), faults = core$said, hint = message_of("e_join_rare_categories"))
  }
  list(
    kind = "ordinal", treatment = treatment, n = core$n, n_left_out = kept - core$n, missing = treatment, origin = case_origin(x),
    s = found$r, mean = rep(0, length(items)), gamma = gamma, thresholds = found$thresholds,
    pooled = if (!is.null(found$pooled)) list(m = found$pooled$m, within = found$pooled$within[own, own],
      threshold_error = sqrt(diag(found$pooled$within)[seq_len(steps)] / core$n)),
    centre = answer_centre(x, items), values = found$values,
    threshold_error = sqrt(diag(found$covariance)[seq_len(steps)] / core$n), notes = note("pairs", core$said, as.list(rep("", length(core$said))))
  )
}

# A column of the data for the cases in use; NULL for none.
case_column <- function(x, column, what) {
  if (is.null(column)) {
    return(NULL)
  }
  check_names_known(column, source_names(x), what, "column")
  values <- source_column(x, column)
  if (anyNA(values)) stop_input(message_of("e_column_misses_values", column = column), hint = message_of("e_set_those_cases"))
  values
}

check_clusters <- function(cluster) {
  if (!is.null(cluster) && length(unique(cluster)) < 2) stop_input(message_of("e_there_one_cluster"))
}
