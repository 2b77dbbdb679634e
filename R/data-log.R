#' What was done to the answers so far
#'
#' @param x A `sw_survey`.
#' @return A tibble with a row per step: `step` (number), `action` and `detail`
#'   (words).
#' @section Errors: `scalewort_error_input` when `x` is not a survey.
#' @examples
#' sw_log(sw_demo("plotholders"))
#' @export
sw_log <- function(x) {
  check_survey(x, "x")
  x$log
}

new_log <- function(action, detail) tibble::tibble(step = 1L, action = action, detail = detail)

log_step <- function(survey, action, detail) {
  step <- tibble::tibble(step = nrow(survey$log) + 1L, action = action, detail = detail)
  survey$log <- rbind(survey$log, step)
  survey
}

# Puts what reading found before the steps that followed it.
log_first <- function(survey, action, detail) {
  log <- rbind(tibble::tibble(step = 0L, action = action, detail = detail), survey$log)
  log$step <- seq_len(nrow(log))
  survey$log <- log
  survey
}
