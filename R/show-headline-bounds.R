# The answer of fit bounds: is this fit what a true structure gives, or a slightly wrong one?

#' @export
headline.sw_bounds <- function(x) {
  bounds <- x$tables$bounds
  told <- bounds$level[bounds$verdict != "untested"]
  first <- bounds[bounds$level == (if (length(told) > 0) min(told) else max(c(bounds$level, 1))), ]
  sure <- x$tables$equivalence
  ends <- paste0("With 95% confidence RMSEA is at most ", coefficient_text(sure$with_confidence[1]),
    if (!is.na(sure$with_confidence[2])) paste0(" and CFI at least ", coefficient_text(sure$with_confidence[2])), ".")
  paste(bounds_answer(first, x$about$n), ends)
}

bounds_answer <- function(first, n) {
  known <- first[first$verdict != "untested", ]
  if (nrow(first) == 0) {
    return("There is no slightly wrong structure to compare with.")
  }
  if (nrow(known) == 0) {
    return(paste0("With ", count_of(n, "case"), " no figure tells a true structure from one with ", first$left_out[1],
      ": fit indices say little here."))
  }
  bounds <- and_list(paste(column_header(known$figure), ifelse(known$figure == "cfi", "above", "below"), coefficient_text(known$bound_here)))
  missed <- known[known$verdict == "missed", ]
  reading <- if (nrow(missed) == 0) "as where it is true" else
    paste0(and_list(column_header(missed$figure)), if (nrow(missed) == 1) " is" else " are", " as where it is wrong")
  paste0("For this structure and ", count_of(n, "case"), " the bounds against ", first$left_out[1], " are ", bounds, "; here ",
    and_list(paste(column_header(known$figure), coefficient_text(known$value))), ": ", reading, ".")
}

#' @export
first_look.sw_bounds <- function(x) {
  list(x$tables$bounds[c("left_out", "figure", "true_worst", "wrong_best", "bound_here", "value", "verdict")],
    x$tables$equivalence[c("figure", "value", "side", "with_confidence")])
}
