#' Draft a codebook from data
#'
#' Guesses which columns are items, their lowest and highest answer, labels,
#' missing codes, subscale (by the stem of the name) and direction (by
#' correlation), and marks every guess in the field `guessed`, to be checked and
#' edited. Answers in words are numbered by their known order (English, German), alike over
#' a subscale; words of unknown order that several columns share are offered for numbering.
#' What a SAV, DTA or XPT file says of itself is taken as it stands. A total among the items (their sum or mean),
#' columns that a platform adds, and questions where several boxes could be ticked are left aside; waves that
#' stand side by side are found; rows that look like tests or previews are named.
#'
#' @param data A data frame, or the path of a file that [sw_read()] reads, or of several.
#' @param most_options The most different answers a column may have to be taken
#'   for an item.
#' @param wide How columns of waves that stand side by side are called, as in [sw_survey()]; `"auto"` finds out,
#'   `NULL` takes every column as it is.
#' @param trust For RDS: read it? Such a file can run code when it is read.
#' @return A `sw_codebook`. Columns that do not look like items have the role
#'   `aside`; so have test items, whose right answer only the researcher knows. What else was found is in
#'   `found`: `totals`, `ticked`, `previews` (rows), `wide`, and `doubts`, the guesses to be checked first.
#' @section Errors: those of reading; `scalewort_error_input` when no column looks
#'   like an item.
#' @examples
#' path <- system.file("extdata", "plotholders.csv", package = "scalewort")
#' sw_draft_codebook(path)
#' @export
sw_draft_codebook <- function(data, most_options = 12, wide = "auto", trust = FALSE) {
  check_number(most_options, "most_options", 2, 100, whole = TRUE)
  check_flag(trust, "trust")
  table <- if (is.character(data)) read_table(check_paths(data, "data"), list(header = TRUE, trust = trust)) else
    describe_labelled(check_data_frame(data), "a data frame")
  draft_table(table, most_options, wide, if (is.character(data)) data[1] else "drafted from a data frame")
}

draft_table <- function(table, most_options, wide, source) {
  table$data <- told_apart(table$data)
  if (nrow(table$data) == 0) stop_input(message_of("e_data_no_rows"))
  previews <- find_previews(table$data)
  if (identical(wide, "auto")) wide <- find_wide(names(table$data))
  if (!is.null(wide)) table <- stacked_table(table, wide)
  frame <- table$data[setdiff(names(table$data), table$wave)]
  drafts <- lapply(names(frame), function(name) draft_item(name, frame[[name]], table$foreign[[name]], most_options))
  rows <- do.call(rbind, lapply(drafts, as.data.frame))
  rows <- settle_unplaced(rows)
  if (all(rows$role == "aside" & rows$options == "" & rows$labels == "")) {
    stop_input(message_of("e_no_column_looks"), hint = message_of("e_item_different_whole", most_options = most_options))
  }
  rows <- rows |>
    guess_scales() |>
    set_lone_aside() |>
    share_labels() |>
    share_no_answers()
  totals <- find_totals(guess_directions(rows, frame)$rows, frame)
  rows <- share_ranges(set_rows_aside(rows, rows$item %in% totals$column & rows$role != "aside"))
  directed <- guess_directions(rows, frame)
  book <- new_codebook(complete_codebook(directed$rows), source)
  book$found <- list(totals = totals, ticked = find_ticked(directed$rows, frame), previews = previews, wide = wide,
    stems = shared_stems(table$foreign))
  book$found$doubts <- first_doubts(directed$rows, directed$keyed)
  book
}

# What several columns ask in common, as the file's wordings have it: a stem's columns under it, list(stem = columns).
shared_stems <- function(foreign) {
  stem <- vapply(foreign, function(f) if (is.null(f$stem)) "" else f$stem, "")
  asked <- setdiff(unique(stem), "")
  stats::setNames(lapply(asked, function(one) names(foreign)[stem == one]), asked)
}

set_rows_aside <- function(rows, which) {
  rows$role[which] <- "aside"
  rows[which, c("scale", "direction", "labels")] <- ""
  rows$guessed[which] <- "role"
  rows
}

# What one column looks like: a codebook row, guesses named in `guessed`.
draft_item <- function(name, column, foreign, most_options) {
  row <- as.list(stats::setNames(rep("", length(codebook_fields)), codebook_fields))
  row$item <- name
  row$wording <- if (length(foreign$wording) == 1) foreign$wording else ""
  if (length(foreign$missing) > 0) row$missing <- paste(foreign$missing, collapse = " ")
  if (length(foreign$labels) > 0 && is.numeric(foreign$labels)) row$labels <- labels_text(foreign$labels)
  if (is.factor(column)) column <- as.character(column)
  seen <- unique(column[!trimws(as.character(column)) %in% c(NA, empty_cells)])
  none <- same_words(seen) %in% no_answer_words
  if (any(none)) {
    row$missing <- trimws(paste(row$missing, paste(quoted_codes(trimws(as.character(seen[none]))), collapse = " ")))
    seen <- seen[!none]
  }
  if (is_metadata(name, row$wording)) {
    return(aside_row(row))
  }
  if (is.character(seen)) {
    stray <- stray_cells(column, seen)
    if (length(stray) > 0) {
      row$missing <- trimws(paste(row$missing, paste(quoted_codes(trimws(stray)), collapse = " ")))
      seen <- setdiff(seen, stray)
    }
    numbered <- numbered_answers(seen)
    if (!is.null(numbered)) {
      return(draft_numbered(row, numbered, most_options))
    }
    seen <- unique_words(seen)
  }
  number <- suppressWarnings(as.numeric(seen))
  if (length(seen) == 0 || length(seen) > most_options + 4 || inherits(column, c("Date", "POSIXct"))) {
    return(aside_row(row))
  }
  if (!anyNA(number)) {
    return(draft_numbers(row, number, foreign, most_options))
  }
  draft_words(row, as.character(seen))
}

# A few short cells that are neither a number nor a word ("3?", "4-5", "-") in a column whose others are numbers, alone or beside words, four of
# five at least: no answers, but no reason either to take numbers for words.
stray_cells <- function(column, seen) {
  number <- function(x) !is.na(suppressWarnings(as.numeric(x))) | !is.na(numbered_cells(x)$number)
  filled <- column[!trimws(column) %in% c(NA, empty_cells) & !same_words(column) %in% no_answer_words]
  stray <- seen[!number(seen)]
  if (mean(number(filled)) >= .8 && all(nchar(stray) <= 5 & !grepl("[[:alpha:]]{3}", stray))) stray else character()
}

# Columns that a platform adds: when, how long, from where, by which link, in which language, and consent.
is_metadata <- function(name, wording) {
  plain <- function(x) gsub("[^a-z]+", " ", tolower(gsub("([a-z])([A-Z])", "\\1 \\2", x)))
  known <- paste0("^ ?(start|end|recorded|submit|created|interview|duration|status|progress|finished|completed|consent|ip ?address|ip|location|",
    "latitude|longitude|response id|respondent id|response type|recipient|external|distribution channel|user language|language|collector|",
    "email|e mail|user agent|browser|device|os|referrer|token|session|lastpage|seed|startlanguage)",
    "( (date|time|datetime|first name|last name|name|id|in seconds|",
    "latitude|longitude|email|reference|data reference|address|ip address|version|resolution|page|mode))*( at| on)? ?$")
  any(grepl(known, plain(c(name, wording))) & nzchar(trimws(plain(c(name, wording)))))
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
  codes <- intersect(lone_codes(number), setdiff(number, foreign$missing))
  answers <- sort(setdiff(number, c(codes, foreign$missing)))
  halves <- length(answers) > 0 && all(2 * answers == round(2 * answers)) && mean(answers == round(answers)) >= .5
  fits <- length(answers) >= 2 && length(answers) <= most_options && halves && diff(range(answers)) < 2 * most_options
  if (!fits) {
    return(aside_row(row))
  }
  labelled <- parse_labels(row$labels)
  range <- if (length(labelled) > 1) range(c(labelled, answers)) else range(answers)
  row$lowest <- format_answer(range[1])
  row$highest <- format_answer(range[2])
  row$guessed <- paste(c(if (length(labelled) < 2) c("lowest", "highest"),
    if (length(codes) > 0 || (row$missing != "" && length(foreign$missing) == 0)) "missing"), collapse = " ")
  if (length(codes) > 0) row$missing <- trimws(paste(row$missing, paste(format_answer(codes), collapse = " ")))
  row
}

# Usual codes for "missing" further from the other answers than these span.
lone_codes <- function(number) {
  candidates <- sort(number[number %in% usual_missing_codes])
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
draft_words <- function(row, words) {
  found <- if (length(words) > 1) answer_family(words)
  if (is.null(found) && all(grepl("^[A-Za-z]$", words)) && length(words) %in% 2:8) {
    row$options <- paste(sort(words, method = "radix"), collapse = " ")
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

# Items whose names differ only in a number at the end make a subscale.
guess_scales <- function(rows) {
  stem <- sub("[ _.-]*[0-9]+[a-z]?$", "", rows$item)
  numbered <- stem != rows$item & stem != "" & (rows$role != "aside" | rows$options != "")
  size <- table(stem[numbered])
  big <- numbered & stem %in% names(size)[size >= 3]
  rows$scale[big] <- stem[big]
  rows$guessed[big] <- trimws(paste(rows$guessed[big], "scale"))
  rows
}

# Where most items are numbered in subscales, a column that stands alone (schooling, income, kept
# as small numbers) is taken for no item; its range stays, should it be one.
set_lone_aside <- function(rows) {
  items <- rows$role != "aside"
  alone <- items & rows$scale == ""
  if (sum(items & !alone) >= max(3, 2 * sum(alone))) {
    rows$role[alone] <- "aside"
    rows$guessed[alone] <- paste(rows$guessed[alone], "role")
  }
  rows
}

# An option that nobody used in one item was there if its neighbours had it:
# guessed ranges widen to those of their subscale.
share_ranges <- function(rows) {
  guessed <- grepl("lowest", rows$guessed) & rows$labels == "" & rows$scale != ""
  for (scale in unique(rows$scale[guessed])) {
    mine <- guessed & rows$scale == scale
    rows$lowest[mine] <- format_answer(min(as.numeric(rows$lowest[mine])))
    rows$highest[mine] <- format_answer(max(as.numeric(rows$highest[mine])))
  }
  rows
}

# Items that point against the rest of their subscale are guessed reversed: list(rows, keyed: by item, its correlation with the sum of the
# others of its subscale, as guessed).
guess_directions <- function(rows, frame) {
  rows$direction <- ifelse(rows$role == "aside", "", "forward")
  keyed <- stats::setNames(rep(NA_real_, nrow(rows)), rows$item)
  for (scale in setdiff(unique(rows$scale), "")) {
    mine <- which(rows$scale == scale & rows$role != "aside")
    if (length(mine) < 3) next
    covariance <- core_pairwise_moments(drafted_answers(rows[mine, ], frame))$covariance
    r <- core_correlation(covariance)
    if (anyNA(r)) next
    back <- core_keying(r, nrow(frame))$turned
    rows$direction[mine[back]] <- "reversed"
    rows$guessed[mine] <- trimws(paste(rows$guessed[mine], "direction"))
    sign <- replace(rep(1, length(mine)), back, -1)
    turned <- r * outer(sign, sign)
    keyed[mine] <- vapply(seq_along(mine), function(i) sum(turned[i, -i]) / sqrt(sum(turned[-i, -i])), 0)
  }
  list(rows = rows, keyed = keyed)
}

# Answers as these rows of a drafted codebook read them: cases x rows.
drafted_answers <- function(rows, frame) {
  vapply(seq_len(nrow(rows)), function(i) {
    as.numeric(read_item(frame[[rows$item[i]]], as.list(complete_codebook(rows[i, ])))$values)
  }, numeric(nrow(frame)))
}
