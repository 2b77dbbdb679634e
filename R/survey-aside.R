# Setting items and cases aside, and turning items: always with a reason, always
# on record, always on a copy.

#' Set items or cases aside, or turn items, on record
#'
#' `sw_drop()` sets items or cases aside, `sw_keep()` keeps only those named,
#' `sw_flip()` changes items' keying (forward to reversed and back). The data stay
#' as they are; each step is written in [sw_log()] with its reason. An item dropped from
#' an exploration is explored again without it; the table `route` keeps what each step
#' changed.
#'
#' @param x A survey, or for `sw_drop()` an exploration.
#' @param survey A survey.
#' @param items Names of items or subscales.
#' @param cases Cases: a logical value per row of the data, identifiers (when the
#'   survey has an `id`), or row numbers.
#' @param reason Why, in words; it is asked for, since a reviewer will ask.
#' @return The survey, changed; or the exploration without the items.
#' @section Errors: `scalewort_error_input` for unknown items or cases, a missing
#'   reason, nothing left, or an item that cannot be reversed.
#' @examples
#' survey <- sw_demo("plotholders")
#' survey |>
#'   sw_drop(items = "calm6", reason = "asks about the time of day, not about calm") |>
#'   sw_drop(cases = survey$data$seconds < 44, reason = "under two seconds per item") |>
#'   sw_log()
#' sw_explore(survey, factors = 4) |>
#'   sw_drop(items = "calm6", reason = "loads nowhere") |>
#'   tidy("route")
#' @export
sw_drop <- function(x, items = NULL, cases = NULL, reason = NULL) UseMethod("sw_drop")

#' @export
sw_drop.default <- function(x, items = NULL, cases = NULL, reason = NULL) {
  check_survey(x, "x")
  check_reason(reason)
  check_something(items, cases)
  if (!is.null(items)) x <- set_items_aside(x, pick_items(x, items), reason, call_code("sw_drop", items = items, reason = reason))
  if (!is.null(cases)) x <- set_cases_aside(x, !find_cases(x, cases), reason, call_code("sw_drop", cases = cases, reason = reason))
  x
}

#' @rdname sw_drop
#' @export
sw_keep <- function(survey, items = NULL, cases = NULL, reason = NULL) {
  check_survey(survey)
  check_reason(reason)
  check_something(items, cases)
  if (!is.null(items)) {
    others <- setdiff(analysed_items(survey), pick_items(survey, items))
    survey <- set_items_aside(survey, others, reason, call_code("sw_keep", items = items, reason = reason))
  }
  if (!is.null(cases)) survey <- set_cases_aside(survey, find_cases(survey, cases), reason, call_code("sw_keep", cases = cases, reason = reason))
  survey
}

#' @rdname sw_drop
#' @export
sw_flip <- function(survey, items, reason = NULL) {
  check_survey(survey)
  check_reason(reason)
  items <- pick_items(survey, items)
  keyed <- intersect(items, test_items(survey))
  if (length(keyed) > 0) {
    stop_input(message_of("e_test_item_scored"), faults = keyed, hint = message_of("e_correct_answer_codebook"))
  }
  for (item in items) survey <- turn_item(survey, item, reason)
  survey$log$code[nrow(survey$log)] <- call_code("sw_flip", items = items, reason = reason)
  survey
}

# What stands where nobody said why.
no_reason <- "no reason given"

check_reason <- function(reason) {
  if (!(is.character(reason) && length(reason) == 1 && !is.na(reason) && nzchar(trimws(reason)))) {
    stop_input(message_of("e_reason_needed_say"), hint = message_of("e_kept_sw_log"))
  }
}

check_something <- function(items, cases) {
  if (is.null(items) && is.null(cases)) stop_input(message_of("e_name_items_cases"))
}

set_items_aside <- function(survey, items, reason, code) {
  specs <- survey$codebook$items
  left <- setdiff(analysed_items(survey), items)
  if (length(left) == 0) stop_input(message_of("e_no_item_would"))
  survey$codebook$items$role[specs$item %in% items] <- "aside"
  log_step(survey, "items set aside", message_of("log_items_aside", items = items, reason = reason), code)
}

# Items given to another subscale ("" for none); one that stood aside is scored there.
move_items <- function(survey, items, to, reason) {
  check_reason(reason)
  specs <- survey$codebook$items
  rows <- match(items, specs$item)
  if (anyNA(rows)) stop_input(message_of("e_codebook_no_such"), faults = paste0(quoted(items[is.na(rows)]), vapply(items[is.na(rows)],
    did_you_mean, "", known = specs$item)))
  from <- unique(ifelse(is.na(specs$scale[rows]), "no subscale", specs$scale[rows]))
  to_said <- if (nzchar(to)) to else "no subscale"
  survey$codebook$items$scale[rows] <- if (nzchar(to)) to else NA_character_
  survey$codebook$items$role[rows][specs$role[rows] == "aside"] <- "scored"
  log_step(survey, "items moved", message_of("log_moved", items = items, from = messages_of("a_term", term = from), to = to_said, reason = reason))
}

set_cases_aside <- function(survey, keep, reason, code) {
  before <- source_count(survey)$used
  survey <- keep_cases(survey, keep)
  if (source_count(survey)$used == 0) stop_input(message_of("e_no_case_would"))
  left <- source_count(survey)$used
  log_step(survey, "cases set aside", message_of("log_cases_aside", cases = before - left, left = left, reason = reason), code)
}

# Cases named in any of three ways, as a logical value per row of the data.
find_cases <- function(survey, cases) {
  n <- sum(unlist(source_count(survey)[c("used", "aside")]))
  if (is.logical(cases)) {
    if (length(cases) != n) {
      stop_input(message_of("e_cases_data", cases = length(cases), n = n))
    }
    return(cases %in% TRUE)
  }
  named <- find_named_cases(survey, cases, n)
  if (!is.null(named)) {
    return(named)
  }
  fine <- is.numeric(cases) && !anyNA(cases) && all(cases == round(cases)) && all(cases >= 1 & cases <= n)
  if (!fine) {
    stop_input(message_of("e_cases_must_logical", n = n, cases = what_is(cases)))
  }
  seq_len(n) %in% cases
}

# By identifier, or as "row 12" where identifiers stand in several rows, or nowhere; NULL for row numbers and nonsense.
find_named_cases <- function(survey, cases, n) {
  ids <- if (!is.null(survey$id)) as.character(source_values(survey, survey$id))
  lost <- setdiff(as.character(cases), ids)
  rows <- suppressWarnings(as.numeric(sub("^row ", "", lost)))
  by_row <- is.character(cases) && all(startsWith(lost, "row ")) && all(rows %in% seq_len(n))
  if (is.null(ids)) {
    return(if (by_row) seq_len(n) %in% rows)
  }
  if (length(lost) == 0 || by_row) {
    return(ids %in% as.character(cases) | seq_len(n) %in% rows)
  }
  if (!is.numeric(cases)) stop_input(message_of("e_cases_names_identifiers"), faults = quoted(lost))
}

# The R line that repeats a step. Logical cases become row numbers.
call_code <- function(verb, ...) {
  args <- list(...)
  words <- vapply(names(args), function(name) {
    value <- args[[name]]
    rows <- is.logical(value) && name == "cases"
    text <- paste(deparse(if (rows) which(value) else value, width.cutoff = 500), collapse = "")
    paste0(name, " = ", if (rows) "seq_len(nrow(survey$data)) %in% ", text)
  }, "")
  paste0("survey <- ", verb, "(survey, ", paste(words, collapse = ", "), ")")
}
