#' Who chooses which option
#'
#' Cuts respondents into bands by their score on the item's subscale and gives the
#' share choosing each option in each band. In a good item the options follow the
#' score; in a test item the right option rises and every wrong one falls.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param bands Number of score bands of about equal size (ties stay together).
#' @param score `"total"` (the subscale with the item) or `"rest"` (without it).
#' @param limits Bounds, from [sw_limits()]; `option_margin` is the least by which
#'   one share must pass another to be flagged.
#' @return A `sw_option_curves` with the tables `flags` (item, option, what, share
#'   in the strongest band, advice) and `curves` (scale, item, option, label,
#'   right, band, n in the band, count and share choosing it) and `means` (mean
#'   answer as given by band, of items without a right answer). Flags are for test
#'   items: a wrong option that the strongest band chooses more often than the
#'   weakest, and a key that looks wrong, since the right option loses and another
#'   one wins among the strongest.
#' @section Errors: `scalewort_error_input` when no item belongs to a subscale of
#'   two or more items.
#' @examples
#' curves <- sw_option_curves(sw_demo("plantcare"))
#' curves
#' autoplot(curves, items = c("q01", "q08"))
#' @export
sw_option_curves <- function(survey, bands = 3, score = "total", limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("option_curves")
  scales <- Filter(function(items) length(items) > 1, survey_scales(survey, c("scored", "tryout")))
  if (length(scales) == 0) stop_input(message_of("e_no_item_belongs"))
  rows <- lapply(names(scales), function(scale) scale_curves(survey, scale, scales[[scale]], bands, score))
  curves <- plain_frame(do.call(rbind, unlist(rows, recursive = FALSE)))
  flags <- curve_flags(curves, bands, limits)
  new_result("sw_option_curves", "title_option_curves",
    tables = list(flags = flags, curves = curves, means = band_means(curves, bands),
      verdicts = curve_verdicts(curves, bands, limits)), notes = curve_notes(curves, flags, bands),
    n = source_count(survey)$used, n_left_out = source_count(survey)$aside,
    missing = message_of("missing_bands"),
    options = list(bands = bands, score = score), limits = limits
  )
}

scale_curves <- function(survey, scale, items, bands, score) {
  scored <- items[items %in% scored_items(survey)]
  own <- lapply(items, function(item) {
    own <- if (score == "rest") setdiff(scored, item) else scored
    if (length(own) > 0) own else setdiff(items, item)
  })
  specs <- item_spec(survey, items)
  keying <- keying_of(survey, items)
  Map(function(j, people) {
    if (keying$sign[j] < 0) people$answer <- keying$shift[j] - people$answer
    item_curve(as.list(specs[j, ]), scale, people, core_bands(people$total / people$given, bands, people$n), bands)
  }, seq_along(items), source_crossed(survey, items, own))
}

# A data frame with a row per option and band. people: counts by answer as given and cell.
item_curve <- function(spec, scale, people, band, bands) {
  test <- !is.na(spec$answer)
  chosen <- if (test) plain_text(people$value) else as.character(people$answer)
  chosen[is.na(people$answer) | chosen == ""] <- NA
  options <- curve_options(chosen, spec)
  labels <- parse_labels(spec$labels)
  label <- names(labels)[match(options, as.character(labels))]
  counts <- stats::xtabs(people$n ~ factor(chosen, options) + factor(band, seq_len(bands)))
  n <- colSums(counts)
  cells <- expand.grid(option = options, band = seq_len(bands), stringsAsFactors = FALSE)
  data.frame(
    scale = scale, item = spec$item, option = cells$option,
    label = if (is.null(label)) NA_character_ else label[match(cells$option, options)],
    right = if (test) cells$option %in% strsplit(spec$answer, "[[:space:]]+")[[1]] else NA,
    band = cells$band, n = as.integer(n[cells$band]), count = as.integer(counts), share = as.vector(counts) / as.vector(n[cells$band])
  )
}

curve_options <- function(chosen, spec) {
  if (!is.na(spec$options)) {
    return(strsplit(spec$options, "[[:space:]]+")[[1]])
  }
  whole <- item_options(spec)
  if (is.na(spec$answer) && length(whole) > 0) as.character(whole) else
    sort(unique(chosen[!is.na(chosen)]), method = "radix")
}

# Test items whose options do not behave.
curve_flags <- function(curves, bands, limits) {
  none <- plain_table(
    item = character(), option = character(), what_code = character(), what = character(), weakest = numeric(), strongest = numeric(),
      advice = character()
  )
  tests <- unique(curves$item[!is.na(curves$right)])
  margin <- limit(limits, "option_margin")$bound
  rows <- lapply(tests, function(item) {
    mine <- curves[curves$item == item, ]
    low <- mine[mine$band == 1, ]
    high <- mine[mine$band == bands, ]
    right <- sum(high$share[high$right])
    best_wrong <- which(!high$right & high$share == max(high$share[!high$right]))[1]
    key_wrong <- high$share[best_wrong] > right + margin && high$share[best_wrong] > low$share[best_wrong]
    drawing <- which(!high$right & high$share > low$share + margin)
    if (key_wrong) drawing <- setdiff(drawing, best_wrong)
    rbind(
      if (key_wrong) flag_option(item, low, high, best_wrong, "key_looks_wrong", "The strongest choose this one: is it the right answer?"),
      if (length(drawing) > 0) flag_option(item, low, high, drawing, "draws_strongest", "A wrong option that the strong choose: is it right too?")
    )
  })
  plain_frame(do.call(rbind, c(list(none), rows)))
}

# By how much each wrong option gains from the lowest band to the highest.
curve_verdicts <- function(curves, bands, limits) {
  wrong <- curves[!curves$right %in% c(TRUE, NA), ]
  high <- wrong[wrong$band == bands, ]
  low <- wrong[wrong$band == 1, ]
  gain <- high$share - low$share[match(paste(high$item, high$option), paste(low$item, low$option))]
  ranked_verdicts(verdict_rows("item", paste(high$item, high$option), judge(gain, limits, "option_margin")))
}

flag_option <- function(item, low, high, at, code, advice) {
  what <- c(key_looks_wrong = "key looks wrong", draws_strongest = "draws the strongest")[[code]]
  plain_table(item = item, option = high$option[at], what_code = code, what = what, weakest = low$share[at], strongest = high$share[at],
    advice = advice)
}

# Mean answer as given in each band, for items without a right answer.
band_means <- function(curves, bands) {
  rows <- curves[is.na(curves$right), ]
  rows$value <- suppressWarnings(as.numeric(rows$option))
  items <- unique(rows$item)
  means <- lapply(seq_len(bands), function(b) {
    vapply(items, function(i) {
      mine <- rows[rows$item == i & rows$band == b, ]
      if (sum(mine$count) == 0) NA_real_ else sum(mine$value * mine$count) / sum(mine$count)
    }, 0, USE.NAMES = FALSE)
  })
  names(means) <- paste0("mean_band_", seq_len(bands))
  plain_frame(c(list(scale = rows$scale[match(items, rows$item)], item = items), means))
}

curve_notes <- function(curves, flags, bands) {
  thin <- unique(curves$item[curves$n < 20])
  wrong <- unique(flags$item[flags$what_code == "key_looks_wrong"])
  c(
    if (length(wrong) > 0) note("key_looks_wrong", message_of("check_key", items = wrong), wrong, rank = 1L),
    if (length(thin) > 0) note("thin_bands", message_of("thin_bands", items = thin), thin)
  )
}
