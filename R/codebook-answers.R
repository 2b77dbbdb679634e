# Answers as they stand in a file, read by what the codebook says of their item.

# One item: list(values, faults = data.frame(row, problem, field of the codebook that it does not fit), found = codes
# recognised as missing without being in the codebook).
read_item <- function(column, spec, find_codes = TRUE) {
  if (!is.na(spec$answer)) {
    return(read_keyed_item(column, spec))
  }
  codes <- missing_codes(spec$missing)
  number <- column_numbers(column, codes$code, parse_labels(spec$labels))
  values <- blank_codes(number$values, suppressWarnings(as.numeric(codes$code)), spec)
  found <- numeric()
  faults <- list(plain_table(row = number$bad, problem = number$problem, field = "labels"))
  huge <- if (is.integer(values)) integer() else which(abs(values) > 1e15)
  if (length(huge) > 0) faults <- c(faults, list(plain_table(row = huge, problem = worded("fault_too_large"), field = "highest")))
  if (!is.na(spec$lowest)) {
    outside <- if (all_within(values, spec)) integer() else which(values < spec$lowest | values > spec$highest)
    if (length(outside) > 0 && find_codes) {
      found <- far_codes(values[outside], spec)
      values[values %in% found] <- NA
      outside <- setdiff(outside, which(is.na(values)))
    }
    if (length(outside) > 0) {
      problem <- paste0(format_answer(values[outside]), " is outside ", spec$lowest, " to ", spec$highest)
      faults <- c(faults, list(plain_table(row = outside, problem = problem, field = ifelse(values[outside] < spec$lowest, "lowest", "highest"))))
    }
  }
  list(values = values, faults = do.call(rbind, faults), found = found)
}

# A test item: 1 for the right option, 0 for another; skipped (or blank, where the codebook says
# nothing of blanks) counts as wrong, unseen and plainly missing as missing.
read_keyed_item <- function(column, spec) {
  text <- plain_text(column)
  kind <- missing_kind(column, spec)
  right <- strsplit(spec$answer, "[[:space:]]+")[[1]]
  values <- as.integer(text %in% right)
  values[kind %in% "skipped"] <- 0L
  values[kind %in% c("missing", "unseen")] <- NA
  bad <- integer()
  if (!is.na(spec$options)) {
    options <- strsplit(spec$options, "[[:space:]]+")[[1]]
    bad <- which(is.na(kind) & !text %in% options)
  }
  problem <- wordings("fault_not_among", text = text[bad], options = spec$options)
  list(values = values, faults = data.frame(row = bad, problem = problem, field = rep("options", length(bad))),
    found = numeric(), skipped = sum(kind %in% "skipped"))
}

# A column as numbers; `bad` are rows with text that is neither a number nor one
# of the item's labels.
column_numbers <- function(column, codes, labels = numeric()) {
  if (is.numeric(column)) {
    bad <- if (is.integer(column)) integer() else which(is.infinite(column))
    return(list(values = column, bad = bad, problem = rep("is infinite", length(bad))))
  }
  text <- trimws(as.character(column))
  text[text %in% empty_cells | same_words(text) %in% same_words(codes[codes != "blank"])] <- NA
  values <- suppressWarnings(as.numeric(text))
  if (length(labels) > 0) values <- ifelse(is.na(values), labelled_value(text, labels), values)
  values <- unname(values)
  bad <- which(is.na(values) & !is.na(text) | is.infinite(values))
  problem <- wordings(if (length(labels) > 0) "fault_no_number_or_label" else "fault_no_number", text = text[bad])
  whole <- all(is.na(values) | (values == round(values) & abs(values) < 2^31))
  if (whole && length(bad) == 0) values <- as.integer(values)
  list(values = values, bad = bad, problem = problem)
}

# Cells with nothing in them, as programs write them.
empty_cells <- c("", "NA", ".")

# What cells mean by the labels of their item: a label alone, or with its own number ("1 - Never", "Never (1)").
labelled_value <- function(text, labels) {
  value <- labels[match(same_words(text), same_words(names(labels)))]
  cells <- numbered_cells(text)
  own <- labels[match(same_words(cells$word), same_words(names(labels)))]
  ifelse(is.na(value) & own == cells$number, own, value)
}

# "1 - Never", "5 = fully agree", "10 completely", "Never (1)": list(number, word), NA where a cell is none of these.
numbered_cells <- function(text) {
  text <- trimws(text)
  before <- "^(-?[0-9]{1,2})(\\s*[-\u2013\u2014:.)=]\\s*|\\s+)([^0-9].*)$"
  behind <- "^(.*[^0-9[:space:]])\\s*[(\\[](-?[0-9]{1,2})[])]$"
  worded <- grepl("[[:alpha:]]", text)
  first <- worded & grepl(before, text)
  last <- worded & !first & grepl(behind, text)
  pick <- function(a, b) ifelse(first, sub(before, a, text), ifelse(last, sub(behind, b, text), NA_character_))
  list(number = as.numeric(pick("\\1", "\\2")), word = trimws(pick("\\3", "\\1")))
}

# Missing codes made missing. Codes outside the range are looked for only where
# something lies outside it.
blank_codes <- function(values, codes, spec) {
  codes <- codes[is.finite(codes)]
  if (length(codes) == 0) {
    return(values)
  }
  apart <- !is.na(spec$lowest) && all(codes < spec$lowest | codes > spec$highest)
  if (apart && all_within(values, spec)) {
    return(values)
  }
  values[values %in% codes] <- NA
  values
}

# Are all values within the item's range? One pass, no copy.
all_within <- function(values, spec) {
  if (is.integer(values) && spec$highest - spec$lowest < 1000) {
    return(kernel_tally(values, as.integer(ceiling(spec$lowest)), as.integer(floor(spec$highest)), NULL)$outside == 0)
  }
  range <- suppressWarnings(range(values, na.rm = TRUE))
  range[1] >= spec$lowest && range[2] <= spec$highest
}

# Usual codes more than one range's width away from the range.
far_codes <- function(outside, spec) {
  width <- spec$highest - spec$lowest
  far <- outside < spec$lowest - width | outside > spec$highest + width
  sort(unique(outside[far & outside %in% usual_missing_codes]))
}

# Codes that stand for "missing" by common usage, looked for only where they
# lie far outside the item's range.
usual_missing_codes <- c(-9, -8, -7, -66, -77, -88, -99, -98, -97, -999, -998, 77, 88, 97, 98, 99, 997, 998, 999, 9999)
