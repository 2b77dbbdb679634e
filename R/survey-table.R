# A survey whose answers are in a database: fetched whole where they are few enough, else asked for again and again.

table_survey <- function(table, codebook, asked) {
  codebook <- sw_codebook(codebook)
  in_one_state(table, {
    rows <- count_rows(table)
    if (rows == 0) stop_input(message_of("e_table_no_rows", name = table$name))
    if (table$fetch == "rows" && fits_memory(table, rows, nrow(table$columns))) fetched_survey(table, codebook, asked) else
      asked_survey(table, codebook, asked, rows)
  })
}

# Everything fetched: a survey in memory like any other.
fetched_survey <- function(table, codebook, asked) {
  binary <- table$columns$column[table$columns$type == "binary"]
  wrong <- intersect(binary, c(codebook$items$item[codebook$items$role != "aside"], unlist(asked[c("id", "group", "wave", "cluster", "weight")])))
  if (length(wrong) > 0) stop_input(message_of("e_some_columns_hold_binary"), faults = messages_of("e_column_two", wrong = wrong))
  frame <- fetch_columns(table, setdiff(table$columns$column, binary))
  survey <- do.call(sw_survey, c(list(frame, codebook), asked))
  survey$log <- survey$log[-1, ]
  survey$source$table <- table
  said <- c(list(message_of("log_fetched", table = named_table(table), rows = nrow(frame))),
    if (length(binary) > 0) list(message_of("log_binary", columns = binary)))
  log_first(survey, said, table_code(asked))
}

# The table that a survey's answers came from; NULL for another survey.
answers_table <- function(survey) {
  source <- survey$source
  if (inherits(source, "held_source")) source <- weak_value(source$way)
  if (is.environment(source)) source$table
}

# "answers (SQLite)", "answers (PostgreSQL, 3 shards)".
named_table <- function(table) {
  shards <- length(table$connections)
  paste0("table ", table$name, " (", table$engine, if (shards > 1) paste0(", ", shards, " shards"), ")")
}

table_code <- function(asked) {
  line <- survey_code(asked$id, asked$group, asked$wave, asked$waves, asked$missing_codes, asked$find_codes, asked$cluster, asked$weight, asked$wide)
  sub("sw_survey(data", "sw_survey(sw_table(connection, table)", line, fixed = TRUE)
}
