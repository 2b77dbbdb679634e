# What a first codebook finds besides items: totals, boxes to tick, previews, and what to look at first.

# Columns that are the sum or the mean of items, as they stand or keyed, in everybody who answered all: data frame(column, what, of).
find_totals <- function(rows, frame) {
  none <- plain_table(column = character(), what = character(), of = list())
  items <- which(rows$role != "aside" & !startsWith(rows$labels, "? ="))
  numbers <- names(Filter(function(x) is.numeric(x) && length(unique(x[!is.na(x)])) > 2, frame))
  blocks <- split(items, rows$scale[items])
  blocks <- c(blocks[setdiff(names(blocks), "")], if (length(items) > 2) list(items))
  found <- lapply(blocks, function(block) {
    if (length(block) < 2) {
      return(none)
    }
    values <- drafted_answers(rows[block, ], frame)
    keyed <- values * rep(ifelse(rows$direction[block] == "reversed", -1, 1), each = nrow(values))
    do.call(rbind, lapply(numbers, function(column) total_of(column, rows$item[block], frame[[column]], values, keyed)))
  })
  found <- do.call(rbind, c(list(none), found))
  plain_frame(found[!duplicated(found$column), ])
}

# One column against the items of a block, itself not among them; NULL where it is no total of theirs.
total_of <- function(column, items, total, values, keyed) {
  others <- items != column
  if (sum(others) < 2) {
    return(NULL)
  }
  whole <- stats::complete.cases(values[, others, drop = FALSE]) & !is.na(total)
  # Items that all say the same are each other's mean, and no total.
  alike <- apply(values[whole, others, drop = FALSE], 1, function(own) length(unique(own)) == 1)
  if (sum(whole) < 10 || mean(alike) > .5) {
    return(NULL)
  }
  # Up to a constant: turned items are taken from lowest plus highest.
  equals <- function(x, width) diff(range(x[whole] - total[whole])) <= 2 * width
  for (form in list(values[, others, drop = FALSE], keyed[, others, drop = FALSE])) {
    what <- if (equals(rowSums(form), 1e-6)) "sum" else if (equals(rowMeans(form), .0051)) "mean"
    if (!is.null(what)) return(plain_table(column = column, what = what, of = list(items[others])))
  }
}

# "mood1 to mood6", two names, or one.
span_message <- function(names) {
  if (length(names) == 1) message_of("a_text", text = names) else
    message_of(if (length(names) > 2) "names_from_to" else "two_names", first = names[[1]], second = names[[length(names)]])
}

# Questions where several boxes could be ticked, each its columns: with one word or nothing under one stem, or one whose cells list words.
find_ticked <- function(rows, frame) {
  one_word <- vapply(frame, function(x) {
    empty <- is.na(x) | trimws(as.character(x)) == ""
    any(empty) && length(unique(x[!empty])) == 1
  }, TRUE)
  stem <- sub("[ _.-]*[0-9]+[a-z]?$", "", names(frame))
  boxes <- split(names(frame)[one_word & stem != names(frame)], stem[one_word & stem != names(frame)])
  boxes <- Filter(function(own) length(own) > 1, boxes)
  listed <- names(Filter(lists_words, frame[rows$item[rows$role == "aside"]]))
  c(unname(boxes), as.list(listed))
}

# Cells such as "radio,press": few words, alone and joined.
lists_words <- function(x) {
  if (!is.character(x)) {
    return(FALSE)
  }
  cells <- unique(trimws(x[!is.na(x) & trimws(x) != ""]))
  for (mark in c(";", ",", "|")) {
    parts <- strsplit(cells, mark, fixed = TRUE)
    several <- lengths(parts) > 1
    words <- unique(trimws(unlist(parts)))
    if (sum(several) >= 2 && length(words) <= 15 && length(words) < length(cells) && all(nchar(words) <= 60)) return(TRUE)
  }
  FALSE
}

# Rows that a platform or its author made while testing: tibble(row, why).
find_previews <- function(frame) {
  said <- lapply(names(frame), function(name) {
    column <- frame[[name]]
    if (!is.character(column)) {
      return(NULL)
    }
    cell <- same_words(column)
    rows <- which(cell %in% test_words | grepl("^(survey )?(preview|test)( [0-9]+)?$", cell))
    # A group that is called "test" has more people than tests have rows.
    few <- length(rows) > 0 && length(rows) <= max(5, .1 * length(column)) && length(rows) < .5 * length(column)
    if (few) plain_table(row = rows, why = paste0(name, " ", quoted(trimws(column[rows]))))
  })
  found <- do.call(rbind, c(list(plain_table(row = integer(), why = character())), said))
  found <- found[order(found$row), ]
  found[!duplicated(found$row), ]
}

test_words <- c("testing", "test test", "asdf", "dummy", "spam", "vorschau", "probe", "testlauf")

# The guesses most likely to be wrong, at most three questions, each of which asks for one field of the codebook.
first_doubts <- function(rows, keyed) {
  asked <- c(doubt_unplaced(rows), doubt_orders(rows), doubt_codes(rows), doubt_directions(rows, keyed), doubt_turned(rows), doubt_ranges(rows),
    doubt_lone(rows))
  weight <- vapply(asked, `[[`, 0, "weight")
  lapply(utils::head(asked[order(-weight)], 3), `[[`, "question")
}

# One question, in a list; how much it weighs against others.
doubt <- function(weight, code, ...) list(list(weight = unname(weight), question = message_of(code, ...)))

# Words that could not be placed.
doubt_unplaced <- function(rows) {
  open <- which(startsWith(rows$labels, "? = "))
  words <- gsub("? = ", "", gsub("; ", ", ", rows$labels[open[1]], fixed = TRUE), fixed = TRUE)
  if (length(open) > 0) doubt(1, "doubt_order", items = span_of(rows$item[open]), words = words)
}

# Words of two languages, or two words on one step.
doubt_orders <- function(rows) {
  worded <- unique(rows$labels[rows$role != "aside" & grepl("\\blabels\\b", rows$guessed)])
  joined <- Filter(function(text) anyDuplicated(parse_labels(text)) > 0, worded)
  if (length(joined) == 0) {
    return(NULL)
  }
  labels <- parse_labels(joined[1])
  step <- labels[duplicated(labels)][1]
  doubt(.8, "doubt_same_step", words = names(labels)[labels == step], items = span_of(rows$item[rows$labels == joined[1]]))
}

span_of <- function(items) {
  if (length(items) == 1) span_message(items) else message_of("span_counted", span = span_message(items), items = length(items))
}

# Numbers taken for no answer.
doubt_codes <- function(rows) {
  guessed <- which(rows$role != "aside" & grepl("\\bmissing\\b", rows$guessed))
  codes <- lapply(rows$missing[guessed], function(text) grep("^-?[0-9]+$", missing_codes(text)$code, value = TRUE))
  every <- unique(unlist(codes))
  if (length(every) == 0) {
    return(NULL)
  }
  items <- rows$item[guessed][vapply(codes, function(own) any(own %in% every), TRUE)]
  doubt(.7, "doubt_codes", codes = every, items = span_of(items))
}

# The item of each subscale that follows the others least, whichever way it is taken.
doubt_directions <- function(rows, keyed) {
  r <- keyed[rows$item]
  weakest <- unlist(lapply(setdiff(unique(rows$scale[!is.na(r)]), ""), function(scale) {
    mine <- which(rows$scale == scale & !is.na(r))
    mine[which.min(r[mine])]
  }))
  unlist(lapply(weakest[r[weakest] < .3], function(i) {
    doubt(.9 - r[[i]], "doubt_belongs", item = rows$item[i], scale = rows$scale[i],
      direction = message_of("a_term", term = rows$direction[i]), r = r[[i]])
  }), recursive = FALSE)
}

# Ranges seen in the answers that questionnaires rarely have: an end may not have been used by anybody.
doubt_ranges <- function(rows) {
  open <- rows$role != "aside" & grepl("\\blowest\\b", rows$guessed) & rows$labels == ""
  kind <- unique(rows[open, c("scale", "lowest", "highest")])
  if (nrow(kind) == 0) {
    return(NULL)
  }
  range <- paste(kind$lowest, kind$highest)
  unlist(lapply(unique(range), function(one) {
    own <- kind[range == one, ]
    usual <- one %in% c("0 1", "1 4", "1 5", "1 6", "1 7", "0 4", "0 6", "0 10", "1 10")
    doubt(if (usual) .3 else .75, "doubt_range", low = own$lowest[1], high = own$highest[1],
      scales = lapply(own$scale, function(scale) if (scale == "") message_of("items_without_scale") else scale))
  }), recursive = FALSE)
}

# What was guessed reversed changes every figure after it.
doubt_turned <- function(rows) {
  turned <- which(rows$direction == "reversed" & grepl("\\bdirection\\b", rows$guessed))
  said <- lapply(turned, function(i) {
    if (rows$wording[i] == "") rows$item[i] else message_of("item_and_wording", item = rows$item[i], wording = rows$wording[i])
  })
  if (length(turned) > 0) doubt(.6, "doubt_turned", items = said)
}

doubt_lone <- function(rows) {
  lone <- which(rows$role == "aside" & rows$lowest != "" & rows$options == "")
  unlist(lapply(lone, function(i) doubt(.5, "doubt_lone", item = rows$item[i], low = rows$lowest[i], high = rows$highest[i])), recursive = FALSE)
}
