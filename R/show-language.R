# Sentences in the reader's language. The words of a language are data: inst/report/words-<language>.yml holds headings, captions, columns and
# verdicts, and under `sentences` each English sentence with {1}, {2}, ... where names and numbers stand, beside the same in that
# language; `phrases` are what such a place may hold. What a language lacks stays English.

# Texts in the language of these words; decimals as it writes them.
said_in <- function(text, words) {
  if (length(text) == 0 || (length(words$sentences) == 0 && is.null(words$decimal))) {
    return(text)
  }
  catalogue <- sentence_catalogue(words)
  vapply(as.character(text), function(one) if (is.na(one)) NA_character_ else say_one(one, catalogue, words), "", USE.NAMES = FALSE)
}

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

say_one <- function(text, catalogue, words) {
  if (NROW(catalogue) == 0) {
    return(as_written(text, words))
  }
  parts <- strsplit(text, "(?<=[a-z0-9)\"%\\]][.!?]) (?=[A-Z0-9\"])", perl = TRUE)[[1]]
  said <- lapply(parts, function(part) {
    known <- match_sentence(part, catalogue, words)
    if (!is.null(known)) known else if (is_sentence(part) && is.null(words$phrases[[part]])) part else say_phrases(part, words)
  })
  as_written(paste(unlist(said), collapse = " "), words)
}

# Decimals and quotes as the language writes them.
as_written <- function(text, words) {
  text <- with_decimals(text, words$decimal)
  if (is.null(words$quotes)) text else gsub("\"([^\"]*)\"", paste0(words$quotes[1], "\\1", words$quotes[2]), text)
}

# A sentence the catalogue lacks stays whole: half of each language is harder to read than one of them.
is_sentence <- function(text) {
  grepl("[a-z0-9)\"%][.!?]$", text) && length(strsplit(text, " ", fixed = TRUE)[[1]]) > 3
}

# Templates as patterns, the most literal first; made once for each language.
sentence_catalogue <- function(words) {
  known <- catalogues[[words$language]]
  if (!is.null(known)) {
    return(known)
  }
  if (length(words$sentences) == 0) {
    return(NULL)
  }
  from <- names(words$sentences)
  place <- "[{][0-9]+[}]"
  literal <- lapply(strsplit(from, place), function(parts) if (length(parts) == 0) "" else parts)
  marks <- regmatches(from, gregexpr(place, from))
  escape <- function(x) gsub("([][{}()+*^$|\\?.])", "\\\\\\1", x)
  pattern <- mapply(function(parts, marks) {
    parts <- c(parts, rep("", length(marks) + 1 - length(parts)))
    paste0("^", paste0(escape(parts), c(rep("(.+?)", length(marks)), ""), collapse = ""), "$")
  }, literal, marks)
  out <- data.frame(pattern = pattern, to = unlist(words$sentences), core = vapply(literal, function(x) x[which.max(nchar(x))], ""),
    marks = vapply(marks, function(own) paste(gsub("[{}]", "", own), collapse = " "), ""), size = vapply(literal, function(x) sum(nchar(x)), 0L))
  out <- out[order(-out$size), ]
  catalogues[[words$language]] <- out
  out
}

catalogues <- new.env()

match_sentence <- function(text, catalogue, words) {
  for (i in which(vapply(catalogue$core, grepl, TRUE, x = text, fixed = TRUE))) {
    found <- regmatches(text, regexec(catalogue$pattern[i], text, perl = TRUE))[[1]]
    if (length(found) == 0) next
    out <- catalogue$to[i]
    marks <- strsplit(catalogue$marks[i], " ")[[1]]
    for (k in seq_along(marks)) {
      own <- words$sentences[[found[k + 1]]]
      out <- gsub(paste0("{", marks[k], "}"), if (is.null(own)) say_phrases(found[k + 1], words) else own, out, fixed = TRUE)
    }
    return(out)
  }
  NULL
}

# Known phrases within a text, as whole words, the longest first; words in quotes are somebody's own.
say_phrases <- function(text, words) {
  if (grepl("^\"[^\"]*\"$", text)) {
    return(text)
  }
  phrases <- words$phrases
  for (phrase in names(phrases)[order(-nchar(names(phrases)))]) {
    if (grepl(phrase, text, fixed = TRUE)) {
      text <- gsub(paste0("(?<![[:alnum:]_])", gsub("([][{}()+*^$|\\?.])", "\\\\\\1", phrase), "(?![[:alnum:]_])"), phrases[[phrase]], text,
        perl = TRUE)
    }
  }
  text
}

# 3.45 and .83 as 3,45 and 0,83; versions, names and dates stay.
with_decimals <- function(text, decimal) {
  if (is.null(decimal)) {
    return(text)
  }
  text <- gsub("(?<![[:alnum:]_.])(-?)\\.([0-9]+)(?![[:alnum:]_]|\\.[0-9])", paste0("\\10", decimal, "\\2"), text, perl = TRUE)
  gsub("(?<![[:alnum:]_.])(-?[0-9]+)\\.([0-9]+)(?![[:alnum:]_]|\\.[0-9])", paste0("\\1", decimal, "\\2"), text, perl = TRUE)
}
