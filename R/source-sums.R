# A table that gives counts and sums only: the database works them out, and nothing about fewer than `smallest` people is asked for. Sums are
# taken about a provisional mean (Chan, Golub & LeVeque, 1983), of whole answers a whole number, so that they are exact.

# A statement's answer from each shard. sql: made of a connection.
from_shards <- function(source, sql) {
  statements <- lapply(source$table$connections, sql)
  workers <- asked_at_once(source$table)
  if (is.null(workers)) Map(ask, source$table$connections, statements) else ask_workers(workers, statements)
}

# FROM and WHERE: the cases in use, and of these the ones that a condition names.
these_cases <- function(survey, connection, more = NULL) {
  conditions <- c(vapply(survey$kept, function(one) condition_sql(survey$source, connection, one), ""), more)
  paste0(" FROM ", survey$source$table$query, if (length(conditions) > 0) paste(" WHERE", paste0("(", conditions, ")", collapse = " AND ")))
}

# A condition is kept as data, list(column, values) or list(hash, ...), and written for the connection that is asked.
condition_sql <- function(source, connection, condition) {
  if (!is.null(condition$hash)) {
    return(hash_sql(source, connection, condition))
  }
  cell <- cell_sql(source, connection, condition$column)
  values <- condition$values
  if (length(values) == 0) {
    return("1 = 0")
  }
  paste(cell, "IN (", paste(if (is.character(values)) quoted_text(connection, values) else exact_number(values), collapse = ", "), ")")
}

# The partition's value, taken along in the rows and grouped by, so that each partition adds up its own: list(row, group, and: behind other groups).
partition_sql <- function(source, connection) {
  if (is.null(source$table$partitions)) {
    return(list(row = character(), group = "", and = ""))
  }
  list(row = paste(quoted_names(connection, source$table$partitions), "AS k_"), group = " GROUP BY k_", and = ", k_")
}

# Of the cases in use those for which a condition holds, too.
take_where <- function(survey, condition) {
  survey$kept <- c(survey$kept, list(condition))
  survey
}

least_people <- function(source) if (is.null(source$table$smallest)) 1 else source$table$smallest

# Before every question: the table must hold what it held, by its rows and the sum of each item. Chunks are checked as they come.
check_unchanged <- function(survey) {
  source <- survey$source
  if (!inherits(source, "sums_source")) {
    return(invisible())
  }
  survey$kept <- character()
  known <- Filter(function(one) !is.null(one$counts), source$readings)
  items <- names(known)
  then <- c(source$rows, vapply(known, function(one) sum(one$answers * one$counts), 0))
  keying <- list(shift = rep(0, length(items)), sign = rep(1, length(items)))
  now <- summed(survey, c("count(*)", paste0("sum(x", seq_along(items), ")", recycle0 = TRUE)), function(connection) {
    if (length(items) == 0) source$table$query else apart_sql(survey, connection, items, keying, keying$shift)
  }, grouped = length(items) > 0)
  if (any(abs(now - then) > 1e-9 * (1 + abs(then)))) stop_changed(source)
}

# How many people are in use.
sums_used <- function(survey) {
  if (length(survey$kept) == 0) {
    return(survey$source$rows)
  }
  asked_before(survey, "used", {
    sum(unlist(from_shards(survey$source, function(connection) paste0("SELECT count(*)", these_cases(survey, connection)))))
  })
}

# Counts of every item's answers among the cases in use.
sums_tallies <- function(survey, items) {
  source <- survey$source
  lapply(stats::setNames(items, items), function(item) {
    reading <- source$readings[[item]]
    if (length(survey$kept) == 0 && !is.null(reading$counts)) {
      return(withheld_tally(survey, item, list(values = reading$answers, counts = reading$counts)))
    }
    asked_before(survey, list("tally", item), {
      found <- do.call(rbind, from_shards(source, function(connection) {
        part <- partition_sql(source, connection)
        rows <- paste(c(paste(answer_sql(source, connection, item), "AS value"), part$row), collapse = ", ")
        paste0("SELECT value, count(*) AS n FROM (SELECT ", rows, these_cases(survey, connection),
          ") AS t WHERE value IS NOT NULL GROUP BY value", part$and)
      }))
      values <- sort(unique(found$value))
      withheld_tally(survey, item, list(values = values, counts = vapply(values, function(value) sum(found$n[found$value == value]), 0)))
    })
  })
}

#' @export
source_count.sums_source <- function(survey, items = character()) {
  used <- sums_used(survey)
  of <- if (length(items) > 0) sums_tallies(survey, items)
  list(used = used, aside = survey$source$rows - used, missing = vapply(of, function(one) one$missing, 0))
}

#' @export
source_tally.sums_source <- function(survey, item) {
  spec <- item_spec(survey, item)
  tally <- sums_tallies(survey, item)[[1]]
  tell_apart(survey, item, sum(tally$counts) + tally$withheld, of_everybody = FALSE)
  out <- c(over_options(tally[c("values", "counts")], spec), tally[intersect(c("hidden", "withheld", "missing", "shape"), names(tally))])
  if (!is.na(spec$answer)) out$chosen <- chosen_options(spec, source_cells(survey, item))
  out
}

#' @export
source_tables.sums_source <- function(survey, items, complete) {
  source <- survey$source
  keying <- keying_of(survey, items)
  values <- lapply(seq_along(items), function(j) sort(keying$shift[j] + keying$sign[j] * source$readings[[items[j]]]$answers))
  if (any(lengths(values) > 20)) {
    return(list(values = values, status = "too_many_categories"))
  }
  asked_before(survey, list("tables", items, complete, keying), {
    p <- length(items)
    centre <- rep(0, p)
    at <- which(lower.tri(diag(p)), arr.ind = TRUE)
    full <- if (complete) paste0(" WHERE ", paste0("x", seq_len(p), " IS NOT NULL", collapse = " AND ")) else ""
    counted <- function(columns) {
      x <- paste0("x", columns)
      found <- do.call(rbind, from_shards(source, function(connection) {
        paste0("SELECT ", paste0(x, collapse = ", "), ", count(*) AS n FROM ", apart_sql(survey, connection, items, keying, centre), full,
          if (complete) " AND " else " WHERE ", paste0(x, " IS NOT NULL", collapse = " AND "), " GROUP BY ", paste(x, collapse = ", "),
          partition_sql(source, connection)$and)
      }))
      place <- lapply(seq_along(columns), function(k) {
        known <- values[[columns[k]]]
        factor(match(signif(found[[k]], 12), signif(known, 12)), seq_along(known))
      })
      out <- tapply(as.numeric(found$n), place, sum)
      array(ifelse(is.na(out), 0, out), lengths(values[columns]))
    }
    pairs <- lapply(seq_len(nrow(at)), function(k) counted(c(at[k, 1], at[k, 2])))
    stop_for_small_cells(source, pairs, items, at)
    for (k in seq_along(pairs)) tell_apart(survey, if (complete) items else items[at[k, ]], sum(pairs[[k]]))
    some <- paste0(" WHERE ", paste0("x", seq_len(p), " IS NOT NULL", collapse = if (complete) " AND " else " OR "))
    cases <- summed(survey, "count(*)", function(connection) apart_sql(survey, connection, items, keying, centre), some)
    list(status = "ok", values = stats::setNames(values, items), items = lapply(seq_len(p), function(j) as.vector(counted(j))), pairs = pairs,
      cases = cases)
  })
}

# Without their rare cells two-way tables would say something else than the answers do.
stop_for_small_cells <- function(source, pairs, items, at) {
  least <- least_people(source)
  small <- vapply(pairs, function(table) any(table > 0 & table < least), TRUE)
  if (any(small)) {
    stop_database("withheld", message_of("e_two_way_tables", small = sum(small), pairs = length(pairs), least = least),
      faults = utils::head(paste(items[at[small, 2]], "and", items[at[small, 1]]), 5), hint = message_of("e_take_pearson_correlations"))
  }
}

#' @export
source_pairs.sums_source <- function(survey, items, complete, covariance = FALSE) {
  if (covariance) stop_for_rows(survey$source)
  core_polychoric_tables(source_tables(survey, items, complete))
}

#' @export
source_crossed.sums_source <- function(survey, items, own, complete = character(), column = NULL) {
  beside <- beside_crossed(survey, items, column)
  lapply(seq_along(items), function(k) {
    value <- if (is.null(column)) intersect(items[k], beside) else column
    sums_crossed(survey, items[k], own[[k]], complete, value)
  })
}

# Of one item; value: the column beside it, or none.
sums_crossed <- function(survey, item, own, complete, value) {
  items <- unique(c(item, own, complete))
  keying <- keying_of(survey, items)
  asked_before(survey, list("crossed", item, own, complete, value, keying), {
    x <- stats::setNames(paste0("x", seq_along(items)), items)
    total <- paste0("coalesce(", x[own], ", 0)", collapse = " + ")
    given <- paste0("CASE WHEN ", x[own], " IS NULL THEN 0 ELSE 1 END", collapse = " + ")
    full <- if (length(complete) > 0) paste0(" WHERE ", paste0(x[complete], " IS NOT NULL", collapse = " AND ")) else ""
    parts <- from_shards(survey$source, function(connection) {
      cell <- if (length(value) > 0) paste(cell_sql(survey$source, connection, value), "AS value") else character()
      paste0("SELECT ", x[item], " AS answer, ", total, " AS total, ", given, " AS given, ", if (length(value) > 0) "value, ", "count(*) AS n FROM ",
        apart_sql(survey, connection, items, keying, rep(0, length(items)), cell), full,
        " GROUP BY ", paste(c(x[item], total, given, if (length(value) > 0) "value"), collapse = ", "))
    })
    found <- do.call(rbind, parts)
    for (name in c("answer", "total", "given", "n")) found[[name]] <- as.numeric(found[[name]])
    found$value <- if (length(value) > 0) labelled_values(survey$source, value, found$value) else rep(NA, nrow(found))
    found <- crossed_counts(found[c("answer", "total", "given", "value")], found$n)
    found[!hidden_counts(found$n, least_people(survey$source)), ]
  })
}

#' @export
source_cells.sums_source <- function(survey, item) {
  asked_before(survey, list("cells", item), {
    found <- do.call(rbind, from_shards(survey$source, function(connection) {
      paste0("SELECT ", cell_sql(survey$source, connection, item), " AS value, count(*) AS n", these_cases(survey, connection), " GROUP BY 1")
    }))
    found <- found[!hidden_counts(found$n, least_people(survey$source)), ]
    list(values = found$value, n = as.numeric(found$n))
  })
}

# Products of three and more answers are not asked for.
#' @export
source_gamma.sums_source <- function(survey, items) stop_for_rows(survey$source, length(items))

#' @export
source_mardia.sums_source <- function(survey, items) NULL

#' @export
source_totals.sums_source <- function(survey, items) {
  keying <- keying_of(survey, items)
  p <- length(items)
  asked_before(survey, list("totals", items, keying), {
    odd <- seq_len(p) %% 2 == 1
    mean_of <- function(which) paste0("(", paste0("x", which(which), collapse = " + "), ") / ", sum(which), ".0")
    gap <- if (p > 1) paste0("(", mean_of(odd), " - ", mean_of(!odd), ")") else "x1 * 1.0"
    total <- paste0("x", seq_len(p), collapse = " + ")
    parts <- from_shards(survey$source, function(connection) {
      paste0("SELECT ", total, " AS total, count(*) AS n, sum(", gap, ") AS gap, sum(", gap, " * ", gap, ") AS gap_squared FROM ",
        apart_sql(survey, connection, items, keying, rep(0, p)), " WHERE ", paste0("x", seq_len(p), " IS NOT NULL", collapse = " AND "),
        " GROUP BY ", total)
    })
    out <- totals_added(lapply(parts, function(part) lapply(as.list(part), as.numeric)))
    tell_apart(survey, items, sum(out$n))
    shown <- !hidden_counts(out$n, least_people(survey$source))
    lapply(out, `[`, shown)
  })
}

#' @export
source_rows.sums_source <- function(survey, items = scored_items(survey), keyed = TRUE) {
  if (length(items) == 0) matrix(0, sums_used(survey), 0) else stop_for_rows(survey$source)
}

#' @export
source_by_rows.sums_source <- function(survey, items, each, keyed = TRUE, beside = character()) stop_for_rows(survey$source)

#' @export
source_columns.sums_source <- function(survey, columns) stop_for_rows(survey$source)

#' @export
source_distinct.sums_source <- function(survey, columns) {
  asked_before(survey, list("distinct", columns), {
    found <- do.call(rbind, from_shards(survey$source, function(connection) {
      cells <- vapply(columns, function(column) cell_sql(survey$source, connection, column), "")
      paste0("SELECT ", paste(cells, "AS", quoted_names(connection, columns), collapse = ", "), ", count(*) AS n", these_cases(survey, connection),
        " GROUP BY ", paste(seq_along(columns), collapse = ", "), " ORDER BY ", paste(seq_along(columns), collapse = ", "), " LIMIT 10001")
    }))
    if (nrow(found) > 10000) stop_input(message_of("e_more_different_values", columns = columns))
    found <- crossed_counts(found[columns], found$n)
    found <- found[!hidden_counts(found$n, least_people(survey$source)), ]
    found[columns] <- label_groups(found[columns], survey$source$labels$codebook, intersect(survey$source$labels$group, columns))
    found
  })
}

#' @export
source_values.sums_source <- function(survey, column) {
  survey$kept <- character()
  source_distinct(survey, column)[[column]]
}

# The different cells of a column as the table has them, without labels of the codebook that may stand for them.
raw_cells <- function(survey, column) {
  survey$source <- structure(rlang::env_clone(survey$source), class = class(survey$source))
  survey$source$labels <- list(group = character())
  survey$source$known <- new.env(parent = emptyenv())
  source_distinct(survey, column)[[column]]
}

#' @export
source_take.sums_source <- function(survey, column, values) {
  cells <- raw_cells(survey, column)
  labelled <- labelled_values(survey$source, column, cells)
  take_where(survey, list(column = column, values = cells[as.character(labelled) %in% values]))
}

# Rows of one identifier on different shards are not looked for.
#' @export
source_people.sums_source <- function(survey) {
  asked_before(survey, list("people", survey$id), {
    found <- from_shards(survey$source, function(connection) {
      q <- quoted_names(connection, survey$id)
      paste0("SELECT count(*) AS people, sum(CASE WHEN n > 1 THEN 1 ELSE 0 END) AS several FROM (SELECT count(*) AS n",
        these_cases(survey, connection, paste(q, "IS NOT NULL")), " GROUP BY ", q, ") AS t")
    })
    total <- function(name) sum(vapply(found, function(one) as.numeric(one[[name]]), 0), na.rm = TRUE)
    list(people = total("people"), several = total("several"))
  })
}

#' @export
source_repeats.sums_source <- function(survey, columns) {
  asked_before(survey, list("repeats", columns), {
    found <- from_shards(survey$source, function(connection) {
      q <- paste(quoted_names(connection, columns), collapse = ", ")
      paste0("SELECT sum(n - 1) AS repeated FROM (SELECT count(*) AS n", these_cases(survey, connection), " GROUP BY ", q, ") AS t")
    })
    list(rows = sum(vapply(found, function(one) as.numeric(one$repeated), 0), na.rm = TRUE), first = NA)
  })
}

#' @export
source_everyone.sums_source <- function(survey) stop_for_rows(survey$source)

#' @export
source_has_rows.sums_source <- function(survey, columns) FALSE

# How many of the cases of one origin can be those of another: none where some condition keeps them apart.
conditions_overlap <- function(one, other) {
  apart <- function(a, b) {
    halves <- !is.null(a$hash) && identical(a$hash, b$hash) && (a$to <= b$from || b$to <= a$from)
    groups <- is.null(a$hash) && is.null(b$hash) && identical(a$column, b$column) && length(intersect(a$values, b$values)) == 0
    halves || groups
  }
  any_apart <- any(vapply(one$where, function(a) any(vapply(other$where, function(b) apart(a, b), TRUE)), TRUE))
  if (any_apart) 0L else min(one$n, other$n)
}
