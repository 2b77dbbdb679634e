# Statements, and what is said when the database does not answer them.

# What a statement gives, columns as plain vectors.
ask <- function(connection, sql) {
  out <- database_does(DBI::dbGetQuery(connection, sql))
  out[] <- lapply(out, plain_column)
  out
}

# The same where nothing comes back.
tell <- function(connection, sql) invisible(database_does(DBI::dbExecute(connection, sql)))

# A piece of work with the database: its errors become ours; a warning that values were changed on the way is an error too.
database_does <- function(work) {
  tryCatch(
    withCallingHandlers(work, warning = function(w) {
      if (grepl("mixed type|coercing|out of range", conditionMessage(w))) stop(conditionMessage(w), call. = FALSE)
    }),
    scalewort_error = function(e) stop(e),
    error = function(e) stop_database_said(conditionMessage(e))
  )
}

stop_database <- function(reason, message, ...) stop_for("database", message, reason = reason, ...)

# Reasons by what the engines say.
database_reasons <- list(
  lost = paste0("closed the connection|terminating connection|connection.*(lost|closed|refused|reset|invalid)|(invalid|closed|no) connection|",
    "external pointer|could not (connect|receive|send)|SSL SYSCALL|Disconnected"),
  timeout = "statement timeout|lock timeout|canceling statement|interrupted",
  locked = "database is locked|database table is locked|deadlock",
  denied = "permission denied|readonly database|read-only|must be owner|not authorized|access denied",
  absent = "no such (table|column|view)|does not exist|not found|unable to open",
  shard = "foreign|fdw|could not obtain connection"
)

stop_database_said <- function(text) {
  text <- without_secrets(text)
  known <- vapply(database_reasons, grepl, TRUE, text, ignore.case = TRUE)
  reason <- if (grepl("could not connect to server", text) || known[["shard"]] && known[["lost"]]) "shard" else c(names(which(known)), "refused")[1]
  first <- trimws(strsplit(text, "\n", fixed = TRUE)[[1]])
  hint <- if (!reason %in% c("absent", "refused")) message_of(paste0("database_hint_", reason))
  stop_database(reason, message_of(paste0("database_said_", reason)), faults = utils::head(first[nzchar(first)], 3), hint = hint)
}

# No password in a message, whatever it stands in: password=..., a user and password before @.
without_secrets <- function(text) {
  text <- gsub("(password|passwd|pwd|passfile)(\\s*[=:]\\s*)('[^']*'|\"[^\"]*\"|[^ ,;)]+)", "\\1\\2***", text, ignore.case = TRUE)
  gsub("(://[^:/@ ]+):[^@ ]+@", "\\1:***@", text)
}

# Work within one state of the database, in a transaction that only reads; one that is open already is used as it is.
in_one_state <- function(table, work) {
  opened <- list()
  at_once <- FALSE
  # Also where a later shard does not answer: no connection is left within a transaction.
  on.exit({
    for (connection in opened) try(DBI::dbRollback(connection), silent = TRUE)
    if (at_once) close_workers(table$workers)
  })
  for (connection in table$connections) {
    if (!open_state(connection)) next
    opened <- c(opened, list(connection))
    settle_state(connection, table$engine)
  }
  at_once <- open_workers(asked_at_once(table), table$engine)
  work
}

# TRUE where a transaction was begun.
open_state <- function(connection) {
  if (engine_trait(engine_of(connection), "begins_anew") && within_transaction(connection)) {
    return(FALSE)
  }
  begun <- tryCatch(DBI::dbBegin(connection), error = function(e) {
    if (grepl("nested|within a transaction|already|not supported|active transaction", conditionMessage(e), ignore.case = TRUE)) FALSE else
      stop_database_said(conditionMessage(e))
  })
  isTRUE(begun)
}

# Of DuckDB, where beginning another would end the one that is open: two statements of one transaction have one number.
within_transaction <- function(connection) {
  number <- function() as.character(ask(connection, "SELECT txid_current()")[[1]])
  number() == number()
}

settle_state <- function(connection, engine) {
  for (setting in engine_trait(engine, "settings")) tell(connection, setting)
}

rows_in_order <- function(connection, engine) {
  for (setting in engine_trait(engine, "in_order")) tell(connection, setting)
}

# What a column is selected as: of SQLite, whose cells have types of their own, always one type.
selected_as <- function(table, connection, columns) {
  q <- quoted_names(connection, columns)
  type <- table$columns$type[match(columns, table$columns$column)]
  if (!engine_trait(table$engine, "cells_have_types")) {
    return(q)
  }
  cast <- c(text = engine_trait(table$engine, "text"), real = engine_trait(table$engine, "real"))[type]
  ifelse(is.na(cast), q, paste0("CAST(", q, " AS ", cast, ") AS ", q))
}

# The rows of some columns, chunk by chunk in order, shard after shard: each(data frame). sql: made of a connection.
each_chunk <- function(table, sql, each, size = chunk_rows) {
  for (connection in table$connections) {
    rows_in_order(connection, table$engine)
    chunks_of(connection, sql(connection), each, size)
  }
}

chunks_of <- function(connection, sql, each, size) {
  sent <- database_does(DBI::dbSendQuery(connection, sql))
  on.exit(try(DBI::dbClearResult(sent), silent = TRUE))
  repeat {
    chunk <- database_does(DBI::dbFetch(sent, n = size))
    if (nrow(chunk) > 0) each(list2DF(lapply(as.list(chunk), plain_column), nrow(chunk)))
    if (nrow(chunk) < size) break
    # What was made of a chunk is let go before the next one comes: memory stays that of one chunk.
    gc(full = FALSE)
  }
}

# A chunk of the kernels', which add up in the same order: the digits are the same.
chunk_rows <- 16384L

# Whole columns as a data frame.
fetch_columns <- function(table, columns) {
  chunks <- list()
  each_chunk(table, function(connection) {
    paste("SELECT", paste(selected_as(table, connection, columns), collapse = ", "), "FROM", table$query)
  }, function(chunk) chunks[[length(chunks) + 1]] <<- chunk)
  if (length(chunks) == 0) {
    return(list2DF(stats::setNames(rep(list(logical()), length(columns)), columns)))
  }
  out <- if (length(chunks) == 1) chunks[[1]] else as.data.frame(data.table::rbindlist(chunks, use.names = FALSE))
  stats::setNames(out, columns)
}

count_rows <- function(table) {
  sum(vapply(table$connections, function(connection) as.numeric(ask(connection, paste("SELECT count(*) FROM", table$query))[[1]]), 0))
}
