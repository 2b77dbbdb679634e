#' Scalewort: from questionnaire answers to subscale scores
#'
#' The order of work is [sw_read()] or [sw_survey()], [sw_screen()],
#' [sw_reliability()], [sw_retention()], [sw_explore()], [sw_split()],
#' [sw_confirm()], [sw_score()], [sw_write()] and [sw_report()].
#'
#' Long computations use all cores; the environment variable `SCALEWORT_THREADS` says how many instead. Results do not depend on it.
#'
#' @keywords internal
#' @useDynLib scalewort, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @importFrom generics tidy glance augment
"_PACKAGE"

# What plots call the row at hand.
utils::globalVariables(".data")

#' @export
generics::tidy
#' @export
generics::glance
#' @export
generics::augment
