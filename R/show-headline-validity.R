# The answer of validity, and what to look at first.

#' @export
headline.sw_validity <- function(x) {
  failures <- x$tables$failures
  if (nrow(failures) == 0 && nrow(x$tables$factors) == 1) {
    return("The items of the one factor belong together, by the usual bounds.")
  }
  if (nrow(failures) == 0) {
    return(paste0("Every factor's items belong together and all factors can be told apart, by the usual bounds (", nrow(x$tables$factors),
      " factors)."))
  }
  paste0(count_of(nrow(failures), "bound is", "bounds are"), " missed: ", and_list(paste0(failures$where, " (", failures$what, ")"), 6), ".")
}

#' @export
first_look.sw_validity <- function(x) {
  c(
    list(x$tables$factors[c("factor", "items", "alpha", "composite_reliability", "maximal_reliability", "ave", "msv", "asv")], x$tables$matrix),
    if (nrow(x$tables$pairs) > 0) list(x$tables$pairs[c("factor", "with", "correlation", "htmt", "htmt_low", "htmt_high", "verdict", "root_above",
      "p.value")]),
    if (nrow(x$tables$failures) > 0) list(x$tables$failures), if (!is.null(x$tables$higher)) list(x$tables$higher),
    if (!is.null(x$tables$outside)) list(x$tables$outside)
  )
}

#' @export
glance_figures.sw_validity <- function(x) {
  list(factors = nrow(x$tables$factors), lowest_ave = min(x$tables$factors$ave), highest_htmt = max(c(x$tables$pairs$htmt, NA_real_), na.rm = TRUE),
    failures = nrow(x$tables$failures))
}

#' @export
sentences.sw_validity <- function(x) {
  f <- x$tables$factors
  pairs <- x$tables$pairs
  options <- x$about$options
  c(
    paste0("Composite reliability was ", between_words(f$composite_reliability), ", average variance extracted (AVE; Fornell & Larcker, 1981) ",
      between_words(f$ave), "."),
    if (nrow(pairs) > 0) paste0("The heterotrait-monotrait ratio (Henseler et al., 2015) was at most ",
      coefficient_text(max(pairs$htmt, na.rm = TRUE), 2),
      if (any(!is.na(pairs$htmt_high))) paste0(" (largest upper end of its ", format(100 * options$level), "% bootstrap intervals ",
        coefficient_text(max(pairs$htmt_high, na.rm = TRUE), 2), ")"), "; the root of AVE exceeded the correlation in ",
          sum(pairs$root_above == "yes"),
      " of ", count_of(nrow(pairs), "pair"), " of factors."),
    if (nrow(x$tables$failures) > 0) paste0("The usual bounds were missed by ", and_list(unique(x$tables$failures$where), 12), ".")
  )
}
