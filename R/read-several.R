# A packed file, and several files of one instrument.

# The one table in a packed file.
read_packed <- function(path, how) {
  folder <- tempfile("packed-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  if (grepl("[.]gz$", path, ignore.case = TRUE)) {
    inner <- file.path(folder, sub("[.]gz$", "", basename(path), ignore.case = TRUE))
    try_to_read(path, "a packed file", writeBin(read_all(gzfile(path, "rb"), path, how), inner))
  } else {
    check_unpacked(path, how)
    names <- try_to_read(path, "a ZIP file", utils::unzip(path, list = TRUE)$Name)
    names <- names[!grepl("/$|^__|(^|/)[.]", names)]
    inner <- try_to_read(path, "a ZIP file", utils::unzip(path, names, exdir = folder, junkpaths = TRUE))
    if (length(names) != 1) inner <- data_among(inner, how)
    if (length(inner) == 0) {
      stop_file(message_of("e_zip_file_holds", names = length(names), path = path), faults = utils::head(names, 10),
        hint = message_of("e_unpack_name_file"))
    }
  }
  table <- read_table(inner, how)
  table$said <- c(list(message_of("log_unpacked", file = basename(path))), table$said)
  table
}

# Of several files those with answers: of the tables that can be read the one with most rows by far, or all where they share their columns.
data_among <- function(paths, how) {
  tables <- lapply(paths, function(path) tryCatch(read_table(path, how)$data, error = function(e) NULL))
  rows <- vapply(tables, NROW, 1L)
  wide <- vapply(tables, length, 1L) >= 3
  fine <- which(rows > 0 & wide)
  if (length(fine) == 0) {
    return(character())
  }
  most <- fine[which.max(rows[fine])]
  alike <- fine[vapply(tables[fine], function(data) mean(names(tables[[most]]) %in% names(data)) > .8, TRUE)]
  others <- setdiff(fine, alike)
  if (length(alike) > 1) paths[alike] else if (all(rows[others] <= .8 * rows[most])) paths[most] else character()
}

# No more is unpacked than may be, however little the file says that it holds.
read_all <- function(connection, path, how) {
  on.exit(close(connection))
  parts <- list()
  while (length(part <- readBin(connection, "raw", 1e7)) > 0) {
    parts[[length(parts) + 1]] <- part
    check_size(path, sum(lengths(parts)), how)
  }
  do.call(c, parts)
}

check_unpacked <- function(path, how) {
  check_size(path, sum(try_to_read(path, "a ZIP file", utils::unzip(path, list = TRUE)$Length)), how)
}

check_size <- function(path, bytes, how) {
  most <- options_table()$sizes$unpacked
  if (bytes > most * 2^20 && !isTRUE(how$trust)) stop_file(message_of("e_packed_file_unpacks", most = format(most, big.mark = ","), path = path),
    hint = message_of("e_if_you_know_where"))
}

check_column_count <- function(path, table, how) {
  most <- options_table()$sizes$columns
  if (length(table$data) > most && !isTRUE(how$trust)) stop_file(message_of("e_file_columns_more", data = format(length(table$data),
    big.mark = ","), most = format(most, big.mark = ","), path = path[1]), hint = message_of("e_rows_columns_wrong"))
  table
}

# Several files of one instrument, bound by the names of their columns.
bound_tables <- function(paths, tables) {
  frames <- lapply(tables, function(table) told_apart(table$data))
  every <- unique(unlist(lapply(frames, names)))
  in_all <- Reduce(intersect, lapply(frames, names))
  if (length(in_all) == 0) {
    stop_file(message_of("e_files_no_column"), faults = messages_of("file_columns", file = basename(paths), columns = lapply(frames, names)))
  }
  columns <- bound_columns(frames, every)
  rows <- vapply(frames, nrow, 1L)
  origin <- utils::tail(make.unique(c(every, "file"), sep = "_"), 1)
  columns[[origin]] <- rep(make.unique(basename(paths)), rows)
  some <- setdiff(every, in_all)
  foreign <- do.call(c, lapply(tables, `[[`, "foreign"))
  list(
    data = list2DF(columns), foreign = foreign[!duplicated(names(foreign))],
    said = c(unlist(lapply(tables, `[[`, "said"), recursive = FALSE), list(message_of("log_files_bound", files = length(paths),
      rows = messages_of("count_of_rows", rows = rows), origin = origin,
      some = if (length(some) > 0) message_of("not_in_all", columns = some))))
  )
}

# Each of these columns from all frames, below each other; NA where a frame has none.
bound_columns <- function(frames, names) {
  one <- function(name) {
    bound_column(lapply(frames, function(frame) if (name %in% base::names(frame)) frame[[name]] else rep(NA, nrow(frame))))
  }
  lapply(stats::setNames(names, names), one)
}

# Numbers stay numbers where all files have them; else text.
bound_column <- function(parts) {
  parts <- lapply(parts, function(x) if (is.factor(x)) as.character(x) else x)
  kinds <- unique(vapply(Filter(function(x) !all(is.na(x)), parts), function(x) if (is.numeric(x) && !is.object(x)) "number" else class(x)[1], ""))
  if (length(kinds) > 1) parts <- lapply(parts, function(x) replace(as.character(x), is.na(x), NA))
  do.call(c, unname(parts))
}
