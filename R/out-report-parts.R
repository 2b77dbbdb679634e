# What of each result a report shows.

# Which tables of a result a report shows, named by the codes of their captions, or by captions.
report_tables <- function(x) UseMethod("report_tables")
#' @export
report_tables.default <- function(x) stats::setNames(x$tables, table_title(names(x$tables)))
#' @export
report_tables.sw_screening <- function(x) {
  c(
    list(caption_the_items_as_answered = first_look(x)[[1]], caption_what_was_flagged = flagged_items(x)),
    if (any(x$tables$missing[c("missing", "skipped", "unseen")] > 0)) list(caption_missing_answers = x$tables$missing),
    if (NROW(x$tables$patterns) > 1) list(caption_items_missing_together = utils::head(x$tables$patterns, 12))
  )
}
flagged_items <- function(x) {
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  flags$advice <- sub("(:|;) see `sw_[a-z_]*\\(\\)`", "", flags$advice)
  flags
}

#' @export
report_tables.sw_keying <- function(x) {
  list(caption_keying_by_subscale = x$tables$scales, caption_items_that_do_not_agree_with = x$tables$items[x$tables$items$agrees != "yes", ])
}
#' @export
report_tables.sw_answering <- function(x) {
  cases <- x$tables$cases
  flagged <- cases[cases$counted, ]
  list(
    caption_indices_of_careless_answering = x$tables$indices, caption_cases_named = who_was_flagged(x, utils::head(flagged, 30)),
    caption_reliability_with_and_without_them = x$tables$sensitivity
  )
}
#' @export
report_tables.sw_option_curves <- function(x) {
  shown <- as_tables(first_look(x))
  stats::setNames(shown, c("caption_options_that_do_not_behave", "caption_shares_by_score_band", "caption_mean_answers_by_score_band")[
    c(nrow(x$tables$flags) > 0, any(!is.na(x$tables$curves$right)), any(is.na(x$tables$curves$right)))])
}
#' @export
report_tables.sw_dif <- function(x) {
  different <- x$tables$items[x$tables$items$flagged %in% TRUE, c("scale", "item", "p_adjusted", "effect", "class", "favours",
    if (any(x$tables$items$bias_kind %in% c("nonuniform", "both"))) c("p_nonuniform_adjusted", "slope_ratio", "less_in"))]
  list(caption_the_groups = x$tables$groups, caption_items_that_work_differently = different,
    caption_items_compared_between_groups = x$tables$items[c("scale", "item", "test", "statistic", "p.value", "p_adjusted", "effect", "class",
    "favours", "p_uniform", "p_nonuniform", "p_nonuniform_adjusted", "slope_ratio", "r2_change")])
}
#' @export
report_tables.sw_reliability <- function(x) {
  scales <- x$tables$scales
  shown <- c("scale", "items", "n", "alpha", "conf.low", "conf.high", "omega", "inter_item_r", "verdict",
    if (any(!is.na(scales$alpha_turned))) c("looks_unreversed", "alpha_turned"))
  bounds <- c("scale", "alpha_standardised", "alpha_ordinal", "omega_ordinal",
    "lambda2", "lambda4", "lambda6", "glb", "odd_even_stepped", "split_worst", "sem", "reliable_change")
  items <- x$tables$items[c("scale", "item", "mean", "sd", "item_rest_r", "squared_multiple_r", "alpha_without", "omega_without", "verdict")]
  c(
    list(caption_internal_consistency_of_the_subscales = scales[shown], caption_further_coefficients_and_errors_of_the = scales[bounds],
      caption_what_each_item_does_reversed_items = items),
    if (!is.null(x$tables$composite)) list(caption_the_whole_and_differences_between_subscales = x$tables$composite),
    if (!is.null(x$tables$general)) list(caption_a_general_factor_beside_the_subscales = x$tables$general),
    if (!is.null(x$tables$compare)) list(caption_alpha_in_each_group = x$tables$compare)
  )
}
#' @export
report_tables.sw_factorability <- function(x) {
  c(list(caption_can_the_items_be_factored = x$tables$overall, caption_item_by_item = x$tables$items),
    if (!is.null(x$tables$normality)) list(caption_multivariate_normality = x$tables$normality))
}
#' @export
report_tables.sw_retention <- function(x) {
  list(caption_how_many_factors_by_rule = x$tables$rules, caption_fit_of_each_number_of_factors = first_look(x)[[2]],
    caption_observed_and_random_eigenvalues = x$tables$eigenvalues[c("number", "eigenvalue", "random_mean", "random_percentile", "common",
      "common_percentile")])
}
#' @export
report_tables.sw_exploration <- function(x) {
  sorted <- sorted_pattern(x)
  factors <- colnames(x$parts$pattern)
  sorted[factors] <- lapply(sorted[factors], function(l) ifelse(abs(l) < x$about$options$hide, NA, l))
  sorted <- sorted[setdiff(names(sorted), c("uniqueness", "complexity"))]
  large <- x$tables$residuals[x$tables$residuals$verdict %in% "missed", ]
  c(
    list(caption_pattern_of_loadings_items_sorted_by = sorted),
    if (!is.null(x$tables$factor_correlations)) list(caption_correlations_between_factors = x$tables$factor_correlations),
    if (!is.null(x$tables$factor_correlations)) list(caption_structure_matrix_correlations_of_items_and = x$tables$structure),
    list(caption_variance_explained = x$tables$variance, caption_fit_of_the_exploration = x$tables$fit,
      caption_factor_scores_correlation_with_their_factor = x$tables$scoring),
    if (nrow(large) > 0) list(caption_large_residual_correlations = utils::head(large, 15)),
    if (!is.null(x$tables$route)) list(caption_items_dropped_on_the_way = x$tables$route)
  )
}
#' @export
report_tables.sw_stability <- function(x) {
  items <- x$tables$items
  c(list(caption_congruence_of_the_factors_between_halves = x$tables$factors),
    if (nrow(x$tables$factors) > 1) list(caption_items_that_change_factors = items[!meets(items$share_same, x$limits, "home_share"), ]),
    if (!is.null(x$tables$groups)) list(caption_congruence_between_groups = x$tables$groups))
}
#' @export
report_tables.sw_confirmation <- function(x) {
  modifications <- x$tables$modifications
  missed <- x$tables$residual_correlations
  c(
    list(
      caption_fit_of_the_structure = columns_of(x$tables$fit, setdiff(names(x$tables$fit), c("bound", "source", "corrected_p"))),
      caption_loadings = columns_of(x$tables$loadings, c("factor", "item", "standardised", "standard_low", "standard_high", "r_squared", "verdict")),
      caption_loadings_with_their_errors = columns_of(x$tables$loadings, setdiff(names(x$tables$loadings), c("r_squared", "verdict"))),
      caption_bounds_of_fit_and_their_sources = x$tables$fit[c("figure", "value", "bound", "source")]),
    if (nrow(x$tables$factor_correlations) > 0) list(caption_correlations_between_factors = x$tables$factor_correlations),
    list(caption_reliability_of_the_factors = x$tables$reliability),
    if (any(missed$verdict %in% "missed")) {
      list(caption_correlations_that_the_structure_misses = utils::head(missed[missed$verdict %in% "missed", ], 12))
    },
    if (nrow(modifications) > 0) list(caption_what_one_more_parameter_would_change = utils::head(modifications, 8)),
    list(caption_further_indices_of_fit = x$tables$indices), if (!is.null(x$tables$route)) list(caption_items_dropped_on_the_way = x$tables$route)
  )
}
#' @export
report_tables.sw_comparison <- function(x) list(caption_rival_structures = x$tables$models, caption_tests_between_them = x$tables$tests)
#' @export
report_tables.sw_bounds <- function(x) {
  shown <- c("left_out", "figure", "true_worst", "wrong_best", "bound_here", "value", "verdict")
  list(caption_bounds_that_tell_a_true_structure = x$tables$bounds[shown],
    caption_what_these_answers_are_sure_of = x$tables$equivalence[c("figure", "value", "side", "with_confidence")])
}
#' @export
report_tables.sw_invariance <- function(x) {
  c(
    list(caption_the_groups = x$tables$groups),
    list(caption_steps_of_invariance = x$tables$steps[c("step", "chi_square", "df", "p.value", "cfi", "rmsea", "srmr", "p_difference",
      "p_adjusted", "detectable", "verdict")]),
    if (!is.null(x$tables$named)) list(caption_items_named_in_turn = x$tables$named),
    if (!is.null(x$tables$means)) list(caption_latent_means = x$tables$means),
    if (!is.null(x$tables$effects)) list(caption_what_unequal_items_do = x$tables$effects),
    if (!is.null(x$tables$aligned)) list(caption_aligned_means = x$tables$aligned, caption_how_far_items_differ_after_alignment = x$tables$alignment)
  )
}
#' @export
report_tables.sw_validity <- function(x) {
  factors <- c("factor", "items", "alpha", "composite_reliability", "maximal_reliability", "ave", "msv", "asv")
  pairs <- c("factor", "with", "correlation", "conf.low", "conf.high", "htmt", "htmt_low", "htmt_high", "root_above", "p.value", "ave_excess_p")
  # Loadings on each other factor are shown while a page holds them.
  items <- x$tables$items
  if (nrow(x$tables$factors) > 5) items <- items[!startsWith(names(items), "with_")]
  c(
    list(caption_reliability_and_variance_extracted = x$tables$factors[factors]),
    if (nrow(x$tables$pairs) > 0) list(caption_correlations_of_factors_root_of_ave = x$tables$matrix,
      caption_each_two_factors = x$tables$pairs[pairs]),
    list(caption_what_misses_a_bound_and_usual = x$tables$failures, caption_items = items),
    if (!is.null(x$tables$higher)) list(caption_higher_factors = x$tables$higher),
      if (!is.null(x$tables$outside)) list(caption_outside_variables = x$tables$outside)
  )
}
#' @export
report_tables.sw_composites <- function(x) {
  shown <- c("composite", "mode", "items", "alpha", "rho_a", "composite_reliability", "ave")
  list(
    caption_weighted_composites = x$tables$composites[shown], caption_correlations_of_composites = x$tables$correlations,
    caption_weights_and_loadings = x$tables$items, caption_paths_between_composites = x$tables$paths
  )
}
#' @export
report_tables.sw_scores <- function(x) {
  scales <- x$tables$scales
  c(if (nrow(scales) > 1) list(caption_means_standard_deviations_and_correlations = summary_table(x)),
    list(caption_the_scores = scales[setdiff(names(scales), c("scale", "method"))]))
}

# As papers print it: mean, standard deviation, reliability on the diagonal, correlations below it.
summary_table <- function(x) {
  scales <- x$tables$scales
  r <- x$tables$correlations
  scales <- scales[match(r$score, scales$score), ]
  cells <- as.matrix(r[-1])
  cells[upper.tri(cells)] <- NA
  diag(cells) <- scales$reliability
  colnames(cells) <- seq_len(ncol(cells))
  plain_frame(cbind(data.frame(score = paste0(seq_len(nrow(r)), ". ", r$score), n = scales$n, mean = scales$mean, sd = scales$sd), cells,
    stringsAsFactors = FALSE))
}

# Some columns of a table of verdicts, which stay judged.
columns_of <- function(table, names) {
  out <- table[intersect(names, names(table))]
  for (name in c("judged", "limits")) attr(out, name) <- attr(table, name)
  out
}

# Which of them stand in the text of a report of the whole job; the others stand in its appendix.
main_captions <- function(x) {
  switch(class(x)[1],
    sw_screening = "caption_what_was_flagged", sw_keying = "caption_items_that_do_not_agree_with",
    sw_answering = "caption_indices_of_careless_answering",
    sw_option_curves = "caption_options_that_do_not_behave", sw_dif = "caption_items_that_work_differently",
    sw_reliability = "caption_internal_consistency_of_the_subscales", sw_factorability = character(),
    sw_retention = "caption_how_many_factors_by_rule", sw_exploration = c("caption_pattern_of_loadings_items_sorted_by",
      "caption_correlations_between_factors"),
    sw_stability = "caption_congruence_of_the_factors_between_halves",
    sw_confirmation = c("caption_fit_of_the_structure", "caption_loadings", "caption_correlations_that_the_structure_misses"),
    sw_comparison = "caption_rival_structures",
    sw_invariance = c("caption_steps_of_invariance", "caption_latent_means"),
    sw_validity = c("caption_reliability_and_variance_extracted", "caption_correlations_of_factors_root_of_ave"),
    sw_composites = "caption_weighted_composites", sw_scores = c("caption_the_scores", "caption_means_standard_deviations_and_correlations"),
    names(report_tables(x))
  )
}

# The figures of a result that a report shows, named by kind.
report_figures <- function(x) {
  if (inherits(x, "sw_answering") && sum(!vapply(x$parts$values, function(v) all(is.na(v)), TRUE)) < 2) {
    return(list())
  }
  if (inherits(x, "sw_reliability") && all(is.na(x$tables$scales$alpha))) {
    return(list())
  }
  if (inherits(x, "sw_retention")) {
    return(list(scree = autoplot(x), fit = autoplot(x, "fit")))
  }
  if (inherits(x, "sw_reliability")) {
    return(c(list(scales = autoplot(x)), if (any(!is.na(x$tables$items$alpha_without))) list(items = autoplot(x, "items"))))
  }
  if (!inherits(x, "sw_screening")) {
    return(list(figure = autoplot(x)))
  }
  options <- x$tables$options
  drawable <- any(is.na(options$right)) || nrow(options) == 0
  c(if (ncol(x$parts$correlations) > 1) list(correlations = autoplot(x)), list(answers = autoplot(x, if (drawable) "options" else "histograms")),
    if (!is.null(x$parts$missing_cells) && any(x$parts$missing_cells)) list(missing = autoplot(x, "missing")))
}

main_figures <- function(x) {
  switch(class(x)[1],
    sw_screening = "answers", sw_reliability = if (nrow(x$tables$scales) > 1) "scales", sw_retention = "scree", sw_confirmation = , sw_scores = ,
      sw_option_curves = "figure",
    sw_dif = if (any(x$tables$items$flagged)) "figure", character()
  )
}

# A note that every table carries: n and missing answers; under a result's first table also by which bounds it judges.
table_note <- function(x, first = TRUE) {
  list(case_message(x, x$parts$people$people), if (first) convergence_message(x), if (first) judged_by(x))
}

# Bounds and sources behind a result's verdicts.
judged_by <- function(x) UseMethod("judged_by")
#' @export
judged_by.default <- function(x) NULL
#' @export
judged_by.sw_reliability <- function(x) {
  how <- switch(alpha_interval_kind(x), auto = message_of("interval_auto"), free = "Yuan, Guarnaccia & Hayslip, 2003", delta = "Yuan & Bentler, 2000",
    feldt = "Feldt, 1965", bonett = "Bonett, 2002", percentile = message_of("interval_percentile"), bca = message_of("interval_bca"))
  message_of("alpha_judged_by", alpha = cited_bound(x, "alpha"), level = 100 * x$about$options$level, how = how, rest = cited_bound(x, "item_rest_r"))
}
#' @export
judged_by.sw_exploration <- function(x) {
  message_of("loadings_judged_by", loading = cited_bound(x, "loading"), gap = cited_bound(x, "loading_gap"), hide = x$about$options$hide)
}

cited_bound <- function(x, figure) {
  rule <- limit(x$limits, figure)
  code <- c(at_least = "bound_at_least", at_most = "bound_at_most", below = "bound_below")[[rule$direction]]
  message_of("bound_cited", bound = message_of(code, bound = rule$bound), source = message_of("a_term", term = sub(" \\((.*)\\)$", ", \\1",
    rule$source)))
}
