#' What was done to the answers so far
#'
#' @param x A `sw_survey`.
#' @param code Give the R lines that repeat the preparation instead?
#' @return A tibble with a row per step: `step` (number), `action`, `detail`
#'   (words); with `code = TRUE` a character vector of R lines.
#' @section Errors: `scalewort_error_input` when `x` is not a survey.
#' @examples
#' survey <- sw_demo("plotholders", codebook = "draft") |>
#'   sw_flip("kin3", reason = "worded against the others") |>
#'   sw_drop(items = "calm6", reason = "asks about the time of day")
#' sw_log(survey)
#' cat(sw_log(survey, code = TRUE), sep = "\n")
#' @export
sw_log <- function(x, code = FALSE) {
  check_survey(x, "x")
  check_flag(code, "code")
  if (code) {
    return(x$log$code[!is.na(x$log$code)])
  }
  tibble::as_tibble(x$log[c("step", "action", "detail")])
}

# One step or several: what was done (a term), what is said of it (a message, several or text), the line of R that repeats it.
new_log <- function(action, said, code = NA_character_) {
  if (inherits(said, "sw_message") || length(action) == 1) said <- list(said)
  plain_table(step = seq_along(said), action = action, detail = all_said(said), code = code, said = as.list(said))
}

log_step <- function(survey, action, said, code = NA_character_) {
  survey$log <- number_steps(rbind(with_said(survey$log), new_log(action, said, code)))
  survey
}

# Puts what reading a file found before the steps that followed it.
log_first <- function(survey, said, code) {
  first <- new_log(c("file", rep("found in the file", length(said) - 1)), said, c(code, rep(NA, length(said) - 1)))
  survey$log <- number_steps(rbind(first, with_said(survey$log)))
  survey
}

# Logs of former versions hold words only.
with_said <- function(log) {
  if (is.null(log$said)) log$said <- as.list(log$detail)
  log
}

number_steps <- function(log) {
  log$step <- seq_len(nrow(log))
  log
}

# A log's steps in words of a language, as a report has them.
log_in <- function(log, words) {
  log <- with_said(log)
  log$action <- vapply(log$action, term_of, "", words = words_of_language(words$language), USE.NAMES = FALSE)
  log$detail <- vapply(log$said, say, "", language = words$language, place = "report")
  log[c("step", "action", "detail")]
}
