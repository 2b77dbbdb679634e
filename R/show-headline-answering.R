# The answer of how people answered, and what to look at first.

#' @export
headline.sw_answering <- function(x) {
  parts <- x$parts
  n <- nrow(parts$flags)
  straight <- sum(parts$straight)
  flagged <- length(parts$flagged_rows)
  off <- sum(parts$broke_off)
  what <- c(
    if (straight > 0) paste(straight, if (straight == 1) "answers" else "answer", "in straight lines"),
    if (flagged > straight) paste(flagged - straight, if (flagged - straight == 1) "has" else "have", x$about$options$at_least, "flags or more"),
    if (off > 0) paste(off, "broke off")
  )
  people <- parts$people$people
  cases <- if (is.null(people)) count_of(n, "case") else paste0(count_of(n, "row"), " of ", people, " people")
  if (length(what) == 0) paste0("None of ", cases, " looks careless.") else paste0("Of ", cases, ", ", and_list(what), ".")
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
