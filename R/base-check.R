# Checks of arguments: each names the argument, says what came and what is needed.

check_class <- function(x, class, arg, from) {
  if (!inherits(x, class)) {
    stop_input(message_of("e_must_come_from", arg = arg, from = from, x = what_is(x)), hint = if (is.data.frame(x)) message_of("e_make_survey_data"))
  }
}

check_limits <- function(limits) {
  check_class(limits, "sw_limits", "limits", "`sw_limits()`")
}

check_choice <- function(x, choices, arg) {
  ok <- is.character(x) && length(x) == 1 && !is.na(x) && x %in% choices
  if (!ok) {
    near <- if (is.character(x) && length(x) == 1 && !is.na(x)) did_you_mean(x, choices) else ""
    stop_input(message_of("e_must_one", arg = arg, choices = choices, x = shown(x), near = near))
  }
  x
}

# One or several of the choices.
check_choices <- function(x, choices, arg) {
  if (!is.character(x) || length(x) == 0) check_choice(x, choices, arg)
  unique(vapply(x, check_choice, "", choices = choices, arg = arg, USE.NAMES = FALSE))
}

check_number <- function(x, arg, low = -Inf, high = Inf, whole = FALSE) {
  ok <- is.numeric(x) && length(x) == 1 && is.finite(x) && x >= low && x <= high &&
    (!whole || x == round(x))
  if (!ok) {
    kind <- if (whole) "a whole number" else "a number"
    range <- if (is.finite(low) && is.finite(high)) {
      paste(" from", low, "to", high)
    } else if (is.finite(low)) {
      paste(" of at least", low)
    } else {
      ""
    }
    stop_input(message_of("e_must", arg = arg, kind = kind, range = range, x = shown(x)))
  }
  x
}

check_flag <- function(x, arg) {
  if (!(is.logical(x) && length(x) == 1 && !is.na(x))) {
    stop_input(message_of("e_must_true_false", arg = arg, x = shown(x)))
  }
  x
}

check_string <- function(x, arg) {
  if (!(is.character(x) && length(x) == 1 && !is.na(x) && nzchar(x))) {
    stop_input(message_of("e_must_one_piece", arg = arg, x = shown(x)))
  }
  x
}

# Every name must be known; all that are not are listed at once.
check_names_known <- function(x, known, arg, what) {
  if (!is.character(x) || anyNA(x)) {
    stop_input(message_of("e_must_names_s", arg = arg, what = what, x = what_is(x)))
  }
  unknown <- setdiff(x, known)
  if (length(unknown) > 0) {
    faults <- vapply(unknown, function(name) paste0(quoted(name), did_you_mean(name, known)), "")
    stop_input(message_of("e_names_not_there", arg = arg, unknown = count_of(length(unknown), what),
      unknown_said = if (length(unknown) == 1) message_of("e_said") else message_of("e_said_two")), faults = unname(faults),
        hint = message_of("e_there", known = known))
  }
  x
}

what_is <- function(x) {
  if (is.null(x)) {
    worded("is_nothing")
  } else if (is.data.frame(x)) {
    worded("is_data_frame", rows = nrow(x), columns = ncol(x))
  } else if (is.matrix(x)) {
    worded("is_matrix", rows = nrow(x), columns = ncol(x))
  } else if (is.atomic(x)) {
    worded("is_vector", class = class(x)[1], size = length(x))
  } else {
    worded("is_object", class = class(x)[1])
  }
}

shown <- function(x) {
  if (is.atomic(x) && length(x) == 1) {
    return(if (is.character(x)) quoted(x) else as.character(x))
  }
  what_is(x)
}

# Arguments that a method does not know are refused, with the nearest name.
refuse_more <- function(...) {
  if (...length() == 0) {
    return(invisible())
  }
  known <- setdiff(names(formals(sys.function(-1))), "...")
  given <- names(as.list(substitute(list(...)))[-1])
  if (is.null(given)) given <- ""
  given <- given[1]
  stop_input(if (nzchar(given)) message_of("e_there_no_argument", given = given, given_too = did_you_mean(given, known)) else
    message_of("e_there_more_arguments"), hint = if (length(known) > 1) message_of("e_arguments", known = known))
}

check_data_frame <- function(data) {
  if (is.matrix(data) && is.numeric(data) && !is.null(colnames(data))) data <- as.data.frame(data)
  if (!is.data.frame(data)) {
    stop_input(message_of("e_data_must_data", data = what_is(data)), hint = message_of("e_read_file_sw"))
  }
  if (nrow(data) == 0) stop_input(message_of("e_data_no_rows_there"))
  if (ncol(data) == 0) stop_input(message_of("e_data_no_columns"))
  names(data) <- visible_controls(enc2utf8(names(data)))
  invisible(data)
}

# Columns of one name, which real exports have beside the items, get numbers.
told_apart <- function(data) {
  names(data) <- make.unique(names(data), sep = "_")
  data
}

check_there <- function(path) {
  if (dir.exists(path)) stop_file(message_of("e_folder_not_file", path = path))
  if (!file.exists(path)) {
    near <- did_you_mean(basename(path), list.files(dirname(path)))
    stop_file(message_of("e_there_no_such", path = path, near = near))
  }
  if (file.size(path) == 0) stop_file(message_of("e_file_empty", path = path))
  invisible(path)
}

# A text file: no NUL in its first part. UTF-16 is named as what it is.
check_readable <- function(path) {
  check_there(path)
  start <- tryCatch(readBin(path, "raw", 65536), error = function(e) stop_file(message_of("e_file_cannot_opened", path = path)))
  if (identical(start[1:2], as.raw(c(0xff, 0xfe))) || identical(start[1:2], as.raw(c(0xfe, 0xff)))) {
    stop_file(message_of("e_file_utf_text", path = path), hint = message_of("e_save_utf_read"))
  }
  if (any(start == as.raw(0))) {
    stop_file(message_of("e_file_not_text", path = path), hint = message_of("e_text_xlsx_parquet"))
  }
  invisible(path)
}
