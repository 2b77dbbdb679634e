# The answer of a number of factors, and what to look at first.

#' @export
headline.sw_retention <- function(x) {
  found <- x$parts$agreement
  if (found$first == 0) {
    return("These items share nothing that chance would not: there is no factor to extract.")
  }
  codebook <- if (!is.na(found$known)) paste0(if (found$known == found$first) ", as many as" else paste0("; it is ", found$known, " in"),
    " the codebook",
    if (found$known == found$first) " has subscales")
  if (is.na(found$second) && any(found$said != found$after)) {
    return(paste0(sentence_start(count_of(found$first, "factor")), ": the two rules that decide say ", and_list(unique(found$said)), ", of which ",
      found$first, if (found$first == 1) " stands" else " stand", " (a pair of items or a single one is no factor)", codebook, "."))
  }
  if (is.na(found$second)) {
    return(paste0(sentence_start(count_of(found$first, "factor")), ": the two rules that decide agree", codebook, "."))
  }
  paste0(sentence_start(count_of(found$first, "factor")), ", or ", found$second, ": the two rules that decide differ", codebook,
    ". Look at both solutions before choosing.")
}

#' @export
first_look.sw_retention <- function(x) {
  fits <- x$tables$fits
  found <- x$parts$agreement
  top <- max(found$first, found$second, 2, na.rm = TRUE)
  c(list(x$tables$rules, fits[fits$factors <= min(top + 1, 8), c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "bic")]),
    if (!is.null(x$tables$solutions)) list(x$tables$solutions))
}
