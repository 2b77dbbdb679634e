# The answer of a stability, and what to look at first.

#' @export
headline.sw_stability <- function(x) {
  table <- x$tables$factors
  of <- function(codes) table$factor[table$verdict %in% codes]
  back <- of(c("met", "between"))
  parts <- c(
    if (length(back) > 0) paste(if (length(back) == nrow(table) && nrow(table) > 1) paste(if (nrow(table) == 2) "both" else paste("all",
      nrow(table)), "factors come") else
      paste(and_list(back), if (length(back) == 1) "comes" else "come"), "back"),
    if (length(of("near")) > 0) paste(and_list(of("near")), if (length(of("near")) == 1) "comes" else "come",
      "back in some halves and not in others"),
    if (length(of("missed")) > 0) paste(and_list(of("missed")), if (length(of("missed")) == 1) "does" else "do", "not come back"),
    if (length(of("untested")) > 0) paste("of", and_list(of("untested")), "nothing can be said")
  )
  if (any(table$verdict_reason %in% "few_solutions")) {
    return(paste0("Nothing can be said: most halves of ", x$about$n %/% 2, " people gave no solution."))
  }
  paste0(sentence_start(and_list(parts)), " in halves of ", x$about$n %/% 2, " people (lowest mean congruence ",
    coefficient_text(min(table$congruence), 2),
    if (!anyNA(table$congruence_expected)) paste0("; ", coefficient_text(table$congruence_expected[which.min(table$congruence)], 2),
      " to be expected"), ").")
}

#' @export
first_look.sw_stability <- function(x) {
  items <- x$tables$items
  unsure <- items[!meets(items$share_same, x$limits, "home_share"), ]
  c(list(x$tables$factors[c("factor", "congruence", "conf.low", "conf.high", "congruence_expected", "verdict", "verdict_reason")]),
    if (nrow(unsure) > 0) list(unsure),
    if (!is.null(x$tables$groups)) list(x$tables$groups))
}
