# The bounds that judge figures: one table, inst/tables/limits.csv, read by everything that flags.
# `bound` is what must be met; `better`, where there is one, is the stricter
# bound; a figure between the two is in the grey zone.

#' The bounds that judge figures
#'
#' Every screen, table, figure and report judges by this one table. Called with
#' nothing it gives the bounds in force: the package's own, or those set with
#' `options(scalewort.limits = sw_limits(...))`. Named numbers change bounds.
#'
#' @param ... Bounds to change, as `figure = number`. Two numbers change the
#'   bound and the stricter bound: `alpha = c(.70, .80)`.
#' @return A `sw_limits`: a data frame with a row per figure and the columns
#'   `figure`, `direction` (`at_least`, `at_most`, `below`), `bound`, `better`
#'   (the stricter bound, `NA` where there is none), `words` and `source`
#'   (author, year).
#' @section Errors: `scalewort_error_input` for an unknown figure or a bound
#'   that is not one or two numbers.
#' @examples
#' sw_limits()
#' sw_limits(alpha = .80, item_rest_r = c(.25, .40))
#' @export
sw_limits <- function(...) {
  limits <- getOption("scalewort.limits", default_limits())
  changes <- list(...)
  if (length(changes) == 0) {
    return(limits)
  }
  if (is.null(names(changes)) || any(!nzchar(names(changes)))) {
    stop_input(message_of("e_bounds_given_name"))
  }
  check_names_known(names(changes), limits$figure, "...", "figure")
  for (figure in names(changes)) {
    value <- changes[[figure]]
    if (!is.numeric(value) || anyNA(value) || !length(value) %in% 1:2) {
      stop_input(message_of("e_bound_must_one", figure = figure, value = shown(value)))
    }
    row <- match(figure, limits$figure)
    wrong <- limit_order_fault(value, limits$direction[row])
    if (!is.null(wrong)) stop_input(message_of("e_bounds_wrong_order", figure = figure, wrong = wrong))
    limits$bound[row] <- value[1]
    if (length(value) == 2) limits$better[row] <- value[2]
    limits$source[row] <- "set by the user"
  }
  check_limits_order(limits)
}

default_limits <- function() {
  table <- shipped_table("limits")[c("figure", "direction", "bound", "better", "words", "source")]
  structure(table, class = c("sw_limits", class(table)))
}

# What is wrong with the order of two bounds, the stricter second; NULL when nothing is.
limit_order_fault <- function(value, direction) {
  if (length(value) < 2) {
    return(NULL)
  }
  up <- direction == "at_least"
  if (if (up) value[2] > value[1] else value[2] < value[1]) NULL else
    worded(if (up) "fault_second_higher" else "fault_second_lower")
}

# A stricter bound that has become the laxer one is dropped.
check_limits_order <- function(limits) {
  up <- limits$direction == "at_least"
  crossed <- !is.na(limits$better) &
    ((up & limits$better <= limits$bound) | (!up & limits$better >= limits$bound))
  limits$better[crossed] <- NA_real_
  limits
}

limit <- function(limits, figure) lapply(unclass(limits), `[`, match(figure, limits$figure))

bound_sign <- function(direction) {
  c(at_least = "\u2265 ", at_most = "\u2264 ", below = "< ")[[direction]]
}

# "\u2265 .70"
bound_only <- function(limits, figure) {
  rule <- limit(limits, figure)
  paste0(bound_sign(rule$direction), bound_text(rule$bound))
}
