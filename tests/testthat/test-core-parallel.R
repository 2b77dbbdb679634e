# The core's threads, tested in C++ without R: tests/core/parallel.cpp.

test_that("threads share work, pass on what is thrown, and stop when asked", {
  source <- test_path("..", "core", "parallel.cpp")
  if (!file.exists(source)) skip("the sources are not beside the tests")
  program <- withr::local_tempfile()
  made <- system2("g++", c("-std=c++14", "-O1", "-w", paste0("-I", test_path("..", "..", "src")), paste0("-I", system.file("include", package =
    "RcppEigen")), source, "-o", program, "-pthread"))
  expect_equal(made, 0)
  expect_equal(system2(program, stdout = TRUE), "fine")
})
