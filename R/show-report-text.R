# Sentences of results as a report has them.

# What is said, in the language of a report; results of former versions hold words only, which stay as they are.
in_report <- function(said, words) if (is.character(said)) said else say(said, words$language, "report")

# The notes of a result for a report, those that only speak of R gone. The recipes of scores stand in their table.
report_notes <- function(x, words, most = Inf) {
  noted <- x$noted[x$noted$code != "recipe", ]
  said <- vapply(said_in_notes(noted)[order(noted$rank)], in_report, "", words = words)
  utils::head(said[nzchar(said)], most)
}

# Columns that hold names of the data, which are in no language.
names_as_they_are <- c("item", "wording", "scale", "factor", "with", "group", "id", "score", "option", "label", "pattern", "answer", "name")

# Names of items, factors and people stay as they are; lists of them and of indices get the language's words.
spoken_columns <- function(columns, words) {
  spoken <- setdiff(names(columns), names_as_they_are)
  columns[spoken] <- lapply(columns[spoken], cells_in, words = words)
  if ("pattern" %in% names(columns) && !is.null(words$phrases$and)) {
    columns$pattern <- gsub(" and ", paste0(" ", words$phrases$and, " "), translated(columns$pattern, words$columns), fixed = TRUE)
  }
  columns
}

# Texts by a dictionary (a named list); of "with calm" and "factor of 2" the beginning alone.
translated <- function(texts, dictionary) {
  vapply(texts, function(text) {
    start <- sub("^(with|(factor|loading) of) .*$", "\\1", text)
    if (!is.null(dictionary[[text]])) dictionary[[text]] else
      if (start != text && !is.null(dictionary[[start]])) paste0(dictionary[[start]], substring(text, nchar(start) + 1)) else text
  }, "", USE.NAMES = FALSE)
}
