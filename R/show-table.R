# A table as lines of text: text columns to the left, numbers to the right.

format_table <- function(table, digits = 3, width = output_width()) {
  if (nrow(table) == 0) {
    return(paste0("  ", worded("no_rows")))
  }
  whole <- table
  table <- readable(table)
  columns <- lapply(worded_columns(table, digits, whole), visible_controls)
  numeric <- vapply(table, is.numeric, TRUE)
  # Beside the names of rows a text has what is left of the line; tidy() has all of it.
  room <- max(20, width - 6 - max(nchar(columns[[1]], "width")))
  headers <- translated(column_header(names(columns)), report_words(reading_language())$columns)
  padded <- function(columns, which) Map(function(text, header, right) pad(c(header, text), right), columns, headers[which], numeric[which])
  cells <- padded(wrapped_rows(columns, room), seq_along(columns))
  leading <- which(cumsum(numeric) == 0)
  blocks <- fit_blocks(cells, width - 2, utils::head(union(1L, leading), if (length(leading) > 2) 1 else 2))
  unlist(lapply(seq_along(blocks), function(i) {
    # Rows are as tall as the texts of their own block.
    of_block <- padded(wrapped_rows(columns[blocks[[i]]], room), blocks[[i]])
    body <- do.call(paste, c(unname(of_block), sep = "  "))
    c(if (i > 1) "", sub(" +$", "", paste0("  ", body)))
  }))
}

# Columns as text, in the language that is read.
worded_columns <- function(table, digits, whole = table) {
  words <- report_words(reading_language())
  spoken_columns(format_columns(table, digits, words$verdicts, whole = whole), words)
}

# Text that is longer than `room` goes on in further lines of its row.
wrapped_rows <- function(columns, room) {
  if (!any(vapply(columns[-1], function(text) any(nchar(text, "width") > room), TRUE))) {
    return(columns)
  }
  pieces <- lapply(seq_along(columns), function(j) {
    lapply(columns[[j]], function(cell) if (j > 1 && nchar(cell, "width") > room) cli::ansi_strtrim(strwrap(cell, room + 1), room) else cell)
  })
  tall <- do.call(pmax, lapply(pieces, lengths))
  stats::setNames(lapply(pieces, function(cells) unlist(Map(function(cell, n) c(cell, rep("", n - length(cell))), cells, tall))), names(columns))
}

pad <- function(text, right) {
  size <- max(nchar(text, "width"))
  space <- strrep(" ", size - nchar(text, "width"))
  if (right) paste0(space, text) else paste0(text, space)
}

# Columns that fit beside each other. When not all do, the columns that name the
# row (up to two columns of text in front) open every block.
fit_blocks <- function(cells, width, labels = 1L) {
  size <- vapply(cells, function(x) nchar(x[1], "width"), 1L) + 2L
  blocks <- list()
  current <- integer()
  for (i in seq_along(size)) {
    if (length(current) > length(labels) && sum(size[c(current, i)]) > width + 2) {
      blocks <- c(blocks, list(current))
      current <- labels
    }
    current <- c(current, i)
  }
  c(blocks, list(current))
}

# As wide as the terminal where the command line found one, else 80.
output_width <- function() getOption("scalewort.width", 80)

wrap_note <- function(text, width = output_width()) {
  unlist(lapply(callers_words(text), function(one) strwrap(one, width - 1, prefix = "  ", initial = "! ")))
}
