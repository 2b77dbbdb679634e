# The core is a library of its own: compiled and tested in C++ without R (tests/core).

test_that("the core compiles without R, and its kernels give what is worked out by hand", {
  folder <- test_path("..", "core")
  if (!file.exists(test_path("..", "..", "src", "core", "types.h"))) skip("the sources are not beside the tests")
  skip_without("doctest")
  headers <- function(...) paste(Filter(nzchar, vapply(c(...), function(p) system.file("include", package = p), "")), collapse = " ")
  said <- suppressWarnings(withr::with_envvar(c(MAKEFLAGS = ""), system2("make", c("-s", "-C", folder, paste0("OUT=", withr::local_tempdir()),
    paste0("EIGEN=", headers("RcppEigen")), shQuote(paste0("RANDOM=", headers("dqrng", "sitmo", "BH")))), stdout = TRUE, stderr = TRUE)))
  expect_null(attr(said, "status"), info = paste(utils::tail(said, 30), collapse = "\n"))
  cases <- sum(startsWith(unlist(lapply(list.files(folder, "[.]cpp$", full.names = TRUE), readLines)), "TEST_CASE"))
  expect_gt(cases, 18)
  expect_match(said, paste0("test cases: +", cases, " +[|] +", cases, " passed"), all = FALSE)
})
