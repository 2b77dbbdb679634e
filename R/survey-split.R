#' Split the cases in two halves
#'
#' Explore on one half, confirm on the other.
#'
#' @param survey A survey.
#' @param share Share of the cases that goes to the first half.
#' @param method `"random"`; `"stratified"`, the same share of every group in `by`; or
#'   `"matched"`, of many random (or stratified) splits the one whose halves are most equal
#'   in sampling adequacy and common variance (after Lorenzo-Seva, 2022); `"identifier"`, where the half follows from the identifier and the seed
#'   alone (Carter & Wegman, 1979): the same for people who come later, in another order, or in a database. A table that gives sums only
#'   ([sw_table()]) is always split so.
#' @param by Name of a grouping column; the survey's own group by default.
#' @param tries Number of splits looked at for `"matched"`.
#' @param seed Seed of the random draw; the same seed gives the same halves.
#' @return A list of two surveys, `calibration` and `validation`. Cases that
#'   share an identifier (waves of one person) stay together. Its attribute `halves` is a
#'   tibble: half, cases, complete cases, sampling adequacy (Kaiser, 1970), common variance
#'   (mean squared multiple correlation); the last two are `NA` where they cannot be
#'   computed.
#' @section Errors: `scalewort_error_input` for fewer than four cases, a
#'   share outside .1 to .9, or an unknown column; `scalewort_error_numeric` where no split
#'   has halves whose sampling adequacy can be computed.
#' @examples
#' halves <- sw_split(sw_demo("plotholders"), seed = 7)
#' halves$calibration
#' attr(sw_split(sw_demo("plotholders"), method = "matched", tries = 50), "halves")
#' @export
sw_split <- function(survey, share = 0.5, method = "random", by = NULL, tries = 200, seed = 1) {
  check_survey(survey)
  check_options("split")
  if (method == "identifier" || !gives_people(survey)) {
    return(with_half_figures(split_by_identifier(survey, share, seed), source_count(survey)$used, "identifier", seed))
  }
  rows <- case_rows(survey)
  person <- case_names(survey)
  people <- unique(person)
  if (length(people) < 4) {
    stop_input(message_of("e_there_only_split", people = length(people)))
  }
  stratum <- split_strata(survey, rows[match(people, person)], method, by)
  draw <- function() person %in% draw_people(people, stratum, share)
  first <- with_seed(seed, if (method == "matched") matched_draw(survey, rows, draw, tries) else draw())
  halves <- list(calibration = take_cases(survey, which(first)), validation = take_cases(survey, which(!first)))
  with_half_figures(halves, length(rows), method, seed)
}

# On record in each half; how alike they are.
with_half_figures <- function(halves, whole, method, seed) {
  halves <- Map(function(half, name) {
    log_step(half, "split", message_of(if (method == "identifier") "log_half_by_identifier" else "log_half_drawn", half = name,
      cases = source_count(half)$used, whole = whole, method = method, seed = seed))
  }, halves, names(halves))
  structure(halves, halves = do.call(rbind, lapply(names(halves), function(name) {
    plain_frame(c(list(half = name, cases = source_count(halves[[name]])$used), half_figures(halves[[name]])))
  })))
}

# The group of each person; one for all unless groups are to be kept apart.
split_strata <- function(survey, rows, method, by) {
  if (method == "stratified" && is.null(by)) by <- survey$group
  if (method == "stratified" && is.null(by)) {
    stop_input(message_of("e_stratified_split_needs"), hint = message_of("e_name_column"))
  }
  if (is.null(by)) {
    return(rep("", length(rows)))
  }
  stratum <- group_of(survey, by)[match(rows, case_rows(survey))]
  ifelse(is.na(stratum), "", stratum)
}

draw_people <- function(people, stratum, share) {
  unlist(lapply(split(people, stratum), function(group) group[sample.int(length(group), round(share * length(group)))]), use.names = FALSE)
}

# Of many splits the one whose halves differ least.
matched_draw <- function(survey, rows, draw, tries) {
  best <- NULL
  for (i in seq_len(tries)) {
    first <- draw()
    one <- half_figures(take_cases(survey, which(first)))
    two <- half_figures(take_cases(survey, which(!first)))
    apart <- abs(one$sampling_adequacy - two$sampling_adequacy) + abs(one$common_variance - two$common_variance)
    if (!is.na(apart) && (is.null(best) || apart < best$apart)) best <- list(first = first, apart = apart)
  }
  if (is.null(best)) {
    stop_numeric(message_of("e_no_split_halves"), hint = message_of("e_use_method_random"))
  }
  best$first
}

half_figures <- function(survey) {
  moments <- source_moments(survey, scored_items(survey))
  none <- list(complete = moments$n, sampling_adequacy = NA_real_, common_variance = NA_real_)
  variance <- diag(moments$covariance)
  if (moments$status != "ok" || any(is.na(variance) | variance <= 0) || length(variance) < 3) {
    return(none)
  }
  r <- core_correlation(moments$covariance)
  if (core_definiteness(r) < 1e-10) {
    return(none)
  }
  list(complete = moments$n, sampling_adequacy = core_sampling_adequacy(r)$overall, common_variance = mean(1 - 1 / diag(chol2inv(chol(r)))))
}
