# Forms of files that need another package, or a standard of their own.

# A sheet a table, the scored data first; headers stand out, numbers have the decimals of
# their kind and stay numbers.
write_xlsx <- function(x, path, table, codebook, codes) {
  need_package("openxlsx", "XLSX")
  sheets <- workbook_tables(x, table, codes)
  book <- openxlsx::createWorkbook()
  head <- openxlsx::createStyle(textDecoration = "bold", border = "bottom", wrapText = TRUE, valign = "bottom")
  for (name in names(sheets)) {
    data <- as.data.frame(disarmed(sheets[[name]]), check.names = FALSE)
    openxlsx::addWorksheet(book, name)
    openxlsx::writeData(book, name, data, headerStyle = head, keepNA = FALSE)
    openxlsx::freezePane(book, name, firstRow = TRUE)
    for (j in seq_along(data)) style_column(book, name, names(data)[j], data[[j]], j, nrow(data))
    openxlsx::setColWidths(book, name, seq_along(data), widths = column_widths(data))
  }
  openxlsx::saveWorkbook(without_drawings(book), path, overwrite = TRUE)
}

# The package names a drawing for each sheet, which is not in the file where nothing is drawn: stricter readers refuse that.
without_drawings <- function(book) {
  none <- function(lines) lines[!grepl("drawing", lines, ignore.case = TRUE)]
  book$worksheets_rels <- lapply(book$worksheets_rels, none)
  book$Content_Types <- none(book$Content_Types)
  book
}

style_column <- function(book, sheet, name, values, j, rows) {
  if (!is.numeric(values) || rows == 0) {
    return(invisible())
  }
  format <- c(coefficient = "0.000", number = "0.000", value = "0.00", p = "0.000", percent = "0%", count = "0")[[column_kind(name, values)]]
  openxlsx::addStyle(book, sheet, openxlsx::createStyle(numFmt = format), rows = seq_len(rows) + 1, cols = j)
}

column_widths <- function(data) {
  vapply(names(data), function(name) {
    min(48, max(nchar(name), nchar(format(utils::head(data[[name]], 50))), 6, na.rm = TRUE) + 2)
  }, 0)
}

# Names of sheets have 31 characters at most.
workbook_tables <- function(x, table, codes) {
  tables <- if (is.data.frame(x)) {
    list(data = x)
  } else if (!is.null(table)) {
    stats::setNames(list(result_table(x, table)), table)
  } else {
    c(if (inherits(x, "sw_scores")) list(data = main_data(x, NULL, codes)), x$tables)
  }
  stats::setNames(tables, substr(names(tables), 1, 31))
}

write_parquet <- function(x, path, table, codebook, codes) {
  need_package("nanoparquet", "Parquet")
  data <- plain_columns(main_data(x, table, codes))
  names(data) <- enc2utf8(names(data))
  nanoparquet::write_parquet(data, path)
}

# Columns without attributes of ours.
plain_columns <- function(data) {
  as.data.frame(lapply(data, function(column) {
    attr(column, "made_of") <- NULL
    column
  }), check.names = FALSE)
}

# Wordings become labels of columns; what a score is made of its label; answers have their labels,
# and codes for no answer are declared missing.
write_sav <- function(x, path, table, codebook, codes) {
  need_package("haven", "SAV")
  data <- main_data(x, table, TRUE)
  labels <- column_labels(data, codebook)
  items <- lapply(names(data), item_row, codebook = codebook)
  data <- plain_columns(data)
  names(data) <- sav_names(names(data))
  for (j in seq_along(data)) {
    if (!is.null(items[[j]]) && is.numeric(data[[j]])) data[[j]] <- sav_item(data[[j]], items[[j]])
    if (!is.na(labels[j])) attr(data[[j]], "label") <- labels[[j]]
  }
  haven::write_sav(data, path)
  undate_sav(path)
}

# The header's date and time (17 characters from the 93rd byte on) are the only thing that differs
# between two runs.
undate_sav <- function(path) {
  file <- file(path, "r+b")
  on.exit(close(file))
  seek(file, 92, rw = "write")
  writeBin(charToRaw("01 Jan 7000:00:00"), file)
}

# The form takes up to three codes for missing, or a range of them where no answer lies between.
sav_item <- function(values, spec) {
  codes <- suppressWarnings(as.numeric(missing_codes(spec$missing)$code))
  codes <- sort(unique(codes[!is.na(codes)]))
  answers <- values[!values %in% c(codes, NA)]
  apart <- length(codes) > 3 && !any(answers >= min(codes) & answers <= max(codes))
  labels <- parse_labels(spec$labels)
  haven::labelled_spss(as.numeric(values), labels = if (length(labels) > 0) labels, na_values = if (length(codes) %in% 1:3) codes,
    na_range = if (apart) range(codes))
}

# Names that begin with a letter, hold letters, digits and _ and have 64 bytes at most.
sav_names <- function(names) {
  out <- substr(gsub("[^A-Za-z0-9_]", "_", names), 1, 60)
  make.unique(ifelse(grepl("^[A-Za-z]", out), out, paste0("v_", out)), sep = "_")
}

# What each column is, in words: the wording of an item, the recipe of a score.
column_labels <- function(data, codebook) {
  vapply(names(data), function(name) {
    made_of <- attr(data[[name]], "made_of")
    row <- if (!is.null(codebook)) match(name, codebook$items$item) else NA
    wording <- if (is.na(row)) NA else codebook$items$wording[row]
    if (isTRUE(codebook$items[["turned"]][row])) wording <- paste(if (is.na(wording)) name else wording, "(answers reversed)")
    if (!is.null(made_of)) paste0("Score from ", paste(made_of, collapse = ", ")) else as.character(wording)
  }, "", USE.NAMES = FALSE)
}

write_rds <- function(x, path, ...) saveRDS(x, path)

file_writers <- function() {
  list(
    csv = write_csv, tsv = write_tsv, xlsx = write_xlsx, json = write_json, rds = write_rds, parquet = write_parquet, sav = write_sav,
    xml = write_ddi, pdf = write_pages
  )
}
