# The answer of scores, and what to look at first.

#' @export
headline.sw_scores <- function(x) {
  table <- x$tables$scales
  base <- table[table$score %in% x$tables$verdicts$name, ]
  people <- x$parts$people
  counted <- message_of(if (is.null(people)) "scores_for_cases" else "scores_for_people", count = nrow(table), cases = x$about$n,
    people = people$people, rows = x$about$n)
  list(unlike_message(x$parts$unlike), message_of("scores_fit", counted = counted, fit = fit_message(base, x$tables$verdicts, x$limits)),
    change_message(x$tables$rates))
}

# How reliable the scores are, and what they are fit for: as the worst of them.
fit_message <- function(base, verdicts, limits) {
  known <- base[!is.na(base$reliability), ]
  if (nrow(known) == 0) {
    return(message_of("scores_unjudged"))
  }
  worst <- c("missed", "near", "between", "met")
  code <- worst[min(match(verdicts$code[verdicts$code %in% worst], worst))]
  rule <- limit(limits, "alpha")
  at <- order(known$reliability)
  ends <- known[unique(at[c(1, length(at))]), ]
  span <- if (nrow(ends) == 1) message_of("reliability_of_one", reliability = ends$reliability) else
    message_of("reliability_of_several", low = ends$reliability[1], lowest = ends$score[1], high = ends$reliability[2], highest = ends$score[2])
  which <- known$score[known$score %in% verdicts$name[verdicts$code == code]]
  message_of(paste0("scores_", code), span = span, scores = which, bound = rule$bound, strict = rule$better)
}

# What was scored is not what was confirmed.
unlike_message <- function(unlike, code = "scored_unlike_confirmed") {
  if (is.null(unlike)) {
    return(NULL)
  }
  parts <- Filter(Negate(is.null), list(
    if (length(unlike$beyond) > 0) message_of("unlike_beyond", items = unlike$beyond),
    if (length(unlike$without) > 0) message_of("unlike_without", items = unlike$without),
    if (length(unlike$against) > 0) message_of("unlike_against", items = unlike$against),
    if (length(unlike$mixed) > 0) message_of("unlike_mixed", scores = unlike$mixed)
  ))
  message_of(code, parts = parts)
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
