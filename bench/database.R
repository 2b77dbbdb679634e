# What a table of many people costs: rows in chunks and sums, on SQLite and on a PostgreSQL server given by the environment (PGHOST, PGPORT, ...).
# Ratios are to reading the same table into memory with DBI alone.
#
#   Rscript bench/database.R [people, 1000000] [items, 50]

suppressMessages(library(scalewort))
asked <- as.integer(commandArgs(TRUE))
people <- if (length(asked) > 0) asked[1] else 1000000L
items <- if (length(asked) > 1) asked[2] else 50L

simulated <- function(n, p, first) {
  set.seed(7 + first)
  level <- matrix(stats::rnorm(n * 5), n)
  out <- lapply(seq_len(p), function(j) {
    x <- pmin(5L, pmax(1L, as.integer(round(3 + .8 * level[, (j - 1) %% 5 + 1] + stats::rnorm(n)))))
    if (j == 2) x[sample(n, n %/% 50)] <- NA
    x
  })
  data.frame(id = first + seq_len(n), stats::setNames(out, sprintf("q%03d", seq_len(p))))
}
book <- data.frame(item = sprintf("q%03d", seq_len(items)), scale = paste0("s", (seq_len(items) - 1) %% 5 + 1), lowest = 1, highest = 5)

filled <- function(connection) {
  if (DBI::dbExistsTable(connection, "many")) DBI::dbRemoveTable(connection, "many")
  for (first in seq(0, people - 1, by = 250000)) {
    part <- simulated(min(250000, people - first), items, first)
    if (first == 0) DBI::dbCreateTable(connection, "many", part)
    DBI::dbAppendTable(connection, "many", part)
  }
  connection
}

time_of <- function(work) system.time(work)[["elapsed"]]
# The most that a fresh process held (Linux).
largest_memory <- function(connect) {
  callr::r(function(connect, book) {
    survey <- scalewort::sw_survey(scalewort::sw_table(connect(), "many"), book, id = "id")
    scalewort::sw_moments(survey, missing = "listwise")
    scalewort::sw_moments(survey, missing = "listwise", correlation = "polychoric")
    as.numeric(gsub("[^0-9]", "", grep("VmHWM", readLines("/proc/self/status"), value = TRUE))) / 1024
  }, list(connect, book))
}

measure <- function(name, connect) {
  connection <- filled(connect())
  on.exit(DBI::dbDisconnect(connection))
  alone <- time_of(DBI::dbGetQuery(connection, "SELECT * FROM many"))
  gc()
  say <- function(what, seconds) cat(sprintf("%-11s %-28s %7.1f s  %5.2f of reading alone\n", name, what, seconds, seconds / alone))
  say("reading alone", alone)
  fetched <- NULL
  say("chunks: taken in", time_of(fetched <- sw_survey(sw_table(connection, "many"), book, id = "id")))
  say("chunks: moments", time_of(sw_moments(fetched, missing = "listwise")))
  say("chunks: two-way tables", time_of(sw_moments(fetched, missing = "listwise", correlation = "polychoric")))
  if (file.exists("/proc/self/status")) cat(sprintf("%-11s chunks: most memory of a process   %.0f MB\n", name, largest_memory(connect)))
  sums <- NULL
  say("sums: taken in", time_of(sums <- sw_survey(sw_table(connection, "many", fetch = "sums"), book, id = "id")))
  say("sums: moments", time_of(sw_moments(sums, missing = "listwise")))
  a <- sw_moments(fetched, missing = "listwise")
  b <- sw_moments(sums, missing = "listwise")
  all <- DBI::dbGetQuery(connection, "SELECT * FROM many")
  c <- sw_moments(as.matrix(all[-1]), missing = "listwise")
  cat(sprintf("%-11s largest difference from memory: chunks %.1e, sums %.1e\n", name, max(abs(a$covariance - c$covariance)),
    max(abs(b$covariance - c$covariance))))
}

file <- tempfile(fileext = ".db")
measure("SQLite", eval(substitute(function() DBI::dbConnect(RSQLite::SQLite(), file), list(file = file))))
unlink(file)
if (nzchar(Sys.getenv("PGPORT"))) measure("PostgreSQL", function() DBI::dbConnect(RPostgres::Postgres(), timezone = "UTC"))
