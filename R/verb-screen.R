#' Screen items before anything is made of them
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param order `"codebook"`, or `"easiness"`: items from the highest keyed mean
#'   (share right, for test items) to the lowest.
#' @param patterns Patterns of missing answers, Little's test and Mardia's tests:
#'   `TRUE`, `FALSE`, or `NULL` for up to 20,000 cases only.
#' @param limits Bounds that flag, from [sw_limits()].
#' @return A `sw_screening` with the tables
#'   * `items`: answers as given, before reversal: n, missing, mean, sd,
#'     bias-adjusted skewness and excess kurtosis (Joanes & Gill, 1998), share at
#'     the lowest and highest option, unused options, difficulty (share right) of
#'     test items; keyed: correlation with the sum of the subscale's other items
#'     (item-rest) and with the whole sum (item-total);
#'   * `flags`: item, what, value, figure, bound, source, advice;
#'   * `options`: count and share of each option, unused ones marked;
#'   * `correlations`: keyed, over complete cases, else pairwise;
#'   * `missing`: per item, skipped and unseen apart where the codebook tells them
#'     apart; `missing_cases`: how many cases lack how many answers; `patterns`:
#'     which items are missing together; `missing_test`: Little's (1988) test that
#'     answers are missing completely at random;
#'   * `normality`: skewness and kurtosis with standard errors; `multivariate`:
#'     Mardia's (1970) skewness and kurtosis.
#' @section Errors: `scalewort_error_input` when `survey` is not a survey.
#' @examples
#' screening <- sw_screen(sw_demo("plotholders"))
#' screening
#' tidy(screening, "missing_test")
#' @export
sw_screen <- function(survey, order = "codebook", patterns = NULL, limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("screen")
  items <- analysed_items(survey)
  check_some_items(survey)
  specs <- item_spec(survey, items)
  counts <- stats::setNames(lapply(items, function(item) source_tally(survey, item)), items)
  table <- describe_items(survey, specs, counts, limits)
  clustering <- item_clustering(survey, items)
  if (!is.null(clustering)) table[c("icc", "design_effect")] <- clustering[c("icc", "design_effect")]
  moments <- screening_moments(survey, items)
  flags <- flag_items(table, specs, limits)
  table$flags <- vapply(table$item, function(i) and_list(flags$what[flags$item == i]), "", USE.NAMES = FALSE)
  few <- source_count(survey)$used <= 20000
  if (is.null(patterns)) patterns <- few
  answers <- if ((patterns || few) && gives_rows(survey, items)) source_rows(survey, items)
  deeper <- if (patterns) missing_tables(survey, items, answers) else list()
  r <- core_correlation(moments$covariance)
  tables <- c(
    list(items = order_items(table, specs, order), flags = flags, options = option_table(specs, counts), correlations = matrix_table(r, "item")),
    list(missing = missing_by_item(survey, specs, table)), deeper[names(deeper) != "test"],
    list(normality = normality_table(specs, counts)), if (patterns) list(multivariate = multivariate_table(survey, items, answers)),
    list(verdicts = screening_verdicts(table, specs, limits))
  )
  new_result("sw_screening", "title_screening",
    tables = tables, notes = c(screening_notes(table, specs, moments, deeper$test, patterns, limits), survey_notes(survey), design_note(survey)),
    n = source_count(survey)$used, n_left_out = source_count(survey)$aside, missing = message_of("missing_each_item"),
    options = list(order = order, correlations = moments$missing, n_correlations = moments$n),
    parts = list(
      correlations = r, scales = survey_scales(survey, c("scored", "tryout")), counts = counts,
      missing_cells = if (few && !is.null(answers)) is.na(answers)
    ),
    limits = limits
  )
}

describe_items <- function(survey, specs, counts, limits) {
  n_cases <- source_count(survey)$used
  rows <- lapply(seq_len(nrow(specs)), function(i) {
    spec <- as.list(specs[i, ])
    count <- counts[[i]]
    weighted <- if (is.null(count$weighted)) count$counts else count$weighted
    shape <- core_tally_shape(count, weighted)
    share <- function(end) {
      if (shape[["n"]] == 0 || is.na(end) || end %in% count$hidden) NA_real_ else sum(weighted[count$values == end]) / shape[["n"]]
    }
    keyed <- !is.na(spec$answer)
    unused <- count$values[count$counts == 0 & !count$values %in% count$hidden]
    # A table of sums withholds how many answered where fewer did not than it tells of.
    answered <- if (is.null(count$missing)) sum(count$counts) + sum(count$withheld) else n_cases - count$missing
    list(
      item = spec$item, scale = spec$scale, direction = spec$direction, n = answered, missing = n_cases - answered,
      mean = shape[["mean"]], sd = shape[["sd"]], skewness = shape[["skewness"]], kurtosis = shape[["kurtosis"]],
      at_lowest = share(spec$lowest), at_highest = share(spec$highest),
      unused = if (keyed) paste(count$chosen$values[count$chosen$counts == 0], collapse = " ") else paste(unused, collapse = " "),
      difficulty = if (keyed) shape[["mean"]] else NA_real_
    )
  })
  table <- plain_frame(data.table::rbindlist(rows))
  with_scale <- item_correlations(survey, limits)
  place <- match(table$item, names(with_scale$rest))
  table$item_rest_r <- unname(with_scale$rest[place])
  table$rest_low <- unname(with_scale$low[place])
  table$rest_high <- unname(with_scale$high[place])
  table$item_total_r <- unname(with_scale$total[place])
  table$looks_unreversed <- unname(with_scale$turned[place]) %in% TRUE
  table$half_against_half <- unname(with_scale$half[place]) %in% TRUE
  table$beside_unreversed <- unname(with_scale$beside[place]) %in% TRUE
  table
}

rest_interval_of_gamma <- function(rest, moments) {
  error_by <- function(gamma) core_delta_error(core_item_rest_r, moments$covariance, gamma, moments$n)
  error <- error_by(moments$gamma)
  within <- if (!is.null(moments$pooled)) error_by(moments$pooled$within)
  r_interval(rest, error, df = core_pooled_df(error, within, moments$pooled$m, moments$n - 1))
}

# Item-rest correlations with their intervals, item-total ones, and what the keying says, within each subscale over its
# answers, gaps as sw_moments() treats them.
item_correlations <- function(survey, limits) {
  tests <- test_items(survey)
  scales <- survey_scales(survey, c("scored", "tryout"))
  if (length(scales) == 0) scales <- list()
  whole <- screened_whole(survey, unlist(scales, use.names = FALSE))
  out <- lapply(scales, function(items) {
    moments <- if (is.null(whole)) screened_moments(survey, items) else narrow_moments(whole, items)
    named <- function(x) stats::setNames(rep_len(x, length(items)), items)
    if (is.null(moments)) {
      return(list(rest = named(NA_real_), total = named(NA_real_), low = named(NA_real_), high = named(NA_real_), turned = named(FALSE),
        beside = named(FALSE), half = named(FALSE)))
    }
    rest <- core_item_rest_r(moments$covariance)
    ends <- if (is.null(moments$gamma) || length(items) < 2) rest_interval(rest, moments$n) else
      rest_interval_of_gamma(rest, moments)
    keying <- scale_keying(moments, limits)
    turned <- keying$turned & !items %in% tests
    list(rest = rest, total = core_item_total_r(moments$covariance), low = named(ends$low), high = named(ends$high), turned = named(turned),
      beside = named(any(turned) || keying$tie), half = named(keying$tie))
  })
  join <- function(part) unlist(c(unname(lapply(out, `[[`, part)), list(numeric())))
  parts <- c("rest", "total", "low", "high", "turned", "beside", "half")
  stats::setNames(lapply(parts, join), parts)
}

# By likelihood over all items together where some are missing; NULL where that is not so, or too much to ask.
screened_whole <- function(survey, items) {
  if (length(items) == 0 || length(items) > 60 || source_count(survey)$used > 20000 || !misses_any(survey, items)) {
    return(NULL)
  }
  found <- screened_moments(survey, items)
  if (!is.null(found) && found$missing == "fiml") found
}

screened_moments <- function(survey, items) {
  missing <- if (source_count(survey)$used > 20000) "listwise" else "auto"
  tryCatch(unless_withheld(survey_moments(survey, items, missing, spread = TRUE)), scalewort_error_numeric = function(e) NULL)
}

order_items <- function(table, specs, order) {
  if (order == "codebook") {
    return(table)
  }
  keyed_mean <- ifelse(is_turned(specs), turn_round(table$mean, specs), table$mean)
  table[order(-(keyed_mean - specs$lowest) / (specs$highest - specs$lowest)), ]
}

screening_moments <- function(survey, items) {
  complete <- unless_withheld(source_moments(survey, items), list(status = "withheld"))
  if (complete$status == "ok" && complete$n > length(items)) {
    return(c(complete, missing = "listwise"))
  }
  none <- list(covariance = matrix(NA_real_, length(items), length(items), dimnames = list(items, items)), n = NA_real_)
  c(unless_withheld(source_moments(survey, items, "pairwise"), none), missing = "pairwise")
}

option_table <- function(specs, counts) {
  rows <- lapply(seq_len(nrow(specs)), function(i) {
    spec <- as.list(specs[i, ])
    count <- if (is.null(counts[[i]]$chosen)) counts[[i]] else counts[[i]]$chosen
    hidden <- count$values %in% count$hidden
    if (any(hidden)) count$counts <- replace(count$counts, hidden, NA)
    if (length(count$values) == 0 || length(count$values) > 40) {
      return(NULL)
    }
    labels <- parse_labels(spec$labels)
    right <- if (is.na(spec$answer)) NA else as.character(count$values) %in% strsplit(spec$answer, "[[:space:]]+")[[1]]
    label <- names(labels)[match(as.character(count$values), as.character(labels))]
    data.frame(
      item = spec$item, option = as.character(count$values), label = if (is.null(label)) NA_character_ else label,
      n = count$counts, share = count$counts / max(sum(count$counts, count$withheld, na.rm = TRUE), 1), right = right,
      unused = ifelse(count$counts %in% 0, "unused", "")
    )
  })
  plain_frame(data.table::rbindlist(c(list(data.frame(
    item = character(), option = character(), label = character(), n = integer(), share = numeric(), right = logical(), unused = character()
  )), rows)))
}

normality_table <- function(specs, counts) {
  shapes <- vapply(counts, function(count) core_tally_shape(count), numeric(9))
  plain_table(
    item = specs$item, n = unname(shapes["n", ]), skewness = unname(shapes["skewness", ]), skewness_se = unname(shapes["skewness_se", ]),
    kurtosis = unname(shapes["kurtosis", ]), kurtosis_se = unname(shapes["kurtosis_se", ]),
    skewness_simple = unname(shapes["skewness_simple", ]), kurtosis_simple = unname(shapes["kurtosis_simple", ])
  )
}

multivariate_table <- function(survey, items, answers) {
  mardia <- if (is.null(answers)) source_mardia(survey, items) else core_complete_mardia(answers)
  if (is.null(mardia)) {
    return(plain_table(figure = character(), value = numeric(), statistic = numeric(), df = numeric(), p.value = numeric(), n = numeric()))
  }
  plain_table(
    figure = c("Mardia's skewness", "Mardia's kurtosis"), value = c(mardia$skewness, mardia$kurtosis),
    statistic = c(mardia$skewness_statistic, mardia$kurtosis_statistic), df = c(mardia$skewness_df, NA),
    p.value = c(mardia$skewness_p, mardia$kurtosis_p), n = mardia$n
  )
}
