# Fixed words of a report in its reader's language.

# Texts by a dictionary (a named list); "with calm" is taken word by word.
translated <- function(texts, dictionary) {
  vapply(texts, function(text) {
    known <- dictionary[[text]]
    if (!is.null(known)) known else if (startsWith(text, "with ") && !is.null(dictionary$with)) sub("^with", dictionary$with, text) else text
  }, "", USE.NAMES = FALSE)
}
