#' Can these items be factored?
#'
#' Whether there is enough in common to look for factors, and enough people to find them:
#' sampling adequacy, the test of sphericity, how near the correlation matrix is to being
#' singular, partial correlations, items that repeat each other, multivariate normality.
#'
#' @param x A survey or [sw_moments()]; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param items For a survey: items or subscales to take; all scored by default.
#' @param factors Number of factors in mind, for the cases per free parameter.
#' @param missing,also How missing answers are treated, see [sw_moments()].
#' @param correlation `"auto"` (as in [sw_explore()]), `"pearson"`, `"spearman"` or `"polychoric"`; see [sw_moments()].
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_factorability` with the tables
#'   * `overall`: figure, value, df and p where it is a test, bound, verdict, and what it
#'     means. Sampling adequacy (Kaiser, 1970; Kaiser & Rice, 1974) is the share of
#'     correlation that pairs do not have to themselves: 0 to 1, higher is better, no p.
#'     The test of sphericity (Bartlett, 1950) has a p that should be small. Further:
#'     determinant, condition number (largest over smallest eigenvalue), smallest
#'     eigenvalue, share of partial correlations below .10 in size, cases per item and per
#'     free parameter;
#'   * `items`: sampling adequacy and squared multiple correlation of each item, the item
#'     it correlates with most, and the correlation;
#'   * `normality`: Mardia's (1970) tests, from complete answers.
#' @section Errors: `scalewort_error_numeric` for an item without variance or a matrix that
#'   is not positive definite; `scalewort_error_input` for fewer than three items.
#' @examples
#' sw_factorability(sw_demo("plotholders"))
#' @export
sw_factorability <- function(x, items = NULL, factors = 1, missing = "auto", correlation = "auto", also = NULL, limits = sw_limits()) {
  check_options("factorability")
  x <- as_survey_or_moments(x)
  chosen <- resolved_correlation(x, items, correlation, missing)
  moments <- as_moments(x, items, missing, chosen$correlation, also = also, spread = TRUE)
  check_factor_input(moments)
  r <- core_correlation(moments$covariance)
  check_factor_number(factors, ncol(r))
  adequacy <- core_sampling_adequacy(r)
  overall <- factorability_figures(r, moments, factors, adequacy$overall, limits)
  per_item <- factorability_items(r, adequacy$items, limits)
  normality <- if (goes_by_rows(x)) joint_normality_table(source_mardia(x, colnames(r)))
  new_result("sw_factorability", "title_factorability",
    tables = c(list(overall = overall, items = per_item), if (!is.null(normality)) list(normality = normality),
      list(verdicts = factorability_verdicts(overall, per_item, limits))),
    notes = c(factorability_notes(overall, per_item, r, limits, moments), correlation_note(chosen)),
    n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    options = list(correlation = moments$correlation, factors = factors), parts = list(partial = core_partial_r(r), correlations = r), limits = limits
  )
}

# Which bound judges which figure.
factorability_rules <- c(sampling_adequacy = "kmo", sphericity = "bartlett_p", condition = "condition", smallest_eigenvalue = "smallest_eigenvalue")

factorability_figures <- function(r, moments, factors, adequacy, limits) {
  p <- ncol(r)
  n <- moments$n
  test <- sphericity_test(r, moments)
  values <- core_eigenvalues(r)
  partial <- core_partial_r(r)
  parameters <- p * (factors + 1) - factors * (factors - 1) / 2
  row <- function(figure, value, rule, means, df = NA_real_, p.value = NA_real_) {
    judged <- if (is.na(p.value)) value else p.value
    plain_table(
      figure = figure, value = value, df = df, p.value = p.value, bound = if (is.na(rule)) "" else bound_only(limits, rule),
      verdict = if (is.na(rule)) NA_character_ else judge_code(judged, limits, rule), meaning = means
    )
  }
  judged_table(by = "figure", verdict = factorability_rules, table = rbind(
    row("sampling_adequacy", adequacy, "kmo", "share of correlation in common; higher is better, no p"),
    row("sphericity", test$chi_square, "bartlett_p", "chi-square; a small p says the items do correlate", test$df, test$p),
    row("determinant", det(r), NA, "near 0: items are nearly sums of others"),
    row("condition", values[1] / values[p], "condition", "largest over smallest eigenvalue; lower is better"),
    row("smallest_eigenvalue", values[p], "smallest_eigenvalue", "0 would mean a redundant item; higher is better"),
    row("small_partials", mean(abs(partial[lower.tri(partial)]) < .10), NA, "not judged: few people make partial correlations large by chance"),
    row("cases_per_item", n / p, NA, "not judged: loadings decide how many are enough"),
    row("cases_per_parameter", n / parameters, NA, "not judged; for the factors in mind")
  ))
}

# With gaps chi-square is divided by its mean, as that of unrelated items in two stages.
sphericity_test <- function(r, moments) {
  test <- core_sphericity(r, moments$n)
  if (!is.null(moments$gamma)) {
    gamma <- core_correlation_gamma(moments$gamma, moments$covariance, moments$n)
    test$chi_square <- test$chi_square / (sum(diag(gamma)) / test$df)
    test$p <- core_chi_square_p(test$chi_square, test$df)
  }
  test
}

factorability_items <- function(r, adequacy, limits) {
  apart <- abs(r)
  diag(apart) <- 0
  closest <- max.col(apart, ties.method = "first")
  judged_table(verdict = "kmo", table = plain_table(
    item = colnames(r), sampling_adequacy = unname(adequacy), verdict = judge_code(unname(adequacy), limits, "kmo"),
    squared_multiple_r = unname(1 - 1 / diag(chol2inv(chol(r)))), nearest = colnames(r)[closest],
    correlation = r[cbind(seq_len(ncol(r)), closest)]
  ))
}

factorability_verdicts <- function(overall, items, limits) {
  judged <- overall[overall$figure %in% names(factorability_rules), ]
  ranked_verdicts(
    verdict_rows("whole", "", judge(ifelse(is.na(judged$p.value), judged$value, judged$p.value), limits, factorability_rules[judged$figure])),
    verdict_rows("item", items$item, judge(items$sampling_adequacy, limits, "kmo"))
  )
}

# Mardia's figures; without rows where there are none.
joint_normality_table <- function(found) {
  if (is.null(found)) {
    return(plain_table(test = character(), value = numeric(), statistic = numeric(), df = numeric(), p.value = numeric()))
  }
  plain_table(
    test = c("multivariate skewness", "multivariate kurtosis"), value = c(found$skewness, found$kurtosis),
    statistic = c(found$skewness_statistic, found$kurtosis_statistic), df = c(found$skewness_df, NA),
    p.value = c(found$skewness_p, found$kurtosis_p)
  )
}

factorability_notes <- function(overall, items, r, limits, moments) {
  fails <- overall[overall$verdict %in% "missed", ]
  low <- items$item[!meets(items$sampling_adequacy, limits, "kmo")]
  explained <- items$item[!meets(items$squared_multiple_r, limits, "multiple_r")]
  at <- which(abs(r) > limit(limits, "duplicate_r")$bound & lower.tri(r), arr.ind = TRUE)
  c(
    note("figure_missed", missed_messages(fails, limits), as.list(fails$figure), value = fails$value, rank = 1L),
    if (length(low) > 0) note("low_adequacy", message_of("low_adequacy", bound = limit(limits, "kmo")$bound, items = low), low),
    if (length(explained) > 0) note("nearly_a_sum", message_of("nearly_a_sum", items = explained), explained),
    note("same_items", messages_of("same_items", first = colnames(r)[at[, 2]], second = rownames(r)[at[, 1]], r = r[at]),
      asplit(matrix(colnames(r)[at], ncol = 2), 1), correlation = r[at]),
    moments_notes(moments), loading_precision_note(moments, limits), left_out_note(moments)
  )
}

# "Sampling adequacy is below .60: ..."
missed_messages <- function(fails, limits) {
  rule <- limits[match(factorability_rules[fails$figure], limits$figure), ]
  messages_of(c(at_least = "figure_below", at_most = "figure_above", below = "figure_not_below")[rule$direction],
    figure = messages_of("a_term", term = column_header(fails$figure)), bound = rule$bound, meaning = messages_of("a_term", term = fails$meaning))
}

# How far off loadings can be with so few cases: the error of a loading of .50 is about (1 - .25) over the root of n where its
# factor is well marked, and more where it is not.
loading_precision_note <- function(moments, limits) {
  width <- core_normal_edge(.95) * .75 / sqrt(moments$n)
  if (!meets(width, limits, "loading_width")) note("few_cases", message_of("loading_precision", n = moments$n, width = width), n = moments$n)
}
