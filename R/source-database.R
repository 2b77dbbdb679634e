#' Answers in a database
#'
#' A table, view or query that [sw_survey()] and [sw_read()] take like a data frame. The database is only read from. SQLite and PostgreSQL are
#' always tested, DuckDB where its package is installed; others that DBI reaches are asked in the same SQL.
#'
#' Answers are fetched whole where they take less than half of `memory`. Larger tables are fetched in chunks of 16,384 rows, only the items
#' asked for, each time a figure needs them: moments, counts, two-way tables and patterns are added up, people are gone through, and memory
#' stays within bounds. With
#' `fetch = "sums"` nothing but counts and sums of many people leaves the database: it works them out itself. What was done stands in
#' [sw_log()] and under each result.
#'
#' Rows are taken in the order in which the database gives them, which must not change while one works; a table that changed since it was
#' read is refused. Every figure is worked out within one transaction, of which the database sees one state (repeatable read). A role that may
#' only read is enough.
#'
#' @param connection A connection made by `DBI::dbConnect()`; or a list of them, one for each shard of the table. Or a list of functions that
#'   connect, one for each shard: with `fetch = "sums"` the shards are then asked at the same time, each by a process of its own.
#' @param table Name of a table or view, `c("schema", "table")`, a `DBI::Id()`; or a query that begins with `SELECT` or `WITH`.
#' @param fetch `"rows"`: single answers are fetched. `"sums"`: only aggregates are. `"auto"`: `"sums"` where `smallest` is given, else `"rows"`.
#' @param smallest For `"sums"`: the least number of people that a figure may be of. Counts of fewer
#'   are withheld, and it is said, with the next larger one where those withheld are still fewer together, and how many left an item out where these
#'   are fewer. Sums over people who differ by fewer than `smallest` from everybody, or from those of an earlier question of more or of fewer items,
#'   are refused, since a subtraction would tell of the few. Which different answers an item has is looked at all the same, to hold them
#'   against the codebook. No such rule can stop a query that chooses people: two tables, or two connections, know nothing of each other, and
#'   means and correlations of everybody bound what a rare answer can have been.
#' @param memory For `"rows"`: how many MB the answers may take.
#' @return A `sw_table`: a list with `connections`, `name`, `engine`, `columns` (data frame: column, type), `fetch`, `smallest` and `memory`;
#'   `workers` where shards are asked at the same time.
#' @section Errors: `scalewort_error_input` for what is no connection or no table; `scalewort_error_database` when the database refuses or the
#'   connection is lost, with a field `reason`: `lost`, `timeout`, `locked`, `denied`, `absent`, `shard`, `changed`, `withheld` or `refused`.
#' @examples
#' if (requireNamespace("RSQLite", quietly = TRUE)) {
#'   panel <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
#'   DBI::dbWriteTable(panel, "answers", as.data.frame(sw_demo("plotholders")$data))
#'   answers <- sw_table(panel, "answers")
#'   answers
#'   codebook <- system.file("extdata", "plotholders-codebook.csv", package = "scalewort")
#'   print(sw_reliability(sw_survey(answers, codebook, id = "id")))
#'   DBI::dbDisconnect(panel)
#' }
#' @export
sw_table <- function(connection, table, fetch = "auto", smallest = NULL, memory = 256) {
  need_database("DBI")
  workers <- if (is.list(connection) && length(connection) > 0 && all(vapply(connection, is.function, TRUE))) new_workers(connection)
  connections <- check_connections(if (is.null(workers)) connection else opened_by[[workers$name]]$connections)
  check_choice(fetch, c("auto", "rows", "sums"), "fetch")
  if (!is.null(smallest)) check_number(smallest, "smallest", 1)
  check_number(memory, "memory", 0)
  if (fetch == "rows" && !is.null(smallest)) {
    stop_input(message_of("e_smallest_withholds_figures"), hint = message_of("e_use_fetch_sums"))
  }
  if (fetch == "auto") fetch <- if (is.null(smallest)) "rows" else "sums"
  named <- table_source_text(connections[[1]], table)
  out <- structure(list(connections = connections, name = named$name, query = named$query, engine = engine_of(connections[[1]]), fetch = fetch,
    smallest = smallest, memory = memory), class = "sw_table")
  out$workers <- workers
  out$columns <- table_columns(out)
  out$partitions <- list_partitions(out)
  out
}

# Of a PostgreSQL table that is partitioned by the values of one column: that column, by which sums are taken, so that servers behind foreign
# partitions work out their own. NULL elsewhere.
list_partitions <- function(table) {
  if (!engine_trait(table$engine, "partitions") || table$fetch != "sums" || is_query(table$query)) {
    return(NULL)
  }
  connection <- table$connections[[1]]
  found <- ask(connection, paste0("SELECT pg_get_partkeydef(oid) AS key FROM pg_class WHERE relkind = 'p' AND oid = to_regclass(",
    quoted_text(connection, table$query), ")"))$key
  column <- sub("^LIST \\((.*)\\)$", "\\1", found)
  column <- if (length(found) == 1 && column != found) gsub("^\"|\"$", "", gsub("\"\"", "\"", column, fixed = TRUE))
  if (isTRUE(column %in% table$columns$column)) column
}

# How PostgreSQL would take sums of a partitioned table: NULL without foreign partitions, else where they are worked out.
shards_said <- function(table, item) {
  if (is.null(table$partitions)) {
    return(NULL)
  }
  connection <- table$connections[[1]]
  key <- quoted_names(connection, table$partitions)
  plan <- ask(connection, paste0("EXPLAIN (VERBOSE, COSTS OFF) SELECT k, count(*), sum(x1), sum(x1*x1) FROM (SELECT ", key, " AS k, ",
    quoted_names(connection, item), " AS x1 FROM ", table$query, ") AS t WHERE x1 IS NOT NULL GROUP BY k"))[[1]]
  shards <- sum(grepl("Foreign Scan", plan))
  if (shards == 0) {
    return(NULL)
  }
  if (sum(grepl("Relations: Aggregate on", plan)) == shards) {
    return(list(message_of("sums_on_servers", servers = shards)))
  }
  list(message_of("rows_fetched_from", partitions = shards))
}

need_database <- function(package) {
  if (!requireNamespace(package, quietly = TRUE)) {
    stop_file(message_of("e_answers_database_need", package = package), hint = paste0("install.packages(\"", package, "\")"))
  }
}

check_connections <- function(connection) {
  connections <- if (is.list(connection) && !methods::isVirtualClass(class(connection)[1])) connection else list(connection)
  if (length(connections) == 0) stop_input(message_of("e_connection_empty_list"))
  fine <- vapply(connections, methods::is, TRUE, "DBIConnection")
  if (!all(fine)) {
    stop_input(message_of("e_connection_must_connection", connections = what_is(connections[!fine][[1]])), hint = message_of("e_make_one_dbi"))
  }
  closed <- which(!vapply(connections, DBI::dbIsValid, TRUE))
  if (length(closed) > 0) stop_database("lost", message_of("e_connection_closed", connections = of_shard(connections, closed[1])),
    hint = message_of("e_connect_again"))
  engines <- unique(vapply(connections, engine_of, ""))
  if (length(engines) > 1) stop_input(message_of("e_all_shards_must", engines = engines))
  connections
}

# " of shard 2", where there are several.
of_shard <- function(connections, k) if (length(connections) > 1) paste(" of shard", k) else ""

# list(name: for people, query: what a statement selects from).
table_source_text <- function(connection, table) {
  if (methods::is(table, "Id")) {
    return(list(name = paste(table@name, collapse = "."), query = as.character(DBI::dbQuoteIdentifier(connection, table))))
  }
  if (!is.character(table) || anyNA(table) || !length(table) %in% 1:3 || !all(nzchar(trimws(table)))) {
    stop_input(message_of("e_table_must_name", table = shown(table)))
  }
  if (length(table) == 1 && is_query(table)) {
    query <- sub(";?\\s*$", "", table)
    return(list(name = "a query", query = paste0("(", query, ") AS answers_asked_for")))
  }
  list(name = paste(table, collapse = "."), query = paste(quoted_names(connection, table), collapse = "."))
}

is_query <- function(text) grepl("^\\s*[(]?(select|with)\\s", text[1], ignore.case = TRUE)

quoted_names <- function(connection, names) as.character(DBI::dbQuoteIdentifier(connection, names))
quoted_text <- function(connection, text) as.character(DBI::dbQuoteString(connection, enc2utf8(text)))

# tibble(column, type): type number, text, date or binary; of SQLite, whose cells have types of their own, what the cells are.
table_columns <- function(table) {
  found <- lapply(table$connections, function(connection) {
    answer <- database_does({
      sent <- DBI::dbSendQuery(connection, paste("SELECT * FROM", table$query, "WHERE 1 = 0"))
      on.exit(DBI::dbClearResult(sent))
      list(info = DBI::dbColumnInfo(sent), empty = DBI::dbFetch(sent))
    })
    plain_table(column = as.character(answer$info$name), type = vapply(as.list(answer$empty), column_type, ""))
  })
  names <- lapply(found, `[[`, "column")
  differ <- which(!vapply(names, identical, TRUE, names[[1]]))
  if (length(differ) > 0) {
    stop_database("shard", message_of("e_shard_other_columns", differ = differ[1]), faults = c(messages_of("e_only_shard",
      names = setdiff(names[[1]], names[[differ[1]]])), messages_of("e_only_shard_two", differ = differ[1], names = setdiff(names[[differ[1]]],
        names[[1]]))))
  }
  columns <- found[[1]]
  if (nrow(columns) == 0) stop_input(message_of("e_table_no_columns"))
  twice <- unique(columns$column[duplicated(columns$column)])
  if (length(twice) > 0) stop_input(message_of("e_columns_table_stand", twice = twice), hint = message_of("e_name_them_apart"))
  if (engine_trait(table$engine, "cells_have_types")) columns$type <- stored_types(table, columns$column)
  columns
}

column_type <- function(x) {
  if (inherits(x, c("Date", "POSIXt"))) {
    return("date")
  }
  if (is.logical(x)) "logical" else if (is.list(x)) "binary" else if (is.character(x) || is.factor(x)) "text" else "number"
}

# What the cells of a SQLite table are; text wherever any is.
stored_types <- function(table, columns) {
  of_shards <- lapply(table$connections, function(connection) {
    parts <- split(columns, ceiling(seq_along(columns) / 300))
    unlist(lapply(unname(parts), function(some) {
      q <- quoted_names(connection, some)
      ask(connection, paste("SELECT", paste0("max(typeof(", q, ") = 'blob') + 10 * max(typeof(", q, ") = 'text') + 100 * max(typeof(", q,
        ") = 'real')", collapse = ", "), "FROM", table$query))[1, ]
    }), use.names = FALSE)
  })
  codes <- do.call(rbind, lapply(of_shards, function(code) replace(code, is.na(code), 0)))
  any_digit <- function(place) apply(codes %/% place %% 10 > 0, 2, any)
  ifelse(any_digit(1), "binary", ifelse(any_digit(10), "text", ifelse(any_digit(100), "real", "number")))
}
