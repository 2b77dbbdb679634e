# The answer of influence, and what to look at first.

#' @export
headline.sw_influence <- function(x) {
  cases <- x$tables$cases
  without <- x$tables$without
  last <- without[nrow(without), ]
  paste0("Case ", cases$case[1], " moves the estimates most (Cook's distance ", decimals(cases$cook[1], 2), "). Without the ",
    count_of(last$without, "most influential case", "most influential cases"), ", CFI goes from ", coefficient_text(without$cfi[1]), " to ",
    coefficient_text(last$cfi), ", RMSEA from ", coefficient_text(without$rmsea[1]), " to ", coefficient_text(last$rmsea),
    ", and no loading changes by more than ", coefficient_text(last$largest_change, 2), ".")
}

#' @export
first_look.sw_influence <- function(x) list(utils::head(x$tables$cases, 10), x$tables$without)
