# Fixed words of reports and the desk in the reader's language, and decimals as it writes them.

# What a language lacks stays English.
report_words <- function(language) {
  read <- function(one) yaml::read_yaml(
    system.file("report", paste0("words-", one, ".yml"), package = "scalewort", mustWork = TRUE), eval.expr = FALSE)
  words <- read("en")
  if (language != "en") words <- utils::modifyList(words, read(language))
  own <- words_of_language(language)
  words[c("columns", "verdicts", "phrases")] <- own[c(".columns", ".verdicts", ".terms")]
  words$language <- language
  words
}

# 3.45 and .83 as 3,45 and 0,83; versions, names and dates stay.
with_decimals <- function(text, decimal) {
  if (is.null(decimal)) {
    return(text)
  }
  text <- gsub("(?<![[:alnum:]_.])(-?)\\.([0-9]+)(?![[:alnum:]_]|\\.[0-9])", paste0("\\10", decimal, "\\2"), text, perl = TRUE)
  gsub("(?<![[:alnum:]_.])(-?[0-9]+)\\.([0-9]+)(?![[:alnum:]_]|\\.[0-9])", paste0("\\1", decimal, "\\2"), text, perl = TRUE)
}
