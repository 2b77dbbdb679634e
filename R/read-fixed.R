# Fixed-width text. A layout names columns and where they stand, counted from 1:
# c(id = "1-4", district = "5", answers = "6-27"); `answers` stands for all items
# in the codebook's order, those of role `aside` among them (they take their place), equally wide,
# without separators.

read_fixed <- function(path, how) {
  places <- parse_layout(how$layout, how$places)
  lines <- utf8_lines(path)
  lines <- lines[nzchar(trimws(lines))]
  short <- which(nchar(lines) < max(places$to))
  if (length(lines) == 0) stop_file(message_of("e_file_holds_no", path = path))
  if (length(short) > 0) {
    stop_file(message_of("e_some_lines_shorter"), faults = messages_of("e_line_characters_needed", short = short, lines = nchar(lines[short]),
      to = max(places$to)))
  }
  columns <- Map(function(from, to) trimws(substr(lines, from, to)), places$from, places$to)
  # Numbers are numbers, but for codes that begin with 0.
  columns <- lapply(columns, function(x) if (any(grepl("^0[0-9]", x))) x else utils::type.convert(x, as.is = TRUE, na.strings = c("", "NA")))
  data <- as.data.frame(stats::setNames(columns, places$column), check.names = FALSE, stringsAsFactors = FALSE)
  list(
    data = data, foreign = list(),
    said = list(message_of("log_fixed", file = basename(path), columns = nrow(places), lines = length(lines)))
  )
}

# data frame(column, from, to)
parse_layout <- function(layout, items) {
  layout <- unlist(layout)
  if (is.null(names(layout)) || any(names(layout) == "") || anyDuplicated(names(layout))) {
    stop_input(message_of("e_layout_names_each"))
  }
  bounds <- regmatches(layout, regexec("^\\s*([0-9]+)\\s*(?:-\\s*([0-9]+))?\\s*$", layout, perl = TRUE))
  bad <- lengths(bounds) == 0
  if (any(bad)) {
    stop_input(message_of("e_layout_cannot_read"), faults = paste0(names(layout)[bad], " = ", quoted(layout[bad])),
      hint = message_of("e_place_column_s"))
  }
  from <- suppressWarnings(as.integer(vapply(bounds, `[`, "", 2)))
  to <- vapply(bounds, `[`, "", 3)
  to <- ifelse(to == "", from, suppressWarnings(as.integer(to)))
  if (anyNA(c(from, to)) || any(to > 1e6)) stop_input(message_of("e_layout_place_beyond"))
  if (any(to < from | from < 1)) stop_input(message_of("e_layout_place_ends"))
  places <- data.frame(column = names(layout), from = from, to = to)
  if (!"answers" %in% places$column) {
    return(places)
  }
  row <- places[places$column == "answers", ]
  width <- (row$to - row$from + 1) / length(items)
  if (length(items) == 0 || width != round(width)) {
    stop_input(message_of("e_characters_answers_cannot", to = row$to - row$from + 1, items = length(items)))
  }
  start <- row$from + width * (seq_along(items) - 1)
  rbind(places[places$column != "answers", ], data.frame(column = items, from = start, to = start + width - 1))
}

# "id=1-4,answers=6-27" as a named vector; NULL where it is written otherwise.
parse_layout_text <- function(text) {
  parts <- strsplit(strsplit(text, ",", fixed = TRUE)[[1]], "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) {
    return(NULL)
  }
  stats::setNames(trimws(vapply(parts, `[`, "", 2)), trimws(vapply(parts, `[`, "", 1)))
}
