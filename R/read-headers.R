# Exports with two or three rows of headers: the first names the columns, the others hold what was asked and the platform's own tags.

# list(data, said, wordings: by column; NULL without). Rows directly below the header are headers, too, where columns whose answers repeat
# never have these cells again.
leave_out_header_rows <- function(data) {
  none <- list(data = data, said = NULL, wordings = NULL)
  if (nrow(data) < 10 || ncol(data) < 2 || !all(vapply(data, is.character, TRUE))) {
    return(none)
  }
  body <- lapply(data, function(x) x[-(1:2)])
  answers <- vapply(body, function(x) length(unique(x[!is.na(x)])), 1L)
  telling <- answers > 1 & answers <= nrow(data) / 3
  if (sum(telling) < 3) {
    return(none)
  }
  is_header <- function(row) {
    cells <- vapply(data, `[`, "", row)
    again <- mapply(function(cell, values) cell %in% values, cells[telling], body[telling])
    mean(is.na(cells[telling])) < .5 && mean(again) <= .1
  }
  rows <- if (!is_header(1)) integer() else if (is_header(2)) 1:2 else 1L
  if (length(rows) == 0) {
    return(none)
  }
  said <- lapply(rows, function(row) vapply(data, `[`, "", row))
  words <- said[[which.max(vapply(said, function(cells) sum(!looks_like_tag(cells) & grepl(" ", cells, fixed = TRUE)), 1L))]]
  words[is.na(words) | looks_like_tag(words) | words == names(data)] <- ""
  data <- data[-rows, , drop = FALSE]
  rownames(data) <- NULL
  data[] <- lapply(data, utils::type.convert, as.is = TRUE, na.strings = c("", "NA"))
  list(data = data, wordings = trimws(gsub("[[:space:]]+", " ", words)), said = list(message_of("log_headers",
    rows = length(rows), wording = if (any(nzchar(words))) message_of("taken_as_wording"))))
}

# Cells that a platform wrote for itself: braces, or a single word with digits.
looks_like_tag <- function(cells) is.na(cells) | grepl("^\\{.*\\}$", cells) | grepl("^[A-Za-z_]*[0-9]+[A-Za-z0-9_.]*$", cells)

# "What was asked - the item", under one stem for several columns: the item alone, where at least three columns share the stem.
without_stem <- function(wordings) {
  parts <- regmatches(wordings, regexec("^(.{8,}?)\\s+[-\u2013\u2014:|]\\s+(.+)$", wordings))
  stem <- vapply(parts, function(p) if (length(p) == 3) p[2] else "", "")
  item <- vapply(parts, function(p) if (length(p) == 3) p[3] else "", "")
  shared <- stem != "" & stem %in% names(which(table(stem[stem != ""]) >= 3))
  list(wording = ifelse(shared, item, wordings), stem = ifelse(shared, stem, ""))
}
