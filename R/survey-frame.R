# A data frame in place of a survey: one scale, numbers as they are, and what was assumed.

# A survey as it is; of a data frame one whose items are its columns of numbers and ordered factors. Anything else is refused.
as_survey <- function(x, arg = "survey") {
  if (is_answer_matrix(x)) x <- as.data.frame(x)
  if (!is.data.frame(x)) {
    check_survey(x, arg)
    return(x)
  }
  frame_survey(x)
}

# The same where moments are taken, too.
as_survey_or_moments <- function(x) if (is.data.frame(x) || is_answer_matrix(x)) frame_survey(as.data.frame(x)) else x

# A matrix of people by items, not of items by items.
is_answer_matrix <- function(x) is.matrix(x) && is.numeric(x) && nrow(x) > ncol(x) && ncol(x) > 1

frame_survey <- function(data) {
  described <- describe_labelled(check_data_frame(data), "a data frame")
  columns <- unclass(data)
  ordered <- vapply(columns, is.ordered, TRUE)
  for (name in names(columns)[ordered]) described$data[[name]] <- as.integer(columns[[name]])
  worded <- worded_answers(described, names(columns)[!ordered])
  described$data[names(worded)] <- lapply(worded, `[[`, "values")
  ordered[names(worded)] <- TRUE
  steps <- c(lapply(columns[ordered & !names(columns) %in% names(worded)], nlevels), lapply(worded, `[[`, "steps"))
  kind <- vapply(names(columns), function(name) frame_column_kind(described$data[[name]], ordered[[name]]), "")
  items <- names(columns)[kind == "item"]
  if (length(items) == 0) {
    stop_input(message_of("e_no_column_holds"), hint = message_of("e_answers_words_need"))
  }
  check_most_taken(kind, names(columns))
  described$data <- described$data[!duplicated(names(described$data))]
  range <- lapply(items, function(item) frame_range(described, item, steps[[item]]))
  other <- of_another_range(range, ordered[items])
  beside <- items[other]
  all_ranges <- stats::setNames(range, items)
  items <- items[!other]
  range <- unname(all_ranges[items])
  whole <- vapply(range, function(r) all(r == round(r)) && diff(r) <= 20, TRUE)
  # Options that nobody used in one column are there where the others have them.
  if (all(whole) && !any(ordered)) range <- rep(list(c(min(unlist(range)), max(unlist(range)))), length(items))
  book <- data.frame(item = items, scale = "items", lowest = vapply(range, min, 0), highest = vapply(range, max, 0),
    missing = vapply(items, function(item) paste(described$foreign[[item]]$missing, collapse = " "), ""), role = "scored")
  # They can still be asked for by name.
  if (length(beside) > 0) book <- rbind(book, data.frame(item = beside, scale = "", lowest = vapply(all_ranges[beside], min, 0),
    highest = vapply(all_ranges[beside], max, 0), missing = "", role = "tryout"))
  survey <- sw_survey(described$data, book)
  survey$assumed <- list(items = items, aside = names(columns)[kind != "item"], range = unique(range), beside = all_ranges[beside],
    words = unique(vapply(worded, `[[`, "", "labels", USE.NAMES = FALSE)))
  survey
}

# Columns of words that a first codebook takes for answers, where at least three are answered alike: a list by name of list(values: the steps from
# 1, steps: how many).
worded_answers <- function(described, names) {
  words <- Filter(function(name) is.character(described$data[[name]]) || is.factor(described$data[[name]]), names)
  if (length(words) == 0) {
    return(list())
  }
  drafts <- lapply(words, function(name) draft_item(name, described$data[[name]], described$foreign[[name]], 12))
  rows <- settle_orders(list2DF(lapply(data.table::rbindlist(drafts), identity)), described$data, described$foreign)$rows
  rows <- rows[rows$role != "aside" & rows$labels != "", ]
  rows$scale <- vapply(rows$labels, answers_in_words, "")
  rows <- rows[rows$scale %in% names(which(table(rows$scale) >= 3)), ]
  if (nrow(rows) == 0) {
    return(list())
  }
  rows <- share_labels(rows)
  answers <- drafted_answers(rows, described$data)
  steps <- lengths(lapply(rows$labels, function(text) unique(parse_labels(text))))
  stats::setNames(lapply(seq_along(rows$item), function(i) list(values = as.integer(answers[, i]), steps = steps[i], labels = rows$labels[i])),
    rows$item)
}

# A few of many columns are not what somebody meant by all of them.
check_most_taken <- function(kind, names) {
  left <- names[!kind %in% c("item", "identifier", "constant")]
  if (length(left) > length(kind) / 2) {
    stop_input(message_of("e_most_columns_left", left = length(left), columns = length(kind)), faults = utils::head(left, 6),
      hint = message_of("e_answers_words_need"))
  }
}

# Which columns are of another range than the scale that most of them are on: half of the columns, three at least, lie within it, and these go far
# beyond it, or are yes and no beside more options. None where no such scale is there.
of_another_range <- function(range, ordered) {
  low <- vapply(range, min, 0)
  high <- vapply(range, max, 0)
  within <- vapply(seq_along(range), function(j) sum(low >= low[j] & high <= high[j]), 1L)
  width <- high - low
  fits <- which(within >= max(3, length(range) / 2))
  if (length(fits) == 0) {
    return(rep(FALSE, length(range)))
  }
  at <- fits[which.min(width[fits])]
  far <- high - low[at] > 1.5 * width[at] + 1 | high[at] - low > 1.5 * width[at] + 1
  yes_no <- width[at] >= 3 & low == 0 & high == 1 & low[at] > 0
  (far | yes_no) & !ordered
}

# "item", "text", "constant", or "identifier": numbers that differ from row to row.
frame_column_kind <- function(column, ordered) {
  if (ordered) {
    return("item")
  }
  if (!is.numeric(column) && !is.logical(column)) {
    return("text")
  }
  seen <- column[!is.na(column)]
  if (length(unique(seen)) < 2) {
    return("constant")
  }
  if (length(seen) > 20 && !anyDuplicated(seen) && all(seen == round(seen))) "identifier" else "item"
}

frame_range <- function(described, item, levels = NULL) {
  if (!is.null(levels)) {
    return(c(1, levels))
  }
  values <- as.numeric(described$data[[item]])
  values <- setdiff(values[is.finite(values)], c(described$foreign[[item]]$missing, lone_codes(unique(values[is.finite(values)]))))
  if (length(values) == 0) c(0, 1) else written_range(values)
}

# Lowest and highest; where these are no whole numbers, a little further out, since a codebook writes fifteen digits.
written_range <- function(values) {
  ends <- range(values)
  if (all(ends == round(ends))) {
    return(ends)
  }
  unit <- 10^(floor(log10(max(abs(ends)))) - 6)
  c(floor(ends[1] / unit), ceiling(ends[2] / unit)) * unit
}

# What was assumed of a data frame; NULL of a survey with a codebook.
assumed_note <- function(survey) {
  of <- survey$assumed
  if (is.null(of)) {
    return(NULL)
  }
  range <- if (length(of$range) == 1) message_of("assumed_range", low = format_answer(of$range[[1]][1]), high = format_answer(of$range[[1]][2]))
  beside <- messages_of("column_range", column = names(of$beside), low = vapply(of$beside, function(r) format_answer(r[1]), ""),
    high = vapply(of$beside, function(r) format_answer(r[2]), ""))
  c(
    if (length(beside) > 0) note("other_range", message_of("other_range", columns = beside), names(of$beside), rank = 0L),
    note("assumed", message_of("assumed_scale", items = length(of$items), range = range,
      aside = if (length(of$aside) > 0) message_of("left_aside", columns = of$aside))),
    if (length(of$words) > 0) note("assumed_words", message_of("assumed_words", labels = as.list(of$words)))
  )
}

# What every verb says of its survey, whatever it finds.
survey_notes <- function(survey) if (has_answers(survey)) c(repeated_note(survey), assumed_note(survey), database_note(survey))
