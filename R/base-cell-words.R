# What tables hold, in words of a language: looked up by its English, cell by cell.

# Cells of a table: words of the language where it has them, alone, in a list or before a bracket; decimals as it writes them.
cells_in <- function(texts, words) {
  catalogue <- words_of_language(words$language)
  if (length(catalogue$.terms) == 0) {
    return(as.character(texts))
  }
  kinds <- unique(as.character(texts))
  said <- vapply(kinds, function(text) if (is.na(text)) NA_character_ else with_decimals(cell_words(text, catalogue), words$decimal), "")
  unname(said[match(texts, kinds)])
}

cell_words <- function(text, catalogue) {
  if (length(catalogue$.terms) == 0) {
    return(text)
  }
  known <- term_of(text, catalogue)
  if (known != text) {
    return(known)
  }
  parts_of <- function(pattern) regmatches(text, regexec(pattern, text))[[1]][-1]
  pieces <- strsplit(text, "; ", fixed = TRUE)[[1]]
  if (length(pieces) > 1) {
    return(paste(vapply(pieces, cell_words, "", catalogue = catalogue), collapse = "; "))
  }
  counted <- parts_of("^([0-9]+) of ([0-9]+) (.+)$")
  if (length(counted) > 0) {
    return(paste(counted[1], catalogue$.of, counted[2], term_of(counted[3], catalogue)))
  }
  bracket <- parts_of("^(.+)( \\(.+\\))$")
  if (length(bracket) > 0) {
    return(paste0(cell_words(bracket[1], catalogue), bracket[2]))
  }
  in_parts <- said_in_parts(text, catalogue)
  if (is.null(in_parts)) listed_cell(text, catalogue) else in_parts
}

# A known beginning ("mean of"), or a number, before what may be known; NULL where neither part is.
said_in_parts <- function(text, catalogue) {
  for (split in c("^(.* of) (.+)$", "^(.* to|.* on) (.+)$", "^([0-9][^ ]*) (.+)$")) {
    parts <- regmatches(text, regexec(split, text))[[1]][-1]
    said <- c(vapply(parts[1], term_of, "", catalogue), vapply(parts[-1], cell_words, "", catalogue))
    if (length(parts) > 0 && any(said != parts)) return(paste(said, collapse = " "))
  }
}

listed_cell <- function(text, catalogue) {
  for (between in c(", ", ": ", " and ")) {
    parts <- strsplit(text, between, fixed = TRUE)[[1]]
    if (length(parts) > 1) {
      said <- vapply(parts, cell_words, "", catalogue = catalogue)
      return(paste(said, collapse = if (between == " and ") paste0(" ", catalogue$.and, " ") else between))
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
