# YAML as text: read as bytes, so that one byte of another encoding loses nothing, and never run.

# Lines of a text file as UTF-8; a file that is not is read as Windows-1252.
utf8_lines <- function(path) {
  check_readable(path)
  bytes <- readBin(path, "raw", file.size(path))
  text <- rawToChar(bytes)
  text <- if (validUTF8(text)) `Encoding<-`(text, "UTF-8") else iconv(text, "windows-1252", "UTF-8", sub = "?")
  strsplit(sub("^\ufeff", "", text), "\r\n|\n|\r")[[1]]
}

# The content of a YAML file; `what` names it in errors. Keys that stand twice or are empty are errors.
read_yaml <- function(path, what, handlers = list()) {
  lines <- utf8_lines(path)
  content <- tryCatch(
    parsed_yaml(lines, handlers),
    error = function(e) stop_file(message_of("e_not_valid_yaml", what = what, path = path), faults = first_sentence(conditionMessage(e)))
  )
  if (has_empty_key(content)) stop_file(message_of("e_empty_key", what = what, path = path), hint = message_of("e_each_key_needs"))
  list(content = content, lines = lines)
}

parsed_yaml <- function(lines, handlers = list()) {
  # Few aliases of aliases are billions of values.
  aliases <- sum(lengths(regmatches(lines, gregexpr("(^|[\\[,:{-]|[[:space:]])\\*[A-Za-z0-9_]+", lines))))
  most <- options_table()$sizes$aliases
  if (aliases > most) stop(worded("too_many_aliases", most = most), call. = FALSE)
  yaml::yaml.load(paste(lines, collapse = "\n"), eval.expr = FALSE, handlers = c(plain_numbers, handlers))
}

has_empty_key <- function(x) {
  is.list(x) && (any(is.na(names(x)) | !nzchar(names(x))) || any(vapply(x, has_empty_key, TRUE)))
}

# A number with a decimal comma is no number, and stays the text that it is.
plain_int <- function(text) {
  value <- suppressWarnings(as.integer(text))
  if (is.na(value)) plain_float(text) else value
}

plain_float <- function(text) {
  value <- suppressWarnings(as.numeric(text))
  if (is.na(value)) text else value
}

# YAML takes 0,5 for a number of base eight, and 1:30 for one of base sixty: here they are text.
plain_numbers <- list(int = plain_int, `int#oct` = plain_int, `int#base60` = plain_int, `float#fix` = plain_float, `float#base60` = plain_float)
