# Answers come through one door. A survey has a source, and nobody but the source's own file touches the
# columns; what the codebook says of them (reversal, codes for missing answers, waves, groups) is settled
# before a source is asked. A source answers for the cases in use:
#
#   source_count(survey, items)                  list(used, aside, missing: of each item): how many
#   source_moments(survey, items, missing, kind) list(status, n, mean, covariance): keyed; missing is listwise,
#                                                or pairwise, kind pearson or spearman
#   source_tally(survey, item)                   list(values, counts; chosen for a test item; weighted of weighted people): as given
#   source_pairs(survey, items, complete, covariance)  polychoric correlations from two-way tables, keyed
#   source_totals(survey, items)                 distribution of the sum over complete cases, keyed
#   source_patterns(survey, items, weight)       patterns of missing answers, each with n, means, products
#   source_rows(survey, items, keyed)            single people: cases x items, numbers
#   source_columns(survey, columns)              single people: other columns, or the answers as the file has them
#   source_names(survey)                         names of all columns
#   source_everyone(survey)                      the whole data as they came, cases set aside too
#
# A source of another kind is a class with a method for each.

source_count <- function(survey, items = character()) UseMethod("source_count", survey$source)
source_moments <- function(survey, items, missing = "listwise", kind = "pearson") UseMethod("source_moments", survey$source)
source_tally <- function(survey, item) UseMethod("source_tally", survey$source)
source_pairs <- function(survey, items, complete, covariance = FALSE) UseMethod("source_pairs", survey$source)
source_totals <- function(survey, items) UseMethod("source_totals", survey$source)
source_patterns <- function(survey, items, weight = NULL) UseMethod("source_patterns", survey$source)
source_rows <- function(survey, items = scored_items(survey), keyed = TRUE) UseMethod("source_rows", survey$source)
source_columns <- function(survey, columns) UseMethod("source_columns", survey$source)
source_names <- function(survey) UseMethod("source_names", survey$source)
source_everyone <- function(survey) UseMethod("source_everyone", survey$source)

# One other column of the cases in use.
source_column <- function(survey, column) source_columns(survey, column)[[1]]

# Those who answered all of the items.
source_complete_rows <- function(survey, items) {
  answers <- source_rows(survey, items)
  answers[stats::complete.cases(answers), , drop = FALSE]
}

# A copy with some cases only; `keep` is logical over all cases of the data.
keep_cases <- function(survey, keep) {
  survey$kept <- survey$kept & keep
  survey
}

# A copy without some of the cases in use, by their place among these.
leave_out_cases <- function(survey, places) {
  survey$kept[case_rows(survey)[places]] <- FALSE
  survey
}

# The same cases, named by their place among those in use.
take_cases <- function(survey, places) leave_out_cases(survey, setdiff(seq_len(source_count(survey)$used), places))

# Rows of the data that are in use.
case_rows <- function(survey) which(survey$kept)

# Values of the cases in use at their rows of the whole data, NA elsewhere.
at_all_cases <- function(survey, values) {
  out <- rep(values[NA_integer_], length(survey$kept))
  out[survey$kept] <- values
  out
}

# Means and standard deviations of the answers that are there.
answer_centre <- function(survey, items) {
  answers <- source_rows(survey, items)
  list(mean = colMeans(answers, na.rm = TRUE), sd = apply(answers, 2, stats::sd, na.rm = TRUE))
}

# What to call each case in use: its identifier, or its row.
case_names <- function(survey) if (is.null(survey$id)) as.character(case_rows(survey)) else as.character(source_column(survey, survey$id))

# What identifies the cases in use: the data's hash and their rows.
case_origin <- function(survey) list(source = source_hash(survey$source), rows = case_rows(survey))

# Is there a survey with single answers behind this?
has_answers <- function(x) inherits(x, "sw_survey")

# `data` (the columns as they came) and `answers` (a clean column per item) of a survey are read from its source.
#' @export
`$.sw_survey` <- function(x, name) {
  if (name %in% c("data", "answers")) source_frame(.subset2(x, "source"), name) else .subset2(x, name)
}

# Set, they make a source of their own: other copies of the survey keep theirs.
#' @export
`$<-.sw_survey` <- function(x, name, value) {
  if (!name %in% c("data", "answers")) {
    return(NextMethod())
  }
  columns <- list(data = x$data, answers = x$answers)
  columns[[name]] <- value
  x$source <- new_memory_source(columns$data, columns$answers)
  x
}
