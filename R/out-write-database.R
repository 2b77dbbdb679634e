# Results written to a database: one table, in one transaction, never over the answers.

write_to_database <- function(x, connection, name, overwrite) {
  need_database("DBI")
  connections <- check_connections(connection)
  if (is.null(name)) {
    stop_input(message_of("e_table_needed_how"), hint = "sw_write(scores, connection, \"scores\")")
  }
  asked <- if (inherits(x, "sw_scores")) x$parts$asked
  data <- if (is.null(asked)) database_frame(x)
  for (one in connections) {
    target <- table_source_text(one, name)
    if (target$name == "a query") stop_input(message_of("e_table_must_name_write"))
    check_not_answers(x, target$name)
    in_one_write(one, {
      make_room(one, name, target$name, overwrite)
      if (is.null(asked)) {
        put_rows(one, data, name)
      } else {
        survey <- survey_behind(x)
        check_own_connection(survey, one)
        write_asked_scores(at_connection(survey, one), asked, one, target$query, length(survey$source$table$connections) > 1)
      }
    })
  }
  invisible(name)
}

# What is written: scores with who they are of, their bands; else the one table.
database_frame <- function(x) {
  if (inherits(x, "sw_scores")) {
    bands <- x$parts$bands
    out <- x$tables$scores
    for (band in names(bands)) out[[paste0(band, "_band")]] <- as.character(bands[[band]])
    return(as.data.frame(lapply(out, as.vector), check.names = FALSE))
  }
  if (!inherits(x, "sw_result") && !is.data.frame(x)) stop_input(message_of("e_x_must_result", x = what_is(x)))
  as.data.frame(lapply(if (is.data.frame(x)) x else x$tables[[1]], plain_column), check.names = FALSE)
}

check_not_answers <- function(x, name) {
  survey <- if (inherits(x, "sw_result")) x$parts$source
  table <- if (has_answers(survey)) answers_table(survey)
  if (!is.null(table) && tolower(table$name) == tolower(name)) {
    stop_input(message_of("e_table_holds_answers", name = name), hint = message_of("e_give_scores_table"))
  }
}

# Where the answers are, the shard that is written to.
check_own_connection <- function(survey, connection) {
  if (!any(vapply(survey$source$table$connections, identical, TRUE, connection))) {
    stop_input(message_of("e_database_works_these"))
  }
}

at_connection <- function(survey, connection) {
  survey$source <- structure(rlang::env_clone(survey$source), class = class(survey$source))
  survey$source$table$connections <- list(connection)
  survey$source$table$workers <- NULL
  survey$source$known <- new.env(parent = emptyenv())
  survey
}

# In a transaction of its own; after trouble nothing is left of it.
in_one_write <- function(connection, work) {
  begun <- database_does(DBI::dbBegin(connection))
  done <- FALSE
  on.exit(if (!done) try(DBI::dbRollback(connection), silent = TRUE))
  work
  database_does(DBI::dbCommit(connection))
  done <- TRUE
}

make_room <- function(connection, name, said, overwrite) {
  id <- if (is.character(name) && length(name) > 1) DBI::Id(schema = name[1], table = name[2]) else name
  if (!database_does(DBI::dbExistsTable(connection, id))) {
    return(invisible())
  }
  if (!overwrite) stop_file(message_of("e_there_table_already", said = said), hint = message_of("e_use_overwrite_true"))
  database_does(DBI::dbRemoveTable(connection, id))
}

put_rows <- function(connection, data, name) {
  id <- if (is.character(name) && length(name) > 1) DBI::Id(schema = name[1], table = name[2]) else name
  database_does(DBI::dbCreateTable(connection, id, data))
  for (first in seq(1, max(nrow(data), 1), by = chunk_rows)) {
    rows <- seq(first, length.out = min(chunk_rows, nrow(data) - first + 1))
    database_does(DBI::dbAppendTable(connection, id, data[rows, , drop = FALSE]))
  }
}
