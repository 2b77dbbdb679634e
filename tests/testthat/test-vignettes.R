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
