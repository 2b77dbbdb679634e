# The codebook: what each column of answers is.

codebook_fields <- c(
  "item", "wording", "scale", "direction", "lowest", "highest", "labels", "answer", "options", "role", "missing", "guessed"
)

#' Read and check a codebook
#'
#' A codebook is a table with one row per item. Only `item` (the column's name
#' in the data) is required; the other fields are `wording`, `scale` (subscale,
#' empty for none), `direction` (`forward` or `reversed`), `lowest` and
#' `highest` (the scale's first and last answer), `labels` (words for answers, as
#' `1 = Never; 2 = Often`), `answer` (the right option of a test item; several,
#' separated by spaces, all get credit), `options` (all options of a test item, or how many there are
#'   where the key's letters tell the rest: 4 beside the answer `B` is A B C D),
#' `role` (`scored`, `tryout`: analysed but never scored, `aside`: left out) and
#' `missing` (codes separated by spaces; `skipped:-9` marks an item passed over,
#' `unseen:-8` one never shown, `blank` stands for an empty cell) and `guessed`
#' (fields that were guessed by [sw_draft_codebook()] and are to be checked).
#'
#' @param x Path of a CSV, XLSX or YAML file, or a data frame with those fields.
#' @return A `sw_codebook`: a list with `items` (data frame, a row per item, in the
#'   order that every later table follows) and `source`.
#' @section Errors: `scalewort_error_codebook` lists all faults at once, each
#'   with its row; `scalewort_error_file` when the file cannot be read.
#' @examples
#' path <- system.file("extdata", "plotholders-codebook.csv", package = "scalewort")
#' sw_codebook(path)
#' sw_codebook(data.frame(item = c("a", "b"), scale = "s", lowest = 1, highest = 5))
#' @export
sw_codebook <- function(x) {
  if (inherits(x, "sw_codebook")) {
    return(x)
  }
  source <- if (is.character(x)) check_string(x, "x") else "a data frame"
  if (is.character(x)) x <- read_codebook_file(x)
  if (!is.data.frame(x)) {
    stop_codebook(message_of("e_codebook_file_data", x = what_is(x)))
  }
  new_codebook(complete_codebook(x), source)
}

new_codebook <- function(items, source) {
  stopifnot(identical(names(items), codebook_fields), !anyDuplicated(items$item))
  structure(list(items = items, source = source), class = "sw_codebook")
}

read_codebook_file <- function(path) {
  check_there(path)
  if (grepl("\\.ya?ml$", path, ignore.case = TRUE)) {
    return(read_codebook_yaml(path))
  }
  if (grepl("\\.xlsx?$", path, ignore.case = TRUE)) {
    return(read_sheet(path, list())$data)
  }
  read_text(path, list(header = TRUE, all_text = TRUE))$data
}

# YAML: a list of items with the same fields, or under the key `items`.
read_codebook_yaml <- function(path) {
  content <- read_yaml(path, "codebook")$content
  rows <- if (is.list(content) && !is.null(content$items)) content$items else content
  if (!is.list(rows) || length(rows) == 0 || !all(vapply(rows, is.list, TRUE))) {
    stop_codebook(message_of("e_yaml_codebook_list"))
  }
  fields <- unique(unlist(lapply(rows, names)))
  columns <- lapply(fields, function(field) {
    vapply(rows, function(row) yaml_field(if (field == "missing") listed_codes(row[[field]]) else row[[field]]), "")
  })
  plain_frame(stats::setNames(columns, fields))
}

# Codes in a list may hold spaces; a single text is read as it is in a table.
listed_codes <- function(value) if (length(unlist(value)) > 1) quoted_codes(unlist(value)) else value

# A field of one item as text; a map of labels as "1 = Never; 2 = Often".
yaml_field <- function(value) {
  if (is.list(value) && !is.null(names(value))) {
    return(paste(names(value), unlist(value), sep = " = ", collapse = "; "))
  }
  paste(as.character(unlist(value)), collapse = " ")
}

# Fills in what was left out, turns text into numbers, and lists every fault.
complete_codebook <- function(x) {
  x <- as.data.frame(x, stringsAsFactors = FALSE)
  if (nrow(x) == 0) stop_codebook(message_of("e_codebook_no_rows"), hint = message_of("e_needs_one_row"))
  names(x) <- tolower(trimws(names(x)))
  faults <- codebook_field_faults(names(x))
  if (!"item" %in% names(x)) {
    stop_codebook(message_of("e_codebook_no_column"), faults = faults, hint = message_of("e_its_columns", x = names(x)))
  }
  text <- lapply(x[intersect(codebook_fields, names(x))], function(column) {
    value <- visible_controls(enc2utf8(trimws(as.character(column))))
    value[is.na(value)] <- ""
    # The mark that keeps a spreadsheet from running "-9 -8" as a formula.
    sub("^'(?=[=+@-])", "", value, perl = TRUE)
  })
  for (field in setdiff(codebook_fields, names(text))) text[[field]] <- rep("", nrow(x))
  text$direction[text$direction == ""] <- "forward"
  text$role[text$role == ""] <- "scored"
  text$options <- spelled_options(text$options, text$answer)
  faults <- rbind(faults, codebook_row_faults(text))
  if (nrow(faults) > 0) {
    stop_codebook(message_of("e_codebook", faults = nrow(faults)), faults = faults)
  }
  items <- plain_frame(text[codebook_fields])
  items$lowest <- as.numeric(items$lowest)
  items$highest <- as.numeric(items$highest)
  items <- range_from_labels(items)
  for (field in c("wording", "scale", "labels", "answer", "options", "missing", "guessed")) {
    items[[field]][items[[field]] == ""] <- NA_character_
  }
  items
}

# A number of options spelled out where the key's letters tell which: 4 beside B is A B C D.
spelled_options <- function(options, answer) {
  for (i in which(grepl("^[0-9]+$", options) & grepl("^([A-Z]|[a-z])( ([A-Z]|[a-z]))*$", answer))) {
    count <- as.integer(options[i])
    known <- if (grepl("^[A-Z]", answer[i])) LETTERS else letters
    if (count %in% 2:26) options[i] <- paste(known[seq_len(count)], collapse = " ")
  }
  options
}

# Items with labels but no lowest and highest take the labels' range.
range_from_labels <- function(items) {
  for (i in which(is.na(items$lowest) & items$labels != "")) {
    values <- parse_labels(items$labels[i])
    if (length(values) > 1) items[i, c("lowest", "highest")] <- as.list(as.numeric(range(values)))
  }
  items
}

# "1 = Never; 2 = Often" as c(Never = 1, Often = 2); NULL where it cannot be read.
parse_labels <- function(text) {
  if (is.na(text) || text == "") {
    return(numeric())
  }
  parts <- trimws(strsplit(with_separators(text), ";", fixed = TRUE)[[1]])
  parts <- parts[parts != ""]
  value <- suppressWarnings(as.numeric(sub("=.*$", "", parts)))
  if (anyNA(value) || !all(grepl("=", parts, fixed = TRUE))) {
    return(NULL)
  }
  stats::setNames(value, trimws(sub("^[^=]*=", "", parts)))
}

# Labels without separators, "1=never 2=seldom", or with commas: a number followed by = begins a label.
with_separators <- function(text) {
  if (grepl(";", text, fixed = TRUE)) text else gsub("[,|[:space:]]+(-?[0-9.]+[[:space:]]*=)", "; \\1", text, perl = TRUE)
}

# Subscales in the codebook's order, with the items that count in them.
codebook_scales <- function(codebook, roles = "scored") {
  items <- codebook$items
  used <- items[!is.na(items$scale) & items$role %in% roles, ]
  split(used$item, factor(used$scale, unique(items$scale[!is.na(items$scale)])))
}

#' @export
as.data.frame.sw_codebook <- function(x, row.names = NULL, optional = FALSE, ..., stringsAsFactors = FALSE) {
  refuse_more(...)
  as.data.frame(x$items)
}
