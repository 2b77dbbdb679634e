# Answers of a table too large for memory: fetched in chunks, in order, and added up by the kernels that read whole columns. What is added up is
# kept as long as the survey; single people are fetched only where they fit into half of the memory.

# each(columns: a list of answers as given, keep: NULL or which cases count, beside: other columns as they are) for every chunk; the table must be
# what it was.
each_answers <- function(survey, items, each, beside = character()) {
  source <- survey$source
  at <- 0
  sum <- stats::setNames(numeric(length(items)), items)
  packs <- packed_items(source, items)
  each_chunk(source$table, function(connection) {
    answers <- vapply(packs, pack_sql, "", source, connection)
    as <- quoted_names(connection, paste0("a", seq_along(packs)))
    paste("SELECT", paste(c(paste(answers, "AS", as), selected_as(source$table, connection, beside)), collapse = ", "), "FROM", source$table$query)
  }, function(chunk) {
    rows <- at + seq_len(nrow(chunk))
    at <<- at + nrow(chunk)
    if (at > source$rows) stop_changed(source)
    columns <- do.call(c, unname(Map(unpacked, as.list(chunk)[seq_along(packs)], packs)))[items]
    sum <<- sum + vapply(columns, function(x) sum(as.numeric(x), na.rm = TRUE), 0)
    keep <- if (!everyone_counts(survey)) survey$kept[rows]
    each(columns, if (!is.null(keep) && !all(keep)) keep, as.list(chunk)[-seq_along(packs)])
  })
  then <- vapply(source$readings[items], function(one) if (is.null(one$counts)) NA_real_ else sum(one$answers * one$counts), 0)
  if (at != source$rows || !all(abs(sum - then) <= 1e-9 * (1 + abs(then)), na.rm = TRUE)) stop_changed(source)
}

stop_changed <- function(source) {
  stop_database("changed", message_of("e_table_changed_since", name = source$table$name), hint = message_of("e_make_survey_again"))
}

# Counts of every item's answers among the cases in use: a list by item of list(values, counts).
chunk_tallies <- function(survey) {
  readings <- survey$source$readings
  known <- lapply(readings, function(one) if (!is.null(one$counts)) list(values = one$answers, counts = one$counts))
  open <- names(readings)[vapply(known, is.null, TRUE)]
  if (!everyone_counts(survey)) open <- names(readings)
  if (length(open) == 0) {
    return(known)
  }
  counted <- asked_before(survey, "tallies", {
    counts <- lapply(readings[open], function(one) numeric(length(one$answers)))
    each_answers(survey, open, function(columns, keep, ...) {
      for (item in open) {
        x <- if (is.null(keep)) columns[[item]] else columns[[item]][keep]
        counts[[item]] <<- counts[[item]] + tabulate(match(x, readings[[item]]$answers), length(readings[[item]]$answers))
      }
    })
    counts
  })
  known[open] <- Map(function(one, n) list(values = one$answers[n > 0], counts = n[n > 0]), readings[open], counted)
  known
}

# Counts as core_counts() gives them: over the item's options, where there is nothing else.
over_options <- function(tally, spec) {
  options <- item_options(spec)
  if (length(options) == 0 || !all(tally$values %in% options)) {
    return(tally)
  }
  counts <- tally$counts[match(options, tally$values)]
  list(values = options, counts = replace(counts, is.na(counts), 0))
}

#' @export
source_count.chunks_source <- function(survey, items = character()) {
  used <- cases_in_use(survey)
  tallies <- if (length(items) > 0) chunk_tallies(survey)[items]
  list(used = used, aside = survey$source$rows - used, missing = vapply(tallies, function(one) used - sum(one$counts), 0))
}

#' @export
source_tally.chunks_source <- function(survey, item) {
  spec <- item_spec(survey, item)
  out <- over_options(chunk_tallies(survey)[[item]], spec)
  if (!is.null(survey$weight)) out$weighted <- weighted_counts(survey, item, out$values)
  if (!is.na(spec$answer)) out$chosen <- chosen_options(spec, source_cells(survey, item))
  out
}

# The options of a test item and how often each was chosen, from list(values, n) of its cells.
chosen_options <- function(spec, cells) {
  text <- plain_text(cells$values)
  choices <- if (is.na(spec$options)) sort(unique(text[text != ""]), method = "radix") else strsplit(spec$options, "[[:space:]]+")[[1]]
  list(values = choices, counts = vapply(choices, function(choice) sum(cells$n[text == choice]), 0, USE.NAMES = FALSE))
}

#' @export
source_cells.chunks_source <- function(survey, item) {
  if (everyone_counts(survey)) survey$source$readings[[item]]$cells else source_cells.default(survey, item)
}

# In two goes: means and covariances, then what is left of the third and fourth powers.
#' @export
source_mardia.chunks_source <- function(survey, items) {
  keying <- keying_of(survey, items)
  moments <- source_moments(survey, items)
  s <- moments$covariance * (moments$n - 1) / moments$n
  if (moments$n <= max(3, length(items)) || any(diag(s) <= 0) || core_definiteness(s) < 1e-10) {
    return(NULL)
  }
  asked_before(survey, list("mardia", items, keying), {
    root <- chol(s)
    third <- fourth <- 0
    each_answers(survey, items, function(columns, keep, ...) {
      x <- keyed_matrix(columns, keying, keep)
      sums <- core_mardia_sums(x[stats::complete.cases(x), , drop = FALSE], moments$mean, root)
      third <<- third + sums$third
      fourth <<- fourth + sums$fourth
    })
    mardia_of(sum((third / moments$n)^2), fourth / moments$n, moments$n, length(items))
  })
}

#' @export
source_gamma.chunks_source <- function(survey, items) {
  keying <- keying_of(survey, items)
  moments <- source_moments(survey, items)
  asked_before(survey, list("gamma", items, keying), {
    products <- core_fourth_products(moments$mean)
    each_answers(survey, items, function(columns, keep, ...) {
      x <- keyed_matrix(columns, keying, keep)
      products$add(x[stats::complete.cases(x), , drop = FALSE])
    })
    products$gamma(moments$covariance, moments$n)
  })
}

# Moments of resamples of those who answered all of the items, drawn from a hash of the seed and of who they are (the row, where nothing
# says so), in one go: see core_person_resamples().
chunk_resamples <- function(survey, items, replicates, seed, groups = 200) {
  keying <- keying_of(survey, items)
  moments <- source_moments(survey, items)
  asked_before(survey, list("resamples", items, replicates, seed, keying), {
    sums <- NULL
    at <- 0
    each_answers(survey, items, function(columns, keep, other) {
      person <- if (length(other) > 0) as.character(other[[1]]) else as.character(at + seq_along(columns[[1]]))
      at <<- at + length(columns[[1]])
      x <- keyed_matrix(columns, keying, keep)
      full <- stats::complete.cases(x)
      person <- if (is.null(keep)) person[full] else person[keep][full]
      sums <<- kernel_add_person_resamples(x[full, , drop = FALSE] - rep(moments$mean, each = sum(full)), person, seed, replicates, groups, sums)
    }, beside = as.character(survey$id))
    core_person_resamples(sums, moments$mean, replicates)
  })
}

#' @export
source_moments.chunks_source <- function(survey, items, missing = "listwise", kind = "pearson") {
  if (kind == "spearman") {
    return(rank_moments_of_tables(source_tables(survey, items, missing == "listwise"), items, missing == "listwise"))
  }
  keying <- keying_of(survey, items)
  asked_before(survey, list("moments", items, missing, keying), if (missing == "listwise") {
    sums <- NULL
    each_answers(survey, items, function(columns, keep, ...) sums <<- kernel_add_moments(columns, keying$shift, keying$sign, keep, sums))
    name_moments(kernel_moments_of(sums), items)
  } else {
    pairwise_of_chunks(survey, items, keying)
  })
}

# As core_pairwise_moments(): about the mean of each item's answers, which its counts give.
pairwise_of_chunks <- function(survey, items, keying) {
  tallies <- chunk_tallies(survey)[items]
  mean <- keying$shift + keying$sign * vapply(tallies, function(one) sum(one$values * one$counts) / sum(one$counts), 0)
  pairs <- sums <- products <- 0
  each_answers(survey, items, function(columns, keep, ...) {
    x <- sweep(keyed_matrix(columns, keying, keep), 2, mean)
    seen <- !is.na(x)
    x[!seen] <- 0
    storage.mode(seen) <- "double"
    pairs <<- pairs + crossprod(seen)
    sums <<- sums + crossprod(x, seen)
    products <<- products + crossprod(x)
  })
  pairwise_of_sums(stats::setNames(mean, items), pairs, sums, products)
}

keyed_matrix <- function(columns, keying, keep = NULL) {
  out <- vapply(seq_along(columns), function(j) {
    x <- if (is.null(keep)) columns[[j]] else columns[[j]][keep]
    if (keying$sign[j] < 0) keying$shift[j] - x else as.numeric(x)
  }, numeric(if (is.null(keep)) length(columns[[1]]) else sum(keep)))
  matrix(out, ncol = length(columns), dimnames = list(NULL, names(columns)))
}

#' @export
source_pairs.chunks_source <- function(survey, items, complete, covariance = FALSE) {
  found <- core_polychoric_tables(source_tables(survey, items, complete))
  if (covariance && found$status == "ok") found$covariance <- ordered_spread(survey, items, complete, found)
  found
}

# The covariance matrix, times n, of thresholds and polychoric correlations, by the influence of every case: a second go through the answers.
ordered_spread <- function(survey, items, complete, found) {
  keying <- keying_of(survey, items)
  asked_before(survey, list("ordered spread", items, complete, keying), {
    sums <- NULL
    each_answers(survey, items, function(columns, keep, ...) {
      codes <- ordered_codes(columns, found$values, keying, keep, complete)
      sums <<- kernel_add_ordered_influence(codes, found, found$cases, sums)
    })
    core_spread_of_influence(sums, found$cases)
  })
}

# Keyed answers as numbers of categories, of the cases that count.
ordered_codes <- function(columns, values, keying, keep, complete) {
  codes <- unname(Map(function(x, known, shift, sign) match(shift + sign * x, known), columns, values, keying$shift, keying$sign))
  if (!is.null(keep)) codes <- lapply(codes, `[`, keep)
  if (!complete) {
    return(codes)
  }
  full <- Reduce(`&`, lapply(codes, function(code) !is.na(code)))
  lapply(codes, `[`, full)
}

#' @export
source_tables.chunks_source <- function(survey, items, complete) {
  keying <- keying_of(survey, items)
  values <- lapply(seq_along(items), function(j) sort(keying$shift[j] + keying$sign[j] * survey$source$readings[[items[j]]]$answers))
  if (any(lengths(values) > 250)) {
    return(list(values = values, status = "too_many_categories"))
  }
  asked_before(survey, list("tables", items, complete, keying), {
    total <- NULL
    cases <- 0
    each_answers(survey, items, function(columns, keep, ...) {
      codes <- ordered_codes(columns, values, keying, keep, complete)
      cases <<- cases + sum(Reduce(`|`, lapply(codes, function(code) !is.na(code))))
      found <- kernel_ordered_counts(codes, lengths(values))
      total <<- if (is.null(total)) found else Map(function(a, b) Map(`+`, a, b), total, found)
    })
    list(status = "ok", values = stats::setNames(values, items), items = total$items, pairs = total$pairs, cases = cases)
  })
}

#' @export
source_crossed.chunks_source <- function(survey, items, own, complete = character(), column = NULL) {
  needed <- unique(c(items, unlist(own), complete))
  keying <- keying_of(survey, needed)
  beside <- beside_crossed(survey, items, column)
  asked_before(survey, list("crossed", items, own, complete, column, keying), {
    parts <- list()
    each_answers(survey, needed, function(columns, keep, values) {
      x <- keyed_matrix(columns, keying, keep)
      use <- stats::complete.cases(x[, complete, drop = FALSE])
      of_those <- function(value) (if (is.null(keep)) value else value[keep])[use]
      parts[[length(parts) + 1]] <<- people_crossed(x[use, , drop = FALSE], items, own, lapply(stats::setNames(values, beside), of_those), column)
    }, beside = beside)
    lapply(seq_along(items), function(k) {
      whole <- stacked(lapply(parts, `[[`, k))
      if (length(beside) > 0) whole$value <- labelled_values(survey$source, if (is.null(column)) items[k] else column, whole$value)
      crossed_counts(whole[c("answer", "total", "given", "value")], whole$n)
    })
  })
}

#' @export
source_totals.chunks_source <- function(survey, items) {
  keying <- keying_of(survey, items)
  asked_before(survey, list("totals", items, keying), {
    parts <- list()
    each_answers(survey, items, function(columns, keep, ...) {
      parts[[length(parts) + 1]] <<- kernel_tally_totals(columns, keying$shift, keying$sign, keep)
    })
    totals_added(parts)
  })
}

totals_added <- function(parts) {
  joined <- lapply(c(total = "total", n = "n", gap = "gap", gap_squared = "gap_squared"), function(name) unlist(lapply(parts, `[[`, name)))
  at <- sort(unique(joined$total))
  add <- function(x) as.vector(tapply(x, factor(match(joined$total, at), seq_along(at)), sum))
  list(total = at, n = add(joined$n), gap = add(joined$gap), gap_squared = add(joined$gap_squared))
}

#' @export
source_patterns.chunks_source <- function(survey, items, weight = NULL) {
  keying <- keying_of(survey, items)
  asked_before(survey, list("patterns", items, weight, keying), {
    known <- new.env(parent = emptyenv())
    at <- 0
    each_answers(survey, items, function(columns, keep, ...) {
      x <- keyed_matrix(columns, keying, keep)
      own <- if (!is.null(weight)) weight[at + seq_len(nrow(x))]
      at <<- at + nrow(x)
      for (pattern in core_answer_patterns(x, own)) add_pattern(known, pattern)
    })
    ordered_patterns(as.list(known), length(items))
  })
}

# A pattern joined to what is known of it: n, means and covariances (divisor n) of both together.
add_pattern <- function(known, pattern) {
  key <- paste(pattern$seen, collapse = " ")
  old <- known[[key]]
  if (!is.null(old)) {
    n <- old$n + pattern$n
    gap <- pattern$mean - old$mean
    pattern$covariance <- (old$n * old$covariance + pattern$n * pattern$covariance + old$n * pattern$n / n * tcrossprod(gap)) / n
    pattern$mean <- old$mean + gap * pattern$n / n
    pattern$n <- n
  }
  assign(key, pattern, known)
}

# In the order of core_patterns(), of p items.
ordered_patterns <- function(patterns, p) {
  if (length(patterns) == 0) {
    return(list())
  }
  missing <- t(vapply(patterns, function(one) !seq_len(p) %in% one$seen, logical(p)))
  unname(patterns)[pattern_order(vapply(patterns, `[[`, 0, "n"), missing)]
}

#' @export
source_rows.chunks_source <- function(survey, items = scored_items(survey), keyed = TRUE) {
  if (length(items) == 0) {
    return(matrix(0, cases_in_use(survey), 0))
  }
  if (!source_has_rows(survey, length(items))) stop_for_rows(survey$source, length(items))
  keying <- if (keyed) keying_of(survey, items) else list(shift = rep(0, length(items)), sign = rep(1, length(items)))
  in_one_state(survey$source$table, {
    out <- matrix(NA_real_, cases_in_use(survey), length(items), dimnames = list(NULL, items))
    at <- 0
    each_answers(survey, items, function(columns, keep, ...) {
      part <- keyed_matrix(columns, keying, keep)
      out[at + seq_len(nrow(part)), ] <<- part
      at <<- at + nrow(part)
    })
    out
  })
}

#' @export
source_by_rows.chunks_source <- function(survey, items, each, keyed = TRUE, beside = character()) {
  keying <- if (keyed) keying_of(survey, items) else list(shift = rep(0, length(items)), sign = rep(1, length(items)))
  parts <- list()
  in_one_state(survey$source$table, each_answers(survey, items, function(columns, keep, other) {
    other <- stats::setNames(if (is.null(keep)) other else lapply(other, `[`, keep), beside)
    parts[[length(parts) + 1]] <<- each(keyed_matrix(columns, keying, keep), other)
  }, beside = beside))
  parts
}

#' @export
source_columns.chunks_source <- function(survey, columns) {
  source <- survey$source
  if (!source_has_rows(survey, length(columns))) stop_for_rows(source, length(columns))
  data <- whole_columns(source, columns)
  if (everyone_counts(survey)) data else data[case_rows(survey), , drop = FALSE]
}

# Columns of all rows as they are, groups by their labels.
whole_columns <- function(source, columns) {
  fetched <- in_one_state(source$table, fetch_columns(source$table, columns))
  if (nrow(fetched) != source$rows) stop_changed(source)
  plain_frame(label_groups(fetched, source$labels$codebook, intersect(source$labels$group, columns)))
}

#' @export
source_everyone.chunks_source <- function(survey) {
  columns <- source_names(survey)
  if (!source_has_rows(survey, length(columns))) stop_for_rows(survey$source, length(columns))
  whole_columns(survey$source, columns)
}

#' @export
source_values.chunks_source <- function(survey, column) {
  if (!source_has_rows(survey, 1)) stop_for_rows(survey$source)
  whole_columns(survey$source, column)[[column]]
}

#' @export
source_has_rows.chunks_source <- function(survey, columns) fits_memory(survey$source$table, survey$source$rows, columns)

# What the database counts itself, where everybody is in use: identifiers of very many people would fill the memory.
as_counted <- function(survey) {
  survey$source <- structure(rlang::env_clone(survey$source), class = c("sums_source", "table_source"))
  survey$kept <- character()
  survey
}

#' @export
source_people.chunks_source <- function(survey) if (everyone_counts(survey)) source_people(as_counted(survey)) else source_people.default(survey)

#' @export
source_repeats.chunks_source <- function(survey, columns) {
  if (everyone_counts(survey)) source_repeats(as_counted(survey), columns) else source_repeats.default(survey, columns)
}
