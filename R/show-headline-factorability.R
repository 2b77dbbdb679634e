# The answer of a factorability, and what to look at first.

#' @export
headline.sw_factorability <- function(x) {
  overall <- x$tables$overall
  fails <- overall$figure[overall$verdict %in% "missed"]
  list(
    if (length(fails) == 0) message_of("can_be_factored") else
      message_of("look_first_at", figures = messages_of("a_term", term = tolower(column_header(fails)))),
    message_of("adequacy_and_sphericity", adequacy = overall$value[1], verdict = adequacy_verdict(overall$verdict[1], limit(x$limits, "kmo")),
      chi_square = overall$value[2], df = overall$df[2], p = overall$p.value[2])
  )
}

adequacy_verdict <- function(code, rule) {
  switch(code, met = message_of("meets_bound", bound = if (is.na(rule$better)) rule$bound else rule$better),
    between = message_of("meets_bound", bound = rule$bound), near = message_of("about_bound", bound = rule$bound),
    message_of("below_bound", bound = rule$bound))
}

#' @export
first_look.sw_factorability <- function(x) {
  items <- x$tables$items
  list(x$tables$overall[c("figure", "value", "df", "p.value", "verdict", "meaning")], items[order(items$sampling_adequacy)[seq_len(min(5,
    nrow(items)))], ])
}
