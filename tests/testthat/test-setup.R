# The checkout itself: what the two commands of the README rest on.

checkout <- function(...) {
  path <- testthat::test_path("..", "..", ...)
  if (!file.exists(testthat::test_path("..", "..", "Makefile"))) testthat::skip("not a checkout")
  path
}

test_that("`make demo` writes to one folder, which is ignored and cleaned", {
  makefile <- readLines(checkout("Makefile"))
  out <- sub("^OUT \\?= *", "", grep("^OUT", makefile, value = TRUE))
  expect_equal(out, "demo-output")
  expect_true(paste0("/", out, "/") %in% readLines(checkout(".gitignore")))
  expect_match(grep("rm -rf", makefile, value = TRUE), out, fixed = TRUE)
  said <- system2("make", c("-n", "-C", dirname(checkout("Makefile")), "demo"), stdout = TRUE, stderr = FALSE)
  expect_match(tail(grep("scalewort demo", said, value = TRUE), 1), "scalewort demo --out demo-output --overwrite$")
})

test_that("every package that code or tests call is asked for in DESCRIPTION", {
  fields <- c("Imports", "Suggests", "LinkingTo", "Config/Needs/develop", "Config/Needs/checks")
  asked <- unlist(strsplit(read.dcf(checkout("DESCRIPTION"), fields), ",\\s*"))
  asked <- c(trimws(sub("\\(.*", "", asked)), "scalewort", "base", "methods", "parallel", "datasets")
  files <- c(list.files(checkout("R"), full.names = TRUE), list.files(testthat::test_path(), "[.]R$", full.names = TRUE),
    list.files(checkout("tools"), "[.]R$", full.names = TRUE), list.files(checkout("bench"), full.names = TRUE))
  called <- unlist(lapply(files, function(file) {
    data <- utils::getParseData(parse(file, keep.source = TRUE))
    data$text[data$token == "SYMBOL_PACKAGE"]
  }))
  expect_gt(length(unique(called)), 10)
  expect_equal(setdiff(called, asked), character())
})

test_that("every source of the core is compiled once, and a changed header compiles what reads it", {
  units <- list.files(checkout("src"), "^unit-.*[.]cpp$", full.names = TRUE)
  taken <- sub("^#include \"(.*)\"$", "\\1", grep("^#include", unlist(lapply(units, readLines)), value = TRUE))
  there <- c(file.path("core", list.files(checkout("src", "core"), "[.]cpp$")), list.files(checkout("src"), "^export-.*[.]cpp$"), "RcppExports.cpp")
  expect_setequal(taken, there)
  expect_equal(anyDuplicated(taken), 0)
  expect_equal(readLines(checkout("src", "Makevars")), readLines(checkout("src", "Makevars.win")))
  rules <- grep("^unit.*:", readLines(checkout("src", "Makevars")), value = TRUE)
  expect_true(all(grepl("core/*.h", rules, fixed = TRUE)))
})

test_that("every file has a name that all platforms have", {
  top <- setdiff(list.files(dirname(checkout("Makefile")), all.files = TRUE, no.. = TRUE), ".git")
  expect_true(all(grepl("^[A-Za-z0-9._-]+$", top)), info = toString(top))
  inside <- list.files(vapply(c("R", "src", "inst", "tests", "vignettes", "docs"), checkout, ""), recursive = TRUE)
  expect_true(all(grepl("^[A-Za-z0-9._/-]+$", inside)), info = toString(grep("^[A-Za-z0-9._/-]+$", inside, value = TRUE, invert = TRUE)))
})

test_that("whatever a machine may lack is skipped with its name, and nothing is where none may be", {
  packages <- c("RSQLite", "RPostgres", "chromote", "shiny", "bslib", "mice", "knitr", "callr", "haven", "openxlsx", "duckdb")
  for (part in c(names(part_checks), packages)) {
    hidden <- function(checks) {
      withr::with_envvar(c(SCALEWORT_HIDE = part, SCALEWORT_CHECKS = checks), tryCatch(skip_without(part), condition = identity))
    }
    expect_s3_class(hidden(""), "skip")
    expect_match(conditionMessage(hidden("")), paste(part, "is not there"), fixed = TRUE)
    expect_s3_class(hidden("required"), "error")
  }
  # A driver that is not there is not asked for before its server is.
  no_driver <- withr::with_envvar(c(SCALEWORT_HIDE = "RPostgres", SCALEWORT_CHECKS = ""), tryCatch(local_postgres(), condition = identity))
  expect_match(conditionMessage(no_driver), if (has_part("postgresql")) "RPostgres is not there" else "postgresql is not there")
  # No test asks in another way.
  files <- list.files(testthat::test_path(), "^test-.*[.]R$", full.names = TRUE)
  others <- Filter(function(file) any(grepl("skip_if_not_[i]nstalled|pandoc_[a]vailable|Sys.which\\(\"[s]office", readLines(file))), files)
  expect_equal(basename(unlist(others)), character())
})

test_that("drawing and imputing beside a package that starts processes leaves no complaint at the end", {
  skip_without("callr", "mice")
  lines <- c("library(scalewort)", "survey <- sw_demo('plotholders')", "sw_report(sw_screen(survey), tempfile(fileext = '.html'))",
    "invisible(processx::run('true'))", "sw_report(sw_screen(survey), tempfile(fileext = '.html'))",
    "invisible(sw_impute(survey, m = 6, iterations = 1))", "cat('done')")
  script <- withr::local_tempfile(lines = lines, fileext = ".R")
  said <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), script, stdout = TRUE, stderr = TRUE))
  expect_match(tail(said, 1), "done$")
  expect_false(any(grepl("unable to terminate", said)))
})
