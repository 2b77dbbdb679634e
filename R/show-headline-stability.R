# The answer of a stability, and what to look at first.

#' @export
headline.sw_stability <- function(x) {
  table <- x$tables$factors
  of <- function(codes) table$factor[table$verdict %in% codes]
  half <- x$about$n %/% 2
  if (any(table$verdict_reason %in% "few_solutions")) {
    return(message_of("stability_unknown", half = half))
  }
  back <- of(c("met", "between"))
  every <- length(back) == nrow(table) && nrow(table) > 1
  parts <- list(
    if (every) if (nrow(table) == 2) message_of("both_come_back") else message_of("all_come_back", count = nrow(table)),
    if (length(back) > 0 && !every) message_of("come_back", factors = back),
    if (length(of("near")) > 0) message_of("come_back_in_some", factors = of("near")),
    if (length(of("missed")) > 0) message_of("do_not_come_back", factors = of("missed")),
    if (length(of("untested")) > 0) message_of("nothing_of_factors", factors = of("untested"))
  )
  expected <- if (!anyNA(table$congruence_expected)) message_of("to_be_expected", congruence = table$congruence_expected[which.min(table$congruence)])
  message_of("stability_found", what = message_of("listed_parts", parts = Filter(Negate(is.null), parts)), half = half,
    lowest = min(table$congruence), expected = expected)
}

#' @export
first_look.sw_stability <- function(x) {
  items <- x$tables$items
  unsure <- items[!meets(items$share_same, x$limits, "home_share"), ]
  c(list(x$tables$factors[c("factor", "congruence", "conf.low", "conf.high", "congruence_expected", "verdict", "verdict_reason")]),
    if (nrow(unsure) > 0) list(unsure),
    if (!is.null(x$tables$groups)) list(x$tables$groups))
}
