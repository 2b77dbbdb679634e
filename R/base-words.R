# Putting counts, lists and names into words.

count_of <- function(n, one, many = paste0(one, "s")) {
  paste(format(n, big.mark = if (getOption("OutDec") == ",") "." else ",", trim = TRUE, scientific = FALSE), if (n == 1) one else many)
}

# "a", "a and b", "a, b and c"; beyond `most`, "a, b and 4 more".
and_list <- function(x, most = 8) {
  x <- as.character(x)
  if (length(x) > most) x <- c(utils::head(x, most - 1), paste(length(x) - most + 1, "more"))
  if (length(x) < 2) {
    return(paste(x, collapse = ""))
  }
  paste(paste(utils::head(x, -1), collapse = ", "), "and", utils::tail(x, 1))
}

# A text with {name} filled in.
fill_in <- function(text, ...) {
  values <- list(...)
  for (name in names(values)) text <- gsub(paste0("{", name, "}"), values[[name]], text, fixed = TRUE)
  trimws(text)
}

quoted <- function(x) paste0("\"", x, "\"", recycle0 = TRUE)

# The known name nearest to a misspelt one, or nothing when none is near.
nearest_name <- function(name, known) {
  if (length(known) == 0) {
    return(character())
  }
  distance <- utils::adist(name, known, ignore.case = TRUE)[1, ]
  best <- which.min(distance)
  if (distance[best] <= max(if (nchar(name) > 3) 2 else 1, nchar(name) %/% 3)) known[best] else character()
}

# The one known name that begins as this one does, by at least four letters.
same_beginning <- function(name, known) {
  bare <- function(x) tolower(sub("^-+", "", x))
  start <- substr(bare(name), 1, max(4, nchar(bare(name)) %/% 2))
  found <- if (nchar(start) >= 4) known[startsWith(bare(known), start)]
  if (length(found) == 1) found else character()
}

did_you_mean <- function(name, known) {
  near <- nearest_name(name, known)
  if (length(near) == 0) near <- same_beginning(name, known)
  if (length(near) == 0) "" else worded("did_you_mean", near = near)
}

# Control characters (all but tab and line ends) as visible escapes.
visible_controls <- function(x) {
  for (at in grep("[\001-\010\013\014\016-\037\177]", x, useBytes = TRUE)) {
    signs <- utf8ToInt(enc2utf8(x[at]))
    if (anyNA(signs)) next
    steer <- (signs < 32 & !signs %in% c(9, 10, 13)) | signs == 127
    pieces <- vapply(signs, intToUtf8, "")
    pieces[steer] <- sprintf("\\x%02x", signs[steer])
    x[at] <- paste(pieces, collapse = "")
  }
  x
}

# Signs that turn the direction of reading, shown as what they are: on a page they can make a name or an answer look like another.
visible_directions <- function(x) {
  for (sign in c(0x200e, 0x200f, 0x202a:0x202e, 0x2066:0x2069)) x <- gsub(intToUtf8(sign), sprintf("\\u%04x", sign), x, fixed = TRUE)
  x
}

ordinal_word <- function(n) {
  last <- round(n) %% 10
  suffix <- if (last %in% 1:3 && !(round(n) %% 100) %in% 11:13) c("st", "nd", "rd")[last] else "th"
  paste0(format(n), suffix)
}

# The first sentence of a message, without bytes that are no text.
first_sentence <- function(x) {
  x <- iconv(x, "UTF-8", "UTF-8", sub = "?")
  sub("\\. .*$", ".", gsub("[[:space:]]+", " ", x))
}

sentence_start <- function(text) paste0(toupper(substr(text, 1, 1)), substring(text, 2))

count_of_each <- function(n) wordings("so_many_times", times = n)
