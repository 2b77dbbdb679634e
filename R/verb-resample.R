#' Bootstrap intervals for any figure
#'
#' Draws cases with replacement, computes a figure anew from each draw, and gives its
#' standard error and interval. Cases are weighted, never copied; a seed gives the same
#' result on any machine and any number of threads.
#'
#' Of a table in a database that holds more than half of its `memory` (see [sw_table()]), each person counts as often as a Poisson variate of
#' mean one says, drawn from a hash of the seed and of the person's identifier (Hanley & MacGibbon, 2006), so that the table is gone through once;
#' without an identifier the row stands for the person. Groups left out for `"bca"` follow from the hash, too.
#'
#' @param survey A survey; or a result of [sw_confirm()] by `"ml"` or `"robust"` from complete
#'   answers, whose estimates and test are then resampled.
#' @param statistic A function that takes [sw_moments()] (or, with `needs = "answers"`,
#'   a matrix of keyed answers, complete cases x items) and returns one or more numbers,
#'   with names if there are several. For a confirmation `"estimates"` (the default:
#'   every free parameter, standardised) or `"test"`: the chi-square in answers turned so
#'   that the structure holds (Bollen & Stine, 1992), whose share above the one found is the
#'   p-value.
#' @param items Items or subscales to take; all scored by default. Cases that miss any
#'   of them are left out.
#' @param needs `"moments"`, or `"answers"` for a figure that needs single answers.
#' @param replicates Number of resamples.
#' @param interval `"bca"` (bias-corrected and accelerated; Efron, 1987) or
#'   `"percentile"` (Efron, 1979).
#' @param level Level of the intervals.
#' @param seed Seed of the draws.
#' @return A tibble, a row per number: `figure`, `estimate`, `std.error` (sd over the
#'   resamples), `bias` (their mean less the estimate), `conf.low`, `conf.high`, `n`
#'   (cases), `replicates` (resamples that gave a number); for the test `chi_square`,
#'   `df`, `p.value`, `p_bootstrap`, `replicates`.
#' @section Errors: `scalewort_error_input` when the statistic does not return numbers, or
#'   not the same ones each time; `scalewort_error_numeric` for fewer than ten complete
#'   cases; whatever the statistic itself raises on the whole sample. In a resample a
#'   figure that cannot be computed counts as missing.
#' @examples
#' survey <- sw_demo("plotholders")
#' sw_resample(survey, function(m) c(mean_r = mean(cov2cor(m$covariance)[lower.tri(m$covariance)])),
#'   items = "calm", replicates = 200)
#' sw_resample(survey, function(m) tidy(sw_reliability(m))$omega, items = "craft", replicates = 40,
#'   interval = "percentile")
#' sw_resample(survey, function(x) c(median_total = median(rowSums(x))), items = "calm",
#'   needs = "answers", replicates = 200)
#' confirmation <- sw_confirm(survey, sw_structure(survey), missing = "listwise")
#' sw_resample(confirmation, "test", replicates = 100)
#' @export
sw_resample <- function(survey, statistic = NULL, items = NULL, needs = "moments", replicates = 1000, interval = "bca", level = 0.95,
                        seed = 1) {
  if (inherits(survey, "sw_confirmation")) {
    return(resample_confirmation(survey, statistic, replicates, if (missing(interval)) "percentile" else interval, level, seed))
  }
  survey <- as_survey(survey)
  if (!is.function(statistic)) stop_input(message_of("e_statistic_must_function", statistic = what_is(statistic)))
  check_options("resample")
  items <- pick_items(survey, items)
  scales <- scales_or_all(Filter(length, lapply(survey_scales(survey), intersect, items)), items)
  source <- resampled_source(survey, items, scales, needs, replicates, seed)
  estimate <- checked_figures(statistic(source$whole()))
  one <- function(material) figures_or_missing(statistic, material, estimate)
  values <- source$replicates(one)
  bounds <- if (interval == "percentile") {
    lapply(as.data.frame(values), core_percentile_interval, level = level)
  } else {
    Map(core_bca_interval, estimate, as.data.frame(values), as.data.frame(source$left_out(one)), level = level)
  }
  tibble::tibble(
    figure = if (is.null(names(estimate))) paste0("figure_", seq_along(estimate)) else names(estimate), estimate = unname(estimate),
    std.error = unname(apply(values, 2, stats::sd, na.rm = TRUE)), bias = unname(colMeans(values, na.rm = TRUE) - estimate),
    conf.low = vapply(bounds, `[`, 0, 1) |> unname(), conf.high = vapply(bounds, `[`, 0, 2) |> unname(), n = source$n,
    replicates = unname(colSums(is.finite(values)))
  )
}

# Where resamples come from: list(n, whole(), replicates(one), left_out(one)), the last two a row a resample, or a group of cases left out.
resampled_source <- function(survey, items, scales, needs, replicates, seed) {
  enough <- function(n) {
    if (n < 10) stop_numeric(message_of("e_resampling_needs_ten", n = n), hint = message_of("e_take_fewer_items"))
  }
  if (needs == "moments" && goes_by_rows(survey) && !gives_rows(survey, items)) {
    whole <- source_moments(survey, items)
    enough(whole$n)
    return(chunked_moments_source(whole, chunk_resamples(survey, items, replicates, seed), scales))
  }
  answers <- source_rows(survey, items)
  answers <- answers[stats::complete.cases(answers), , drop = FALSE]
  enough(nrow(answers))
  if (needs == "moments") moments_source(answers, scales, replicates, seed) else answers_source(answers, replicates, seed)
}

listwise_moments <- function(core, scales) new_moments(core$n, 0, core$mean, core$covariance, "listwise", "answers", scales)

# Of people who are too many at once, drawn as they were gone through.
chunked_moments_source <- function(whole, drawn, scales) {
  rows <- function(of, one) do.call(rbind, lapply(of, function(core) one(listwise_moments(core, scales))))
  list(n = whole$n, whole = function() listwise_moments(whole, scales), replicates = function(one) rows(drawn$replicates, one),
    left_out = function(one) rows(drawn$left_out, one))
}

moments_source <- function(answers, scales, count, seed) {
  wrap <- function(core) listwise_moments(core, scales)
  chunk <- max(1, min(250, 1e6 %/% ncol(answers)^2))
  list(
    n = nrow(answers), whole = function() wrap(core_complete_moments(answers)),
    left_out = function(one) {
      of <- core_groups_left_out(nrow(answers))
      do.call(rbind, lapply(core_moments_without(answers, of, max(of)), function(core) one(wrap(core))))
    },
    replicates = function(one) {
      starts <- seq(0, count - 1, by = chunk)
      do.call(rbind, over_series(starts, "Resamples", function(first) {
        drawn <- core_replicate_moments(answers, first, min(chunk, count - first), seed)
        do.call(rbind, lapply(drawn, function(core) one(wrap(core))))
      }))
    }
  )
}

answers_source <- function(answers, count, seed) {
  list(
    n = nrow(answers), whole = function() answers, left_out = function(one) core_each_left_out(answers, one),
    replicates = function(one) {
      do.call(rbind, over_series(seq_len(count) - 1L, "Resample", function(i) {
        one(answers[rep(seq_len(nrow(answers)), core_draw_counts(nrow(answers), seed, i)), , drop = FALSE])
      }))
    }
  )
}

checked_figures <- function(value) {
  if (!is.numeric(value) || length(value) == 0) {
    stop_input(message_of("e_statistic_must_return", value = what_is(value)))
  }
  if (is.matrix(value) || is.array(value)) value <- c(value)
  value
}

# The statistic of one resample; missing where it cannot be computed.
figures_or_missing <- function(statistic, material, like) {
  value <- tryCatch(statistic(material), scalewort_error_numeric = function(e) rep(NA_real_, length(like)))
  if (!is.numeric(value) || length(value) != length(like)) {
    stop_input(message_of("e_statistic_must_return_each", like = length(like), value = what_is(value)))
  }
  as.vector(value)
}

check_resampling <- function(x, missing) {
  if (inherits(x, "sw_moments")) {
    stop_input(message_of("e_resampling_needs_single"), hint = message_of("e_use_interval_feldt"))
  }
  if (missing != "listwise") stop_input(message_of("e_resampled_intervals_take"))
}

# Intervals of alpha, omega and the change of alpha without each item.
resampled_bounds <- function(survey, moments, interval, level, replicates, seed) {
  items <- colnames(moments$covariance)
  if (length(items) < 2 || moments$n < 10) {
    return(core_unknown_bounds(moments))
  }
  by_rows <- goes_by_rows(survey) && !gives_rows(survey, items)
  drawn <- if (by_rows) drawn_figures(survey, items, moments, replicates, seed) else
    core_resampled_figures(source_complete_rows(survey, items), interval, replicates, seed)
  if (interval == "percentile") lapply(drawn$values, core_percentile_interval, level = level) else
    Map(core_bca_interval, drawn$estimate, drawn$values, drawn$left_out, level = level)
}

# The same of people who are too many at once, groups of whom are left out.
drawn_figures <- function(survey, items, moments, replicates, seed) {
  drawn <- chunk_resamples(survey, items, replicates, seed)
  figures <- function(of) core_with_changes(do.call(rbind, lapply(of, function(one) core_moments_figures(one$covariance, one$n))))
  list(values = figures(drawn$replicates), left_out = figures(drawn$left_out), estimate = figures(list(moments)))
}
