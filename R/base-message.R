# What is said to a reader is a code with its parts, put into words where it is read, in the reader's language. The words of a language are one file,
# inst/words/<language>.yml: a template a code, with places such as {loading|r2} for its parts. A template may have forms: by the count of a part
# (`by`, `one`, `other`), and by where it is read (`report`, `desk`; else as in print).

message_of <- function(code, ...) structure(list(code = code, parts = list(...)), class = "sw_message")

# One message for each element of the parts; none where a part has none.
messages_of <- function(code, ...) {
  if (any(lengths(list(...)) == 0)) list() else unname(Map(message_of, code, ...))
}

# The language that is read: the one asked for, else that of `options(scalewort.language = )`, else English.
reading <- new.env()
reading_language <- function() if (is.null(reading$language)) known_language(getOption("scalewort.language")) else reading$language

# A language that there is, else English.
known_language <- function(language) if (is.character(language) && language[1] %in% names(offered_languages())) language[1] else "en"

# The languages that have a catalogue, each by its own name (which stands first in it); English in front.
offered_languages <- local({
  kept <- NULL
  function() {
    if (is.null(kept)) {
      paths <- list.files(system.file("words", package = "scalewort", mustWork = TRUE), "[.]yml$", full.names = TRUE)
      names <- vapply(paths, function(path) yaml::yaml.load(paste(readLines(path, 2, encoding = "UTF-8"), collapse = "\n"))$.language, "")
      names(names) <- tools::file_path_sans_ext(basename(paths))
      kept <<- names[order(names(names) != "en", names(names))]
    }
    kept
  }
})

# What `work` says, in a language; as before where none is asked for.
reading_in <- function(language, work) {
  former <- reading$language
  if (!is.null(language)) reading$language <- language
  on.exit(reading$language <- former)
  force(work)
}

# What `work` says, draws and writes in numbers, in the language that is read.
in_reading <- function(work) in_language(reading_language(), work)

# The same in another language.
in_language <- function(language, work) {
  decimal <- options(OutDec = words_of_language(language)$.decimal)
  on.exit(options(decimal))
  reading_in(language, work)
}

# A message put into words where it is read.
worded <- function(code, ..., place = "print") say(message_of(code, ...), place = place)

# The same of several: a text for each element of the parts, each worded once.
wordings <- function(code, ...) {
  parts <- list(...)
  if (any(lengths(parts) == 0)) {
    return(character())
  }
  parts <- lapply(parts, rep_len, max(lengths(parts)))
  key <- do.call(paste, c(parts, sep = "\r"))
  first <- which(!duplicated(key))
  said <- vapply(do.call(messages_of, c(code, lapply(parts, `[`, first))), say, "")
  said[match(key, key[first])]
}

# Words of a message, or of several in a list, one after another; what is text already stays. place: "print", "report" or "desk".
say <- function(said, language = reading_language(), place = "print") {
  if (is.character(said)) {
    return(said)
  }
  if (!inherits(said, "sw_message")) {
    parts <- vapply(Filter(Negate(is.null), said), say, "", language = language, place = place)
    return(paste(parts[nzchar(parts)], collapse = " "))
  }
  words <- words_of_language(language)
  template <- form_of(words[[said$code]], said$parts, place)
  if (is.null(template)) {
    return(unworded(said))
  }
  if (!grepl("[{}]", template)) {
    return(template)
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

# The form of a template for these parts and this place. A part counts as itself where it is one number, else as how many it is.
form_of <- function(entry, parts, place) {
  if (!is.list(entry)) {
    return(entry)
  }
  if (!is.null(entry[[place]])) {
    return(form_of(entry[[place]], parts, place))
  }
  if (is.null(entry$by)) {
    return(form_of(entry$print, parts, place))
  }
  part <- parts[[entry$by]]
  count <- if (is.numeric(part) && length(part) == 1) part else length(part)
  form <- if (count == 0 && !is.null(entry$none)) entry$none else if (count == 1) entry$one else entry$other
  form_of(form, parts, place)
}

# A part as its place asks for it. Of several: list (list3: of three at most), names (the same in quotes), commas, semicolons, or, by, either, counts
# (from - to), between and range2. Of one: name (in quotes), n (a whole number), r1, r2 and r3 (coefficients), d1 and d2 (decimals), bound, percent,
# p (= .022, < .001), numeral and ordinal, term (a word of .terms or .columns), cell (a table's cell), equality, correlations, separator, or a noun
# of .counts, to be counted. Of what is said: start (begins a sentence), bare (its first sentence without a stop). Without a kind a text, a number,
# or a message.
part_words <- function(part, kind, words, language, place) {
  texts <- function() if (is.list(part)) vapply(part, say, "", language = language, place = place) else as.character(part)
  if (grepl("^(list|names)", kind)) {
    most <- sub("^(list|names)", "", kind)
    quotes <- if (startsWith(kind, "names")) words$.quotes else c("", "")
    return(listed(paste0(quotes[[1]], texts(), quotes[[2]], recycle0 = TRUE), words, if (most == "") 8 else as.numeric(most)))
  }
  if (kind %in% c("commas", "semicolons", "or", "by")) {
    return(paste(texts(), collapse = switch(kind, commas = ", ", semicolons = "; ", paste0(" ", words[[paste0(".", kind)]], " "))))
  }
  # "a, b or c", twenty at most.
  if (identical(kind, "either")) {
    return(listed(texts(), utils::modifyList(words, list(.and = words$.or)), 20))
  }
  if (kind %in% c("between", "range2")) {
    return(written_range_of(part, kind, words))
  }
  if (identical(kind, "bare")) {
    return(sub("[.]$", "", first_sentence(part_words(part, NA, words, language, place))))
  }
  if (identical(kind, "start")) {
    return(sentence_start(part_words(part, NA, words, language, place)))
  }
  if (inherits(part, "sw_message") || is.list(part)) {
    return(say(part, language, place))
  }
  if (is.null(part)) "" else plain_words(part, kind, words)
}

# What is no message and no list.
plain_words <- function(part, kind, words) {
  if (is.na(kind)) {
    return(if (length(part) == 1) format(part) else paste(part, collapse = ", "))
  }
  if (kind %in% names(words$.counts)) {
    return(paste(format(part, big.mark = words$.thousands, trim = TRUE, scientific = FALSE), words$.counts[[kind]][if (part == 1) 1 else 2]))
  }
  switch(kind,
    name = paste0(words$.quotes[[1]], part, words$.quotes[[2]]),
    n = format(part, big.mark = words$.thousands, trim = TRUE, scientific = FALSE),
    r1 = written_coefficient(part, 1, words), r2 = written_coefficient(part, 2, words), r3 = written_coefficient(part, 3, words),
    d1 = formatC(part, format = "f", digits = 1), d2 = formatC(part, format = "f", digits = 2),
    bound = written_bound(part, words),
    percent = paste0(round(100 * part), "%"),
    numeral = if (part %in% seq_along(words$.numerals)) words$.numerals[[part]] else format(part),
    ordinal = if (is.null(words$.ordinal)) ordinal_word(part) else sub("{n}", part, words$.ordinal, fixed = TRUE),
    counts = paste(unique(range(part)), collapse = paste0(" ", words$.to, " ")),
    term = term_of(part, words), cell = cell_words(part, words), equality = words$.equalities[[part]], correlations = words$.correlations[[part]],
    separator = if (is.null(words$.separators[[part]])) part else words$.separators[[part]],
    p = if (is.na(part)) words$.undefined else if (part < .001) paste("<", written_coefficient(.001, 3, words)) else
      paste("=", written_coefficient(part, 3, words))
  )
}

# Table words in the language that is read, as labels of a legend or of panels, which are asked for when a figure is drawn.
in_terms <- function() {
  words <- words_of_language(reading_language())
  function(x) vapply(as.character(x), term_of, "", words = words, USE.NAMES = FALSE)
}

# A word of a table's cell or heading.
term_of <- function(part, words) {
  own <- c(words$.terms[[part]], words$.columns[[part]])
  if (is.null(own)) part else own[1]
}

# Without a leading zero where the language writes none.
written_coefficient <- function(x, digits, words) {
  if (is.na(x)) {
    return(words$.unavailable)
  }
  text <- sub("^-(0([.,]0*)?)$", "\\1", formatC(x, format = "f", digits = digits))
  if (isTRUE(words$.leading_zero)) text else sub("^(-?)0[.]", "\\1.", text)
}

# "between .61 and .75", "3.10 to 4.21" (d2), "597 to 624"; one value where the ends are the same.
written_range_of <- function(values, kind, words) {
  text <- if (kind == "between") unique(vapply(range(values), written_coefficient, "", digits = 2, words = words)) else
    unique(formatC(range(values), format = "f", digits = 2))
  if (length(text) == 1) text else
    sub("{high}", text[2], sub("{low}", text[1], if (kind == "between") words$.between else words$.range, fixed = TRUE), fixed = TRUE)
}

# .70, .708, 5: at least two decimals under one.
written_bound <- function(x, words) {
  if (abs(x) >= 1) {
    return(format(x))
  }
  sub("([.,][0-9]{2})0$", "\\1", written_coefficient(x, 3, words))
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
