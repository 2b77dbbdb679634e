# Writing a file: to a temporary name first, then renamed, so that a failure
# leaves nothing half-written; an existing file is replaced only when asked.

write_safely <- function(path, overwrite, write) {
  check_string(path, "path")
  check_flag(overwrite, "overwrite")
  folder <- dirname(path)
  if (!dir.exists(folder)) {
    stop_file(paste0("There is no such folder: ", folder), hint = "Make it first.")
  }
  if (dir.exists(path)) stop_file(paste0("This is a folder, not a file: ", path))
  if (file.exists(path) && !overwrite) {
    stop_file(paste0("The file is there already: ", path), hint = "Use `overwrite = TRUE` to replace it.")
  }
  draft <- tempfile(paste0(".", basename(path), "-"), folder, paste0(".", tools::file_ext(path)))
  on.exit(unlink(draft))
  tryCatch(write(draft), error = function(e) {
    if (inherits(e, "scalewort_error")) stop(e)
    stop_file(paste0("The file could not be written: ", path), faults = conditionMessage(e))
  })
  if (!file.rename(draft, path)) stop_file(paste0("The file could not be written: ", path))
  invisible(path)
}

# Text that a spreadsheet would run as a formula is marked as text.
disarm <- function(x) {
  if (!is.character(x) && !is.factor(x)) {
    return(x)
  }
  x <- as.character(x)
  danger <- !is.na(x) & grepl("^[=+@\t\r-]", x) & is.na(suppressWarnings(as.numeric(x)))
  x[danger] <- paste0("'", x[danger])
  x
}
