#' Internal consistency of every subscale
#'
#' Coefficient alpha (Cronbach, 1951), k/(k-1) (1 - sum of item variances /
#' variance of the total), with Feldt's (1965) interval; alpha of standardised
#' items; what each item does. An item that points against the others is named,
#' with alpha as it would be if it were reversed.
#'
#' @param x A survey or [sw_moments()].
#' @param missing `"listwise"` (complete cases of each subscale) or
#'   `"pairwise"`; for a survey.
#' @param level Level of the interval.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_reliability` with the tables `scales` (a row per subscale: items,
#'   n, n left out, alpha, interval, standardised alpha, mean inter-item
#'   correlation, verdict, items that look unreversed and alpha with them
#'   turned) and `items` (mean, sd, item-rest r, alpha without the item). Alpha is
#'   at most 1, has no lower bound, and is `NA` for a single item.
#' @section Errors: `scalewort_error_input` for another first argument or no
#'   subscale to work on.
#' @examples
#' sw_reliability(sw_demo("plotholders"))
#' sw_reliability(sw_demo("plotholders", codebook = "draft"))
#' @export
sw_reliability <- function(x, missing = "listwise", level = 0.95, limits = sw_limits()) {
  check_choice(missing, c("listwise", "pairwise"), "missing")
  check_number(level, "level", .5, .999)
  check_limits(limits)
  scales <- scale_moments(x, missing)
  keyed <- if (inherits(x, "sw_survey")) test_items(x) else character()
  table <- do.call(rbind, lapply(names(scales), function(name) reliability_row(name, scales[[name]], keyed, level, limits)))
  items <- do.call(rbind, lapply(names(scales), function(name) reliability_items(name, scales[[name]], keyed, limits)))
  new_result("sw_reliability", "Internal consistency",
    tables = list(scales = table, items = items), notes = reliability_notes(table, items, keyed, limits),
    n = if (inherits(x, "sw_moments")) x$n else sum(x$kept), n_left_out = if (inherits(x, "sw_moments")) x$n_left_out else 0,
    missing = paste(if (inherits(x, "sw_moments")) x$missing else missing, "within each subscale"),
    options = list(level = level, interval = "Feldt"), limits = limits
  )
}

# Moments of each subscale on its own complete cases; NULL where there are too
# few.
scale_moments <- function(x, missing) {
  if (inherits(x, "sw_moments")) {
    return(lapply(x$scales, function(items) narrow_moments(x, items)))
  }
  check_class(x, "sw_survey", "x", "`sw_survey()` or `sw_moments()`")
  scales <- survey_scales(x)
  if (length(scales) == 0) {
    stop_input("No scored item belongs to a subscale.", hint = "Fill in `scale` in the codebook.")
  }
  lapply(scales, function(items) {
    core <- if (missing == "listwise") keyed_moments(x, items) else core_pairwise_moments(keyed_answers(x, items))
    left_out <- if (missing == "listwise") sum(x$kept) - core$n else 0
    new_moments(core$n, left_out, core$mean, core$covariance, missing, "answers", list(items))
  })
}

reliability_row <- function(name, moments, keyed, level, limits) {
  s <- moments$covariance
  back <- core_keying(core_correlation(s))$turned & !colnames(s) %in% keyed
  interval <- core_feldt_interval(core_alpha(s), moments$n, ncol(s), level)
  alpha <- core_alpha(s)
  tibble::tibble(
    scale = name, items = ncol(s), n = moments$n, n_left_out = moments$n_left_out,
    alpha = alpha, conf.low = interval[1], conf.high = interval[2],
    alpha_standardised = core_standardised_alpha(s), inter_item_r = core_inter_item_r(s)[["mean"]],
    verdict = judge(alpha, limits, "alpha"), looks_unreversed = paste(colnames(s)[back], collapse = " "),
    alpha_turned = if (any(back)) core_alpha(core_turn(s, back)) else NA_real_
  )
}

reliability_items <- function(name, moments, keyed, limits) {
  s <- moments$covariance
  alpha <- core_alpha(s)
  without <- core_alpha_without(s)
  r <- unname(core_item_rest_r(s))
  tibble::tibble(
    scale = name, item = colnames(s), mean = unname(moments$mean), sd = sqrt(unname(diag(s))),
    item_rest_r = r, alpha_without = without, change = without - alpha,
    verdict = ifelse(colnames(s) %in% keyed, judge(r, limits, "item_rest_r_keyed"), judge(r, limits, "item_rest_r")),
    looks_unreversed = core_keying(core_correlation(s))$turned & !colnames(s) %in% keyed
  )
}

reliability_notes <- function(scales, items, keyed, limits) {
  turned <- scales[scales$looks_unreversed != "", ]
  is_test <- items$item %in% keyed
  against <- items[is_test & !is.na(items$item_rest_r) & items$item_rest_r < 0, ]
  low <- !meets(items$item_rest_r, limits, "item_rest_r") & (!is_test | !meets(items$item_rest_r, limits, "item_rest_r_keyed"))
  weak <- items[low %in% TRUE & !items$looks_unreversed & !items$item %in% against$item, ]
  single <- scales$scale[scales$items < 2]
  flat <- items$item[!is.na(items$sd) & items$sd == 0]
  few <- scales$scale[is.na(scales$alpha) & scales$items >= 2]
  c(
    sprintf(
      "%s in %s looks unreversed: alpha would be %s in place of %s. If the wording runs against the others, correct `direction` in the codebook.",
      turned$looks_unreversed, turned$scale, coefficient_text(turned$alpha_turned), coefficient_text(turned$alpha)
    ),
    sprintf("%s goes against the rest of %s (item-rest r %s): its key looks wrong.",
      against$item, against$scale, coefficient_text(against$item_rest_r)),
    if (length(single) > 0) paste0("No alpha for a single item: ", and_list(single), "."),
    if (length(few) > 0) paste0("Alpha cannot be computed for ", and_list(few), ": too few complete cases, or a total that does not vary."),
    if (length(flat) > 0) paste0("Everyone answers the same: ", and_list(flat), "."),
    sprintf("%s hardly goes with the rest of %s (item-rest r %s); alpha without it %s.",
      weak$item, weak$scale, coefficient_text(weak$item_rest_r), coefficient_text(weak$alpha_without)),
    excess_note(scales, limits)
  )
}

excess_note <- function(scales, limits) {
  high <- scales$scale[!is.na(scales$alpha) & !meets(scales$alpha, limits, "alpha_excess")]
  if (length(high) == 0) {
    return(NULL)
  }
  paste0("Alpha above ", bound_text(limit(limits, "alpha_excess")$bound), " in ", and_list(high), ": items may repeat each other.")
}

# .812, -.051: three decimals, no leading zero, for sentences.
coefficient_text <- function(x, digits = 3) {
  text <- formatC(x, format = "f", digits = digits)
  sub("^(-?)0\\.", "\\1.", ifelse(is.na(x), "not available", text))
}
