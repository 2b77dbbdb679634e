# Answers in memory: the columns as they came, a clean column per item beside them; the kernels read them where
# they lie. The source is an environment, so that copies of a survey share it.

new_memory_source <- function(data, answers) {
  source <- new.env(parent = emptyenv())
  source$data <- plain_frame(data)
  source$answers <- plain_frame(answers)
  class(source) <- "memory_source"
  known_sources(source)
  source
}

source_frame <- function(source, name) if (is.environment(source)) get(name, source)

# The hash of the data, taken once.
source_hash <- function(source) {
  if (is.null(source$hash)) source$hash <- hash_of(source$data)
  source$hash
}

# Columns of chosen items as the kernels read them: where they lie, with shift and sign that key them, and which
# cases count (NULL: all).
keyed_columns <- function(survey, items) {
  keying <- keying_of(survey, items)
  list(
    columns = as.list(survey$source$answers[items]), shift = keying$shift, sign = keying$sign,
    keep = .subset2(survey, "kept")
  )
}

#' @export
source_count.memory_source <- function(survey, items = character()) {
  used <- cases_in_use(survey)
  missing <- vapply(items, function(item) {
    answers <- survey$source$answers[[item]]
    if (!anyNA(answers)) 0L else sum(is.na(if (everyone_counts(survey)) answers else answers[survey$kept]))
  }, 0L)
  list(used = used, aside = .subset2(survey, "size") - used, missing = missing)
}

#' @export
source_moments.memory_source <- function(survey, items, missing = "listwise", kind = "pearson") {
  if (kind == "spearman") {
    return(core_rank_moments(source_rows(survey, items), missing == "listwise"))
  }
  switch(missing,
    listwise = do.call(core_column_moments, unname(few_of_many(keyed_columns(survey, items), survey))),
    pairwise = core_pairwise_moments(source_rows(survey, items))
  )
}

#' @export
source_left_out.memory_source <- function(survey, items, of, groups) {
  keyed <- keyed_columns(survey, items)
  part <- integer(.subset2(survey, "size"))
  part[case_rows(survey)] <- of
  core_moments_without_parts(keyed$columns, keyed$shift, keyed$sign, part, groups)
}

# Of few cases only their answers are gone through.
few_of_many <- function(keyed, survey) {
  if (!is.null(keyed$keep) && 4 * cases_in_use(survey) < length(keyed$keep)) {
    keyed$columns <- lapply(keyed$columns, `[`, which(keyed$keep))
    keyed["keep"] <- list(NULL)
  }
  keyed
}

#' @export
source_tally.memory_source <- function(survey, item) {
  spec <- item_spec(survey, item)
  keep <- .subset2(survey, "kept")
  out <- core_counts(survey$source$answers[[item]], item_options(spec), keep)
  if (!is.null(survey$weight)) out$weighted <- weighted_counts(survey, item, out$values)
  if (!is.na(spec$answer)) {
    text <- plain_text(source_column(survey, item))
    choices <- if (is.na(spec$options)) sort(unique(text[text != ""]), method = "radix") else strsplit(spec$options, "[[:space:]]+")[[1]]
    out$chosen <- list(values = choices, counts = tabulate(match(text, choices), length(choices)))
  }
  out
}

# Answers of each value by weight, weights of those who answered having mean one.
weighted_counts <- function(survey, item, values) {
  given <- source_rows(survey, item, keyed = FALSE)[, 1]
  seen <- !is.na(given)
  weight <- survey_weight(survey, seen)
  vapply(values, function(value) sum(weight[given[seen] == value]), 0)
}

#' @export
source_pairs.memory_source <- function(survey, items, complete, covariance = FALSE) {
  do.call(core_polychoric, c(unname(keyed_columns(survey, items)), complete = complete, covariance = covariance))
}

#' @export
source_totals.memory_source <- function(survey, items) do.call(core_tally_totals, unname(keyed_columns(survey, items)))

#' @export
source_patterns.memory_source <- function(survey, items, weight = NULL) core_answer_patterns(source_rows(survey, items), weight)

#' @export
source_rows.memory_source <- function(survey, items = scored_items(survey), keyed = TRUE) {
  keying <- keying_of(survey, items)
  rows <- if (!everyone_counts(survey)) case_rows(survey)
  n <- cases_in_use(survey)
  out <- matrix(NA_real_, n, length(items), dimnames = list(NULL, items))
  for (j in seq_along(items)) {
    values <- survey$source$answers[[items[j]]]
    if (!is.null(rows)) values <- values[rows]
    out[, j] <- if (keyed && keying$sign[j] < 0) keying$shift[j] - values else values
  }
  out
}

#' @export
source_columns.memory_source <- function(survey, columns) {
  data <- survey$source$data[columns]
  if (everyone_counts(survey)) data else data[case_rows(survey), , drop = FALSE]
}

#' @export
source_names.memory_source <- function(survey) names(survey$source$data)

#' @export
source_everyone.memory_source <- function(survey) survey$source$data

# A copy whose answers are others: maps, by item, list(from, to).
recoded_answers <- function(survey, maps) {
  answers <- survey$answers
  for (item in names(maps)) {
    at <- match(answers[[item]], maps[[item]]$from)
    answers[[item]] <- ifelse(is.na(at), answers[[item]], maps[[item]]$to[at])
  }
  survey$answers <- answers
  survey
}

# Weights of some of the cases in use, of mean one, and which cluster they are from; NULL without.
survey_weight <- function(survey, rows) {
  if (is.null(survey$weight)) {
    return(NULL)
  }
  weight <- as.numeric(source_column(survey, survey$weight))[rows]
  weight / mean(weight)
}
