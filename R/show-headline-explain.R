# The answer of one person's scores, and what to look at first.

#' @export
headline.sw_explanation <- function(x) {
  w <- x$tables$working
  w <- w[!duplicated(sub("_.*$", "", w$score)), ]
  paste0(and_list(paste0(w$score, ifelse(is.na(w$value), ": ", paste0(" ", trimws(formatC(w$value, format = "f", digits = 2)), " = ")), w$working),
    12), ".")
}

#' @export
first_look.sw_explanation <- function(x) x$tables
