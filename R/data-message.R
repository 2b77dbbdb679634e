# What is said to a reader is a code with its parts, put into words where it is read, in the reader's language. The words of a language are one file,
# inst/words/<language>.yml: a template a code, with places such as {loading|r2} for its parts. A template may have forms: by the count of a part
# (`by`, `one`, `other`), and by where it is read (`report`, `desk`; else as in print).

message_of <- function(code, ...) structure(list(code = code, parts = list(...)), class = "sw_message")

# Words of a message, or of several in a list, one after another; what is text already stays. place: "print", "report" or "desk".
say <- function(said, language = "en", place = "print") {
  if (is.character(said)) {
    return(said)
  }
  if (!inherits(said, "sw_message")) {
    said <- Filter(Negate(is.null), said)
    return(paste(vapply(said, say, "", language = language, place = place), collapse = " "))
  }
  words <- words_of_language(language)
  template <- form_of(words[[said$code]], said$parts, place)
  if (is.null(template)) {
    return(unworded(said))
  }
  former <- options(OutDec = words$.decimal)
  on.exit(options(former))
  as.character(glue::glue_data(said$parts, template, .transformer = function(text, envir) {
    at <- strsplit(text, "|", fixed = TRUE)[[1]]
    part_words(said$parts[[at[1]]], at[2], words, language, place)
  }))
}

# A code that a language has no words for is shown with its parts, so that nothing is lost.
unworded <- function(said) {
  parts <- vapply(said$parts, function(part) paste(if (inherits(part, "sw_message")) unworded(part) else format(part), collapse = ", "), "")
  paste0(said$code, if (length(parts) > 0) paste0(" (", paste(names(parts), "=", parts, collapse = "; "), ")"))
}

# The form of a template for these parts and this place.
form_of <- function(entry, parts, place) {
  if (!is.list(entry)) {
    return(entry)
  }
  if (!is.null(entry[[place]])) {
    return(form_of(entry[[place]], parts, place))
  }
  if (!is.null(entry$by)) entry[[if (identical(as.numeric(parts[[entry$by]]), 1)) "one" else "other"]] else form_of(entry$print, parts, place)
}

# A part as its place asks for it: list, name (in quotes), n (a whole number), r2 and r3 (coefficients), d1 and d2 (decimals), p (= .022, < .001);
# without a kind a text, a number as it is, or a message.
part_words <- function(part, kind, words, language, place) {
  if (identical(kind, "list")) {
    return(listed(if (is.list(part)) vapply(part, say, "", language = language, place = place) else as.character(part), words))
  }
  if (inherits(part, "sw_message") || is.list(part)) {
    return(say(part, language, place))
  }
  if (is.na(kind)) {
    return(format(part))
  }
  switch(kind,
    name = paste0(words$.quotes[[1]], part, words$.quotes[[2]]),
    n = format(part, big.mark = words$.thousands, trim = TRUE, scientific = FALSE),
    r2 = written_coefficient(part, 2, words), r3 = written_coefficient(part, 3, words),
    d1 = formatC(part, format = "f", digits = 1), d2 = formatC(part, format = "f", digits = 2),
    p = if (is.na(part)) words$.undefined else if (part < .001) paste("<", written_coefficient(.001, 3, words)) else
      paste("=", written_coefficient(part, 3, words))
  )
}

# Without a leading zero where the language writes none.
written_coefficient <- function(x, digits, words) {
  if (is.na(x)) {
    return(words$.unavailable)
  }
  text <- sub("^-(0([.,]0*)?)$", "\\1", formatC(x, format = "f", digits = digits))
  if (isTRUE(words$.leading_zero)) text else sub("^(-?)0[.]", "\\1.", text)
}

# "a, b and 4 more".
listed <- function(x, words, most = 8) {
  if (length(x) > most) x <- c(utils::head(x, most - 1), sub("{n}", length(x) - most + 1, words$.more, fixed = TRUE))
  if (length(x) < 2) paste(x, collapse = "") else paste(paste(utils::head(x, -1), collapse = ", "), words$.and, utils::tail(x, 1))
}

# Read once in a process.
words_of_language <- local({
  kept <- list()
  function(language) {
    if (is.null(kept[[language]])) {
      path <- system.file("words", paste0(language, ".yml"), package = "scalewort", mustWork = TRUE)
      kept[[language]] <<- yaml::read_yaml(path, eval.expr = FALSE)
    }
    kept[[language]]
  }
})
