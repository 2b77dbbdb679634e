#' Read answers from a file
#'
#' Delimited text (CSV, TSV and kin), read with the separator that fits best
#' unless one is given. What was found out is written in [sw_log()].
#'
#' @param path Path of the file of answers: a header line, then a row per case.
#' @param codebook A [sw_codebook()], or what that takes.
#' @param ... Passed to [sw_survey()]: `id`, `group`, `wave`, `missing_codes`,
#'   `find_codes`.
#' @param separator The character between cells, or `NULL` to find it.
#' @return A `sw_survey`.
#' @section Errors: `scalewort_error_file` when the file is not there, empty,
#'   not text, or ragged; else those of [sw_survey()].
#' @examples
#' folder <- system.file("extdata", package = "scalewort")
#' sw_read(file.path(folder, "plotholders.csv"),
#'   codebook = file.path(folder, "plotholders-codebook.csv"), id = "id"
#' )
#' @export
sw_read <- function(path, codebook, ..., separator = NULL) {
  check_string(path, "path")
  if (missing(codebook)) {
    stop_codebook("`codebook` is needed: it says what each column of answers is.",
      hint = "See `?sw_codebook` for its fields; only `item` is required.")
  }
  codebook <- sw_codebook(codebook)
  table <- read_text_table(path, separator)
  survey <- sw_survey(table$data, codebook, ...)
  said <- paste0(basename(path), ", cells separated by ", separator_word(table$separator),
    if (is.null(separator)) " (found)")
  log_first(survey, "file", said)
}

check_readable <- function(path) {
  if (dir.exists(path)) stop_file(paste0("This is a folder, not a file: ", path))
  if (!file.exists(path)) {
    near <- did_you_mean(basename(path), list.files(dirname(path)))
    stop_file(paste0("There is no such file: ", path, near))
  }
  if (file.size(path) == 0) stop_file(paste0("The file is empty: ", path))
  start <- tryCatch(readBin(path, "raw", 65536), error = function(e) stop_file(paste0("The file cannot be opened: ", path)))
  if (any(start == as.raw(0))) {
    stop_file(paste0("The file is not text: ", path), hint = "Answers are read from delimited text such as CSV.")
  }
  invisible(path)
}

# list(data, separator): a data frame of the file's cells. `all_text` keeps
# every cell as it is written.
read_text_table <- function(path, separator = NULL, all_text = FALSE) {
  check_readable(path)
  if (!is.null(separator) && !(is.character(separator) && nchar(separator) == 1)) {
    stop_input(paste0("`separator` must be one character; this is ", shown(separator), "."))
  }
  complaint <- NULL
  data <- tryCatch(
    withCallingHandlers(
      data.table::fread(
        file = path, sep = if (is.null(separator)) "auto" else separator, header = TRUE,
        na.strings = if (all_text) NULL else c("", "NA"), data.table = FALSE,
        colClasses = if (all_text) "character", check.names = FALSE, encoding = "UTF-8",
        showProgress = FALSE, logical01 = FALSE
      ),
      warning = function(w) {
        complaint <<- c(complaint, conditionMessage(w))
        invokeRestart("muffleWarning")
      }
    ),
    error = function(e) stop_file(paste0("The file cannot be read as a table: ", path), faults = conditionMessage(e))
  )
  if (length(complaint) > 0) {
    stop_file(paste0("The file is not a clean table: ", path), faults = first_sentence(complaint),
      hint = "Each row must have as many cells as the header.")
  }
  found <- if (is.null(separator)) guess_separator(path, ncol(data)) else separator
  list(data = data, separator = found)
}

first_sentence <- function(x) sub("\\. .*$", ".", gsub("[[:space:]]+", " ", x))

# The separator that cuts the header line into that many cells.
guess_separator <- function(path, columns) {
  header <- readLines(path, n = 1, warn = FALSE)
  bare <- gsub("\"[^\"]*\"", "", header)
  candidates <- c(",", ";", "\t", "|", " ", ":")
  cuts <- vapply(candidates, function(s) lengths(regmatches(bare, gregexpr(s, bare, fixed = TRUE))), 1L)
  fits <- candidates[cuts == columns - 1]
  if (length(fits) == 0 || columns == 1) NA_character_ else fits[1]
}

separator_word <- function(separator) {
  if (is.na(separator)) {
    return("nothing: one column")
  }
  words <- c("," = "commas", ";" = "semicolons", "\t" = "tabs", "|" = "bars", " " = "spaces", ":" = "colons")
  if (separator %in% names(words)) words[[separator]] else quoted(separator)
}
