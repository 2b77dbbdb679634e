# Every vignette runs, in a process of its own.

test_that("every chunk of every vignette runs without an error that it does not announce", {
  skip_without("knitr")
  skip_without("callr")
  vignettes <- list.files(normalizePath(testthat::test_path("..", "..", "vignettes"), mustWork = FALSE), "[.]Rmd$", full.names = TRUE)
  skip_if(length(vignettes) == 0, "Tests run away from the vignettes")
  expect_gt(length(vignettes), 10)
  for (vignette in vignettes) {
    made <- withr::local_tempdir()
    text <- callr::r(function(vignette, made) {
      setwd(made)
      knitr::opts_chunk$set(error = FALSE)
      readLines(knitr::knit(vignette, quiet = TRUE))
    }, list(vignette, made))
    expect_gt(length(text), 20)
  }
})

# What a page may hold typed: bounds of the limits table, levels, sizes of the demo, and the design of a simulation that it tells of.
designs <- list(
  `does-the-structure-hold` = c(.02, .05, .08, 95, 200, 500), `finding-the-factors` = .30,
  `how-far-to-trust` = c(0, .02, .05, .30, .4, .40, .50, .55, .6, .60, .70, .8, .94, .95, 3, 4, 8, 12, 20, 50, 90, 100, 200, 300),
  `from-raw-answers` = c(8, 99),
  `how-reliable` = c(.02, .95), `missing-answers` = c(.05, 95, 300), `when-the-answers-stay-in-the-database` = c(256, 16384)
)

test_that("a number in a sentence of a vignette is computed, a bound, or the design of a simulation", {
  folder <- testthat::test_path("..", "..", "vignettes")
  skip_if_not(dir.exists(folder), "Tests run away from the vignettes")
  demo <- sw_demo("plotholders")
  known <- c(unlist(core("default_limits")()[c("bound", "better")]), demo$size, nrow(tidy(sw_screen(demo))), 0, 1, 5)
  # `checked-digits` defines figures: its numbers are parts of formulas.
  for (file in setdiff(list.files(folder, "[.]Rmd$"), "checked-digits.Rmd")) {
    lines <- readLines(file.path(folder, file))
    apart <- cumsum(grepl("^```|^---$", lines))
    prose <- lines[apart %% 2 == 0 & !grepl("^```|^---$", lines)]
    prose <- gsub("`[^`]*`|https?://\\S+|[(][^()]*\\b(19|20)\\d\\d[a-z]?[^()]*[)]|\\b(19|20)\\d\\d\\b", " ", paste(prose, collapse = " "))
    typed <- as.numeric(gsub(",", "", regmatches(prose, gregexpr("(?<![A-Za-z0-9.])\\d*[.,]?\\d+(?![A-Za-z])", prose, perl = TRUE))[[1]]))
    stray <- setdiff(typed, c(known, designs[[sub("[.]Rmd$", "", file)]]))
    expect_identical(stray, numeric(), info = file)
  }
})
