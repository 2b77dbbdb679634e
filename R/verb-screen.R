#' Screen items before anything is made of them
#'
#' @param survey A survey.
#' @param limits Bounds that flag, from [sw_limits()].
#' @return A `sw_screening` with the tables `items` (answers as given, before
#'   reversal: n, missing, mean, sd, bias-adjusted skewness and excess kurtosis
#'   (Joanes & Gill, 1998), share at the lowest and highest option, unused
#'   options; keyed: correlation of the item with the sum of the other items of
#'   its subscale), `flags` (item, what, figure, bound, source, what to do) and
#'   `correlations` (keyed, over complete cases, else pairwise).
#' @section Errors: `scalewort_error_input` when `survey` is not a survey.
#' @examples
#' screening <- sw_screen(sw_demo("plotholders"))
#' screening
#' tidy(screening, "flags")
#' @export
sw_screen <- function(survey, limits = sw_limits()) {
  check_survey(survey)
  check_limits(limits)
  items <- analysed_items(survey)
  specs <- survey$codebook$items[match(items, survey$codebook$items$item), ]
  table <- do.call(rbind, lapply(seq_along(items), function(j) {
    describe_item(survey$answers[[items[j]]][survey$kept], as.list(specs[j, ]))
  }))
  rest <- item_rest_by_scale(survey)
  table$item_rest_r <- unname(rest[match(items, names(rest))])
  moments <- screening_moments(survey, items)
  flags <- flag_items(table, moments, specs, limits)
  table$flags <- vapply(items, function(i) and_list(flags$what[flags$item == i]), "")
  missing_total <- sum(table$missing)
  new_result("sw_screening", "Items screened",
    tables = list(
      items = table, flags = flags,
      correlations = matrix_table(core_correlation(moments$covariance), "item")
    ),
    notes = c(
      screening_notes(table, survey),
      if (moments$missing == "pairwise") "Correlations are pairwise: too few cases answered every item."
    ),
    n = sum(survey$kept), n_left_out = sum(!survey$kept), missing = "each item by its own answers",
    options = list(correlations = moments$missing, n_correlations = moments$n, missing_answers = missing_total),
    parts = list(correlations = core_correlation(moments$covariance), scales = survey_scales(survey, c("scored", "tryout"))),
    limits = limits
  )
}

# One row of the items table.
describe_item <- function(x, spec) {
  shape <- core_shape(x)
  keyed <- !is.na(spec$answer)
  options <- item_options(x, spec)
  unused <- setdiff(options, x)
  seen <- x[!is.na(x)]
  share <- function(end) if (length(seen) == 0 || is.na(end)) NA_real_ else mean(seen == end)
  tibble::tibble(
    item = spec$item, scale = spec$scale, direction = spec$direction, n = length(seen),
    missing = length(x) - length(seen), mean = if (length(seen) > 0) mean(seen) else NA_real_,
    sd = if (length(seen) > 1) stats::sd(seen) else NA_real_,
    skewness = shape[["skewness"]], kurtosis = shape[["kurtosis"]],
    at_lowest = share(spec$lowest), at_highest = share(spec$highest),
    unused = if (keyed) "" else paste(unused, collapse = " "),
    difficulty = if (keyed && length(seen) > 0) mean(seen) else NA_real_
  )
}

# The whole numbers from lowest to highest, where there are at most 20.
item_options <- function(x, spec) {
  whole <- is.finite(spec$lowest) && spec$highest - spec$lowest < 20 && all(is.na(x) | x == round(x))
  if (whole) seq(spec$lowest, spec$highest) else numeric()
}

# Item-rest correlations within each subscale over its complete cases.
item_rest_by_scale <- function(survey) {
  scales <- survey_scales(survey, c("scored", "tryout"))
  out <- lapply(scales, function(items) {
    moments <- core_complete_moments(keyed_answers(survey, items))
    if (moments$status != "ok") stats::setNames(rep(NA_real_, length(items)), items) else core_item_rest_r(moments$covariance)
  })
  unlist(c(unname(out), list(numeric())))
}

screening_moments <- function(survey, items) {
  answers <- keyed_answers(survey, items)
  complete <- core_complete_moments(answers)
  if (complete$status == "ok" && complete$n > length(items)) {
    return(c(complete, missing = "listwise"))
  }
  c(core_pairwise_moments(answers), missing = "pairwise")
}

flag_items <- function(table, moments, specs, limits) {
  flag <- function(which, what, value, figure, advice) {
    at <- which(which)
    rule <- limit(limits, figure)
    allowed <- bound_only(limits, figure)
    same <- function(x) rep(x, length(at))
    tibble::tibble(
      item = table$item[at], what = same(what), value = value[at], figure = same(rule$words),
      bound = same(allowed),
      source = same(rule$source), advice = same(advice)
    )
  }
  share_missing <- table$missing / (table$missing + table$n)
  likert <- is.na(specs$answer)
  fails <- function(value, figure) !is.na(value) & !meets(value, limits, figure)
  rest <- table$item_rest_r
  flat <- table$n > 0 & !is.na(table$sd) & table$sd == 0
  flags <- rbind(
    flag(table$n == 0, "no answers", share_missing, "missing_share", "Set the item aside."),
    flag(flat, "everyone answers the same", pmax(table$at_lowest, table$at_highest, na.rm = TRUE), "end_share",
      "Set the item aside: it tells nobody apart."),
    flag(table$n > 0 & fails(share_missing, "missing_share"), "often unanswered", share_missing, "missing_share", "Ask why people pass it over."),
    flag(likert & fails(rest, "item_rest_r") & rest >= 0, "low item-rest r", rest, "item_rest_r",
      "Read the wording: does it belong to the subscale?"),
    flag(likert & !is.na(rest) & rest < 0, "negative item-rest r", rest, "item_rest_r", "Check the keying: was the item to be reversed?"),
    flag(!likert & fails(rest, "item_rest_r_keyed") & rest >= 0, "low item-rest r", rest, "item_rest_r_keyed",
      "Read the question: is one option plainly right?"),
    flag(!likert & !is.na(rest) & rest < 0, "negative item-rest r", rest, "item_rest_r_keyed", "Check the key: another option may be right."),
    flag(likert & !flat & fails(table$at_lowest, "end_share"), "floor", table$at_lowest, "end_share",
      "Most answer at the lowest option: expect little spread."),
    flag(likert & !flat & fails(table$at_highest, "end_share"), "ceiling", table$at_highest, "end_share",
      "Most answer at the highest option: expect little spread."),
    flag(likert & fails(abs(table$skewness), "skewness"), "skewed", table$skewness, "skewness", "Use methods for ordered answers."),
    flag(likert & fails(abs(table$kurtosis), "kurtosis"), "heavy tails", table$kurtosis, "kurtosis", "Use methods for ordered answers."),
    flag(fails(table$difficulty, "difficulty_low"), "hard", table$difficulty, "difficulty_low", "Check the key, then the question."),
    flag(fails(table$difficulty, "difficulty_high"), "easy", table$difficulty, "difficulty_high", "It tells few people apart.")
  )
  flags[order(match(flags$item, table$item)), ]
}

screening_notes <- function(table, survey) {
  keyed <- table$item %in% test_items(survey)
  negative <- table$item[!keyed & !is.na(table$item_rest_r) & table$item_rest_r < 0]
  unused <- table$item[table$unused != ""]
  c(
    if (length(negative) > 0) paste0(
      "Keyed against the rest of ", if (length(negative) == 1) "its subscale: " else "their subscales: ",
      and_list(negative), ". See `sw_reliability()` for alpha with it turned."
    ),
    if (length(unused) > 0) paste0("Options nobody used: ", and_list(paste0(unused, " (", table$unused[table$unused != ""], ")")), ".")
  )
}
