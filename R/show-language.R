# Fixed words of reports and the desk in the reader's language, and decimals as it writes them.

report_words <- function(language) {
  own <- words_of_language(language)
  words <- own$.report
  words[c("columns", "verdicts", "phrases")] <- own[c(".columns", ".verdicts", ".terms")]
  words$language <- language
  if (own$.decimal != ".") words$decimal <- own$.decimal
  words
}

# Fixed words by their name in one of a language's dictionaries: .steps, .tables, .commands, .metavars, .options_help.
word_of <- function(name, dictionary, language = reading_language()) {
  own <- words_of_language(language)[[dictionary]][[name]]
  if (is.null(own)) name else own
}
