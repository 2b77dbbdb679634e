# The answer of validity, and what to look at first.

#' @export
headline.sw_validity <- function(x) list(apart_message(x$tables$pairs), together_message(x$tables$factors))

# Can the factors be told apart?
apart_message <- function(pairs) {
  if (nrow(pairs) == 0) {
    return(NULL)
  }
  named <- function(rows) {
    messages_of("pair_r_htmt", first = rows$factor, second = rows$with, r = rows$correlation, htmt = rows$htmt)
  }
  same <- pairs[pairs$verdict %in% "missed" | pairs$verdict_r %in% "missed", ]
  open <- pairs[pairs$verdict %in% "near" | pairs$verdict_r %in% "near", ]
  if (nrow(same) > 0) {
    return(message_of("not_told_apart", pairs = named(same)))
  }
  if (nrow(open) > 0) {
    return(message_of("apart_stays_open", pairs = named(open)))
  }
  top <- pairs[which.max(pairs$htmt), ]
  if (nrow(top) == 0) message_of("all_told_apart") else
    message_of("all_told_apart_htmt", htmt = top$htmt, first = top$factor, second = top$with)
}

# Do the items of each factor belong together?
together_message <- function(factors) {
  thin <- factors$factor[factors$verdict_ave %in% "missed"]
  weak <- factors$factor[factors$verdict_reliability %in% "missed"]
  near <- factors$factor[factors$verdict_ave %in% "near" | factors$verdict_reliability %in% "near"]
  if (length(weak) > 0) message_of("reliability_too_low", factors = weak) else if (length(thin) > 0) message_of("more_error", factors = thin) else
    if (length(near) > 0) message_of("sharing_open", factors = near) else
    message_of(if (nrow(factors) == 1) "one_belongs_together" else "all_belong_together")
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
  Filter(Negate(is.null), list(
    message_of("composite_reliability_was", reliability = f$composite_reliability, ave = f$ave),
    if (nrow(pairs) > 0) message_of("htmt_was", htmt = max(pairs$htmt, na.rm = TRUE), interval = if (any(!is.na(pairs$htmt_high)))
      message_of("htmt_upper_end", level = format(100 * x$about$options$level), high = max(pairs$htmt_high, na.rm = TRUE)),
      exceeded = sum(pairs$root_above == "yes"), pairs = nrow(pairs)),
    if (nrow(x$tables$failures) > 0) message_of("usual_bounds_missed", where = unique(x$tables$failures$where))
  ))
}
