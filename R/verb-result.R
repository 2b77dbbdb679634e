# The one shape of every result: tables, about, notes, parts.

# title: a code of the catalogue, or a message. tables: named list of tibbles, the one people look at first in front.
# notes: what the user must know, most important first (R/result-notes.R).
new_result <- function(class, title, tables, notes = character(), n = NA, n_left_out = 0,
                       missing = NA_character_, options = list(), parts = list(), limits = NULL,
                       status = "ok") {
  tables <- lapply(tables, known_or_missing)
  # What is judged is printed by the limits in force.
  for (name in names(tables)) if (!is.null(attr(tables[[name]], "judged"))) attr(tables[[name]], "limits") <- limits
  stopifnot(is.list(tables), all(vapply(tables, is.data.frame, TRUE)))
  noted <- note_table(notes)
  # What was done about missing answers: the name of a way, or a message.
  said <- if (!is.character(missing)) missing
  structure(list(
    tables = lapply(tables, plain_frame),
    about = list(
      title = if (is.character(title)) message_of(title) else title, n = n, n_left_out = n_left_out,
      missing = if (is.null(said)) missing else say(said, "en"), status = status,
      options = options, version = getNamespaceInfo(topenv(), "spec")[["version"]],
      time = Sys.time()
    ),
    notes = noted$words, noted = noted, missing_said = said, parts = parts, limits = limits
  ), class = c(class, "sw_result"))
}

# What was done about missing answers in a result.
missing_message <- function(x) if (is.null(x$missing_said)) way_message(x$about$missing) else x$missing_said

# A way to treat missing answers by its name.
way_message <- function(name) {
  switch(name, fiml = message_of("missing_fiml"), imputed = message_of("missing_imputed"), message_of("a_term", term = name))
}

# What cannot be computed is NA, and nothing else.
known_or_missing <- function(table) {
  for (j in seq_along(table)) {
    column <- .subset2(table, j)
    if (is.double(column) && anyNA(column) && any(is.nan(column))) table[[j]][is.nan(column)] <- NA_real_
  }
  table
}

# One of a result's tables by name; the first by default.
result_table <- function(x, table = NULL) {
  if (is.null(table)) {
    return(x$tables[[1]])
  }
  x$tables[[check_choice(table, names(x$tables), "table")]]
}

# A matrix as a table whose first column names the rows.
matrix_table <- function(m, label) {
  columns <- lapply(seq_len(ncol(m)), function(j) unname(m[, j]))
  list2DF(stats::setNames(c(list(rownames(m)), columns), c(label, colnames(m))), nrow(m))
}

# Columns put behind one of a table's, or in front of all.
with_columns <- function(table, columns, after = NULL) {
  at <- if (is.null(after)) 0 else match(after, names(table))
  list2DF(append(as.list(table), columns, at), nrow(table))
}
