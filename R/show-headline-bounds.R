# The answer of fit bounds: is this fit what a true structure gives, or a slightly wrong one?

#' @export
headline.sw_bounds <- function(x) {
  bounds <- x$tables$bounds
  told <- bounds$level[bounds$verdict != "untested"]
  first <- bounds[bounds$level == (if (length(told) > 0) min(told) else max(c(bounds$level, 1))), ]
  sure <- x$tables$equivalence
  # Results of former versions hold its words only.
  wrong <- if (is.null(x$parts$left_out)) first$left_out[1] else x$parts$left_out[[first$level[1]]]
  list(bounds_answer(first, x$about$n, wrong),
    if (is.na(sure$with_confidence[2])) message_of("bounds_confidence_rmsea", rmsea = sure$with_confidence[1]) else
      message_of("bounds_confidence", rmsea = sure$with_confidence[1], cfi = sure$with_confidence[2]))
}

# wrong: the message of what a slightly wrong structure leaves out.
bounds_answer <- function(first, n, wrong) {
  known <- first[first$verdict != "untested", ]
  if (nrow(first) == 0) {
    return(message_of("bounds_nothing_wrong"))
  }
  if (nrow(known) == 0) {
    return(message_of("bounds_tell_nothing", cases = n, wrong = wrong))
  }
  figure <- column_header(known$figure)
  bounds <- Map(message_of, ifelse(known$figure == "cfi", "bounds_above", "bounds_below"), figure = figure, bound = known$bound_here)
  missed <- figure[known$verdict == "missed"]
  reading <- if (length(missed) == 0) message_of("bounds_as_true") else message_of("bounds_as_wrong", many = length(missed), figures = missed)
  message_of("bounds_found", cases = n, wrong = wrong, bounds = unname(bounds), values = unname(Map(message_of, "figure_and_value",
    figure = figure, value = known$value)), reading = reading)
}

#' @export
first_look.sw_bounds <- function(x) {
  list(x$tables$bounds[c("left_out", "figure", "true_worst", "wrong_best", "bound_here", "value", "verdict")],
    x$tables$equivalence[c("figure", "value", "side", "with_confidence")])
}
