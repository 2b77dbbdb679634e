# Files of other programs. What they say of their columns travels as `foreign`:
# a named list, a column each, of list(wording, labels, missing).

read_parquet_file <- function(path, how) {
  need_package("nanoparquet", "Parquet")
  data <- read_apart(path, "a Parquet file", function(path) as.data.frame(nanoparquet::read_parquet(path)))
  describe_labelled(data, paste0(basename(path), ", Parquet"))
}

read_arrow_file <- function(path, how) {
  need_package("arrow", "Arrow")
  data <- read_apart(path, "an Arrow file", function(path) as.data.frame(getExportedValue("arrow", "read_feather")(path)))
  describe_labelled(data, paste0(basename(path), ", Arrow"))
}

read_ods_file <- function(path, how) {
  need_package("readODS", "ODS")
  sheet <- if (is.null(how$sheet)) 1 else how$sheet
  data <- try_to_read(path, "an ODS file", as.data.frame(getExportedValue("readODS", "read_ods")(path, sheet = sheet, .name_repair = "minimal")))
  list(data = data, said = list(message_of("log_sheet", file = basename(path), sheet = sheet)), foreign = list())
}

# One object a person: an array of them, or one a line.
read_json_file <- function(path, how) {
  text <- paste(utf8_lines(path), collapse = "\n")
  data <- try_to_read(path, "a JSON file", if (grepl("^\\s*\\[", text)) jsonlite::fromJSON(text, flatten = TRUE) else
    jsonlite::stream_in(textConnection(text), verbose = FALSE))
  if (!is.data.frame(data)) stop_file(message_of("e_file_holds_no_table", path = path))
  data <- as.data.frame(jsonlite::flatten(data))
  lists <- vapply(data, is.list, TRUE)
  data[lists] <- lapply(data[lists], function(x) vapply(x, function(cell) paste(unlist(cell), collapse = ";"), ""))
  list(data = data, said = list(message_of("log_json", file = basename(path), rows = nrow(data))), foreign = list())
}

read_rds_file <- function(path, how) {
  data <- read_trusted(path, isTRUE(how$trust))
  if (!is.data.frame(data)) {
    stop_file(message_of("e_rds_file_does", path = path, data = what_is(data)))
  }
  describe_labelled(data, paste0(basename(path), ", RDS"))
}

# An RDS file can hold code that runs when it is read.
read_trusted <- function(path, trust) {
  check_there(path)
  if (!trust) {
    stop_file(message_of("e_rds_file_can", path = path), hint = message_of("e_if_you_know"))
  }
  read_apart(path, "an RDS file", function(path) readRDS(path))
}

read_haven <- function(path, how) {
  kind <- toupper(tools::file_ext(path))
  need_package("haven", kind)
  reader <- switch(kind,
    DTA = function(path) as.data.frame(haven::read_dta(path)), XPT = function(path) as.data.frame(haven::read_xpt(path)),
    SAS7BDAT = function(path) as.data.frame(haven::read_sas(path)),
    POR = function(path) as.data.frame(haven::read_por(path, user_na = TRUE)),
    function(path) as.data.frame(haven::read_sav(path, user_na = TRUE))
  )
  describe_labelled(read_apart(path, paste("a", kind, "file"), reader), paste0(basename(path), ", ", kind))
}

# Readers of binary files can crash on a damaged one: they run in an R of their own, whose end is an
# error here.
read_apart <- function(path, what, reader) {
  if (!requireNamespace("callr", quietly = TRUE)) {
    return(try_to_read(path, what, reader(path)))
  }
  environment(reader) <- globalenv()
  tryCatch(
    callr::r(reader, list(path = normalizePath(path)), libpath = .libPaths(), spinner = FALSE),
    error = function(e) {
      cause <- if (!is.null(e$parent)) e$parent else e
      stop_file(message_of("e_cannot_read_may", what = what, path = path), faults = first_sentence(cli::ansi_strip(conditionMessage(cause))))
    }
  )
}

try_to_read <- function(path, what, code) {
  tryCatch(code, error = function(e) {
    stop_file(message_of("e_cannot_read_may", what = what, path = path), faults = first_sentence(cli::ansi_strip(conditionMessage(e))))
  })
}

# Takes labels, wordings and user-missing codes off the columns.
describe_labelled <- function(data, said) {
  check_data_shape(data, said)
  columns <- unclass(data)
  attributes(columns) <- list(names = names(data))
  foreign <- lapply(columns, function(x) {
    labels <- attr(x, "labels", exact = TRUE)
    missing <- attr(x, "na_values", exact = TRUE)
    range <- attr(x, "na_range", exact = TRUE)
    if (!is.null(range)) {
      seen <- suppressWarnings(as.numeric(plain_column(x)))
      # A label within it is declared missing, too, whether or not anybody has it.
      numbers <- c(seen, if (is.numeric(labels)) labels)
      missing <- c(missing, sort(unique(numbers[!is.na(numbers) & numbers >= range[1] & numbers <= range[2]])))
    }
    missing <- unique(unname(missing))
    # Labels of missing values that have no number (.a, .b) say what is left out already.
    labels <- labels[!is.na(labels) & !unname(labels) %in% missing]
    list(wording = attr(x, "label", exact = TRUE), labels = labels, missing = missing, levels = levels(x), ordered = is.ordered(x))
  })
  plain <- lapply(columns, plain_column)
  labelled <- names(Filter(function(f) length(f$labels) > 0, foreign))
  list(
    data = list2DF(plain), foreign = foreign,
    said = c(list(said), if (length(labelled) > 0) list(message_of("log_labels_found", columns = labelled)))
  )
}

# Columns of one length that can be read as columns.
check_data_shape <- function(data, what) {
  size <- vapply(unclass(data), NROW, 0L)
  if (length(unique(size)) > 1) {
    stop_input(message_of("e_columns_different_lengths", what = what), faults = messages_of("e_rows", data = names(data), size = size))
  }
  wrong <- !vapply(unclass(data), function(x) is.null(dim(x)) && (is.atomic(x) || inherits(x, "POSIXlt")), TRUE)
  broken <- vapply(unclass(data), function(x) inherits(x, "factor") && !(typeof(x) == "integer" && is.character(levels(x))), TRUE)
  if (any(wrong | broken)) {
    stop_input(message_of("e_some_columns_hold", what = what), faults = paste0(names(data)[wrong | broken], ": ",
      vapply(unclass(data)[wrong | broken], what_is, "")))
  }
}

# A column's values as they mean: whole numbers of 64 bits, durations (seconds), dates, factors and
# labelled values as plain vectors.
plain_column <- function(x) {
  if (is.atomic(x) && is.null(attributes(x))) {
    return(x)
  }
  if (inherits(x, "integer64")) {
    return(plain_integer64(x))
  }
  if (inherits(x, "difftime")) {
    return(as.numeric(x, units = "secs"))
  }
  if (inherits(x, "POSIXlt")) {
    return(as.POSIXct(x))
  }
  if (inherits(x, c("factor", "Date", "POSIXct"))) {
    return(x)
  }
  if (is.character(x)) as.character(unclass(x)) else as.vector(unclass(x))
}

# The eight bytes of each value as a whole number, low half first; the lowest of all is NA.
plain_integer64 <- function(x) {
  halves <- matrix(readBin(writeBin(as.double(unclass(x)), raw(), endian = "little"), "integer", 2 * length(x), 4, endian = "little"), 2)
  halves[is.na(halves)] <- -2^31
  low <- halves[1, ] + ifelse(halves[1, ] < 0, 2^32, 0)
  out <- halves[2, ] * 2^32 + low
  out[halves[2, ] == -2^31 & low == 0] <- NA
  out
}

# A codebook completed by what the file says: its user-missing codes, and labels
# and wordings where the codebook has none. list(codebook, said).
settle_foreign <- function(codebook, table) {
  said <- list()
  items <- codebook$items
  for (i in seq_len(nrow(items))) {
    about <- table$foreign[[items$item[i]]]
    if (is.null(about)) next
    if (length(about$missing) > 0) {
      codes <- setdiff(as.character(about$missing), missing_codes(items$missing[i])$code)
      if (length(codes) > 0) {
        items$missing[i] <- trimws(paste(if (is.na(items$missing[i])) "" else items$missing[i], paste(codes, collapse = " ")))
        said <- c(said, list(message_of("log_missing_by_file", item = items$item[i], codes = codes)))
      }
    }
    if (is.na(items$labels[i]) && length(about$labels) > 0 && is.numeric(about$labels)) items$labels[i] <- labels_text(about$labels)
    if (is.na(items$wording[i]) && length(about$wording) == 1) items$wording[i] <- about$wording
  }
  codebook$items <- items
  list(codebook = codebook, said = said)
}

# Groups get the labels that the file has for them.
label_foreign_groups <- function(table, group) {
  for (column in intersect(group, names(table$foreign))) {
    labels <- table$foreign[[column]]$labels
    if (length(labels) == 0) next
    seen <- match(table$data[[column]], labels)
    table$data[[column]] <- ifelse(is.na(seen), as.character(table$data[[column]]), names(labels)[seen])
  }
  table
}

# Labels as the codebook writes them, number and word.
labels_text <- function(labels) paste(paste0(format_answer(unname(labels)), " = ", gsub("[;=]", ",", names(labels))), collapse = "; ")
