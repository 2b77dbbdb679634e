# DuckDB, which is no dependency: where it is there, answers in it give what they give in memory.

test_that("a transaction that is open is known without beginning another", {
  connection <- local_postgres(answers = sw_demo("plotholders")$data)
  open <- core("within_transaction")
  expect_false(open(connection))
  DBI::dbBegin(connection)
  expect_true(open(connection))
  DBI::dbRollback(connection)
  expect_false(open(connection))
})

# Taking an hour to compile, the package is on few machines.
if (requireNamespace("duckdb", quietly = TRUE)) test_that("answers in DuckDB give the tables of memory, by rows and by sums; scores are written", {
  connection <- suppressMessages(DBI::dbConnect(utils::getFromNamespace("duckdb", "duckdb")()))
  withr::defer(DBI::dbDisconnect(connection))
  data <- as.data.frame(sw_demo("plotholders")$data)
  put_tables(connection, answers = data)
  memory <- sw_survey(data, demo_book(), id = "id")
  for (way in list(list(memory = .03), list(fetch = "sums"))) {
    survey <- sw_survey(do.call(sw_table, c(list(connection, "answers"), way)), demo_book(), id = "id")
    for (verb in list(sw_screen, sw_factorability, function(s) sw_confirm(s, missing = "listwise"))) {
      found <- verb(survey)$tables
      expected <- verb(memory)$tables
      # Normality of several items at once is told from rows.
      for (table in setdiff(names(found), if (!is.null(way$fetch)) "multivariate")) expect_equal(found[[table]], expected[[table]], tolerance = 1e-6,
        info = table)
    }
    sw_write(sw_score(survey, form = "percentile"), connection, "scores", overwrite = TRUE)
    written <- DBI::dbReadTable(connection, "scores")
    expected <- sw_score(memory, form = "percentile")$tables$scores
    expect_equal(written$calm_mean_percentile[match(expected$id, written$id)], as.vector(expected$calm_mean_percentile))
  }
})
