# Answers that stay in a database: how each item's column is read there, and what every statement starts from. What is asked is worked out
# from chunks of rows (R/source-chunks.R) or by the database itself (R/source-sums.R).

# readings: by item (see item_reading()). silent: items of a test that count as missing where somebody left all of them blank.
new_table_source <- function(table, rows, readings, silent, labels) {
  source <- new.env(parent = emptyenv())
  source$table <- table
  source$rows <- rows
  source$readings <- readings
  source$silent <- silent
  source$tests <- keyed_items(labels$codebook)
  source$labels <- labels
  source$known <- new.env(parent = emptyenv())
  counts <- lapply(readings, `[[`, "counts")
  source$hash <- hash_of(list(table$engine, table$query, rows, counts))
  class(source) <- c(if (table$fetch == "sums") "sums_source" else "chunks_source", "table_source")
  known_sources(source)
  source
}

# How an item's cells become answers, from its different cells: list(kind, whole: are all answers whole numbers?, cells, answers, counts) and,
# by kind,
#   "as is"    numbers, all of them answers
#   "without"  numbers, those in `codes` none
#   "words"    cells `from`, which stand for the answers `to`; any other for none
# values, n: the different cells (NULL left out) and how often each stands.
item_reading <- function(values, n, clean, silent = FALSE) {
  there <- !is.na(values)
  fine <- !is.na(clean)
  of <- if (is.numeric(values) && !any(fine & !there) && all(clean[fine] == values[fine])) {
    if (all(fine[there])) list(kind = "as is") else list(kind = "without", codes = values[there & !fine])
  } else {
    list(kind = "words", from = values[fine], to = as.numeric(clean[fine]))
  }
  answers <- sort(unique(as.numeric(clean[fine])))
  of$whole <- all(answers == round(answers)) && all(abs(answers) < 2^31)
  of$cells <- list(values = values, n = n)
  of$answers <- answers
  # Who left a whole test blank is found by looking at all of its items.
  if (!silent) of$counts <- vapply(answers, function(answer) sum(n[fine & clean == answer]), 0)
  of
}

# The cell of a column in a statement, of one type.
cell_sql <- function(source, connection, column) {
  q <- quoted_names(connection, column)
  type <- source$table$columns$type[match(column, source$table$columns$column)]
  as <- if (type == "logical") "integer" else if (type == "text") engine_trait(source$table$engine, "text")
  if (is.null(as)) q else paste0("CAST(", q, " AS ", as, ")")
}

# An item's answer in a statement, as given; NULL where it is missing.
answer_sql <- function(source, connection, item) {
  reading <- source$readings[[item]]
  cell <- cell_sql(source, connection, item)
  literal <- function(x) if (is.character(x)) quoted_text(connection, x) else exact_number(x)
  out <- switch(reading$kind,
    `as is` = cell,
    without = paste0("CASE WHEN ", cell, " NOT IN (", paste(literal(reading$codes), collapse = ", "), ") THEN ", cell, " END"),
    words = words_sql(cell, literal, reading)
  )
  if (!item %in% source$silent) {
    return(out)
  }
  given <- vapply(source$tests, function(one) {
    cell <- cell_sql(source, connection, one)
    text <- source$table$columns$type[match(one, source$table$columns$column)] == "text"
    if (text) paste0("coalesce(trim(", cell, "), '') <> ''") else paste(cell, "IS NOT NULL")
  }, "")
  paste("CASE WHEN", paste(given, collapse = " OR "), "THEN", out, "END")
}

# A test item's cells that are NULL can count as an answer, too (`blank`).
words_sql <- function(cell, literal, reading) {
  given <- !is.na(reading$from)
  words <- paste0("WHEN ", cell, " = ", literal(reading$from[given]), " THEN ", exact_number(reading$to[given]), recycle0 = TRUE)
  none <- paste0("WHEN ", cell, " IS NULL THEN ", exact_number(reading$to[!given]), recycle0 = TRUE)
  if (length(c(words, none)) == 0) "NULL" else paste("CASE", paste(c(words, none), collapse = " "), "END")
}

# All digits; whole numbers without a point.
exact_number <- function(x) {
  out <- ifelse(x == round(x) & abs(x) < 2^53, format(x, scientific = FALSE, trim = TRUE, digits = 17), formatC(x, digits = 17, format = "g"))
  ifelse(x < 0, paste0("(", out, ")"), out)
}

refuse_for_table <- function(table, asked, rows) {
  large <- if (table$fetch == "rows") message_of("table_too_large", memory = table$memory) else message_of("table_gives_sums")
  if (!is.null(asked$wide)) {
    stop_input(message_of("e_waves_side_side", large = large), hint = message_of("e_do_query_select"))
  }
  if (table$fetch == "sums" && !(is.null(asked$cluster) && is.null(asked$weight))) {
    stop_input(message_of("e_clusters_weights_need"), hint = message_of("e_use_fetch_rows"))
  }
}

# The different cells of each column and how often each stands: list(values, n), NULL last. More than a thousand are no answers of a questionnaire.
different_cells <- function(table, columns) {
  out <- if (table$fetch == "sums") lapply(columns, counted_cells, table = table) else tallied_cells(table, columns)
  names(out) <- columns
  many <- columns[vapply(out, function(one) length(one$values) > 1000, TRUE)]
  if (length(many) > 0) {
    stop_input(message_of("e_some_items_more"), faults = many, hint = message_of("e_round_them_query"))
  }
  out
}

# The database counts.
counted_cells <- function(column, table) {
  parts <- from_shards(list(table = table), function(connection) {
    cell <- cell_sql(list(table = table), connection, column)
    paste("SELECT", cell, "AS value, count(*) AS n FROM", table$query, "GROUP BY 1 ORDER BY 1 LIMIT 1002")
  })
  added_cells(lapply(parts, function(part) list(values = part$value, n = as.numeric(part$n))))
}

# Counted from chunks, in one go through the table.
tallied_cells <- function(table, columns) {
  seen <- rep(list(NULL), length(columns))
  source <- list(table = table)
  each_chunk(table, function(connection) {
    cells <- vapply(columns, function(column) cell_sql(source, connection, column), "")
    paste("SELECT", paste(cells, "AS", quoted_names(connection, columns), collapse = ", "), "FROM", table$query)
  }, function(chunk) {
    for (j in seq_along(columns)) {
      values <- unique(chunk[[j]])
      if (length(values) <= 1001 && NROW(seen[[j]]$values) <= 1001) {
        seen[[j]] <<- added_cells(list(seen[[j]], list(values = values, n = tabulate(match(chunk[[j]], values), length(values)))))
      } else {
        seen[[j]] <<- list(values = seq_len(2000), n = rep(1, 2000))
      }
    }
  })
  seen
}

# Counts of the same cells added; NULL last.
added_cells <- function(parts) {
  parts <- Filter(Negate(is.null), parts)
  values <- do.call(c, lapply(parts, `[[`, "values"))
  n <- unlist(lapply(parts, `[[`, "n"))
  order <- sort(unique(values), method = "radix", na.last = TRUE)
  list(values = order, n = as.vector(tapply(n, factor(match(values, order), seq_along(order)), sum)))
}

# Answers that do not fit the codebook, by how often they stand: of a table a row's number says little.
stop_for_cells <- function(read) {
  faults <- do.call(rbind, lapply(names(read), function(item) {
    found <- read[[item]]$faults
    if (nrow(found) > 0) data.frame(item = item, problem = found$problem, field = found$field, n = read[[item]]$n[found$row])
  }))
  if (is.null(faults)) {
    return(invisible())
  }
  stop_input(message_of("e_not_fit_codebook", n = sum(faults$n), n_said = if (sum(faults$n) == 1) message_of("e_does") else message_of("e_do")),
    faults = fault_rows(paste0(faults$problem, ", ", count_of_each(faults$n)), "answers", item = faults$item, field = faults$field),
      hint = message_of("e_correct_codebook_s"), cells = plain_frame(faults))
}

# What somebody asks for is fetched again only where other people, items or keyings are meant.
asked_before <- function(survey, question, work) {
  source <- survey$source
  key <- hash_of(list(question, .subset2(survey, "kept")))
  if (is.null(source$known[[key]])) {
    assign(key, in_one_state(source$table, {
      check_unchanged(survey)
      work
    }), source$known)
  }
  source$known[[key]]
}

# `survey$data` and `survey$answers`: of everybody, those set aside too.
table_frame <- function(survey, name) {
  survey$kept[] <- TRUE
  if (name == "data") source_everyone(survey) else plain_frame(source_rows(survey, names(survey$source$readings), keyed = FALSE))
}

#' @export
source_names.table_source <- function(survey) survey$source$table$columns$column

# Values of a column as labels of the codebook name them, where it is one of groups.
labelled_values <- function(source, column, values) {
  label_groups(stats::setNames(list2DF(list(values)), column), source$labels$codebook, intersect(source$labels$group, column))[[column]]
}

stop_for_rows <- function(source, columns = 1) {
  if (inherits(source, "sums_source")) {
    stop_database("withheld", message_of("e_needs_single_people"), hint = message_of("e_make_sw_table"))
  }
  need <- ceiling(source$rows * columns * 8 / 2^20)
  stop_database("memory", message_of("e_needs_answers_single", need = need, memory = source$table$memory), hint = message_of("e_give_more_memory"))
}

stop_rare_patterns <- function(survey, people) {
  stop_database("withheld", message_of("e_patterns_missing_answers", smallest = survey$source$table$smallest, people = people),
    hint = message_of("e_take_missing_listwise"))
}

# Where figures come from, for a result of a table that stays in the database.
database_note <- function(survey) {
  source <- survey$source
  if (!inherits(source, "table_source")) {
    return(NULL)
  }
  if (inherits(source, "sums_source")) {
    least <- source$table$smallest
    return(note("sums_only", if (is.null(least)) message_of("sums_only") else message_of("sums_only_least", least = least), rank = 3L))
  }
  if (!gives_rows(survey, scored_items(survey))) note("too_many_rows", message_of("too_many_rows"), rank = 3L)
}
