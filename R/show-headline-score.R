# The answer of scores, and what to look at first.

#' @export
headline.sw_scores <- function(x) {
  table <- x$tables$scales
  people <- x$parts$people
  list(
    if (is.null(people)) message_of("scores_for_cases", count = nrow(table), cases = x$about$n, scores = table$score) else
      message_of("scores_for_people", count = nrow(table), people = people$people, rows = x$about$n, scores = table$score),
    change_message(x$tables$rates)
  )
}

#' @export
first_look.sw_scores <- function(x) {
  c(
    list(x$tables$scales[c("score", "items", "n", "without", "mean", "sd", "lowest", "highest", "reliability", "sem")]),
    x$tables[intersect(c(if (NROW(x$tables$correlations) <= 6) "correlations", "bands", "consistency"), names(x$tables))],
    if (!is.null(x$tables$rates)) list(x$tables$rates[c("score", "wave", "n", "change", "up", "down", "beyond", "by_error", "more")])
  )
}

# Are there more changes beyond error than error alone would give?
change_message <- function(rates) {
  if (is.null(rates) || all(rates$n == 0)) {
    return(NULL)
  }
  more <- which(rates$more == "yes")
  if (length(more) == 0) {
    return(message_of("changes_by_error", beyond = sum(rates$beyond), all = sum(rates$n), by_error = round(sum(rates$by_error))))
  }
  first <- rates[more[which.min(rates$p.value[more])], ]
  message_of("changes_beyond_error", count = length(more), rows = nrow(rates), score = first$score, wave = first$wave, beyond = first$beyond,
    all = first$n, by_error = round(first$by_error))
}
