# Tables of answers and codebooks, from files of any kind.

# Items that take a place among packed answers: all of the codebook, but for columns with a place of
# their own.
answer_places <- function(codebook, layout) setdiff(codebook$items$item, names(unlist(layout)))

# The line that repeats a reading.
read_code <- function(path, codebook_path, args) {
  args <- Filter(Negate(is.null), args)
  words <- vapply(names(args), function(name) paste0(name, " = ", paste(deparse(args[[name]], width.cutoff = 500), collapse = "")), "")
  book <- if (is.null(codebook_path)) "codebook" else deparse(codebook_path)
  paste0("survey <- sw_read(", paste(c(paste(deparse(path, width.cutoff = 500), collapse = ""), book, words), collapse = ", "), ")")
}

# Any file as list(data, said = what was found out, foreign = what the file
# itself says of its columns).
read_table <- function(path, how = list(header = TRUE)) {
  if (length(path) > 1) {
    return(bound_tables(path, lapply(path, read_table, how)))
  }
  check_there(path)
  if (grepl("[.](zip|gz)$", path, ignore.case = TRUE)) {
    return(read_packed(path, how))
  }
  if (!is.null(how$layout)) {
    return(read_fixed(path, how))
  }
  if (!is.na(wide_encoding(path))) {
    return(read_wide_text(path, how))
  }
  kind <- tolower(tools::file_ext(path))
  readers <- list(
    xlsx = read_sheet, xls = read_sheet, parquet = read_parquet_file, sav = read_haven, zsav = read_haven, por = read_haven,
    dta = read_haven, xpt = read_haven, sas7bdat = read_haven, rds = read_rds_file, json = read_json_file, jsonl = read_json_file,
    ndjson = read_json_file, ods = read_ods_file, feather = read_arrow_file, arrow = read_arrow_file
  )
  table <- check_column_count(path, if (kind %in% names(readers)) readers[[kind]](path, how) else read_text(path, how), how)
  without_key_row(table, how)
}

# Right answers that stand among the people are the table's `key`.
without_key_row <- function(table, how) {
  found <- if (!isTRUE(how$all_text)) leave_out_key_row(table$data)
  if (is.null(found)) {
    return(table)
  }
  table[c("data", "key")] <- found[c("data", "key")]
  table$said <- c(table$said, found$said)
  table
}

check_paths <- function(path, arg = "path") {
  if (length(path) < 2) {
    return(check_string(path, arg))
  }
  if (!is.character(path) || anyNA(path)) stop_input(message_of("e_must_paths_files", arg = arg, path = shown(path)))
  twice <- unique(path[duplicated(path)])
  if (length(twice) > 0) stop_input(message_of("e_names_file_twice", arg = arg, twice = twice[1]))
  invisible(path)
}

need_package <- function(package, what) {
  if (!requireNamespace(package, quietly = TRUE)) {
    stop_file(message_of("e_files_need_package", what = what, package = package), hint = paste0("install.packages(\"", package, "\")"))
  }
}
