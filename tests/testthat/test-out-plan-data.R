# Plans whose answers are in a database, as the command line follows them.

small_plan <- c("codebook: plotholders-codebook.csv", "id: id", "group: district", paste0(c("answering", "dif", "factorability", "retention",
  "exploration", "confirmation", "invariance", "validity", "composites", "keying", "stability"), ": false"), "structure: codebook")

plan_folder <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  file.copy(c(demo_book(), system.file("extdata", "plotholders.csv", package = "scalewort")), folder)
  connection <- local_sqlite(answers = sw_demo("plotholders")$data, path = file.path(folder, "panel.db"))
  DBI::dbDisconnect(connection)
  function(name, ...) {
    path <- file.path(folder, paste0(name, ".yml"))
    writeLines(c(paste0("data: ", c(...)), small_plan, paste0("output: ", name)), path)
    path
  }
}

test_that("a plan on a SQLite file or a PostgreSQL service gives the same tables as one on the file of answers", {
  plan <- plan_folder()
  folder <- dirname(plan("file", "plotholders.csv"))
  plan("lite", "{driver: RSQLite, file: panel.db, table: answers}")
  postgres <- local_postgres(answers = sw_demo("plotholders")$data)
  service <- file.path(folder, "pg_service.conf")
  writeLines(c("[panel]", "host=127.0.0.1", paste0("port=", postgres_ports()[1]), "user=panel", "dbname=postgres", "password=swordfish"), service)
  plan("service", "{driver: RPostgres, service: panel, table: answers}")
  plan("sums", "{driver: RPostgres, service: panel, table: answers, fetch: sums}")
  withr::local_envvar(PGSERVICEFILE = service)
  for (name in c("file", "lite", "service")) sw_run(file.path(folder, paste0(name, ".yml")))
  # Run again, kept results are used, and the connection is another one.
  for (time in 1:2) sw_run(file.path(folder, "sums.yml"))
  for (name in c("reliability.csv", "scores.csv", "screening.csv")) {
    for (way in c("lite", "service")) expect_identical(readLines(file.path(folder, way, name)), readLines(file.path(folder, "file", name)),
      info = paste(way, name))
  }
  alpha <- function(way) utils::read.csv(file.path(folder, way, "reliability.csv"))$alpha
  expect_equal(alpha("sums"), alpha("file"))
  expect_false(file.exists(file.path(folder, "sums", "scores.csv")))
  made <- unlist(lapply(c("service", "sums"), function(way) list.files(file.path(folder, way), "(html|json|csv)$", full.names = TRUE)))
  expect_false(any(vapply(made, function(path) any(grepl("swordfish", readLines(path, warn = FALSE), fixed = TRUE)), TRUE)))
  # What the table holds decides whether kept results are used again.
  DBI::dbExecute(postgres, "UPDATE answers SET calm1 = 5 WHERE calm1 = 1")
  sw_run(file.path(folder, "service.yml"))
  expect_false(identical(alpha("service"), alpha("file")))
  # The desk does not look through the whole table at every act, and sees its change when work begins.
  desk <- core("new_desk")(file.path(folder, "service.yml"))
  key <- function() {
    core("desk_ready")(desk)
    desk$survey_key
  }
  first <- key()
  DBI::dbExecute(postgres, "UPDATE answers SET calm2 = 5 WHERE calm2 = 1")
  expect_identical(key(), first)
  core("start_work")(desk)
  expect_false(key() == first)
  core("stop_work")(desk)
  desk$fingerprint$until <- 0
  DBI::dbExecute(postgres, "UPDATE answers SET calm3 = 5 WHERE calm3 = 1")
  expect_false(desk$survey_key == key())
  core("close_table")(desk$read)
  DBI::dbDisconnect(postgres)
})

test_that("faults of a plan's database are said before anything runs, each with its line", {
  plan <- plan_folder()
  fault <- function(...) conditionMessage(expect_error(sw_run(plan("wrong", ...), check = TRUE), class = "scalewort_error_input"))
  secret <- fault("{driver: RSQLite, file: panel.db, table: answers, password: swordfish}")
  expect_match(secret, "line 1: unknown key \"password\": a plan holds no passwords")
  expect_no_match(secret, "swordfish")
  expect_match(fault("{driver: RSQLite, table: answers}"), "driver RSQLite needs `file`")
  expect_match(fault("{driver: RSQLite, file: pannel.db, table: answers}"), "no such file: pannel.db .did you mean \"panel.db\"")
  expect_match(fault("{driver: Oracle, file: panel.db, table: answers}"), "must be RSQLite, RPostgres or duckdb")
  expect_error(sw_run(plan("wrong", "{driver: RSQLite, file: panel.db, table: answer}"), check = TRUE), "no such table", class =
    "scalewort_error_database")
  path <- plan("right", "{driver: RSQLite, file: panel.db, table: answers}")
  writeLines(sub("id: id", "id: name", readLines(path)), path)
  expect_error(sw_run(path, check = TRUE), "no column \"name\"", class = "scalewort_error_input")
})

test_that("the desk shows every station of a table that keeps its people, and works out what a run does", {
  plan <- plan_folder()
  path <- plan("sums", "{driver: RSQLite, file: panel.db, table: answers, fetch: sums}")
  desk <- core("new_desk")(path)
  utils::capture.output(core("desk_work")(path))
  found <- core("look_again")(desk)
  expect_equal(found$pending, character())
  words <- core("desk_words")(list(raw = list()))
  show <- function(place) as.character(core("desk_place")(place, desk, found, words))
  expect_holds(show("reliability"), "no single answers left it")
  expect_holds(show("scores"), "calm_mean")
  expect_match(show("person/P902"), "Single people stay in the database", fixed = TRUE)
  expect_match(show("item/kin3"), "kin3")
  expect_equal(lengths(regmatches(as.character(core("desk_sheet")(desk, found, words)), gregexpr("role=\"option\"",
    as.character(core("desk_sheet")(desk, found, words))))), 22)
  DBI::dbDisconnect(desk$read$source$table$connections[[1]])
})

test_that("a large file is read for its hash only when it may have changed, and then gives another", {
  file <- withr::local_tempfile(lines = as.character(1:2000))
  hash <- function() core("remembered_hash")(file, large = 100)
  first <- hash()
  expect_identical(first, rlang::hash_file(file))
  Sys.setFileTime(file, "2020-01-01")
  then <- hash()
  expect_identical(then, first)
  writeLines(as.character(2000:1), file)
  expect_identical(hash(), rlang::hash_file(file))
  expect_false(hash() == first)
})
