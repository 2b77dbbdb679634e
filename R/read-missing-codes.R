# Codes for missing answers: what the codebook's `missing` says, and what a cell means by it.

plain_text <- function(column) {
  text <- trimws(as.character(column))
  text[is.na(text) | text == "NA"] <- ""
  text
}

# Missing codes of one item, "-9 skipped:-8 unseen:blank": data frame(code, kind), kind one of "missing", "skipped",
# "unseen". The code "blank" stands for an empty cell; codes with spaces are quoted.
missing_codes <- function(text) {
  if (is.na(text) || text == "") {
    return(plain_table(code = character(), kind = character()))
  }
  words <- regmatches(text, gregexpr("(skipped:|unseen:)?(\"[^\"]*\"|[^[:space:],;\"]+)", text))[[1]]
  words <- gsub("\"", "", words, fixed = TRUE)
  kind <- ifelse(grepl("^skipped:", words), "skipped", ifelse(grepl("^unseen:", words), "unseen", "missing"))
  plain_table(code = sub("^(skipped|unseen):", "", words), kind = kind)
}

quoted_codes <- function(codes) ifelse(grepl("[[:space:],;]", codes), paste0("\"", codes, "\""), codes)

# How each cell of a column as it came is missing ("missing", "skipped", "unseen"), NA where there is an answer. An
# empty cell of which the codebook says nothing is `silent`. Numbers are compared as numbers, words whatever their
# case and blanks; an option of a test item is an answer.
missing_kind <- function(column, spec, silent = if (is.na(spec$answer)) "missing" else "skipped") {
  codes <- missing_codes(spec$missing)
  blank <- if ("blank" %in% codes$code) codes$kind[match("blank", codes$code)] else silent
  codes <- codes[codes$code != "blank", ]
  if (is.numeric(column)) {
    kind <- codes$kind[match(column, suppressWarnings(as.numeric(codes$code)), incomparables = NA)]
    kind[is.na(column)] <- blank
    return(kind)
  }
  text <- plain_text(column)
  kind <- codes$kind[match(same_words(text), same_words(codes$code))]
  kind[text == ""] <- blank
  if (!is.na(spec$options)) kind[text %in% strsplit(spec$options, "[[:space:]]+")[[1]]] <- NA
  kind
}

# Which cells stand for no answer: empty ones of other columns, else what the codebook says.
stands_for_none <- function(values, spec) is.na(values) | if (is.null(spec)) FALSE else !is.na(missing_kind(values, spec, silent = NA))
