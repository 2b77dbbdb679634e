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
  if (!is.null(below)) {
    data <- below$data
    said <- c(said, list(message_of("log_titles_stepped", n = below$above)))
  }
  foot <- rows_of_foot(data)
  if (foot > 0) {
    data <- list2DF(lapply(utils::head(data, -foot), retyped))
    said <- c(said, list(message_of("log_foot_left_out", n = foot)))
  }
  list(data = data, said = said, foreign = list())
}

# Text that is numbers once titles and notes are gone.
retyped <- function(column) if (is.character(column)) utils::type.convert(column, as.is = TRUE) else column

# How many rows at the end are no people: those below an empty row, where each is empty, a note (two cells at most) or a total: sums or means
# of the columns.
rows_of_foot <- function(data) {
  text <- as.matrix(as.data.frame(lapply(data, function(x) trimws(as.character(x)))))
  text[text %in% ""] <- NA
  filled <- rowSums(!is.na(text))
  empty <- which(filled == 0)
  if (length(empty) == 0 || empty[1] < 3 || ncol(text) < 4) {
    return(0L)
  }
  people <- matrix(suppressWarnings(as.numeric(text)), nrow(text))
  above <- people[seq_len(empty[1] - 1), , drop = FALSE]
  most <- suppressWarnings(apply(above, 2, max, na.rm = TRUE))
  # Sums are far above every answer; some cells may not have been added up.
  is_total <- function(i) {
    own <- which(!is.na(people[i, ]) & is.finite(most))
    sums <- people[i, own] > 2 * most[own]
    means <- abs(people[i, own] - colMeans(above, na.rm = TRUE)[own]) < .051
    length(own) >= 3 && (mean(sums) >= .8 || mean(means) >= .8)
  }
  rows <- seq(empty[1], nrow(text))
  left <- vapply(rows, function(i) filled[i] <= 2 || is_total(i), TRUE)
  if (all(left)) length(rows) else 0L
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
  columns <- lapply(named, function(j) retyped(unname(cells[-seq_len(at), j])))
  list(data = list2DF(stats::setNames(columns, trimws(cells[at, named]))), above = at - 1L)
}
