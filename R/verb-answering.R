#' How people answered: careless, straight-lined, incomplete, extreme
#'
#' Computes indices of careless answering for every case and counts who is
#' flagged by which. It never sets anyone aside by itself.
#'
#' @param survey A survey.
#' @param time Names of numeric columns of the data with seconds spent (one, or
#'   one per page, which are summed); `NULL` for none.
#' @param robust Mahalanobis distances from a robust centre and spread (minimum
#'   covariance determinant of the complete cases; needs the package MASS) in place
#'   of maximum likelihood ones.
#' @param at_least Number of flags from which a case counts in the sensitivity
#'   table.
#' @param limits Bounds that flag, from [sw_limits()].
#' @return A `sw_answering` with the tables `indices` (index, bound, source, number
#'   flagged), `cases` (identifier, every index, number of flags, by what), sorted
#'   by flags, `together` (which flags occur together) and `sensitivity` (alpha of
#'   each subscale with and without the flagged). Indices: share of items
#'   unanswered; longest run of the same answer as given; standard deviation of the
#'   answers as given; even-odd consistency over subscales (Jackson, 1976), judged
#'   only with five subscales or more; contradiction between forward and reversed
#'   items; p of the squared Mahalanobis distance; seconds per item.
#' @section Errors: `scalewort_error_input` for fewer than three items or a time
#'   column that is not there or not numeric.
#' @examples
#' answering <- sw_answering(sw_demo("plotholders"), time = "seconds")
#' answering
#' tidy(answering, "cases")
#' @export
sw_answering <- function(survey, time = NULL, robust = FALSE, at_least = 2, limits = sw_limits()) {
  check_survey(survey)
  check_options("answering")
  items <- analysed_items(survey)
  if (length(items) < 3) stop_input(paste0("How people answer shows over three items or more; here are ", length(items), "."))
  seconds <- seconds_spent(survey, time)
  keyed <- source_rows(survey, items)
  values <- answering_indices(survey, items, keyed, seconds, robust)
  flags <- answering_flags(values, items, limits)
  cases <- answering_cases(survey, values, flags)
  flagged <- rowSums(flags, na.rm = TRUE) >= at_least
  new_result("sw_answering", "How people answered",
    tables = list(
      indices = index_table(flags, values, items, limits), cases = cases, together = flags_together(flags),
      sensitivity = alpha_without_cases(survey, flagged)
    ),
    notes = answering_notes(survey, values, flags, flagged, at_least, items, robust),
    n = source_count(survey)$used, n_left_out = source_count(survey)$aside, missing = "each index by the answers that are there",
    options = list(robust = robust, at_least = at_least, time = if (is.null(time)) "none" else time),
    parts = list(flagged_rows = case_rows(survey)[flagged], values = values, flags = flags), limits = limits
  )
}

# All items that people were shown, those set aside since too: the time is spent on these.
shown_items <- function(survey) {
  specs <- survey$codebook$items
  union(specs$item[specs$role != "aside"], specs$item[specs$role == "aside" & (!is.na(specs$scale) | !is.na(specs$lowest) | !is.na(specs$answer))])
}

seconds_spent <- function(survey, time) {
  if (is.null(time)) {
    return(NULL)
  }
  check_names_known(time, source_names(survey), "time", "column")
  pages <- source_columns(survey, time)
  text <- time[!vapply(pages, is.numeric, TRUE)]
  if (length(text) > 0) stop_input("`time` must be numeric columns of seconds.", faults = quoted(text))
  rowSums(pages)
}

# Data frame of indices, a row per case in use; NA where an index has no value.
answering_indices <- function(survey, items, keyed, seconds, robust) {
  specs <- item_spec(survey, items)
  likert <- which(is.na(specs$answer))
  given <- source_rows(survey, items, keyed = FALSE)
  scales <- lapply(survey_scales(survey), match, items)
  halves <- scales[lengths(scales) >= 2]
  both <- Filter(function(columns) length(unique(specs$direction[columns])) == 2, scales)
  pick <- function(direction) lapply(both, function(columns) columns[specs$direction[columns] == direction])
  width <- vapply(both, function(columns) max(specs$highest[columns] - specs$lowest[columns]), 0)
  none <- rep(NA_real_, nrow(keyed))
  values <- data.frame(
    unanswered = rowMeans(unanswered_cells(survey, items)),
    longest_run = if (length(likert) > 2) core_longest_run(given[, likert, drop = FALSE]) else none,
    person_sd = if (length(likert) > 2) core_row_sd(given[, likert, drop = FALSE]) else none,
    even_odd = if (length(halves) >= 3) core_even_odd(keyed, halves) else none,
    contradiction = if (length(both) > 0) core_contradiction(keyed, pick("forward"), pick("reversed"), width) else none,
    distance_p = distance_p(keyed, robust),
    seconds_per_item = if (is.null(seconds)) none else seconds / length(shown_items(survey))
  )
  structure(values, subscales = length(halves))
}

distance_p <- function(keyed, robust) {
  varies <- apply(keyed, 2, stats::var, na.rm = TRUE) > 0
  keyed <- keyed[, varies %in% TRUE, drop = FALSE]
  complete <- keyed[rowSums(is.na(keyed)) == 0, , drop = FALSE]
  unknown <- rep(NA_real_, nrow(keyed))
  if (ncol(keyed) < 2 || nrow(complete) <= ncol(keyed) + 1) {
    return(unknown)
  }
  centre <- if (robust) robust_moments(complete) else core_em(keyed)
  if (!identical(centre$status, "ok") || core_definiteness(centre$covariance) < 1e-10) {
    return(unknown)
  }
  out <- core_distances_missing(keyed, centre$mean, centre$covariance)
  stats::pchisq(out$distance, out$df, lower.tail = FALSE)
}

robust_moments <- function(complete) {
  if (!requireNamespace("MASS", quietly = TRUE)) {
    stop_input("Robust distances need the package MASS.", hint = "It comes with R; install.packages(\"MASS\") brings it back.")
  }
  found <- with_seed(1, tryCatch(MASS::cov.mcd(complete), error = function(e) NULL))
  if (is.null(found)) list(status = "not_converged") else list(status = "ok", mean = found$center, covariance = found$cov)
}

# How each index is judged: its bound, and how many subscales even-odd needs.
answering_rules <- function(items, limits) {
  run <- ceiling(limit(limits, "longest_run_share")$bound * length(items))
  list(
    unanswered = function(x) x > limit(limits, "unanswered")$bound,
    longest_run = function(x) x > run,
    person_sd = function(x) x < limit(limits, "person_sd")$bound,
    even_odd = function(x) x < limit(limits, "even_odd")$bound,
    contradiction = function(x) x > limit(limits, "contradiction")$bound,
    distance_p = function(x) x < limit(limits, "distance_p")$bound,
    seconds_per_item = function(x) x < limit(limits, "seconds_per_item")$bound
  )
}

answering_flags <- function(values, items, limits) {
  rules <- answering_rules(items, limits)
  flags <- vapply(names(rules), function(name) rules[[name]](values[[name]]) %in% TRUE, logical(nrow(values)))
  flags <- matrix(flags, nrow(values), dimnames = list(NULL, names(rules)))
  if (attr(values, "subscales") < 5) flags[, "even_odd"] <- FALSE
  flags
}

index_table <- function(flags, values, items, limits) {
  figure <- c(longest_run = "longest_run_share")
  name <- colnames(flags)
  in_limits <- ifelse(name %in% names(figure), figure[name], name)
  bound <- vapply(in_limits, function(f) bound_only(limits, f), "")
  bound[name == "longest_run"] <- paste0("\u2264 ", ceiling(limit(limits, "longest_run_share")$bound * length(items)))
  there <- vapply(values[name], function(x) sum(!is.na(x)), 1L)
  tibble::tibble(
    index = limits$words[match(in_limits, limits$figure)], bound = bound, n = unname(there),
    flagged = ifelse(there == 0, NA_integer_, as.integer(colSums(flags))), source = limits$source[match(in_limits, limits$figure)]
  )[there > 0, ]
}

answering_cases <- function(survey, values, flags) {
  by <- apply(flags, 1, function(row) paste(column_header(colnames(flags)[row]), collapse = ", "))
  out <- tibble::as_tibble(cbind(values, flagged = rowSums(flags), by = by))
  out <- out[vapply(out, function(x) !all(is.na(x)), TRUE)]
  out <- add_identifier(survey, out)
  out[order(-out$flagged), ]
}

flags_together <- function(flags) {
  sets <- apply(flags, 1, function(row) paste(column_header(colnames(flags)[row]), collapse = " and "))
  counts <- sort(table(sets[sets != ""]), decreasing = TRUE)
  tibble::tibble(by = as.character(names(counts)), cases = as.integer(counts))
}

# Alpha of each subscale over everyone, and over all but the flagged.
alpha_without_cases <- function(survey, flagged) {
  scales <- survey_scales(survey)
  if (length(scales) == 0) {
    return(tibble::tibble(scale = character(), n = integer(), alpha = numeric(), alpha_flagged = numeric(), change = numeric()))
  }
  rest <- leave_out_cases(survey, which(flagged))
  alphas <- function(s) {
    if (source_count(s)$used == 0) {
      return(rep(NA_real_, length(scales)))
    }
    vapply(scale_moments(s, "listwise"), function(m) core_alpha(m$covariance), 0)
  }
  all <- alphas(survey)
  without <- alphas(rest)
  tibble::tibble(scale = names(scales), alpha = unname(all), alpha_flagged = unname(without), change = unname(without - all))
}

answering_notes <- function(survey, values, flags, flagged, at_least, items, robust) {
  even_odd_shown <- any(!is.na(values$even_odd)) && attr(values, "subscales") < 5
  c(
    if (any(flagged)) note("look_at_cases", cases = sum(flagged), words = paste0(
      "Look at the ", count_of(sum(flagged), "case"), " with ", at_least, " or more flags before deciding. To set them aside: ",
      "`sw_drop(survey, cases = ..., reason = ...)`; report both results."
    )),
    if (even_odd_shown) note("even_odd_not_judged", "Even-odd consistency is shown but not judged: it needs five subscales or more.", rank = 3L),
    if (all(is.na(values$contradiction))) note("no_contradiction",
      "No subscale has both forward and reversed items: contradictions cannot be seen.", rank = 3L),
    if (all(is.na(values$distance_p))) note("no_distance",
      "Distances could not be computed: too few complete cases, or items that repeat each other.", rank = 3L),
    if (robust) note("robust_distance", "Distances are robust; expect more flags than with ordinary ones.", rank = 3L)
  )
}
