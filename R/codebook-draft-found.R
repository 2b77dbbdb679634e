# What a first codebook finds besides items: totals, boxes to tick, and previews.

# Columns that are the sum or the mean of items, as they stand or keyed, in everybody who answered all: data frame(column, what, of).
find_totals <- function(rows, frame, answers) {
  none <- plain_table(column = character(), what = character(), of = list())
  items <- which(rows$item %in% colnames(answers))
  numbers <- names(Filter(function(x) is.numeric(x) && length(unique(x[!is.na(x)])) > 2, frame))
  if (length(numbers) == 0) {
    return(none)
  }
  columns <- as.matrix(as.data.frame(unclass(frame)[numbers], check.names = FALSE))
  blocks <- split(items, rows$scale[items])
  blocks <- c(blocks[setdiff(names(blocks), "")], if (length(items) > 2) list(items))
  found <- lapply(Filter(function(block) length(block) > 1, blocks), function(block) {
    own <- rows$item[block]
    values <- answers[, own, drop = FALSE]
    keyed <- values * rep(ifelse(rows$direction[block] == "reversed", -1, 1), each = nrow(values))
    lapply(may_be_totals(columns, values, keyed), function(column) total_of(column, own, frame[[column]], values, keyed))
  })
  found <- do.call(rbind, c(list(none), unlist(unname(found), recursive = FALSE)))
  plain_frame(found[!duplicated(found$column), ])
}

# A dozen people rule most columns out: names of those that differ from the others' sum or mean by a constant in them.
may_be_totals <- function(columns, values, keyed) {
  whole <- utils::head(which(rowSums(is.na(values)) == 0), 12)
  if (length(whole) == 0) {
    return(colnames(columns))
  }
  own <- match(colnames(columns), colnames(values))
  x <- unname(columns[whole, , drop = FALSE])
  constant <- function(gap, width) {
    end <- function(of) do.call(of, c(lapply(seq_len(nrow(gap)), function(i) gap[i, ]), na.rm = TRUE))
    !(end(pmax.int) - end(pmin.int) > 2 * width) %in% TRUE
  }
  fits <- vapply(list(values, keyed), function(form) {
    form <- form[whole, , drop = FALSE]
    mine <- ifelse(is.na(own), 0, 1)
    without <- rowSums(form) - replace(form[, own, drop = FALSE], is.na(own)[col(x)], 0)
    constant(x - without, 1e-6) | constant(x - without / rep(ncol(values) - mine, each = length(whole)), .0051)
  }, logical(ncol(columns)))
  colnames(columns)[rowSums(matrix(fits, ncol(columns))) > 0]
}

# One column against the items of a block, itself not among them; NULL where it is no total of theirs.
total_of <- function(column, items, total, values, keyed) {
  others <- items != column
  if (sum(others) < 2) {
    return(NULL)
  }
  whole <- which(rowSums(is.na(values[, others, drop = FALSE])) == 0 & !is.na(total))
  if (length(whole) < 10) {
    return(NULL)
  }
  own <- values[whole, others, drop = FALSE]
  # Items that all say the same are each other's mean, and no total.
  alike <- rowSums(own != own[, 1]) == 0
  what <- total_kind(total[whole], own, keyed[whole, others, drop = FALSE])
  if (mean(alike) <= .5 && !is.null(what)) plain_table(column = column, what = what, of = list(items[others]))
}

# "sum" or "mean" of answers as they stand or keyed, up to a constant: turned items are taken from lowest plus highest.
total_kind <- function(total, values, keyed) {
  equals <- function(x, width) diff(range(x - total)) <= 2 * width
  for (form in list(values, keyed)) {
    what <- if (nrow(form) == 0) NULL else if (equals(rowSums(form), 1e-6)) "sum" else if (equals(rowMeans(form), .0051)) "mean"
    if (!is.null(what)) return(what)
  }
}

# "mood1 to mood6", two names, or one.
span_message <- function(names) {
  if (length(names) == 1) message_of("a_text", text = names) else
    message_of(if (length(names) > 2) "names_from_to" else "two_names", first = names[[1]], second = names[[length(names)]])
}

# Questions where several boxes could be ticked, each its columns: with one word or nothing under one stem; of 0 and 1 under a question that says
# so, or beside a field for something else; or one whose cells list words.
find_ticked <- function(rows, frame, foreign = list()) {
  text <- lapply(frame, function(x) unique(trimws(as.character(unique(x)))))
  filled <- lapply(text, function(x) x[!x %in% c(NA, empty_cells)])
  one_word <- vapply(names(frame), function(name) length(filled[[name]]) == 1 && length(text[[name]]) > 1, TRUE)
  two <- vapply(filled, function(x) length(x) %in% 1:2 && all(tolower(x) %in% c("0", "1", "true", "false", "yes", "no", "ja", "nein")), TRUE)
  stem <- name_stem(names(frame))
  wording <- rows$wording[match(names(frame), rows$item)]
  asked <- vapply(names(frame), function(name) if (is.null(foreign[[name]]$stem)) "" else foreign[[name]]$stem, "")
  several <- says("several", paste(asked, wording))
  other <- sub("[ _.-]*[0-9]*[ _.-]*(text|other|andere?s?|autre|otro|altro)$", "", names(frame), ignore.case = TRUE)
  beside_other <- stem != "" & stem %in% other[other != names(frame)]
  boxes <- stem != "" & (one_word | two & (several | beside_other))
  found <- Filter(function(own) length(own) > 1, split(names(frame)[boxes], stem[boxes]))
  listed <- names(Filter(lists_words, frame[rows$item[rows$role == "aside"]]))
  c(unname(found), as.list(listed))
}

# Items that ask for one certain answer to see whether somebody reads.
find_checks <- function(rows) {
  asks <- says("check", rows$wording) | says("check name", rows$item)
  rows$item[asks & (rows$role != "aside" | rows$labels != "")]
}

# Does a text say what a pattern of the table inst/tables/column-words.csv asks for, in any of its languages?
says <- function(kind, text) {
  words <- shipped_table("column-words")
  grepl(paste0("(", words$word[words$kind == kind], ")", collapse = "|"), text, ignore.case = TRUE, perl = TRUE)
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

# Rows of people who did not agree to take part: a column named for consent, and a word that says no: table(row, why).
find_refusals <- function(frame) {
  none <- plain_table(row = integer(), why = character())
  named <- names(frame)[says("consent", names(frame))]
  said <- lapply(named, function(name) {
    cell <- same_words(as.character(frame[[name]]))
    rows <- which(says("refusal", cell) & !is.na(frame[[name]]))
    if (length(unique(cell)) <= 4 && length(rows) > 0 && length(rows) < .5 * nrow(frame)) {
      plain_table(row = rows, why = paste0(name, " ", quoted(trimws(as.character(frame[[name]][rows])))))
    }
  })
  found <- do.call(rbind, c(list(none), said))
  found[!duplicated(found$row), ]
}

# Rows that a platform or its author made while testing: tibble(row, why).
find_previews <- function(frame) {
  said <- lapply(names(frame), function(name) {
    column <- frame[[name]]
    if (!is.character(column)) {
      return(NULL)
    }
    seen <- unique(column)
    cell <- same_words(seen)
    rows <- which(column %in% seen[cell %in% test_words | grepl("^(survey )?(preview|test)( [0-9]+)?$", cell)])
    # A group that is called "test" has more people than tests have rows.
    few <- length(rows) > 0 && length(rows) <= max(5, .1 * length(column)) && length(rows) < .5 * length(column)
    if (few) plain_table(row = rows, why = paste0(name, " ", quoted(trimws(column[rows]))))
  })
  found <- do.call(rbind, c(list(plain_table(row = integer(), why = character())), said))
  found <- found[order(found$row), ]
  found[!duplicated(found$row), ]
}

test_words <- c("testing", "test test", "asdf", "dummy", "spam", "vorschau", "probe", "testlauf")
