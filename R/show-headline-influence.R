# The answer of influence, and what to look at first.

#' @export
headline.sw_influence <- function(x) {
  cases <- x$tables$cases
  without <- x$tables$without
  last <- without[nrow(without), ]
  list(
    message_of("influence_most", case = cases$case[1], distance = cases$cook[1]),
    message_of("influence_without", cases = last$without, cfi_all = without$cfi[1], cfi = last$cfi, rmsea_all = without$rmsea[1],
      rmsea = last$rmsea, change = last$largest_change)
  )
}

#' @export
first_look.sw_influence <- function(x) list(utils::head(x$tables$cases, 10), x$tables$without)
