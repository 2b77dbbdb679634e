# Is it a survey?

check_survey <- function(x, arg = "survey") {
  check_class(x, "sw_survey", arg, "`sw_survey()`, `sw_read()` or `sw_demo()`")
  # A survey that was saved and read again is new to this session.
  if (is.environment(x$source)) known_sources(x$source)
}

# How many answers to an item were not given, a skipped one of a test among them.
unanswered_count <- function(survey, item) {
  cells <- source_cells(survey, item)
  sum(cells$n[!is.na(missing_kind(cells$values, item_spec(survey, item)))])
}

# Which of some answers are not there: cases x items. A test item that was skipped counts as wrong, and yet was not answered.
# cells: those of the test items among them, as they are.
unanswered_of <- function(survey, answers, cells) {
  out <- is.na(answers)
  for (item in names(cells)) out[, item] <- !is.na(missing_kind(cells[[item]], item_spec(survey, item)))
  out
}
