# One column of a file as a first codebook sees it: a row, with what was guessed named in `guessed`.

# What one column looks like: a codebook row, guesses named in `guessed`.
# key: what stands in the column in a row of right answers.
draft_item <- function(name, column, foreign, most_options, key = NULL) {
  foreign <- labelled_none(foreign)
  row <- described_row(name, foreign)
  if (is.factor(column)) column <- as.character(column)
  seen <- unique(column)
  seen <- seen[if (is.numeric(seen)) !is.na(seen) else !trimws(as.character(seen)) %in% c(NA, empty_cells)]
  none <- rep(!is.numeric(seen), length(seen))
  none[none] <- same_words(as.character(seen[none])) %in% no_answer_words()
  row <- with_codes(row, seen[none])
  seen <- seen[!none]
  if (any(is_metadata(c(name, row$wording)))) {
    return(aside_row(row))
  }
  if (is.logical(seen) && length(seen) > 0) {
    return(draft_logical(row))
  }
  if (is.character(seen)) {
    stray <- stray_cells(column, seen)
    row <- with_codes(row, stray)
    seen <- setdiff(seen, stray)
    numbered <- numbered_answers(seen)
    if (!is.null(numbered)) {
      return(draft_numbered(row, numbered, most_options))
    }
    seen <- unique_words(seen)
    if (length(seen) > 0 && all(same_words(seen) %in% same_words(names(foreign$labels)))) {
      row[c("lowest", "highest")] <- as.list(format_answer(range(foreign$labels)))
      return(row)
    }
  }
  if (length(seen) == 0 || length(seen) > most_options + 4 || inherits(column, c("Date", "POSIXct"))) {
    return(aside_row(row))
  }
  number <- suppressWarnings(as.numeric(seen))
  if (!anyNA(number)) {
    return(draft_numbers(row, number, foreign, most_options))
  }
  draft_words(row, as.character(seen), key)
}

# FALSE and TRUE are 0 and 1.
draft_logical <- function(row) {
  row[c("lowest", "highest", "labels")] <- list("0", "1", "0 = FALSE; 1 = TRUE")
  row$guessed <- "lowest highest"
  row
}

# A label that says "no answer" makes its number none.
labelled_none <- function(foreign) {
  labels <- if (length(foreign$labels) > 0 && is.numeric(foreign$labels)) foreign$labels else numeric()
  none <- same_words(names(labels)) %in% no_answer_words()
  foreign$missing <- unique(c(foreign$missing, unname(labels[none])))
  foreign$labels <- labels[!none]
  foreign
}

# A codebook row with what the file says of the column.
described_row <- function(name, foreign) {
  row <- as.list(stats::setNames(rep("", length(codebook_fields)), codebook_fields))
  row$item <- name
  if (length(foreign$wording) == 1) row$wording <- foreign$wording
  if (length(foreign$missing) > 0) row$missing <- paste(foreign$missing, collapse = " ")
  if (length(foreign$labels) > 0) row$labels <- labels_text(foreign$labels)
  row
}

# Cells that stand for no answer, as codes.
with_codes <- function(row, cells) {
  if (length(cells) > 0) row$missing <- trimws(paste(row$missing, paste(quoted_codes(trimws(as.character(cells))), collapse = " ")))
  row
}

# A few short cells that are neither a number nor a word ("3?", "4-5", "-") in a column whose others are numbers, alone or beside words, four of
# five at least: no answers, but no reason either to take numbers for words.
stray_cells <- function(column, seen) {
  number <- function(x) !is.na(suppressWarnings(as.numeric(x))) | !is.na(numbered_cells(x)$number)
  stray <- seen[!number(seen)]
  if (length(stray) == 0 || length(stray) > 30 || length(stray) == length(seen)) {
    return(character())
  }
  filled <- trimws(column)
  share <- mean(filled[!filled %in% c(NA, empty_cells)] %in% trimws(stray))
  if (share <= .2 && all(nchar(stray) <= 5 & !grepl("[[:alpha:]]{3}", stray))) stray else character()
}

# Are these names, or wordings, of columns that a platform adds: when, how long, from where, by which link, in which language, and consent?
is_metadata <- function(text) {
  plain <- function(x) gsub("[^a-z]+", " ", tolower(gsub("([a-z])([A-Z])", "\\1 \\2", x)))
  known <- paste0("^ ?(start|end|recorded|submit|created|interview|duration|status|progress|finished|completed|consent|ip ?address|ip|location|",
    "latitude|longitude|response id|respondent id|response type|recipient|external|distribution channel|user language|language|collector|",
    "email|e mail|user agent|browser|device|os|referrer|token|session|lastpage|seed|startlanguage)",
    "( (date|time|datetime|first name|last name|name|id|in seconds|",
    "latitude|longitude|email|reference|data reference|address|ip address|version|resolution|page|mode))*( at| on)? ?$")
  text <- plain(text)
  grepl(known, text) & nzchar(trimws(text))
}

# "0 - not at all", "10 completely", and plain numbers between: the numbers, named by the words; NULL where some cell has no number, or none has
# words.
numbered_answers <- function(seen) {
  cells <- numbered_cells(seen)
  value <- ifelse(is.na(cells$number), suppressWarnings(as.numeric(seen)), cells$number)
  worded <- !is.na(cells$number)
  if (anyNA(value) || !any(worded)) {
    return(NULL)
  }
  of <- tapply(same_words(cells$word[worded]), value[worded], function(x) length(unique(x)))
  if (any(of > 1)) NULL else stats::setNames(value, ifelse(worded, cells$word, ""))
}

draft_numbered <- function(row, numbered, most_options) {
  row <- draft_numbers(row, sort(unique(unname(numbered))), list(), most_options)
  if (row$role == "aside") {
    return(row)
  }
  worded <- numbered[names(numbered) != ""]
  worded <- worded[!duplicated(same_words(names(worded)))]
  row$labels <- labels_text(sort(worded))
  row$guessed <- paste(unique(c("labels", strsplit(row$guessed, " ")[[1]])), collapse = " ")
  row
}

aside_row <- function(row) {
  row$role <- "aside"
  row$missing <- ""
  row$guessed <- "role"
  row
}

# Whole numbers: codes far from the rest are missing, the others the range.
draft_numbers <- function(row, number, foreign, most_options) {
  labelled <- parse_labels(row$labels)
  codes <- setdiff(c(lone_codes(number), unlabelled_codes(number, labelled)), foreign$missing)
  answers <- sort(setdiff(number, c(codes, foreign$missing)))
  halves <- length(answers) > 0 && all(2 * answers == round(2 * answers)) && mean(answers == round(answers)) >= .5
  fits <- length(answers) >= 2 && length(answers) <= most_options && halves && diff(range(answers)) < 2 * most_options
  if (!fits) {
    return(aside_row(row))
  }
  range <- if (length(labelled) > 1) range(c(labelled, answers)) else range(answers)
  row$lowest <- format_answer(range[1])
  row$highest <- format_answer(range[2])
  row$guessed <- paste(c(if (length(labelled) < 2) c("lowest", "highest"),
    if (length(codes) > 0 || (row$missing != "" && length(foreign$missing) == 0)) "missing"), collapse = " ")
  if (length(codes) > 0) row$missing <- trimws(paste(row$missing, paste(format_answer(codes), collapse = " ")))
  row
}

# Numbers outside of those that have labels, where these are three or more without a gap and the others usual codes.
unlabelled_codes <- function(number, labelled) {
  if (length(labelled) < 3 || any(diff(sort(unique(labelled))) != 1)) {
    return(numeric())
  }
  outside <- number[number < min(labelled) | number > max(labelled)]
  outside[outside %in% c(-1, -2, 7, 8, 9, usual_missing_codes)]
}

# Usual codes for "missing" further from the other answers than these span.
lone_codes <- function(number) {
  candidates <- sort(number[number %in% c(usual_missing_codes, if (all(number >= -2) && max(number) >= 3) c(-1, -2))])
  rest <- setdiff(number, candidates)
  if (length(candidates) == 0 || length(rest) < 2) {
    return(numeric())
  }
  span <- diff(range(rest))
  distance <- ifelse(candidates < min(rest), min(rest) - candidates, candidates - max(rest))
  far <- distance > span | (candidates < 0 & min(rest) >= 0)
  candidates[far & distance > 0]
}

# Words: single letters are options of a test; known answer words get numbers.
draft_words <- function(row, words, key = NULL) {
  found <- if (length(words) > 1) answer_family(words)
  if (is.null(found) && all(grepl("^[A-Za-z]$", words)) && length(words) %in% 2:8) {
    row$options <- paste(sort(words, method = "radix"), collapse = " ")
    if (!is.null(key) && key %in% words) {
      row$answer <- key
      row$guessed <- paste(c("options answer", if (row$missing != "") "missing"), collapse = " ")
      return(row)
    }
    row$role <- "aside"
    row$guessed <- paste(c("options role", if (row$missing != "") "missing"), collapse = " ")
    return(row)
  }
  if (is.null(found)) {
    row <- aside_row(row)
    row$labels <- paste("?", unique_words(words), sep = " = ", collapse = "; ")
    return(row)
  }
  row$labels <- numbered_words(unique_words(words), found$places[!duplicated(same_words(words))])
  row$lowest <- "1"
  row$highest <- as.character(length(unique(found$places)))
  row$guessed <- paste(c("labels lowest highest", if (row$missing != "") "missing"), collapse = " ")
  row
}
