# Answers and codebook from files.

#' Read answers from a file
#'
#' Delimited text (CSV, TSV and kin), fixed-width text, XLSX, Parquet, SAV, DTA,
#' XPT and RDS files. What was found out on the way (separator, encoding, decimal
#' mark, missing codes, labels) is written in [sw_log()].
#'
#' @param path Path of the file of answers, a row per case; or several, of one instrument, whose columns
#'   are bound by name (a column `file` says where each row comes from). A text file may be packed (`.zip`, `.gz`). A table in a
#'   database, [sw_table()], is taken too.
#' @param codebook A [sw_codebook()], or what that takes. `sw_draft_codebook()`
#'   makes a first one.
#' @param ... Passed to [sw_survey()]: `group`, `waves`, `cluster`, `weight`, `missing_codes`,
#'   `find_codes`.
#' @param separator The character between cells of delimited text; found when
#'   `NULL`.
#' @param decimal `"."` or `","`; found when `NULL`.
#' @param encoding `"UTF-8"` or `"Latin-1"`; found when `NULL`.
#' @param header Is the first line of a text file the columns' names? If not, the
#'   columns are the codebook's items in order, when their numbers agree.
#' @param layout For fixed-width text: where each column stands, as
#'   `c(id = "1-4", district = "5", answers = "6-27")`. The name `answers` stands
#'   for all items of the codebook in order, equally wide.
#' @param sheet For XLSX: name or number of the sheet.
#' @param id,wave,wide As in [sw_survey()].
#' @param trust Read RDS, which can run code when it is read, and files that unpack to more than 2,000 MB or have more than 20,000 columns?
#'   Only for a file whose origin is known.
#' @return A `sw_survey`.
#' @section Errors: `scalewort_error_file` when the file is not there, empty,
#'   truncated, ragged or of an unknown kind; else those of [sw_survey()].
#' @examples
#' folder <- system.file("extdata", package = "scalewort")
#' sw_read(file.path(folder, "plotholders.csv"),
#'   codebook = file.path(folder, "plotholders-codebook.csv"), id = "id"
#' )
#'
#' packed <- tempfile(fileext = ".txt")
#' writeLines(c("01n3425", "02s5511"), packed)
#' sw_read(packed, data.frame(item = letters[1:4], lowest = 1, highest = 5),
#'   layout = c(id = "1-2", district = "3", answers = "4-7"), id = "id"
#' )
#' @export
sw_read <- function(path, codebook, ..., separator = NULL, decimal = NULL, encoding = NULL,
                    header = TRUE, layout = NULL, sheet = 1, trust = FALSE, id = NULL, wave = NULL, wide = NULL) {
  if (inherits(path, "sw_table")) {
    return(sw_survey(path, codebook, id = id, wave = wave, wide = wide, ...))
  }
  check_paths(path)
  if (missing(codebook)) {
    stop_codebook(message_of("e_codebook_needed_says"), hint = message_of("e_sw_draft_codebook"))
  }
  codebook_path <- if (is.character(codebook)) codebook else NULL
  codebook <- sw_codebook(codebook)
  table <- read_table(path, list(
    separator = separator, decimal = decimal, encoding = encoding, header = check_flag(header, "header"),
    layout = layout, sheet = sheet, items = codebook$items$item[codebook$items$role != "aside"], places = answer_places(codebook, layout),
    trust = check_flag(trust, "trust")
  ))
  asked <- list(id = id, wave = wave)
  if (!is.null(wide)) {
    table <- long_described(table, wide, id)
    if (is.null(wave)) wave <- table$wave
    id <- table$id
  }
  settled <- settle_foreign(codebook, table)
  table <- label_foreign_groups(table, list(...)$group)
  survey <- sw_survey(table$data, settled$codebook, id = id, wave = wave, ...)
  survey$unmatched <- table$unmatched
  code <- read_code(path, codebook_path, list(id = asked$id, wave = asked$wave, ..., wide = wide, separator = separator, decimal = decimal,
    encoding = encoding,
    header = if (header) NULL else FALSE, layout = layout, sheet = if (identical(sheet, 1)) NULL else sheet, trust = if (trust) TRUE))
  survey$log <- survey$log[-1, ]
  log_first(survey, c(table$said, settled$said), code)
}
