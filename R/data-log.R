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

new_log <- function(action, detail, code = NA_character_) {
  plain_table(step = seq_along(detail), action = action, detail = detail, code = code)
}

log_step <- function(survey, action, detail, code = NA_character_) {
  survey$log <- number_steps(rbind(survey$log, new_log(action, detail, code)))
  survey
}

# Puts what reading a file found before the steps that followed it.
log_first <- function(survey, said, code) {
  first <- new_log(c("file", rep("found in the file", length(said) - 1)), said, c(code, rep(NA, length(said) - 1)))
  survey$log <- number_steps(rbind(first, survey$log))
  survey
}

number_steps <- function(log) {
  log$step <- seq_len(nrow(log))
  log
}
