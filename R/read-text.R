# Delimited text: the separator, encoding and decimal mark are found, a header
# that stands twice is left out, and all of that is said.

read_text <- function(path, how = list(header = TRUE)) {
  check_readable(path)
  check_text_options(how)
  table <- fread_strictly(path, how)
  data <- table$data
  separator <- if (is.null(how$separator)) guess_separator(path, ncol(data)) else how$separator
  said <- list(message_of(if (is.null(how$separator)) "log_separator_found" else "log_separator", file = basename(path),
    separator = separator_word(separator)))
  before <- if (!isFALSE(how$header)) lines_before_header(path, names(data))
  if (!is.null(before) && isTRUE(how$all_text)) {
    stop_file(message_of("e_file_not_clean", path = path), faults = before, hint = message_of("e_each_row_must"))
  }
  said <- c(said, before)
  if (isFALSE(how$header)) names(data) <- header_from_items(data, how$items)
  steps <- list(
    function(data) settle_encoding(data, how$encoding), function(data) leave_out_second_header(data),
    function(data) settle_decimal(data, how$decimal)
  )
  if (!isFALSE(how$header)) steps <- append(steps, list(leave_out_header_rows), 2)
  if (isTRUE(how$all_text)) steps <- steps[1]
  wordings <- NULL
  for (step in steps) {
    out <- step(data)
    data <- out$data
    said <- c(said, out$said)
    if (!is.null(out$wordings)) wordings <- out$wordings
  }
  list(data = data, said = said, foreign = told_wordings(wordings), separator = separator)
}

# UTF-16 by its first bytes, or by every second byte of its first line being nothing; NA for other files.
wide_encoding <- function(path) {
  start <- tryCatch(readBin(path, "raw", 400), error = function(e) raw())
  if (length(start) < 4) {
    return(NA_character_)
  }
  if (identical(start[1:2], as.raw(c(0xff, 0xfe)))) {
    return("UTF-16LE")
  }
  if (identical(start[1:2], as.raw(c(0xfe, 0xff)))) {
    return("UTF-16BE")
  }
  odd <- seq_along(start) %% 2 == 1
  nothing <- start == as.raw(0)
  little <- mean(nothing[!odd]) > .9 && !any(nothing[odd])
  big <- mean(nothing[odd]) > .9 && !any(nothing[!odd])
  if (little) "UTF-16LE" else if (big) "UTF-16BE" else NA_character_
}

# The same text in UTF-8 is read.
read_wide_text <- function(path, how) {
  folder <- tempfile("utf8-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  from <- wide_encoding(path)
  bytes <- readBin(path, "raw", file.size(path))
  text <- iconv(list(bytes), from, "UTF-8")
  if (is.na(text)) stop_file(message_of("e_file_not_text", path = path), hint = message_of("e_text_xlsx_parquet"))
  inner <- file.path(folder, basename(path))
  writeLines(sub("^\ufeff", "", text), inner, sep = "", useBytes = TRUE)
  table <- read_text(inner, how)
  table$said <- c(table$said, list(message_of("log_utf16")))
  table
}

# What a file says of its columns, from the wordings in its headers.
told_wordings <- function(wordings) {
  own <- wordings[nzchar(wordings)]
  if (length(own) == 0) {
    return(list())
  }
  split <- without_stem(own)
  stats::setNames(Map(function(words, stem) list(wording = words, stem = stem, labels = NULL, missing = NULL), unname(split$wording),
    unname(split$stem)), names(own))
}

# fread() looks for the first line with as many cells as the rest; what it passed
# over is said.
lines_before_header <- function(path, names) {
  lines <- iconv(readLines(path, n = 50, warn = FALSE), "UTF-8", "UTF-8", sub = "?")
  name <- iconv(names[1], "UTF-8", "UTF-8", sub = "?")
  if (is.na(name) || grepl("^V[0-9]+$", name)) {
    return(NULL)
  }
  at <- which(startsWith(sub("^[\"\ufeff[:space:]]+", "", lines), name))[1]
  before <- if (is.na(at)) integer() else which(nzchar(trimws(lines[seq_len(at - 1)])))
  if (length(before) == 0) {
    return(NULL)
  }
  list(message_of("log_before_header", lines = length(before), first = substr(lines[before[1]], 1, 40)))
}

check_text_options <- function(how) {
  if (!is.null(how$separator) && !(is.character(how$separator) && length(how$separator) == 1 && nchar(how$separator) == 1)) {
    stop_input(message_of("e_separator_must_one", separator = shown(how$separator)))
  }
  if (!is.null(how$decimal)) check_choice(how$decimal, c(".", ","), "decimal")
  if (!is.null(how$encoding)) check_choice(how$encoding, c("UTF-8", "Latin-1"), "encoding")
}

# fread() with every complaint turned into an error: a ragged row or an open
# quote is never repaired in silence.
fread_strictly <- function(path, how) {
  complaint <- NULL
  data <- tryCatch(
    withCallingHandlers(
      data.table::fread(
        file = path, sep = if (is.null(how$separator)) "auto" else how$separator, header = how$header,
        na.strings = if (isTRUE(how$all_text)) NULL else c("", "NA"), data.table = FALSE,
        colClasses = if (isTRUE(how$all_text)) "character", check.names = FALSE, encoding = "UTF-8",
        showProgress = FALSE, logical01 = FALSE, integer64 = "numeric"
      ),
      warning = function(w) {
        complaint <<- c(complaint, conditionMessage(w))
        invokeRestart("muffleWarning")
      }
    ),
    error = function(e) {
      stop_file(message_of("e_file_cannot_read", path = path), faults = first_sentence(conditionMessage(e)))
    }
  )
  if (length(complaint) > 0) {
    stop_file(message_of("e_file_not_clean", path = path), faults = first_sentence(complaint), hint = message_of("e_each_row_must_many"))
  }
  if (ncol(data) == 0) stop_file(message_of("e_file_holds_no_table", path = path))
  list(data = data)
}

# A quote within a quoted cell is written twice; fread() leaves it so.
single_quotes <- function(data) {
  once <- function(x) gsub("\"\"", "\"", x, fixed = TRUE)
  text <- vapply(data, is.character, TRUE)
  data[text] <- lapply(data[text], once)
  names(data) <- once(names(data))
  data
}

header_from_items <- function(data, items) {
  if (length(items) == ncol(data)) items else paste0("V", seq_len(ncol(data)))
}

# Text that is not valid UTF-8 is taken as Windows' Latin-1.
settle_encoding <- function(data, encoding) {
  text <- vapply(data, is.character, TRUE)
  wrong <- text & vapply(data, function(x) is.character(x) && !all(validUTF8(x)), TRUE)
  wrong_names <- !all(validUTF8(names(data)))
  latin <- identical(encoding, "Latin-1")
  if (identical(encoding, "UTF-8") && (any(wrong) || wrong_names)) {
    stop_file(message_of("e_file_not_valid"), hint = message_of("e_use_encoding_latin"))
  }
  if (!latin && !any(wrong) && !wrong_names) {
    return(list(data = single_quotes(data), said = NULL))
  }
  recode <- function(x) iconv(x, "windows-1252", "UTF-8", sub = "?")
  data[if (latin) text else wrong] <- lapply(data[if (latin) text else wrong], recode)
  names(data) <- recode(names(data))
  list(data = single_quotes(data), said = list(message_of(if (latin) "log_latin" else "log_read_as_latin")))
}

# Rows that repeat the header word for word are left out, and the columns get
# their types back.
leave_out_second_header <- function(data) {
  first <- data[[1]]
  if (!is.character(first)) {
    return(list(data = data, said = NULL))
  }
  rows <- which(!is.na(first) & first == names(data)[1])
  rows <- rows[vapply(rows, function(i) all(as.character(unlist(data[i, ])) == names(data)), NA) %in% TRUE]
  if (length(rows) == 0) {
    return(list(data = data, said = NULL))
  }
  data <- data[-rows, , drop = FALSE]
  data[] <- lapply(data, utils::type.convert, as.is = TRUE, na.strings = c("", "NA"))
  list(data = data, said = list(message_of("log_header_again", rows = rows)))
}

# Columns of numbers written with a decimal comma become numbers.
settle_decimal <- function(data, decimal) {
  if (identical(decimal, ".")) {
    return(list(data = data, said = NULL))
  }
  with_comma <- vapply(data, is_decimal_comma, TRUE)
  if (!any(with_comma)) {
    return(list(data = data, said = NULL))
  }
  data[with_comma] <- lapply(data[with_comma], function(x) as.numeric(sub(",", ".", x, fixed = TRUE)))
  list(data = data, said = list(message_of("log_decimal_comma", columns = names(data)[with_comma])))
}

is_decimal_comma <- function(x) {
  if (!is.character(x)) {
    return(FALSE)
  }
  pattern <- "^\\s*-?[0-9]+(,[0-9]+)?\\s*$"
  x <- x[!is.na(x)]
  length(x) > 0 && all(grepl(pattern, utils::head(x, 100))) && all(grepl(pattern, x)) && any(grepl(",", x, fixed = TRUE))
}

# The separator that cuts the header line into that many cells.
guess_separator <- function(path, columns) {
  header <- iconv(readLines(path, n = 1, warn = FALSE), "UTF-8", "UTF-8", sub = "?")
  bare <- gsub("\"[^\"]*\"", "", header)
  candidates <- c(",", ";", "\t", "|", " ", ":")
  cuts <- vapply(candidates, function(s) lengths(regmatches(bare, gregexpr(s, bare, fixed = TRUE))), 1L)
  fits <- candidates[cuts == columns - 1]
  if (length(fits) == 0 || columns == 1) NA_character_ else fits[1]
}

separator_word <- function(separator) {
  words <- c("," = "commas", ";" = "semicolons", "\t" = "tabs", "|" = "bars", " " = "spaces", ":" = "colons")
  if (is.na(separator)) "nothing" else if (separator %in% names(words)) words[[separator]] else quoted(separator)
}
