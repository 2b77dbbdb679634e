# The answer of how people answered, and what to look at first.

#' @export
headline.sw_answering <- function(x) {
  parts <- x$parts
  n <- nrow(parts$flags)
  straight <- sum(parts$straight)
  random <- sum(parts$random)
  flagged <- length(parts$flagged_rows) - straight - random
  off <- sum(parts$broke_off)
  what <- list(
    if (straight > 0) message_of("answer_straight", count = straight),
    if (random > 0) message_of("answer_random", count = random),
    if (flagged > 0) message_of("have_flags", count = flagged, flags = x$about$options$at_least),
    if (off > 0) message_of("broke_off", count = off)
  )
  people <- parts$people$people
  cases <- if (is.null(people)) message_of("of_cases", cases = n) else message_of("of_rows", rows = n, people = people)
  found <- Filter(Negate(is.null), what)
  if (length(found) > 0) {
    return(message_of("some_careless", cases = cases, what = found))
  }
  message_of(if (is.null(parts$judged)) "none_careless" else "careless_not_told", cases = cases)
}

#' @export
first_look.sw_answering <- function(x) {
  cases <- x$tables$cases
  shown <- utils::head(cases[cases$counted, ], 15)
  c(
    list(x$tables$indices[c("index", "bound", "n", "flagged")]), if (nrow(shown) > 0) list(who_was_flagged(x, shown)),
    list(x$tables$sensitivity), if (!is.null(x$tables$effect)) list(effect_by_people(x$tables$effect))
  )
}

# A figure a column, each with decimals of its own kind.
effect_by_people <- function(effect) {
  figures <- lapply(stats::setNames(seq_len(nrow(effect)), effect$figure), function(i) c(effect$everyone[i], effect$without[i]))
  list2DF(c(list(people = c("everyone", "without flagged")), figures))
}

# Identifier, wave, flags; an identifier whose name means something else in a table is headed "case".
who_was_flagged <- function(x, cases) {
  keys <- setdiff(names(cases), c(names(x$parts$values), "flagged", "by"))
  shown <- cases[c(keys, "flagged", "by")]
  if (length(keys) > 0 && column_header(keys[1]) != keys[1]) names(shown)[1] <- "case"
  shown
}
