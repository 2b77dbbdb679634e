# Shards that functions connect, asked at the same time by processes of their own.

test_that("shards asked at the same time give what shards asked one by one give, and say what went wrong", {
  skip_without("RSQLite")
  data <- as.data.frame(sw_demo("plotholders")$data)
  folder <- withr::local_tempdir()
  paths <- file.path(folder, paste0("shard-", 1:3, ".db"))
  for (k in 1:3) DBI::dbDisconnect(local_sqlite(part = data[seq_len(nrow(data)) %% 3 == k - 1, ], path = paths[k]))
  connect <- lapply(paths, function(path) eval(bquote(function() DBI::dbConnect(RSQLite::SQLite(), .(path))), globalenv()))
  one_by_one <- lapply(connect, function(one) one())
  withr::defer(for (one in one_by_one) DBI::dbDisconnect(one))
  survey <- function(shards, ...) sw_survey(sw_table(shards, "part", fetch = "sums", ...), demo_book(), id = "id", group = "district")
  expected <- survey(one_by_one)
  found <- survey(connect)
  expect_match(paste(format(sw_table(connect, "part", fetch = "sums")), collapse = " "), "all shards are asked at the same time")
  few <- c("calm1", "calm2", "craft1", "craft2")
  for (question in c("moments", "tables", "totals", "patterns")) {
    ask <- core(paste0("source_", question))
    expect_equal(if (question == "tables") ask(found, few, TRUE) else ask(found, few), if (question == "tables") ask(expected, few, TRUE) else
      ask(expected, few), tolerance = 1e-12, info = question)
  }
  expect_equal(sw_reliability(found, items = "calm")$tables, sw_reliability(expected, items = "calm")$tables, tolerance = 1e-12)
  expect_equal(core("source_repeats")(found, "id"), core("source_repeats")(expected, "id"))
  # A process that is gone: said, and the next question starts anew.
  workers <- found$source$table$workers
  tools::pskill(parallel::clusterEvalQ(core("opened_by")[[workers$name]]$cluster[2], Sys.getpid())[[1]], tools::SIGKILL)
  gone <- expect_error(sw_moments(found, items = few), class = "scalewort_error_database")
  expect_equal(gone$reason, "lost")
  expect_equal(sw_moments(found, items = few)$covariance, sw_moments(expected, items = few)$covariance)
  # A connection of a process that is closed: said, and made anew.
  parallel::clusterEvalQ(core("opened_by")[[workers$name]]$cluster[3], DBI::dbDisconnect(getOption("shard.connection")))
  expect_error(sw_moments(found, items = few[-2]), class = "scalewort_error_database")
  expect_equal(sw_moments(found, items = few[-2])$covariance, sw_moments(expected, items = few[-2])$covariance)
  # An answer that changed on one shard alone.
  changed <- DBI::dbConnect(RSQLite::SQLite(), paths[3])
  DBI::dbExecute(changed, "UPDATE part SET calm2 = 5 WHERE calm2 = 4")
  DBI::dbDisconnect(changed)
  expect_equal(expect_error(sw_moments(found, items = few[-1]), class = "scalewort_error_database")$reason, "changed")
  expect_error(sw_table(list(connect[[1]], function() stop("no connection, password=secret")), "part"), "password=\\*\\*\\*",
    class = "scalewort_error_database")
  # Single answers come one shard after the other.
  rows <- sw_survey(sw_table(connect, "part", memory = .2), demo_book(), id = "id")
  expect_equal(core("source_count")(rows)$used, 640)
})

test_that("shards are asked at the same time, not one after the other", {
  data <- as.data.frame(sw_demo("plotholders")$data)[c("id", "calm1", "calm2", "calm3")]
  ports <- postgres_ports()[2:4]
  slow <- "SELECT p.* FROM part3 AS p, (SELECT pg_sleep(.3)) AS s"
  for (port in ports) local_postgres(part3 = data, port = port)
  connect <- lapply(ports, function(port) {
    eval(bquote(function() {
      DBI::dbConnect(RPostgres::Postgres(), host = "127.0.0.1", port = .(port), user = "panel", dbname = "postgres")
    }), globalenv())
  })
  book <- data.frame(item = c("calm1", "calm2", "calm3"), scale = "calm", lowest = 1, highest = 5)
  seconds <- function(shards) {
    survey <- sw_survey(sw_table(shards, slow, fetch = "sums"), book)
    started <- proc.time()[["elapsed"]]
    moments <- core("source_moments")(survey, book$item)
    list(elapsed = proc.time()[["elapsed"]] - started, moments = moments)
  }
  at_once <- seconds(connect)
  here <- environment()
  one_by_one <- seconds(lapply(ports, function(port) local_postgres(port = port, env = here)))
  expect_equal(at_once$moments, one_by_one$moments)
  expect_lt(at_once$elapsed, .75 * one_by_one$elapsed)
})
