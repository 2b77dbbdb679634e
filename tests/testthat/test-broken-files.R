# Each broken file gives a classed error, or a repair that the log states; where
# nothing is expected in particular (NA), either will do. None crashes, none speaks
# from the depths.

write_broken <- function(folder, entry) {
  path <- file.path(folder, entry[[1]])
  writeBin(entry[[2]], path)
  path
}

outcome <- function(code) {
  tryCatch({
    code
  }, error = function(e) e)
}

check_outcome <- function(result, entry) {
  wanted <- entry[[3]]
  what <- entry[[1]]
  if (inherits(result, "error")) {
    expect_s3_class(result, "scalewort_error")
    expect_true(nzchar(conditionMessage(result)), info = what)
    expect_true(is.na(wanted) || inherits(result, paste0("scalewort_error_", wanted)), info = paste(what, class(result)[1], conditionMessage(result)))
  } else {
    expect_true(is.na(wanted) || startsWith(wanted, "log: "), info = paste(what, "gave no error"))
    if (!is.na(wanted)) expect_true(any(grepl(sub("^log: ", "", wanted), sw_log(result)$detail)), info = what)
  }
}

test_that("broken data files are refused or repaired in the open", {
  folder <- withr::local_tempdir()
  entries <- broken_data()
  for (entry in entries) {
    path <- write_broken(folder, entry)
    result <- outcome(suppressWarnings(sw_read(path, broken_book)))
    check_outcome(result, entry)
  }
  expect_gt(length(entries) + length(broken_codebooks()), 85)
})

test_that("broken codebooks are refused with their faults", {
  folder <- withr::local_tempdir()
  for (entry in broken_codebooks()) {
    path <- write_broken(folder, entry)
    result <- outcome(suppressWarnings(sw_codebook(path)))
    if (!inherits(result, "error")) {
      expect_true(is.na(entry[[3]]), info = paste(entry[[1]], "gave no error"))
      next
    }
    check_outcome(result, entry)
  }
})

test_that("nothing in a codebook is run", {
  path <- withr::local_tempfile(fileext = ".yml")
  marker <- withr::local_tempfile()
  writeLines(c(paste0("- item: !expr file.create('", marker, "')"), "- item: b"), path)
  outcome(suppressWarnings(sw_codebook(path)))
  expect_false(file.exists(marker))
})
