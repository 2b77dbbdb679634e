# What the command line refuses before anything is computed.

test_that("numbers that are none, and codes that are none, are wrong usage", {
  demo <- c("--demo", "plotholders")
  wrong <- list(
    c("explore", demo, "--factors", "2.5"), c("screen", demo, "--digits", "-3"), c("screen", demo, "--missing-codes", ","),
    c("reliability", demo, "--interval", "percentile", "--replicates", "200.5"), c("reliability", demo, "--level", "high"),
    c("screen", demo, "--format", "xml")
  )
  for (args in wrong) {
    run <- do.call(run_cli, as.list(args))
    expect_equal(run$status, 2, info = paste(args, collapse = " "))
    expect_match(run$err, "^Error: .*(takes|must be|whole number)", info = paste(args, collapse = " "))
    expect_length(run$out, 0)
  }
})

test_that("what is read is never written over, and places to write to are looked at first", {
  folder <- withr::local_tempdir()
  file.copy(core("demo_file")(c("plotholders.csv", "plotholders-codebook.csv")), folder)
  before <- tools::md5sum(file.path(folder, "plotholders.csv"))
  same <- run_cli("score", "plotholders.csv", "--codebook", "plotholders-codebook.csv", "--out", "./plotholders.csv", "--overwrite", folder = folder)
  expect_equal(same$status, 2)
  expect_match(same$err, "is read here")
  expect_equal(tools::md5sum(file.path(folder, "plotholders.csv")), before)
  for (args in list(c("--out", "no/x.html"), c("--reference", "no.docx", "--out", "x.docx"), c("--out", "plotholders.csv"))) {
    run <- do.call(run_cli, c(list("report", "--demo", "plotholders"), as.list(args), folder = folder))
    expect_equal(run$status, 3, info = paste(args, collapse = " "))
    # Not a step was begun.
    expect_no_match(run$err, "screening items", info = paste(args, collapse = " "))
  }
})

test_that("what has to be known goes to stderr where the file or the table alone would lose it", {
  folder <- withr::local_tempdir()
  run <- run_cli("reliability", "--demo", "plotholders", "--format", "csv")
  expect_match(run$err, "calm6 hardly goes with the rest")
  expect_false(any(grepl("calm6 hardly", run$out)))
  written <- run_cli("score", "--demo", "plotholders", "--out", "s.csv", folder = folder)
  expect_match(written$err, "Without a score")
  expect_equal(nchar(run_cli("reliability", "--demo", "plotholders", "--format", "csv", "--quiet")$err), 0)
})

test_that("text is as wide as asked for", {
  narrow <- run_cli("reliability", "--demo", "plotholders", "--width", "60")
  wide <- run_cli("reliability", "--demo", "plotholders", "--width", "140")
  expect_lte(max(nchar(narrow$out)), 60)
  expect_gt(max(nchar(wide$out)), 80)
})
