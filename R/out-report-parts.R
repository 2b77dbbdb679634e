# What of each result a report shows.

# Which tables of a result a report shows, with their captions.
report_tables <- function(x) UseMethod("report_tables")
#' @export
report_tables.default <- function(x) stats::setNames(x$tables, table_title(names(x$tables)))
#' @export
report_tables.sw_screening <- function(x) {
  c(
    list(`The items, as answered` = first_look(x)[[1]], `What was flagged` = flagged_items(x)),
    if (any(x$tables$missing[c("missing", "skipped", "unseen")] > 0)) list(`Missing answers` = x$tables$missing),
    if (NROW(x$tables$patterns) > 1) list(`Items missing together` = utils::head(x$tables$patterns, 12))
  )
}
flagged_items <- function(x) {
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  flags$advice <- sub("(:|;) see `sw_[a-z_]*\\(\\)`", "", flags$advice)
  flags
}

#' @export
report_tables.sw_keying <- function(x) {
  list(`Keying by subscale` = x$tables$scales, `Items that do not agree with the codebook` = x$tables$items[x$tables$items$agrees != "yes", ])
}
#' @export
report_tables.sw_answering <- function(x) {
  cases <- x$tables$cases
  flagged <- cases[cases$flagged >= x$about$options$at_least, ]
  list(
    `Indices of careless answering` = x$tables$indices, `Cases with several flags` = who_was_flagged(x, utils::head(flagged, 30)),
    `Reliability with and without them` = x$tables$sensitivity
  )
}
#' @export
report_tables.sw_option_curves <- function(x) {
  shown <- as_tables(first_look(x))
  stats::setNames(shown, c("Options that do not behave", "Shares by score band", "Mean answers by score band")[
    c(nrow(x$tables$flags) > 0, any(!is.na(x$tables$curves$right)), any(is.na(x$tables$curves$right)))])
}
#' @export
report_tables.sw_dif <- function(x) {
  different <- x$tables$items[x$tables$items$flagged %in% TRUE, c("scale", "item", "p_adjusted", "effect", "class", "favours",
    if (any(x$tables$items$bias_kind %in% c("nonuniform", "both"))) c("p_nonuniform_adjusted", "slope_ratio", "less_in"))]
  list(`The groups` = x$tables$groups, `Items that work differently` = different,
    `Items compared between groups` = x$tables$items[c("scale", "item", "test", "statistic", "p.value", "p_adjusted", "effect", "class",
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
    list(`Internal consistency of the subscales` = scales[shown], `Further coefficients, and errors of the sum` = scales[bounds],
      `What each item does (reversed items turned)` = items),
    if (!is.null(x$tables$composite)) list(`The whole, and differences between subscales` = x$tables$composite),
    if (!is.null(x$tables$general)) list(`A general factor beside the subscales` = x$tables$general),
    if (!is.null(x$tables$compare)) list(`Alpha in each group` = x$tables$compare)
  )
}
#' @export
report_tables.sw_factorability <- function(x) {
  c(list(`Can the items be factored` = x$tables$overall, `Item by item` = x$tables$items),
    if (!is.null(x$tables$normality)) list(`Multivariate normality` = x$tables$normality))
}
#' @export
report_tables.sw_retention <- function(x) {
  list(`How many factors, by rule` = x$tables$rules, `Fit of each number of factors` = first_look(x)[[2]],
    `Observed and random eigenvalues` = x$tables$eigenvalues[c("number", "eigenvalue", "random_mean", "random_percentile", "common",
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
    list(`Pattern of loadings, items sorted by factor` = sorted),
    if (!is.null(x$tables$factor_correlations)) list(`Correlations between factors` = x$tables$factor_correlations),
    if (!is.null(x$tables$factor_correlations)) list(`Structure matrix: correlations of items and factors` = x$tables$structure),
    list(`Variance explained` = x$tables$variance, `Fit of the exploration` = x$tables$fit,
      `Factor scores: correlation with their factor` = x$tables$scoring),
    if (nrow(large) > 0) list(`Large residual correlations` = utils::head(large, 15)),
    if (!is.null(x$tables$route)) list(`Items dropped on the way` = x$tables$route)
  )
}
#' @export
report_tables.sw_stability <- function(x) {
  items <- x$tables$items
  c(list(`Congruence of the factors between halves` = x$tables$factors),
    if (nrow(x$tables$factors) > 1) list(`Items that change factors` = items[!meets(items$share_same, x$limits, "home_share"), ]),
    if (!is.null(x$tables$groups)) list(`Congruence between groups` = x$tables$groups))
}
#' @export
report_tables.sw_confirmation <- function(x) {
  modifications <- x$tables$modifications
  missed <- x$tables$residual_correlations
  c(
    list(
      `Fit of the structure` = columns_of(x$tables$fit, setdiff(names(x$tables$fit), c("bound", "source", "corrected_p"))),
      `Loadings` = columns_of(x$tables$loadings, c("factor", "item", "standardised", "standard_low", "standard_high", "r_squared", "verdict")),
      `Loadings with their errors` = columns_of(x$tables$loadings, setdiff(names(x$tables$loadings), c("r_squared", "verdict"))),
      `Bounds of fit and their sources` = x$tables$fit[c("figure", "value", "bound", "source")]),
    if (nrow(x$tables$factor_correlations) > 0) list(`Correlations between factors` = x$tables$factor_correlations),
    list(`Reliability of the factors` = x$tables$reliability),
    if (any(missed$verdict %in% "missed")) list(`Correlations that the structure misses` = utils::head(missed[missed$verdict %in% "missed", ], 12)),
    if (nrow(modifications) > 0) list(`What one more parameter would change` = utils::head(modifications, 8)),
    list(`Further indices of fit` = x$tables$indices), if (!is.null(x$tables$route)) list(`Items dropped on the way` = x$tables$route)
  )
}
#' @export
report_tables.sw_comparison <- function(x) list(`Rival structures` = x$tables$models, `Tests between them` = x$tables$tests)
#' @export
report_tables.sw_bounds <- function(x) {
  shown <- c("left_out", "figure", "true_worst", "wrong_best", "bound_here", "value", "verdict")
  list(`Bounds that tell a true structure from a slightly wrong one` = x$tables$bounds[shown],
    `What these answers are sure of` = x$tables$equivalence[c("figure", "value", "side", "with_confidence")])
}
#' @export
report_tables.sw_invariance <- function(x) {
  c(
    list(`The groups` = x$tables$groups),
    list(`Steps of invariance` = x$tables$steps[c("step", "chi_square", "df", "p.value", "cfi", "rmsea", "srmr", "cfi_change", "rmsea_change",
      "p_difference",
      "verdict")]),
    if (!is.null(x$tables$culprits)) list(`Equalities, by score test` = utils::head(x$tables$culprits, 8)),
    if (!is.null(x$tables$means)) list(`Latent means` = x$tables$means),
    if (!is.null(x$tables$effects)) list(`What unequal items do` = x$tables$effects),
    if (!is.null(x$tables$aligned)) list(`Aligned means` = x$tables$aligned, `How far items differ after alignment` = x$tables$alignment)
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
    list(`Reliability and variance extracted` = x$tables$factors[factors]),
    if (nrow(x$tables$pairs) > 0) list(`Correlations of factors, root of AVE on the diagonal` = x$tables$matrix,
      `Each two factors` = x$tables$pairs[pairs]),
    list(`What misses a bound, and usual remedies` = x$tables$failures, `Items` = items),
    if (!is.null(x$tables$higher)) list(`Higher factors` = x$tables$higher),
      if (!is.null(x$tables$outside)) list(`Outside variables` = x$tables$outside)
  )
}
#' @export
report_tables.sw_composites <- function(x) {
  shown <- c("composite", "mode", "items", "alpha", "rho_a", "composite_reliability", "ave")
  list(
    `Weighted composites` = x$tables$composites[shown], `Correlations of composites` = x$tables$correlations,
    `Weights and loadings` = x$tables$items, `Paths between composites` = x$tables$paths
  )
}
#' @export
report_tables.sw_scores <- function(x) {
  scales <- x$tables$scales
  c(if (nrow(scales) > 1) list(`Means, standard deviations and correlations` = summary_table(x)),
    list(`The scores` = scales[setdiff(names(scales), c("scale", "method"))]))
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
    sw_screening = "What was flagged", sw_keying = "Items that do not agree with the codebook", sw_answering = "Indices of careless answering",
    sw_option_curves = "Options that do not behave", sw_dif = "Items that work differently",
    sw_reliability = "Internal consistency of the subscales", sw_factorability = character(),
    sw_retention = "How many factors, by rule", sw_exploration = c("Pattern of loadings, items sorted by factor", "Correlations between factors"),
    sw_stability = "Congruence of the factors between halves",
    sw_confirmation = c("Fit of the structure", "Loadings", "Correlations that the structure misses"), sw_comparison = "Rival structures",
    sw_invariance = c("Steps of invariance", "Latent means"),
    sw_validity = c("Reliability and variance extracted", "Correlations of factors, root of AVE on the diagonal"),
    sw_composites = "Weighted composites", sw_scores = c("The scores", "Means, standard deviations and correlations"), names(report_tables(x))
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
