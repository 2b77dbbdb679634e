# Sentences of results as a report has them.

# Without R code: what names a function in brackets is cut, and a sentence that needs one is left out.
without_code <- function(text) {
  aside <- "(?:[^()`]|`[^`]*`)*"
  text <- gsub(paste0(" \\(", aside, "`(?:sw_|tidy|augment|summary)[^`]*`", aside, "\\)"), "", text, perl = TRUE)
  text <- gsub("; `[a-z_]+` changes that", "", gsub("`([a-z_]+) = \"([a-z_]+)\"`", "\\1 \\2", text))
  text <- gsub(" \\(table `[a-z_]+`\\)", "", text)
  vapply(text, function(one) {
    parts <- strsplit(one, "(?<=[.!?])\\s+(?=[A-Z0-9`\"])", perl = TRUE)[[1]]
    code <- grepl("sw_[a-z]+|`(tidy|augment|summary)\\(", parts)
    paste(parts[!code], collapse = " ")
  }, "", USE.NAMES = FALSE)
}

# What is said, in the language of a report: messages by their words there, what is a sentence already by its template.
in_report <- function(said, words) {
  if (!is.character(said)) {
    return(say(said, words$language, "report"))
  }
  if (identical(said, "")) {
    return(said)
  }
  said_in(without_code(said), words)
}

# The notes of a result for a report, those that only speak of R gone. The recipes of scores stand in their table.
report_notes <- function(x, words, most = Inf) {
  noted <- x$noted[x$noted$code != "recipe", ]
  said <- vapply(said_in_notes(noted)[order(noted$rank)], in_report, "", words = words)
  utils::head(said[nzchar(said)], most)
}
