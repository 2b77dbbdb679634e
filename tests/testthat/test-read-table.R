write_file <- function(..., ext = ".csv", env = parent.frame()) {
  path <- withr::local_tempfile(fileext = ext, .local_envir = env)
  writeLines(c(...), path)
  path
}
book <- data.frame(item = c("a", "b"), lowest = 1, highest = 5)

test_that("the separator is found, or given", {
  for (separator in c(",", ";", "\t", "|")) {
    path <- write_file(paste("a", "b", sep = separator), paste("1", "5", sep = separator), paste("2", "3", sep = separator))
    survey <- sw_read(path, book)
    expect_equal(survey$answers$b, c(5, 3))
    expect_match(sw_log(survey)$detail[1], core("separator_word")(separator))
  }
  path <- write_file("a:b", "1:5")
  expect_equal(sw_read(path, book, separator = ":")$answers$a, 1)
})

test_that("files that cannot be read say why", {
  folder <- withr::local_tempdir()
  expect_error(sw_read(file.path(folder, "none.csv"), book), "no such file", class = "scalewort_error_file")
  expect_error(sw_read(folder, book), "folder", class = "scalewort_error_file")
  empty <- file.path(folder, "empty.csv")
  file.create(empty)
  expect_error(sw_read(empty, book), "empty", class = "scalewort_error_file")
  binary <- file.path(folder, "binary.csv")
  writeBin(as.raw(c(1, 0, 2, 0, 255)), binary)
  expect_error(sw_read(binary, book), "not text", class = "scalewort_error_file")
  ragged <- write_file("a,b", "1,2", "3,4,5", "1,1")
  expect_error(sw_read(ragged, book), class = "scalewort_error_file")
  header_only <- write_file("a,b")
  expect_error(sw_read(header_only, book), class = "scalewort_error_input")
  expect_error(sw_read(ragged), class = "scalewort_error_codebook")
})
