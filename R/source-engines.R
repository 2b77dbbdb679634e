# What differs between databases: one entry an engine, which says what it does otherwise than `standard_engine`.

standard_engine <- list(
  # Types of a cast; the function that gives a character's code; what keeps a database from working a subquery out anew.
  text = "varchar", real = "double precision", whole = "bigint", code = "unicode", fence = "",
  # Are its whole numbers known to hold 64 bits, so that products may be packed?
  packs = FALSE,
  # Has each cell a type of its own, whatever its column's?
  cells_have_types = FALSE,
  # Said at the beginning of a question, and before rows are wanted in the order in which they lie.
  settings = character(), in_order = character(),
  # Can a table be split over servers by a column's values?
  partitions = FALSE,
  # Does beginning another transaction end the one that is open?
  begins_anew = FALSE
)

database_engines <- list(
  SQLite = list(class = "SQLiteConnection", text = "TEXT", real = "REAL", whole = "INTEGER", fence = " LIMIT -1 OFFSET 0", packs = TRUE,
    cells_have_types = TRUE),
  PostgreSQL = list(class = "PqConnection", code = "ascii", fence = " OFFSET 0", packs = TRUE, partitions = TRUE,
    # Rows in the order they lie in; compiling takes longer than it saves.
    settings = paste("SET", c("TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY", "LOCAL synchronize_seqscans = off", "LOCAL jit = off",
      "LOCAL enable_partitionwise_aggregate = on")),
    # No workers that share a scan.
    in_order = "SET LOCAL max_parallel_workers_per_gather = 0"),
  DuckDB = list(class = "duckdb_connection", begins_anew = TRUE)
)

# The name of a connection's engine; one that the table does not know has the name of its class, and is taken to keep to the standard.
engine_of <- function(connection) {
  known <- vapply(database_engines, function(engine) inherits(connection, engine$class), TRUE)
  if (any(known)) names(database_engines)[known][1] else sub("_?[Cc]onnection$", "", class(connection)[1])
}

engine_trait <- function(engine, trait) {
  own <- database_engines[[engine]][[trait]]
  if (is.null(own)) standard_engine[[trait]] else own
}
