# The answer of a number of factors, and what to look at first.

#' @export
headline.sw_retention <- function(x) {
  found <- x$parts$agreement
  rules <- x$tables$rules
  next_best <- if (!is.na(found$second)) {
    paste0(" Look also at ", found$second, " (", and_list(rules$rule[which(rules$suggestion == found$second)]), ").")
  }
  paste0(found$votes, " of ", found$rules, " rules suggest ", count_of(found$first, "factor"), ".", next_best)
}

#' @export
first_look.sw_retention <- function(x) {
  fits <- x$tables$fits
  top <- max(x$tables$rules$suggestion, 2, na.rm = TRUE)
  list(x$tables$rules, fits[fits$factors <= min(top + 1, 8), c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "bic")])
}
