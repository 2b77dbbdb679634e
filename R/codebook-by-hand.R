# Codebooks, keys and layouts as people write them: which column is which is told by its name, in ten languages (inst/tables/column-words.csv).

# Every cell of a table as text, titles and all: a list of matrices, a sheet each.
raw_sheets <- function(path) {
  check_there(path)
  if (grepl("[.]xlsx?$", path, ignore.case = TRUE)) {
    need_package("readxl", "XLSX")
    sheets <- try_to_read(path, "an XLSX file", readxl::excel_sheets(path))
    return(lapply(stats::setNames(sheets, sheets), function(sheet) {
      try_to_read(path, "an XLSX file", as.matrix(suppressMessages(readxl::read_excel(path, sheet, col_names = FALSE, col_types = "text",
        .name_repair = "minimal"))))
    }))
  }
  lines <- utf8_lines(path)
  lines <- lines[nzchar(trimws(lines))]
  if (length(lines) == 0) stop_file(message_of("e_file_holds_no", path = path))
  marks <- c(";", "\t", ",", "|")
  bare <- gsub("\"[^\"]*\"", "", lines)
  cuts <- lapply(marks, function(mark) lengths(regmatches(bare, gregexpr(mark, bare, fixed = TRUE))))
  best <- which.max(vapply(cuts, stats::median, 0))
  most <- max(cuts[[best]]) + 1
  list(as.matrix(utils::read.table(text = lines, sep = marks[best], quote = "\"", fill = TRUE, colClasses = "character", comment.char = "",
    na.strings = character(), col.names = paste0("V", seq_len(most)), blank.lines.skip = FALSE)))
}

# The rows below the first one whose cells name an item and something else, as a data frame of `fields`; NULL where no row does.
fields_table <- function(cells, fields) {
  cells[is.na(cells)] <- ""
  words <- shipped_table("column-words")
  for (i in seq_len(min(nrow(cells), 20))) {
    header <- header_name(cells[i, ])
    at <- integer()
    for (field in fields) {
      mine <- which(header %in% words$word[words$kind == paste("field", field)] & !seq_along(header) %in% at)
      if (length(mine) > 0) at[field] <- mine[1]
    }
    if ("item" %in% names(at) && length(at) >= 2) {
      body <- cells[-seq_len(i), , drop = FALSE]
      return(plain_frame(lapply(as.list(at), function(j) trimws(unname(body[, j])))))
    }
  }
  NULL
}

header_name <- function(text) gsub("[^a-z0-9]+", " ", same_words(gsub("([a-z])([A-Z])", "\\1 \\2", text))) |> trimws()

# What a file beside the data says of its columns: a list by column of list(wording, labels, missing, scale, direction, lowest, highest, answer,
# options, role). NULL where it is no codebook of theirs.
told_by_codebook <- function(path, columns) {
  if (grepl("[.]ya?ml$", path, ignore.case = TRUE)) {
    return(told_rows(read_codebook_yaml(path), columns))
  }
  for (cells in raw_sheets(path)) {
    rows <- fields_table(cells, c("item", "value_label", "wording", "scale", "direction", "value", "labels", "lowest", "highest", "range", "missing",
      "answer", "options", "role"))
    told <- if (!is.null(rows)) told_rows(rows, columns)
    if (!is.null(told)) return(told)
  }
}

told_rows <- function(rows, columns) {
  if (!"value_label" %in% names(rows)) rows$value <- NULL
  if (!is.null(rows$value)) rows <- values_joined(rows)
  at <- match(same_words(rows$item), same_words(columns))
  known <- !is.na(at) & rows$item != "" & !duplicated(at)
  if (sum(known) < 2) {
    return(NULL)
  }
  rows <- rows[known, , drop = FALSE]
  told <- lapply(seq_len(nrow(rows)), function(i) told_of(as.list(rows[i, , drop = FALSE])))
  told <- stats::setNames(told, columns[at[known]])
  # Where subscales are given, what has none is no item.
  scales <- vapply(told, function(one) one$scale, "")
  if (sum(scales != "") >= 3) told[scales == ""] <- lapply(told[scales == ""], function(one) c(one, list(role = "aside")))
  told
}

# One value a row, its item named once: the values of an item as one text.
values_joined <- function(rows) {
  first <- rows$item != ""
  of <- cumsum(first)
  pairs <- ifelse(rows$value != "", paste(rows$value, "=", gsub("[;=]", ",", rows$value_label)), "")
  joined <- vapply(split(pairs, of), function(own) paste(own[own != ""], collapse = "; "), "")
  same <- match(rows$item[first], rows$item[first])
  rows <- rows[first, , drop = FALSE]
  rows$labels <- vapply(same, function(k) paste(joined[as.character(of[first][same == k])], collapse = "; "), "")
  rows[!duplicated(rows$item), , drop = FALSE]
}

told_of <- function(row) {
  cell <- function(field) if (is.null(row[[field]]) || is.na(row[[field]])) "" else row[[field]]
  labels <- labels_by_hand(cell("labels"))
  range <- range_by_hand(if (cell("range") != "") cell("range") else if (length(labels) == 0) cell("labels") else "")
  scale <- cell("scale")
  # "Skala" can mean the scale of answers.
  if (length(range_by_hand(scale)) == 2) {
    range <- range_by_hand(scale)
    scale <- ""
  }
  none <- same_words(names(labels)) %in% no_answer_words()
  ends <- suppressWarnings(as.numeric(c(cell("lowest"), cell("highest"))))
  if (anyNA(ends)) ends <- if (length(range) == 2) range else NULL
  list(wording = cell("wording"), labels = labels[!none], missing = unname(c(labels[none], numbers_in(cell("missing")))), scale = scale,
    direction = direction_by_hand(cell("direction")), lowest = ends[1], highest = ends[2], answer = cell("answer"), options = cell("options"))
}

numbers_in <- function(text) as.numeric(regmatches(text, gregexpr("-?[0-9]+", text))[[1]])

# "1 = never; 2 = often", "1: nie, 2: oft", "never (1) / often (2)", "1 (never) to 5 (always)".
labels_by_hand <- function(text) {
  if (text == "") {
    return(numeric())
  }
  plain <- parse_labels(text)
  if (length(plain) > 1) {
    return(plain)
  }
  # A number, a mark, words up to the next mark.
  first <- "(?<![0-9])-?[0-9]{1,3}\\s*(=|:|-|\u2013|\\.|\\)|\\s)\\s*[^0-9;,/|\\n]*[[:alpha:]][^;,/|\\n]*?(?=\\s*([;,/|\\n]|$))"
  before <- regmatches(text, gregexpr(first, text, perl = TRUE))[[1]]
  inside <- regmatches(text, gregexpr("-?[0-9]{1,3}\\s*[(\\[][^)\\]]+[)\\]]", text, perl = TRUE))[[1]]
  behind <- regmatches(text, gregexpr("[[:alpha:]][^;,/|\\n=(]*[=(]\\s*-?[0-9]{1,3}", text, perl = TRUE))[[1]]
  pairs <- if (length(inside) > 1) inside else if (length(before) > 1) before else behind
  if (length(pairs) < 2) {
    return(numeric())
  }
  number <- as.numeric(regmatches(pairs, regexpr("-?[0-9]{1,3}", pairs)))
  word <- trimws(gsub("^[^[:alpha:]]+|[^[:alnum:].!?'\u2019]+$", "", gsub("\\s*[(\\[=]?\\s*-?[0-9]{1,3}\\s*[)\\]]?\\s*$", "", pairs, perl = TRUE)))
  if (anyNA(number) || anyDuplicated(number)) numeric() else stats::setNames(number, word)
}

# "1-5", "0 to 10", "1 bis 7": two numbers; NULL for anything else.
range_by_hand <- function(text) {
  form <- "^[^0-9]{0,20}(-?[0-9]{1,3})\\s*(-|\u2013|\\.\\.|to|bis|a|\u00e0|tot|do|till|/)\\s*(-?[0-9]{1,3})(\\D.*)?$"
  part <- function(which) as.numeric(sub(form, which, text, ignore.case = TRUE))
  ends <- if (grepl(form, text, ignore.case = TRUE)) c(part("\\1"), part("\\3"))
  if (length(ends) == 2 && ends[1] < ends[2]) ends
}

# "yes", "r", "-", "umgepolt": reversed; "no", "+": forward; "" where nothing stands.
direction_by_hand <- function(text) {
  word <- same_words(text)
  yes <- answer_families()$yes
  no <- unlist(lapply(yes, function(language) names(language)[language < .5]))
  if (word == "") return("")
  if (word %in% c(no, "forward", "+", "0", "1+", "positive", "positiv", "pos", "false", "normal", "+1")) "forward" else "reversed"
}

# The key: a table of items and right answers, a row of them under the names of the columns, or letters in order. list by column.
told_by_key <- function(path, columns, lettered) {
  for (cells in raw_sheets(path)) {
    rows <- fields_table(cells, c("item", "answer"))
    if (!is.null(rows) && "answer" %in% names(rows)) {
      key <- rows$answer
      names <- rows$item
    } else if (nrow(cells) >= 2 && sum(same_words(cells[1, ]) %in% same_words(columns)) >= 2) {
      key <- cells[2, ]
      names <- cells[1, ]
    } else if (ncol(cells) >= 2 && sum(same_words(cells[, 1]) %in% same_words(columns)) >= 2) {
      key <- cells[, 2]
      names <- cells[, 1]
    } else {
      key <- unlist(strsplit(gsub("[^A-Za-z0-9]+", "", t(cells)), ""))
      names <- if (length(key) == length(lettered)) lettered
    }
    at <- match(same_words(names), same_words(columns))
    if (any(!is.na(at))) return(stats::setNames(as.list(trimws(as.character(key[!is.na(at)]))), columns[at[!is.na(at)]]))
  }
  stop_file(message_of("e_no_key_of_these", path = path), hint = message_of("e_key_has_items"))
}

# Where columns of a fixed-width file stand, c(name = "from-to"): as text "id=1-4,answers=6-27", or in a file.
told_by_layout <- function(path) {
  cells <- raw_sheets(path)[[1]]
  rows <- fields_table(cells, c("item", "start", "end", "width"))
  if (is.null(rows) || is.null(rows$start)) rows <- plain_frame(stats::setNames(lapply(seq_len(ncol(cells)), function(j) trimws(cells[, j])),
    c("item", "start", "end", paste0("more", seq_len(ncol(cells))))[seq_len(ncol(cells))]))
  if (ncol(rows) == 1) {
    parts <- regmatches(rows$item, regexec("^(\\S+?)[[:space:]:=]+([0-9]+)(?:\\s*-\\s*|\\s+)?([0-9]*)", rows$item, perl = TRUE))
    parts <- Filter(function(p) length(p) == 4, parts)
    rows <- plain_table(item = vapply(parts, `[`, "", 2), start = vapply(parts, `[`, "", 3), end = vapply(parts, `[`, "", 4))
  }
  start <- suppressWarnings(as.integer(sub("\\D.*$", "", rows$start)))
  end <- if (!is.null(rows$width)) start + suppressWarnings(as.integer(rows$width)) - 1L else if (is.null(rows$end)) start else
    suppressWarnings(as.integer(rows$end))
  spans <- grepl("^[0-9]+\\s*[-\u2013]\\s*[0-9]+$", rows$start)
  end[spans] <- as.integer(sub("^.*[-\u2013]\\s*", "", rows$start[spans]))
  end[is.na(end)] <- start[is.na(end)]
  fine <- !is.na(start) & rows$item != ""
  if (!any(fine)) stop_file(message_of("e_no_layout", path = path), hint = message_of("e_place_column_s"))
  stats::setNames(paste0(start[fine], "-", end[fine]), rows$item[fine])
}

# The table with what a codebook (named, or on another sheet) and a key say of it.
told_table <- function(table, path, codebook, key) {
  columns <- names(table$data)
  told <- if (!is.null(codebook)) told_by_codebook(codebook, columns) else if (length(path) == 1) told_by_sheets(path, columns)
  if (!is.null(codebook) && is.null(told)) {
    stop_input(message_of("e_no_codebook_of_these", path = codebook), hint = message_of("e_codebook_names_columns", columns = columns))
  }
  table$foreign <- tell_foreign(table$foreign, told)
  if (!is.null(key)) {
    table$key <- told_by_key(key, columns, columns[vapply(table$data, is_lettered, TRUE)])
  }
  table
}

# Single letters and nothing else.
is_lettered <- function(x) is.character(x) && all(grepl("^[A-Za-z]$", setdiff(unique(trimws(x)), c(NA, empty_cells))))

# A workbook can hold its own codebook on another sheet, a ZIP file one beside the data.
told_by_sheets <- function(path, columns) {
  inside <- if (grepl("[.]xlsx?$", path, ignore.case = TRUE)) path else if (grepl("[.]zip$", path, ignore.case = TRUE)) {
    folder <- tempfile("beside-")
    on.exit(unlink(folder, recursive = TRUE))
    utils::unzip(path, exdir = folder, junkpaths = TRUE)
  }
  for (file in inside) {
    told <- tryCatch(told_by_codebook(file, columns), error = function(e) NULL)
    if (length(told) >= max(3, length(columns) / 3)) return(told)
  }
  NULL
}

# What was told joins what the file says of its columns, and goes before it.
tell_foreign <- function(foreign, told) {
  for (name in names(told)) {
    one <- told[[name]]
    known <- foreign[[name]]
    if (one$wording != "") known$wording <- one$wording
    if (length(one$labels) > 0) known$labels <- one$labels
    known$missing <- unique(c(known$missing, one$missing))
    known$told <- one[c("scale", "direction", "lowest", "highest", "answer", "options", "role")]
    foreign[[name]] <- known
  }
  foreign
}

# Fields that somebody has written down are no guesses.
apply_told <- function(rows, foreign) {
  for (i in seq_len(nrow(rows))) {
    told <- foreign[[rows$item[i]]]$told
    if (is.null(told)) next
    if (identical(told$role, "aside")) {
      rows[i, c("role", "scale", "direction", "guessed")] <- list("aside", "", "", "")
      next
    }
    fields <- c("scale", "direction", "lowest", "highest", "answer", "options")
    given <- Filter(function(value) length(value) == 1 && !is.na(value) && value != "", told[fields])
    if (length(given) > 0 && rows$role[i] == "aside" && any(c("scale", "lowest", "answer") %in% names(given))) rows$role[i] <- ""
    for (field in names(given)) rows[[field]][i] <- if (is.numeric(given[[field]])) format_answer(given[[field]]) else given[[field]]
    rows$guessed[i] <- paste(setdiff(strsplit(rows$guessed[i], " ")[[1]], c(names(given), if ("scale" %in% names(given)) "role")), collapse = " ")
  }
  rows
}
