# The answer of validity, and what to look at first.

#' @export
headline.sw_validity <- function(x) {
  paste0(c(apart_words(x$tables$pairs), together_words(x$tables$factors)), collapse = " ")
}

# Can the factors be told apart?
apart_words <- function(pairs) {
  if (nrow(pairs) == 0) {
    return(NULL)
  }
  named <- function(rows) {
    paste0(rows$factor, " and ", rows$with, " (r ", coefficient_text(rows$correlation, 2), ", HTMT ", coefficient_text(rows$htmt, 2), ")")
  }
  same <- pairs[pairs$verdict %in% "missed" | pairs$verdict_r %in% "missed", ]
  open <- pairs[pairs$verdict %in% "near" | pairs$verdict_r %in% "near", ]
  if (nrow(same) > 0) {
    return(paste0("Not told apart: ", and_list(named(same), 3), "."))
  }
  if (nrow(open) > 0) {
    return(paste0("Whether these can be told apart stays open: ", and_list(named(open), 3), "."))
  }
  top <- pairs[which.max(pairs$htmt), ]
  paste0("All factors can be told apart", if (nrow(top) == 1) paste0(" (largest HTMT ", coefficient_text(top$htmt, 2), ", ", top$factor, " and ",
    top$with, ")"), ".")
}

# Do the items of each factor belong together?
together_words <- function(factors) {
  thin <- factors$factor[factors$verdict_ave %in% "missed"]
  weak <- factors$factor[factors$verdict_reliability %in% "missed"]
  near <- factors$factor[factors$verdict_ave %in% "near" | factors$verdict_reliability %in% "near"]
  if (length(weak) > 0) {
    return(paste0("Composite reliability is too low for ", and_list(weak), "."))
  }
  if (length(thin) > 0) {
    return(paste0("Items of ", and_list(thin), " hold more error than they share (AVE below .50)."))
  }
  if (length(near) > 0) paste0("Whether the items of ", and_list(near), " share enough stays open.") else
    paste0(if (nrow(factors) == 1) "The items of the one factor" else "Every factor's items", " belong together, by the usual bounds.")
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
