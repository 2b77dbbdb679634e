# What a plan's `data` is: files, or a table in a database. Passwords are never in a plan: the database's own service file, or the
# environment, has them.

from_database <- function(plan) is.list(plan$data) && !is.null(names(plan$data))

# The files that a plan reads.
input_files <- function(plan) c(if (from_database(plan)) plan$data$file else unlist(plan$data), plan$codebook)

# "answers.csv and more.csv"; "table answers of panel.db".
data_message <- function(plan) {
  if (!from_database(plan)) {
    return(message_of("plan_files", files = unlist(plan$data)))
  }
  data <- plan$data
  message_of("plan_table", what = if (is_query(data$table)) message_of("plan_query") else message_of("plan_table_named", table = data$table),
    from = if (is.null(data$file)) message_of("plan_service", service = data$service) else data$file)
}

# What kept results depend on: the files, and what the table holds. hash: of a file; fingerprint: of the plan's table.
plan_hashes <- function(plan, beside, hash = rlang::hash_file, fingerprint = plan_fingerprint) {
  out <- input_hashes(input_files(plan), beside, hash)
  if (!from_database(plan)) {
    return(out)
  }
  log <- if (!is.null(plan$data$file)) paste0(beside(plan$data$file), "-wal")
  if (!is.null(log) && file.exists(log)) out["log of changes"] <- hash(log)
  if (is.null(plan$data$file)) out[say(data_message(plan), "en")] <- fingerprint(plan, beside)
  out
}

# The hash of a file; a large one is read again only when its size or the time of its last change is another.
remembered_hash <- local({
  known <- list()
  function(file, large = 5e7) {
    if (!isTRUE(file.size(file) >= large)) {
      return(rlang::hash_file(file))
    }
    about <- list(file.size(file), as.numeric(file.mtime(file)))
    place <- normalizePath(file)
    if (!identical(known[[place]]$about, about)) known[[place]] <<- list(about = about, hash = rlang::hash_file(file))
    known[[place]]$hash
  }
})

plan_fingerprint <- function(plan, beside) with_plan_table(plan, beside, table_fingerprint)

# A table's content as one number.
table_fingerprint <- function(table) {
  parts <- lapply(table$connections, function(connection) {
    ask(connection, paste("SELECT count(*) AS n, sum(CAST(hashtext(CAST(t.* AS text)) AS bigint)) AS h FROM", table_alias(table)))
  })
  hash_of(parts)
}

table_alias <- function(table) if (is_query(table$query)) sub("answers_asked_for$", "t", table$query) else paste(table$query, "AS t")

# list(path, text) of what is wrong with a plan's database, before it is asked.
database_faults <- function(plan) {
  data <- plan$data
  fault <- function(text, key = character()) list(path = c("data", key), text = text)
  needs <- list(RSQLite = "file", RPostgres = "service", duckdb = "file")[[data$driver]]
  Filter(Negate(is.null), list(
    if (is.null(data[[needs]])) fault(worded("fault_driver_needs", driver = data$driver, needs = needs), "driver"),
    if (!requireNamespace(data$driver, quietly = TRUE)) fault(worded("fault_needs_package", package = data$driver), "driver")
  ))
}

# work(table) with the plan's table; what it connected is closed again unless a survey is left that needs it.
with_plan_table <- function(plan, beside, work) {
  need_database("DBI")
  connection <- plan_connection(plan$data, beside)
  open <- FALSE
  on.exit(if (!open) DBI::dbDisconnect(connection))
  out <- work(do.call(sw_table, c(list(connection, plan$data$table), plan$data[intersect(c("fetch", "smallest", "memory"), names(plan$data))])))
  open <- inherits(out, "sw_survey") && inherits(out$source, "table_source")
  out
}

# What a run connected, disconnected.
close_table <- function(survey) {
  if (inherits(survey$source, "table_source")) for (connection in survey$source$table$connections) DBI::dbDisconnect(connection)
}

plan_connection <- function(data, beside) {
  need_database(data$driver)
  file <- if (!is.null(data$file)) check_there(beside(data$file))
  database_does(switch(data$driver,
    RSQLite = DBI::dbConnect(RSQLite::SQLite(), file, flags = RSQLite::SQLITE_RO),
    RPostgres = DBI::dbConnect(utils::getFromNamespace("Postgres", "RPostgres")(), service = data$service),
    duckdb = DBI::dbConnect(utils::getFromNamespace("duckdb", "duckdb")(), dbdir = file, read_only = TRUE)
  ))
}

# Columns of the plan's data, and the values of one.
plan_columns <- function(plan, beside, items) {
  if (from_database(plan)) {
    return(with_plan_table(plan, beside, function(table) {
      wave <- if (isTRUE(plan$wave %in% table$columns$column)) counted_cells(plan$wave, table)$values
      list(names = table$columns$column, waves = as.character(wave))
    }))
  }
  read <- read_table(beside(unlist(plan$data)), list(header = TRUE, items = items, places = items, trust = isTRUE(plan$trust),
    layout = unlist(plan$layout), sheet = plan$sheet))
  if (!is.null(plan$wide)) read <- long_described(read, plan$wide, intersect(plan$id, names(read$data)) |> first_or_null())
  list(names = names(read$data), waves = if (isTRUE(plan$wave %in% names(read$data))) unique(as.character(read$data[[plan$wave]])))
}

read_planned <- function(plan, beside) {
  args <- list(id = plan$id, group = unlist(plan$group), wave = plan$wave, waves = unlist(plan$waves), wide = plan$wide, cluster = plan$cluster,
    weight = plan$weight, missing_codes = unlist(plan$missing_codes))
  if (from_database(plan)) {
    return(with_plan_table(plan, beside, function(table) do.call(sw_survey, c(list(table, beside(plan$codebook)), args))))
  }
  do.call(sw_read, c(list(beside(unlist(plan$data)), beside(plan$codebook), trust = isTRUE(plan$trust), layout = unlist(plan$layout),
    sheet = if (is.null(plan$sheet)) 1 else plan$sheet), args))
}
