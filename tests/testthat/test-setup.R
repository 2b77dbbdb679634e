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
