# A sheet of a workbook. Titles and merged cells above the names of the columns are stepped over.

read_sheet <- function(path, how) {
  need_package("readxl", "XLSX")
  sheet <- if (is.null(how$sheet)) 1 else how$sheet
  if (grepl("[.]xlsx$", path, ignore.case = TRUE)) check_unpacked(path, how)
  cells <- function(...) {
    try_to_read(path, "an XLSX file", suppressMessages(as.data.frame(
      readxl::read_excel(path, sheet = sheet, .name_repair = "minimal", guess_max = 1e5, ...)
    )))
  }
  data <- cells()
  if (ncol(data) == 0) stop_file(message_of("e_sheet_empty", path = path))
  said <- list(message_of("log_sheet", file = basename(path), sheet = sheet))
  below <- if (mean(trimws(names(data)) == "") > 1 / 3) below_titles(as.matrix(cells(col_names = FALSE, col_types = "text")))
  if (is.null(below)) {
    return(list(data = data, said = said, foreign = list()))
  }
  list(data = below$data, said = c(said, list(message_of("log_titles_stepped", n = below$above))), foreign = list())
}

# A table of text whose names stand further down: the first row as full as most, of texts that differ. list(data, above: how many rows stand
# over it); NULL where no row is one of names.
below_titles <- function(cells) {
  cells[trimws(cells) %in% ""] <- NA
  filled <- rowSums(!is.na(cells))
  of_names <- vapply(seq_len(nrow(cells)), function(i) {
    own <- cells[i, !is.na(cells[i, ])]
    length(own) > 1 && !anyDuplicated(own) && all(is.na(suppressWarnings(as.numeric(own))))
  }, TRUE)
  at <- which(of_names & filled >= .8 * stats::median(filled[filled > 0]))[1]
  if (is.na(at) || at == 1 || at == nrow(cells)) {
    return(NULL)
  }
  named <- which(!is.na(cells[at, ]))
  columns <- lapply(named, function(j) utils::type.convert(unname(cells[-seq_len(at), j]), as.is = TRUE))
  list(data = list2DF(stats::setNames(columns, trimws(cells[at, named]))), above = at - 1L)
}
