# What a first codebook finds besides items: totals, boxes to tick, previews, and what to look at first.

# Columns that are the sum or the mean of items, as they stand or keyed, in everybody who answered all: data frame(column, what, of).
find_totals <- function(rows, frame) {
  none <- plain_table(column = character(), what = character(), of = character())
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
    if (!is.null(what)) return(plain_table(column = column, what = what, of = span(items[others])))
  }
}

# "mood1 to mood6", or two names.
span <- function(names) if (length(names) > 2) paste(names[1], "to", names[length(names)]) else paste(names, collapse = " and ")

# Questions where several boxes could be ticked: columns with one word or nothing under one stem, or cells that list words.
find_ticked <- function(rows, frame) {
  one_word <- vapply(frame, function(x) {
    empty <- is.na(x) | trimws(as.character(x)) == ""
    any(empty) && length(unique(x[!empty])) == 1
  }, TRUE)
  stem <- sub("[ _.-]*[0-9]+[a-z]?$", "", names(frame))
  boxes <- split(names(frame)[one_word & stem != names(frame)], stem[one_word & stem != names(frame)])
  boxes <- Filter(function(own) length(own) > 1, boxes)
  listed <- names(Filter(lists_words, frame[rows$item[rows$role == "aside"]]))
  c(vapply(boxes, span, "", USE.NAMES = FALSE), listed)
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

# The guesses most likely to be wrong, at most three sentences, each of which asks for one field of the codebook.
first_doubts <- function(rows, keyed) {
  asked <- rbind(doubt_unplaced(rows), doubt_orders(rows), doubt_codes(rows), doubt_directions(rows, keyed), doubt_turned(rows), doubt_ranges(rows),
    doubt_lone(rows))
  if (is.null(asked)) character() else utils::head(asked$question[order(-asked$weight)], 3)
}

doubt <- function(weight, question) data.frame(weight = weight, question = question)

# Words that could not be placed.
doubt_unplaced <- function(rows) {
  open <- which(startsWith(rows$labels, "? = "))
  if (length(open) > 0) doubt(1, paste0("In which order do the answers of ", span_of(rows$item[open]), " go (", gsub("? = ", "",
    gsub("; ", ", ", rows$labels[open[1]], fixed = TRUE), fixed = TRUE), ")? (labels, role)"))
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
  items <- rows$item[rows$labels == joined[1]]
  doubt(.8, paste0("Do ", and_list(quoted(names(labels)[labels == step])), " mean the same step of the answers to ", span_of(items), "? (labels)"))
}

span_of <- function(items) if (length(items) == 1) items else paste0(span(items), " (", length(items), " items)")

# Numbers taken for no answer.
doubt_codes <- function(rows) {
  guessed <- which(rows$role != "aside" & grepl("\\bmissing\\b", rows$guessed))
  codes <- lapply(rows$missing[guessed], function(text) grep("^-?[0-9]+$", missing_codes(text)$code, value = TRUE))
  every <- unique(unlist(codes))
  if (length(every) == 0) {
    return(NULL)
  }
  items <- rows$item[guessed][vapply(codes, function(own) any(own %in% every), TRUE)]
  doubt(.7, paste0(if (length(every) > 1) "Do " else "Does ", and_list(every), " stand",
    " for no answer in ", span_of(items), "? (missing)"))
}

# The item of each subscale that follows the others least, whichever way it is taken.
doubt_directions <- function(rows, keyed) {
  r <- keyed[rows$item]
  weakest <- unlist(lapply(setdiff(unique(rows$scale[!is.na(r)]), ""), function(scale) {
    mine <- which(rows$scale == scale & !is.na(r))
    mine[which.min(r[mine])]
  }))
  weakest <- weakest[r[weakest] < .3]
  if (length(weakest) > 0) doubt(.9 - r[weakest], paste0("Does ", rows$item[weakest], " belong to ", rows$scale[weakest], ", ",
    rows$direction[weakest], "? Its correlation with the others is ", coefficient_text(unname(r[weakest])), ". (scale, direction)"))
}

# Ranges seen in the answers that questionnaires rarely have: an end may not have been used by anybody.
doubt_ranges <- function(rows) {
  open <- rows$role != "aside" & grepl("\\blowest\\b", rows$guessed) & rows$labels == ""
  kind <- unique(rows[open, c("scale", "lowest", "highest")])
  usual <- paste(kind$lowest, kind$highest) %in% c("0 1", "1 4", "1 5", "1 6", "1 7", "0 4", "0 6", "0 10", "1 10")
  if (nrow(kind) == 0) {
    return(NULL)
  }
  name <- ifelse(kind$scale == "", "the items without a subscale", kind$scale)
  range <- paste(kind$lowest, "to", kind$highest)
  do.call(rbind, lapply(unique(range), function(one) {
    doubt(if (any(usual[range == one])) .3 else .75, paste0("Do the answers of ", and_list(name[range == one], 5), " go from ", one,
      ", or did nobody use an end? (lowest, highest)"))
  }))
}

# What was guessed reversed changes every figure after it.
doubt_turned <- function(rows) {
  turned <- which(rows$direction == "reversed" & grepl("\\bdirection\\b", rows$guessed))
  if (length(turned) == 0) {
    return(NULL)
  }
  said <- ifelse(rows$wording[turned] == "", rows$item[turned], paste0(rows$item[turned], " (", quoted(rows$wording[turned]), ")"))
  doubt(.6, paste0(if (length(turned) > 1) "Are " else "Is ", and_list(said, 5), " worded against the others of ",
    if (length(turned) > 1) "their subscales" else "its subscale", "? (direction)"))
}

doubt_lone <- function(rows) {
  lone <- which(rows$role == "aside" & rows$lowest != "" & rows$options == "")
  if (length(lone) > 0) doubt(.5, paste0("Is ", rows$item[lone], " (", rows$lowest[lone], " to ", rows$highest[lone],
    ") an item? It was taken for none. (role, scale)"))
}
