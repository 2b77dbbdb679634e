# The answer of how people answered, and what to look at first.

#' @export
headline.sw_answering <- function(x) {
  flags <- x$parts$flags
  some <- sum(rowSums(flags) > 0)
  several <- length(x$parts$flagged_rows)
  if (some == 0) {
    return(paste0("None of ", count_of(nrow(flags), "case"), " has a flag."))
  }
  paste0(
    "Of ", count_of(nrow(flags), "case"), ", ", some, if (some == 1) " has" else " have", " a flag and ",
    if (several == 0) "none" else several, if (several <= 1) " has " else " have ", x$about$options$at_least, " or more."
  )
}

#' @export
first_look.sw_answering <- function(x) {
  cases <- x$tables$cases
  shown <- utils::head(cases[cases$flagged >= x$about$options$at_least, ], 15)
  keys <- setdiff(names(cases), c(names(x$parts$values), "flagged", "by"))
  c(
    list(x$tables$indices[c("index", "bound", "n", "flagged")]), if (nrow(shown) > 0) list(shown[c(keys, "flagged", "by")]),
    list(x$tables$sensitivity)
  )
}
