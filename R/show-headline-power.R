# The answer of power, and what to look at first.

#' @export
headline.sw_power <- function(x) {
  options <- x$about$options
  if (is.null(x$tables$needed)) {
    table <- x$tables$parameter
    enough <- table$n[table$power >= options$power]
    about <- list(parameter = options$parameter, true = options$true, power = options$power)
    found <- if (length(enough) > 0) list("power_parameter_seen", enough = min(enough)) else
      list("power_parameter_unseen", most = max(table$n), reached = table$power[nrow(table)])
    return(do.call(message_of, c(found, about)))
  }
  needed <- x$tables$needed
  of_test <- c(`close fit` = "test_of_close_fit", `not-close fit` = "test_of_not_close_fit", `exact fit` = "test_of_exact_fit")
  needs <- Map(function(test, cases) {
    test <- message_of(of_test[[test]])
    if (is.na(cases)) message_of("power_needs_more", test = test) else message_of("power_needs", needed = cases, test = test)
  }, needed$test, needed$needed)
  message_of("power_of_fit", df = options$df, power = options$power, needs = unname(needs))
}

#' @export
first_look.sw_power <- function(x) {
  if (is.null(x$tables$needed)) {
    return(x$tables$parameter[c("n", "power", "mean_estimate", "bias", "error_ratio", "coverage", "converged")])
  }
  x$tables
}
