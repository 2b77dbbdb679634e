# The answer of power, and what to look at first.

#' @export
headline.sw_power <- function(x) {
  options <- x$about$options
  if (is.null(x$tables$needed)) {
    table <- x$tables$parameter
    enough <- table$n[table$power >= options$power]
    return(paste0("The parameter of ", options$parameter, ", ", coefficient_text(options$true, 2), " in truth, is seen with power ",
      coefficient_text(options$power, 2), if (length(enough) > 0) paste0(" from n = ", min(enough), " on.") else
        paste0(" by none of these numbers of cases; with n = ", max(table$n), " it is ", coefficient_text(table$power[nrow(table)], 2), ".")))
  }
  needed <- x$tables$needed
  paste0("With ", options$df, " df, a power of ", coefficient_text(options$power, 2), " needs ",
    and_list(ifelse(is.na(needed$needed), paste("more than a million cases for the test of", needed$test),
      paste(needed$needed, "cases for the test of", needed$test))), ".")
}

#' @export
first_look.sw_power <- function(x) {
  if (is.null(x$tables$needed)) {
    return(x$tables$parameter[c("n", "power", "mean_estimate", "bias", "error_ratio", "coverage", "converged")])
  }
  x$tables
}
