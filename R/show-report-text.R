# Sentences of results as a report has them.

# Without R code: what names a function in brackets is cut, and a sentence that needs one is left out.
without_code <- function(text) {
  text <- gsub(" \\(`(sw_|tidy|augment|summary)[^`]*`\\)", "", text)
  vapply(text, function(one) {
    parts <- strsplit(one, "(?<=[.!?])\\s+(?=[A-Z0-9`\"])", perl = TRUE)[[1]]
    code <- grepl("sw_[a-z]+|`(tidy|augment|summary)\\(", parts)
    paste(parts[!code], collapse = " ")
  }, "", USE.NAMES = FALSE)
}

# The notes of a result for a report, those that only speak of R gone.
report_notes <- function(x, most = Inf) {
  said <- without_code(x$noted$words[order(x$noted$rank)])
  utils::head(said[nzchar(said)], most)
}
