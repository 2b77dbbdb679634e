# Answers come through one door. A survey has a source, and nobody but the source's own file touches the
# columns; what the codebook says of them (reversal, codes for missing answers, waves, groups) is settled
# before a source is asked. A source answers for the cases in use:
#
#   source_count(survey, items)                  list(used, aside, missing: of each item): how many
#   source_moments(survey, items, missing, kind) list(status, n, mean, covariance): keyed; missing is listwise,
#                                                or pairwise, kind pearson or spearman
#   source_left_out(survey, items, of, groups)   a list of moments of complete cases, without each group of people in turn;
#                                                of: the group of each case in use, 1, ..., groups
#   source_tally(survey, item)                   list(values, counts; chosen for a test item; weighted of weighted people): as given
#   source_pairs(survey, items, complete, covariance)  polychoric correlations from two-way tables, keyed
#   source_tables(survey, items, complete)       the counts behind them: list(status, values, items, pairs, cases)
#   source_crossed(survey, items, own, complete, column)  people as counts, item by item: by keyed answer, sum and number of their answers to
#                                                others (own: a list of their names, one an item), and value: what a column says, or, where
#                                                none is named, the cell of a test item: a list of data frames(answer, total, given, value, n);
#                                                complete: items that all of them answered
#   source_cells(survey, item)                   its different cells as they are: list(values, n)
#   source_mardia(survey, items)                 Mardia's figures of complete cases; NULL where they cannot be had
#   source_gamma(survey, items)                  n times the covariance matrix of the covariances of complete cases, of any distribution
#   source_totals(survey, items)                 distribution of the sum over complete cases, keyed
#   source_patterns(survey, items, weight)       patterns of missing answers, each with n, means, products
#   source_rows(survey, items, keyed)            single people: cases x items, numbers
#   source_by_rows(survey, items, each, keyed, beside)  what each(cases x items, other columns) gives of some thousand single people at a time:
#                                                a list
#   source_columns(survey, columns)              single people: other columns, or the answers as the file has them
#   source_distinct(survey, columns)             different values of columns together, in order, with n of each
#   source_values(survey, column)                the values of a column, of everybody
#   source_repeats(survey, columns)              list(rows: how many repeat what a row before says, first: which, people, several)
#   source_names(survey)                         names of all columns
#   source_has_rows(survey, columns)           can so many columns of single people be had at once?
#   source_everyone(survey)                      the whole data as they came, cases set aside too
#
# A source of another kind is a class with a method for each.

source_count <- function(survey, items = character()) UseMethod("source_count", survey$source)
source_moments <- function(survey, items, missing = "listwise", kind = "pearson") UseMethod("source_moments", survey$source)
source_left_out <- function(survey, items, of, groups) UseMethod("source_left_out", survey$source)
source_tally <- function(survey, item) UseMethod("source_tally", survey$source)
source_pairs <- function(survey, items, complete, covariance = FALSE) UseMethod("source_pairs", survey$source)
source_tables <- function(survey, items, complete) UseMethod("source_tables", survey$source)
source_crossed <- function(survey, items, own, complete = character(), column = NULL) UseMethod("source_crossed", survey$source)
source_cells <- function(survey, item) UseMethod("source_cells", survey$source)
source_mardia <- function(survey, items) UseMethod("source_mardia", survey$source)
source_gamma <- function(survey, items) UseMethod("source_gamma", survey$source)
source_totals <- function(survey, items) UseMethod("source_totals", survey$source)
source_patterns <- function(survey, items, weight = NULL) UseMethod("source_patterns", survey$source)
source_rows <- function(survey, items = scored_items(survey), keyed = TRUE) UseMethod("source_rows", survey$source)
source_by_rows <- function(survey, items, each, keyed = TRUE, beside = character()) UseMethod("source_by_rows", survey$source)
source_columns <- function(survey, columns) UseMethod("source_columns", survey$source)
source_names <- function(survey) UseMethod("source_names", survey$source)
source_everyone <- function(survey) UseMethod("source_everyone", survey$source)
source_distinct <- function(survey, columns) UseMethod("source_distinct", survey$source)
source_repeats <- function(survey, columns) UseMethod("source_repeats", survey$source)
source_people <- function(survey) UseMethod("source_people", survey$source)
source_values <- function(survey, column) UseMethod("source_values", survey$source)
source_take <- function(survey, column, values) UseMethod("source_take", survey$source)
source_has_rows <- function(survey, columns) UseMethod("source_has_rows", survey$source)

#' @export
source_has_rows.default <- function(survey, columns) TRUE

#' @export
source_by_rows.default <- function(survey, items, each, keyed = TRUE, beside = character()) {
  list(each(source_rows(survey, items, keyed), as.list(source_columns(survey, beside))))
}

#' @export
source_distinct.default <- function(survey, columns) {
  data <- as.data.frame(source_columns(survey, columns))
  key <- do.call(paste, c(lapply(data, as.character), sep = "\r"))
  first <- !duplicated(key)
  cbind(data[first, , drop = FALSE], n = tabulate(match(key, key[first]), sum(first)))
}

#' @export
source_repeats.default <- function(survey, columns) {
  key <- source_columns(survey, columns)
  twice <- which(duplicated(key))
  list(rows = length(twice), first = if (length(twice) > 0) twice[1] else NA)
}

#' @export
source_cells.default <- function(survey, item) {
  values <- source_column(survey, item)
  seen <- unique(values)
  list(values = seen, n = tabulate(match(values, seen), length(seen)))
}

#' @export
source_gamma.default <- function(survey, items) {
  x <- source_complete_rows(survey, items)
  core_meat(core_product_influence(x, rep(1, nrow(x))))
}

#' @export
source_left_out.default <- function(survey, items, of, groups) {
  x <- source_rows(survey, items)
  full <- stats::complete.cases(x)
  core_moments_without(x[full, , drop = FALSE], of[full], groups)
}

#' @export
source_mardia.default <- function(survey, items) core_complete_mardia(source_rows(survey, items))

#' @export
source_tables.default <- function(survey, items, complete) {
  rows <- source_rows(survey, items)
  if (complete) rows <- rows[stats::complete.cases(rows), , drop = FALSE]
  values <- lapply(stats::setNames(items, items), function(item) sort(unique(rows[, item])))
  codes <- lapply(items, function(item) match(rows[, item], values[[item]]))
  found <- kernel_ordered_counts(codes, lengths(values))
  list(status = "ok", values = values, items = found$items, pairs = found$pairs, cases = sum(rowSums(!is.na(rows)) > 0))
}

#' @export
source_crossed.default <- function(survey, items, own, complete = character(), column = NULL) {
  x <- source_rows(survey, unique(c(items, unlist(own), complete)))
  use <- which(rowSums(is.na(x[, complete, drop = FALSE])) == 0)
  beside <- beside_crossed(survey, items, column)
  values <- lapply(stats::setNames(beside, beside), function(name) source_column(survey, name)[use])
  people_crossed(x[use, , drop = FALSE], items, own, values, column)
}

# Columns whose values source_crossed() gives beside the answers.
beside_crossed <- function(survey, items, column) if (is.null(column)) intersect(items, test_items(survey)) else column

# x: keyed answers of those who count; values: of the columns beside them.
people_crossed <- function(x, items, own, values, column) {
  score <- list(of = NULL)
  lapply(seq_along(items), function(k) {
    of <- list(own[[k]], if (is.null(column)) intersect(items[k], names(values)) else column)
    # Items of one score follow on one another: its sums are found once.
    if (!identical(of, score$of)) {
      given <- x[, of[[1]], drop = FALSE]
      value <- if (length(of[[2]]) > 0) values[[of[[2]]]] else rep(NA, nrow(x))
      score <<- c(kinds_of(list(total = rowSums(given, na.rm = TRUE), given = rowSums(!is.na(given)), value = value)), list(of = of))
    }
    counts <- crossed_counts(list(answer = x[, items[k]], kind = score$kind))
    frame_of(c(list(answer = counts$answer), lapply(score$rows, `[`, counts$kind), list(n = counts$n)), length(counts$n))
  })
}

# How many people stand behind the cases in use, and how many of them in several rows.
#' @export
source_people.default <- function(survey) {
  person <- source_column(survey, survey$id)
  person <- person[!is.na(person)]
  list(people = length(unique(person)), several = length(unique(person[duplicated(person)])))
}

#' @export
source_values.default <- function(survey, column) source_everyone(survey)[[column]]

# The cases in use that have one of some values in a column.
#' @export
source_take.default <- function(survey, column, values) take_cases(survey, which(as.character(source_column(survey, column)) %in% values))

# Can columns of single people be had at all?
gives_people <- function(survey) source_has_rows(survey, 1)

# Can single answers to these items be had? Moments hold none, and of some tables in databases they are too many or stay there.
gives_rows <- function(x, items) has_answers(x) && source_has_rows(x, length(items))

# Can single answers be gone through, some at a time at least?
goes_by_rows <- function(x) has_answers(x) && !inherits(x$source, "sums_source")

# One other column of the cases in use.
source_column <- function(survey, column) source_columns(survey, column)[[1]]

# Those who answered all of the items.
source_complete_rows <- function(survey, items) {
  answers <- source_rows(survey, items)
  answers[stats::complete.cases(answers), , drop = FALSE]
}

# A copy with some cases only; `keep` is logical over all cases of the data.
keep_cases <- function(survey, keep) {
  if (inherits(survey$source, "sums_source")) stop_for_rows(survey$source)
  survey$kept <- survey$kept & keep
  survey
}

# A copy without some of the cases in use, by their place among these.
leave_out_cases <- function(survey, places) {
  if (length(places) == 0) {
    return(survey)
  }
  if (inherits(survey$source, "sums_source")) stop_for_rows(survey$source)
  survey$kept[case_rows(survey)[places]] <- FALSE
  survey
}

# The same cases, named by their place among those in use.
take_cases <- function(survey, places) {
  if (inherits(survey$source, "sums_source")) stop_for_rows(survey$source)
  kept <- logical(.subset2(survey, "size"))
  kept[case_rows(survey)[places]] <- TRUE
  survey$kept <- kept
  survey
}

# Rows of the data that are in use.
case_rows <- function(survey) {
  if (inherits(survey$source, "sums_source")) stop_for_rows(survey$source)
  if (everyone_counts(survey)) seq_len(.subset2(survey, "size")) else which(survey$kept)
}

# Is nobody set aside? Then `kept` holds nothing, which takes no memory and no look at it.
everyone_counts <- function(survey) is.null(.subset2(survey, "kept"))

# How many cases are in use, where they are known one by one.
cases_in_use <- function(survey) if (everyone_counts(survey)) .subset2(survey, "size") else sum(.subset2(survey, "kept"))

# Values of the cases in use at their rows of the whole data, NA elsewhere.
at_all_cases <- function(survey, values) {
  out <- rep(values[NA_integer_], .subset2(survey, "size"))
  out[case_rows(survey)] <- values
  out
}

# Means and standard deviations of the answers that are there.
answer_centre <- function(survey, items) {
  if (!gives_rows(survey, items)) {
    return(tallied_centre(survey, items))
  }
  answers <- source_rows(survey, items)
  list(mean = colMeans(answers, na.rm = TRUE), sd = apply(answers, 2, stats::sd, na.rm = TRUE))
}

# The same from counts.
tallied_centre <- function(survey, items) {
  keying <- keying_of(survey, items)
  shapes <- vapply(items, function(item) {
    tally <- source_tally(survey, item)
    core_tally_shape(tally)[c("mean", "sd")]
  }, c(mean = 0, sd = 0))
  list(mean = stats::setNames(keying$shift + keying$sign * shapes["mean", ], items), sd = stats::setNames(shapes["sd", ], items))
}

# What to call each case in use: its identifier, or its row.
case_names <- function(survey) if (is.null(survey$id)) as.character(case_rows(survey)) else as.character(source_column(survey, survey$id))

# What identifies the cases in use: the data's hash, how many they are, and their rows, a bit each (NULL: all), or the conditions on them.
case_origin <- function(survey) {
  origin <- list(source = source_hash(survey$source), n = source_count(survey)$used)
  if (inherits(survey$source, "sums_source")) {
    return(c(origin, list(where = survey$kept)))
  }
  kept <- .subset2(survey, "kept")
  if (!is.null(kept)) origin$rows <- packBits(c(kept, logical(-length(kept) %% 8)))
  origin
}

# How many cases two origins have in common: of conditions, as many as they may have.
origins_overlap <- function(one, other) {
  if (!is.null(one$where)) {
    return(conditions_overlap(one, other))
  }
  if (is.null(one$rows) || is.null(other$rows)) {
    return(min(one$n, other$n))
  }
  sum(rawToBits(one$rows & other$rows) == 1)
}

# Is there a survey with single answers behind this?
has_answers <- function(x) inherits(x, "sw_survey")

# `data` (the columns as they came) and `answers` (a clean column per item) of a survey are read from its source; `kept` says of each case whether
# it is in use.
#' @export
`$.sw_survey` <- function(x, name) {
  source <- .subset2(x, "source")
  if (!name %in% c("data", "answers")) {
    known <- .subset2(x, name)
    return(if (is.null(known) && name == "kept") rep(TRUE, .subset2(x, "size")) else known)
  }
  tibble::as_tibble(if (inherits(source, "table_source")) table_frame(x, name) else source_frame(source, name))
}

# Set, they make a source of their own: other copies of the survey keep theirs.
#' @export
`$<-.sw_survey` <- function(x, name, value) {
  if (name == "kept" && is.logical(value)) {
    x["kept"] <- list(if (!all(value)) value)
    return(x)
  }
  if (!name %in% c("data", "answers")) {
    return(NextMethod())
  }
  columns <- list(data = x$data, answers = x$answers)
  columns[[name]] <- value
  x$source <- new_memory_source(columns$data, columns$answers)
  x
}

# Spearman correlations from two-way tables, in the shape of moments (see core_rank_moments()).
rank_moments_of_tables <- function(tables, items, listwise) {
  p <- length(items)
  if (tables$status != "ok" || tables$cases < 2) {
    return(list(status = if (tables$status == "ok") "too_few_cases" else tables$status, n = NROW(tables$cases)))
  }
  r <- diag(p)
  at <- which(lower.tri(r), arr.ind = TRUE)
  for (k in seq_len(nrow(at))) r[at[k, 1], at[k, 2]] <- r[at[k, 2], at[k, 1]] <- core_rank_correlation(tables$pairs[[k]])
  flat <- vapply(tables$items, function(n) sum(n > 0) < 2, TRUE)
  r[flat, ] <- r[, flat] <- 0
  diag(r) <- ifelse(flat, 0, 1)
  dimnames(r) <- list(items, items)
  list(status = if (anyNA(r)) "too_few_cases" else "ok", n = tables$cases, mean = stats::setNames(rep(NA_real_, p), items), covariance = r)
}

# Rows that are alike, once, with how many they stand for.
crossed_counts <- function(rows, n = NULL) {
  of <- kinds_of(rows)
  size <- length(of$rows[[1]])
  count <- if (is.null(n)) tabulate(of$kind, size) + 0 else as.vector(rowsum(as.numeric(n), of$kind, reorder = FALSE))
  frame_of(c(of$rows, list(n = count)), size)
}

# list(rows: those that differ, in the order in which they come first; kind: which of them each row is). rows: a list of columns.
kinds_of <- function(rows) {
  code <- rep(1, length(rows[[1]]))
  for (x in rows) {
    own <- value_codes(x)
    code <- own + max(0, own) * (code - 1)
    # Whole numbers are exact up to 2^53.
    if (max(0, code) > 2^31) code <- match(code, unique(code))
  }
  kinds <- unique(code)
  list(rows = lapply(rows, `[`, match(kinds, code)), kind = match(code, kinds))
}

# The same number for values that are alike; sums of answers that are no whole numbers differ in their last digits.
value_codes <- function(x) {
  values <- unique(x)
  rounded <- if (is.numeric(values)) signif(values, 12) else as.character(values)
  match(rounded, unique(rounded))[match(x, values)]
}
