# The answer of a number of factors, and what to look at first.

#' @export
headline.sw_retention <- function(x) {
  found <- x$parts$agreement
  if (found$first == 0) {
    return(message_of("no_factor"))
  }
  codebook <- if (!is.na(found$known)) if (found$known == found$first) message_of("as_codebook") else
    message_of("other_in_codebook", known = found$known)
  if (!is.na(found$second)) {
    return(list(message_of("factors_differ", first = found$first, second = found$second, codebook = codebook), message_of("look_at_both")))
  }
  if (any(found$said != found$after)) message_of("factors_of_more", first = found$first, said = unique(found$said), codebook = codebook) else
    message_of("factors_agree", first = found$first, codebook = codebook)
}

#' @export
first_look.sw_retention <- function(x) {
  fits <- x$tables$fits
  found <- x$parts$agreement
  top <- max(found$first, found$second, 2, na.rm = TRUE)
  c(list(x$tables$rules, fits[fits$factors <= min(top + 1, 8), c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "bic")]),
    if (!is.null(x$tables$solutions)) list(x$tables$solutions))
}
