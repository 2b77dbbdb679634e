#' Score the subscales
#'
#' Scores each subscale, keyed by the codebook, and adds the scores to the data. A person who
#' answered at least the stated share of a subscale's items gets a score; the items left unanswered
#' count as the person's own mean. Items in `tryout` and `aside` never count.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param method `"auto"`: the number right of a subscale of test items, the mean of others; or one or more of `"mean"`, `"sum"`, `"share"`
#'   (share of the way from the lowest to the highest possible score, 0 to 100), `"right"` (number right, for key-scored items: one passed
#'   over is not right, one never shown is missing, by the codebook's `missing`), `"weighted"` (mean by
#'   `weights`); or with `from` a kind of factor score:
#'   `"regression"` (Thurstone, 1935; the default then), `"bartlett"` (Bartlett, 1937), `"tenberge"` (ten Berge et
#'   al., 1999), or `"expected"` (mean of the factors given the answers, from a confirmation by
#'   `"ordinal"`; Bock & Mislevy, 1982). Columns are `<scale>_<method>`.
#' @param at_least Share of a subscale's items that must be answered, from above 0 to 1.
#' @param fill What an unanswered item counts as: `"person"`, the person's own mean (where items have
#'   different ranges, the person's share of the range); or `"none"`:
#'   only complete subscales are scored; or `"expected"`, what the person would be expected to answer given all items that he or she did answer,
#'   from means and
#'   covariances by likelihood (see [sw_moments()]): columns `<score>_gap` then hold the standard deviation of what the gaps leave open; or
#'   `"imputed"`, the mean of the imputations of [sw_impute()], with the same column.
#'   The person's own mean biases scores where easy and hard items are left out unevenly (a mean of the agreeable items only is too high),
#'   and it says nothing of why people pass items over; expected answers allow for both as far as the other answers tell, but shrink towards what
#'   is usual: for comparing groups take them, or multiple imputation ([sw_impute()]), and compare with complete subscales.
#' @param also For `"expected"`: columns of the data that tell who leaves answers out.
#' @param total Score all items of the subscales together, too, as `total`?
#' @param weights For `"weighted"`: numbers named by item; items not named weigh 1.
#' @param form Forms of the scores to add: `"z"`, `"t"` (mean 50, sd 10), `"percentile"` (share below
#'   plus half of those at it), `"stanine"`; or numbers `c(mean = 100, sd = 15)`, or
#'   `c(slope = 2, intercept = 1)`. Columns are `<score>_<form>`, the last two `_scaled`.
#' @param norms What the forms refer to: everyone scored (default); a group, as a list such as
#'   `list(district = "north")`; or a table (data frame or CSV) with columns `score`, `mean`, `sd`
#'   and if known `reliability`, such as `sw_demo("norms")`.
#' @param interval Add an interval of measurement around each score, `<column>_low` and `_high`?
#' @param level Its level.
#' @param structure Score the factors of this structure in place of the codebook's subscales.
#' @param from An exploration or a confirmation, for factor scores.
#' @param overwrite Replace columns of the data that have a score's name?
#' @param limits Bounds that judge reliability, from [sw_limits()].
#' @return A `sw_scores` with the tables `scales` (a row per score: items, rule, n scored, n without a
#'   score, mean, sd, lowest, highest, reliability (alpha; for factor scores their squared
#'   correlation with the factor), standard error of measurement, recipe), `correlations` of the
#'   scores, `scores` (identifier and scores, a row per case) and, where the survey has two waves
#'   or more, `retest` (over people scored at both waves: correlation, intraclass correlations of consistency and of absolute agreement of a single
#'   score with their intervals (McGraw & Wong, 1996), the standard error of measurement from agreement, root of the variance within
#'   persons, and the smallest real change 1.96 sqrt(2) times it), `verdicts` (is each reliability enough for
#'   comparing groups, .70, or for saying something of one person, .90 (Nunnally & Bernstein, 1994): alpha by its interval of Feldt (1965), weighted
#'   or clustered people counting as Kish (1965) has it; a factor score by its value), `change` (each person's change, its error and
#'   whether it is beyond
#'   it: the
#'   error comes from the residuals of both waves and what an item's share, where one factor with equal loadings and intercepts holds over the waves
#'   (Rogosa & Willett, 1983), else it is root two times that of one wave; Jacobson & Truax, 1991) and `rates` (how many changes are beyond error,
#'   and how many error alone would give). `augment()` gives the data with the scores. Each score column carries the attribute
#'   `made_of`.
#' @section Errors: `scalewort_error_input` when a name is taken, no subscale has items, or options do
#'   not go together.
#' @examples
#' scores <- sw_score(sw_demo("plotholders"), form = "t", interval = TRUE)
#' scores
#' head(augment(scores))
#' @export
sw_score <- function(survey, method = if (is.null(from)) "auto" else "regression", at_least = .8, fill = "person", total = FALSE, weights = NULL,
  form = NULL, norms = NULL,
                     interval = FALSE, level = .95, structure = NULL, from = NULL, also = NULL, overwrite = FALSE, limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("score")
  method <- check_methods(method, from)
  form <- check_form(form)
  rule <- list(at_least = if (fill == "none") 1 else at_least, fill = fill)
  if (!gives_rows(survey, scored_items(survey)) && !scores_by_rows(survey, method, from)) {
    return(asked_scores(survey, method, rule, form, total, weights, structure, list(norms = norms, interval = interval, also = also,
      from = from), limits))
  }
  raw <- intersect(method, c("auto", raw_methods))
  found <- joined_scores(
    if (length(raw) > 0) raw_scores(survey, score_scales(survey, structure, total), raw, rule, weights, also),
    if (!is.null(from)) factor_score_columns(survey, from, setdiff(method, raw_methods))
  )
  norms <- score_norms(norms, survey, found)
  found <- add_forms(found, form, norms, interval, level)
  check_free_columns(names(found$columns), source_names(survey), overwrite)
  scores <- plain_frame(found$columns)
  weight <- survey_weight(survey, rep(TRUE, source_count(survey)$used))
  tables <- list(scales = score_summary(found, weight), correlations = score_correlations(found, weight), scores = add_identifier(survey, scores))
  tables$retest <- retest_table(survey, found, level)
  tables$change <- wave_change(survey, found, level)
  tables$rates <- change_rates(tables$change, level)
  base <- base_scores(found$about)
  tables$verdicts <- score_verdicts(base, vapply(base$score, function(one) equal_people(survey, as.vector(found$columns[[one]])), 0), level, limits)
  survey <- log_step(survey, "scored", message_of("log_scored", recipes = found$about$recipe))
  new_result("sw_scores", if (length(raw) > 0) "title_scores" else "title_factor_scores",
    tables = Filter(Negate(is.null), tables), notes = c(if (!is.null(tables$change)) waves_note(survey), change_error_note(tables$change),
      score_notes(found, norms, survey),
      if (is.null(survey$wave)) survey_notes(survey), design_note(survey)),
    n = source_count(survey)$used, n_left_out = source_count(survey)$aside,
    missing = message_of("ways_together", ways = c(if (length(raw) > 0) list(missing_rule(rule, found$about$method)), found$missing)),
    options = list(method = unique(found$about$method), at_least = rule$at_least, fill = fill, form = form_name(form), norms = norms$words),
    limits = limits,
    parts = list(source = held_survey(survey), people = repeated_people(survey), found = found, norms = norms, level = level)
  )
}

# Factor scores beyond memory are worked out some people at a time, where the scores themselves fit.
scores_by_rows <- function(survey, method, from) {
  if (!goes_by_rows(survey) || is.null(from) || any(method %in% c("auto", raw_methods))) {
    return(FALSE)
  }
  columns <- 2 + 2 * length(method) * ncol(score_solution(from)$pattern)
  if (!source_has_rows(survey, columns)) stop_for_rows(survey$source, columns)
  TRUE
}

missing_rule <- function(rule, method) {
  if (rule$fill == "none") {
    return(message_of("missing_all_needed"))
  }
  rest <- switch(rule$fill, expected = message_of("rest_expected"), imputed = message_of("rest_imputed"),
    if (!all(method == "right")) message_of("rest_own_mean"))
  skipped <- if ("right" %in% method && !rule$fill %in% c("expected", "imputed")) message_of("skipped_not_right")
  message_of("missing_some_needed", share = rule$at_least, rest = rest, skipped = skipped)
}

# Of a subscale of test items people mean the number right, of others the mean.
own_methods <- function(method, specs) unique(ifelse(method == "auto", if (all(!is.na(specs$answer))) "right" else "mean", method))

raw_methods <- c("mean", "sum", "share", "right", "weighted")
factor_methods <- c("regression", "bartlett", "tenberge", "expected")

# Scores from answers and factor scores side by side.
joined_scores <- function(raw, factors) {
  list(
    columns = c(raw$columns, factors$columns), about = rbind(raw$about, factors$about), scales = raw$scales, weights = raw$weights,
    missing = factors$missing, notes = factors$notes
  )
}

check_methods <- function(method, from) {
  if (is.null(from) && any(method %in% factor_methods)) {
    stop_input(message_of("e_factor_scores_need_factors", method = intersect(method, factor_methods)[1]), hint = message_of("e_give_from_sw"))
  }
  unique(method)
}

check_free_columns <- function(labels, taken, overwrite) {
  clash <- intersect(labels, taken)
  if (length(clash) > 0 && !overwrite) {
    stop_input(message_of("e_data_columns_name", clash = clash), hint = message_of("e_use_overwrite_true_replace"), taken = clash)
  }
}

# The summary of every score, forms included.
score_summary <- function(found, weight = NULL) {
  about <- found$about
  rows <- lapply(seq_len(nrow(about)), function(i) {
    value <- as.vector(found$columns[[about$score[i]]])
    seen <- value[!is.na(value)]
    empty <- length(seen) == 0
    centre <- weighted_centre(value, weight)
    plain_table(
      score = about$score[i], scale = about$scale[i], method = about$method[i], items = about$items[i], needed = about$needed[i],
      n = length(seen), without = sum(is.na(value)), mean = centre[["mean"]], sd = centre[["sd"]],
      lowest = if (empty) NA_real_ else min(seen), highest = if (empty) NA_real_ else max(seen), reliability = about$reliability[i],
      sem = about$sem[i], recipe = about$recipe[i]
    )
  })
  do.call(rbind, rows)
}

# Mean and standard deviation (divisor n - 1) of the values that are there, by weight where people have one.
weighted_centre <- function(value, weight = NULL) {
  seen <- !is.na(value)
  n <- sum(seen)
  own <- if (is.null(weight)) rep(1, n) else weight[seen] / mean(weight[seen])
  mean <- if (n == 0) NA_real_ else sum(own * value[seen]) / n
  c(mean = mean, sd = if (n > 1) sqrt(sum(own * (value[seen] - mean)^2) / (n - 1)) else NA_real_)
}

# Correlations of columns by weight, each pair over those who have both.
weighted_r <- function(values, weight) {
  r <- diag(ncol(values))
  for (i in seq_len(ncol(values))) for (j in seq_len(i - 1)) {
    both <- !is.na(values[, i]) & !is.na(values[, j])
    found <- core_weighted_covariance(values[both, c(i, j), drop = FALSE], weight[both] / mean(weight[both]))
    r[i, j] <- r[j, i] <- core_correlation(found$covariance)[2]
  }
  `dimnames<-`(r, rep(list(colnames(values)), 2))
}

# Correlations between the scores (without forms of the same score).
score_correlations <- function(found, weight) {
  labels <- unique(found$about$base)
  if (length(labels) < 2) {
    return(NULL)
  }
  values <- do.call(cbind, lapply(found$columns[labels], as.vector))
  r <- if (is.null(weight)) suppressWarnings(stats::cor(values, use = "pairwise.complete.obs")) else weighted_r(values, weight)
  r[upper.tri(r, diag = TRUE)] <- NA
  matrix_table(r, "score")
}

# Puts the cases' identifier (and wave), or their row, in front.
add_identifier <- function(survey, scores) {
  keys <- c(survey$id, survey$wave)
  if (is.null(keys)) {
    return(with_columns(scores, list(row = case_rows(survey))))
  }
  with_columns(scores, as.list(source_columns(survey, keys)))
}

# The original data with the scores, and their bands, at the end; NA for cases set aside.
scored_data <- function(x) {
  survey <- survey_behind(x)
  data <- source_everyone(survey)
  columns <- x$parts$found$columns
  renamed <- x$parts$renamed
  names(data)[match(names(renamed), names(data))] <- renamed
  for (name in names(columns)) {
    data[[name]] <- structure(at_all_cases(survey, as.vector(columns[[name]])), made_of = attr(columns[[name]], "made_of"))
  }
  for (name in names(x$parts$bands)) data[[paste0(name, "_band")]] <- at_all_cases(survey, x$parts$bands[[name]])
  data
}

# Scores whose items have different ranges: the wider ones count for more, but in shares of each.
range_note <- function(found, survey) {
  specs <- survey$codebook$items
  mixed <- names(found$scales)[vapply(found$scales, function(items) has_unequal_ranges(specs[match(items, specs$item), ]), TRUE)]
  if (length(mixed) > 0) note("different_ranges", message_of("different_ranges", scales = mixed), mixed)
}

# A total of subscales that go against each other.
against_note <- function(found) {
  if (!"total" %in% names(found$scales)) {
    return(NULL)
  }
  own <- found$about[found$about$score == found$about$base & found$about$scale != "total" & found$about$method %in% raw_methods, ]
  own <- own[own$method == own$method[1], ]
  if (nrow(own) < 2) {
    return(NULL)
  }
  r <- suppressWarnings(stats::cor(do.call(cbind, lapply(found$columns[own$score], as.vector)), use = "pairwise.complete.obs"))
  at <- which(lower.tri(r) & r < 0, arr.ind = TRUE)
  if (nrow(at) > 0) note("against_total", message_of("against_total", pairs = messages_of("pair_r3", first = own$scale[at[, 2]],
    second = own$scale[at[, 1]], r = r[at])), rank = 1L)
}

score_notes <- function(found, norms, survey) {
  own <- found$about[found$about$score == found$about$base, ]
  without <- vapply(own$score, function(name) sum(is.na(found$columns[[name]])), 0L)
  c(
    range_note(found, survey), against_note(found),
    if (any(without > 0)) note("without_score", message_of("without_score", scores = messages_of("name_and_count",
      name = own$score[without > 0], count = without[without > 0])), own$score[without > 0], people = max(without)),
    if (any(own$items == 1)) note("single_item", message_of("score_single_item", scales = unique(own$scale[own$items == 1])),
      unique(own$scale[own$items == 1])),
    if (!is.null(norms) && any(found$about$score != found$about$base)) note("norms", message_of("forms_refer_to", norms = norms$said), rank = 3L),
    found$notes, if (nrow(own) <= 8) note("recipe", messages_of("recipe", score = own$score, recipe = own$recipe), as.list(own$score), rank = 3L)
  )
}
