# Writing a file: to a temporary name first, then renamed, so that a failure
# leaves nothing half-written; an existing file is replaced only when asked.

# May this path be written to? Nothing for NULL.
check_place <- function(path, overwrite) {
  if (is.null(path)) {
    return(invisible())
  }
  check_string(path, "path")
  check_flag(overwrite, "overwrite")
  folder <- dirname(path)
  if (!dir.exists(folder)) {
    stop_file(message_of("e_there_no_such_folder", folder = folder), hint = message_of("e_make_first"))
  }
  if (dir.exists(path)) stop_file(message_of("e_folder_not_file", path = path))
  if (file.exists(path) && !overwrite) {
    stop_file(message_of("e_file_there_already_three", path = path), hint = message_of("e_use_overwrite_true"))
  }
}

write_safely <- function(path, overwrite, write) {
  check_place(path, overwrite)
  folder <- dirname(path)
  sweep_drafts(path)
  ending <- paste0(".", tools::file_ext(path))
  made <- tempfile("made-", fileext = ending)
  draft <- tempfile(paste0(".", basename(path), "-"), folder, ending)
  on.exit(unlink(c(made, draft)))
  before <- in_utf8()
  on.exit(Sys.setlocale("LC_CTYPE", before), add = TRUE)
  tryCatch(
    {
      write(made)
      check_room(made)
      suppressWarnings(file.copy(made, draft))
      if (!identical(unname(tools::md5sum(made)), unname(tools::md5sum(draft)))) stop(worded("not_all_taken"))
    },
    error = function(e) {
      if (inherits(e, "scalewort_error")) stop(e)
      stop_file(message_of("e_file_could_not", path = path), faults = conditionMessage(e), hint = message_of("e_what_was_there"))
    }
  )
  if (!file.rename(draft, path)) stop_file(message_of("e_file_could_not", path = path))
  invisible(path)
}

# Text is UTF-8 in every file, whatever the session's locale: returns what it was before.
in_utf8 <- function() {
  before <- Sys.getlocale("LC_CTYPE")
  if (!isTRUE(l10n_info()[["UTF-8"]])) suppressWarnings(Sys.setlocale("LC_CTYPE", "C.UTF-8"))
  before
}

# Writing to a full disk ends without a word in many writers: where a little more can be written behind
# it, all of the file was.
check_room <- function(path) {
  if (!file.exists(path)) stop(worded("nothing_written"))
  probe <- paste0(path, "-probe")
  on.exit(unlink(probe))
  try(writeBin(raw(16384), probe), silent = TRUE)
  if (!identical(file.size(probe), 16384)) stop(worded("no_room_for_drafts"))
}

# Drafts that a killed run left beside this file.
sweep_drafts <- function(path) {
  drafts <- list.files(dirname(path), all.files = TRUE, full.names = TRUE, pattern = "^[.].*-[0-9a-f]{8,}([.][a-z]+)?$")
  mine <- drafts[startsWith(basename(drafts), paste0(".", basename(path), "-"))]
  unlink(mine[difftime(Sys.time(), file.mtime(mine), units = "mins") > 10])
}

# A table whose text a spreadsheet would not run: cells and headers.
disarmed <- function(table) {
  out <- lapply(table, disarm)
  names(out) <- disarm(names(table))
  out
}

# Text that a spreadsheet would run as a formula is marked as text; signs that only steer a terminal
# or a printer are shown, since they make files ill-formed.
disarm <- function(x) {
  if (!is.character(x) && !is.factor(x)) {
    return(x)
  }
  x <- visible_controls(enc2utf8(as.character(x)))
  danger <- !is.na(x) & grepl("^[=+@\t\r-]", x) & is.na(suppressWarnings(as.numeric(x)))
  x[danger] <- paste0("'", x[danger])
  x
}

# Loadings aimed at, from a file: item, then a column per factor; empty cells are free.
read_loadings <- function(path) {
  table <- read_table(path)$data
  target <- suppressWarnings(data.matrix(table[-1]))
  rownames(target) <- as.character(table[[1]])
  target
}
