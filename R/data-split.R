#' Split the cases in two halves
#'
#' Explore on one half, confirm on the other.
#'
#' @param survey A survey.
#' @param share Share of the cases that goes to the first half.
#' @param seed Seed of the random draw; the same seed gives the same halves.
#' @return A list of two surveys, `calibration` and `validation`. Cases that
#'   share an identifier (waves of one person) stay together.
#' @section Errors: `scalewort_error_input` for fewer than four cases or a
#'   share outside .1 to .9.
#' @examples
#' halves <- sw_split(sw_demo("plotholders"), seed = 7)
#' halves$calibration
#' @export
sw_split <- function(survey, share = 0.5, seed = 1) {
  check_survey(survey)
  check_number(share, "share", .1, .9)
  check_seed(seed)
  rows <- which(survey$kept)
  person <- if (is.null(survey$id)) as.character(rows) else as.character(survey$data[[survey$id]][rows])
  people <- unique(person)
  if (length(people) < 4) {
    stop_input(paste0("There are only ", count_of(length(people), "case"), " to split; four are the least."))
  }
  first <- with_seed(seed, sample(people, round(share * length(people))))
  half <- function(keep, name) {
    out <- keep_cases(survey, seq_along(survey$kept) %in% rows[keep])
    log_step(out, "split", paste0(
      name, " half: ", count_of(sum(out$kept), "case"), " of ", length(rows), " drawn with seed ", seed
    ))
  }
  list(
    calibration = half(person %in% first, "calibration"),
    validation = half(!person %in% first, "validation")
  )
}
