# A room calls only rooms to its left, so that there is no circle between them.

layer_order <- c("core", "base", "judge", "result", "read", "codebook", "source", "survey", "structure", "verb", "show", "out", "desk", "cli")
layer_of_file <- function(file) {
  prefix <- if (grepl("-package", file)) "" else sub("[-.].*$", "", basename(file))
  if (prefix == "draw") "show" else if (prefix %in% layer_order) prefix else NA_character_
}

functions_of <- function(file) {
  code <- parse(file, keep.source = FALSE)
  assigned <- Filter(function(e) is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]]), as.list(code))
  vapply(assigned, function(e) as.character(e[[2]]), "")
}

# Every name in the code, default values of arguments included (all.names() passes over these).
names_in <- function(file) {
  tokens <- utils::getParseData(parse(file, keep.source = TRUE))
  # What stands behind a dollar is a part of something, not a name of its own.
  behind <- c(FALSE, utils::head(tokens$text[tokens$terminal] %in% c("$", "@"), -1))
  unique(tokens$text[tokens$terminal][tokens$token[tokens$terminal] %in% c("SYMBOL", "SYMBOL_FUNCTION_CALL") & !behind])
}

test_that("names in default values are seen", {
  file <- withr::local_tempfile(lines = "f <- function(draw = stats::runif) draw(2)")
  expect_true("runif" %in% names_in(file))
})

test_that("no file names a thing of a layer to its right", {
  folder <- source_folder()
  skip_if(is.null(folder), "the sources are not beside the tests")
  files <- list.files(folder, "\\.R$", full.names = TRUE)
  rooms <- vapply(files, layer_of_file, "")
  expect_setequal(basename(files[is.na(rooms)]), c("RcppExports.R", "scalewort-package.R"))
  files <- files[!is.na(rooms)]
  home <- unlist(lapply(files, function(f) stats::setNames(rep(layer_of_file(f), length(functions_of(f))), functions_of(f))))
  expect_false(anyDuplicated(names(home)) > 0)
  for (file in files) {
    used <- intersect(names_in(file), names(home))
    upwards <- used[match(home[used], layer_order) > match(layer_of_file(file), layer_order)]
    expect_equal(upwards, character(), info = basename(file))
  }
})

test_that("core and verbs neither print, draw, write nor read options", {
  folder <- source_folder()
  skip_if(is.null(folder), "the sources are not beside the tests")
  banned <- c("cat", "print", "message", "writeLines", "ggplot", "saveRDS", "getOption", "set.seed", "runif", "rnorm", "sample")
  files <- list.files(folder, "^(core|verb)-.*\\.R$", full.names = TRUE)
  for (file in files) {
    expect_equal(intersect(names_in(file), banned), character(), info = basename(file))
  }
})

test_that("nothing under src/core includes an R header", {
  folder <- source_folder()
  skip_if(is.null(folder), "the sources are not beside the tests")
  files <- list.files(file.path(folder, "../src/core"), "\\.(h|cpp)$", full.names = TRUE)
  expect_gt(length(files), 5)
  includes <- unlist(lapply(files, function(f) grep("^#include", readLines(f), value = TRUE)))
  expect_false(any(grepl("Rcpp|<R\\.h>|Rinternals|Rmath", includes)))
})

test_that("no file is over 400 lines", {
  folder <- source_folder()
  skip_if(is.null(folder), "the sources are not beside the tests")
  files <- setdiff(list.files(folder, "\\.R$", full.names = TRUE), file.path(folder, "RcppExports.R"))
  kernels <- list.files(file.path(folder, "../src"), "\\.(h|cpp)$", full.names = TRUE, recursive = TRUE)
  files <- c(files, kernels[basename(kernels) != "RcppExports.cpp"])
  lines <- vapply(files, function(f) length(readLines(f)), 1L)
  expect_equal(names(lines[lines > 400]), character())
})

test_that("no function is longer than 80 lines", {
  skip_if(is.null(source_folder()))
  long <- unlist(lapply(list.files(source_folder(), "\\.R$", full.names = TRUE), function(file) {
    code <- parse(file, keep.source = TRUE)
    lines <- vapply(attr(code, "srcref"), function(ref) ref[3] - ref[1] + 1L, 0L)
    is_function <- vapply(as.list(code), function(e) {
      is.call(e) && identical(e[[1]], as.name("<-")) && is.call(e[[3]]) && identical(e[[3]][[1]], as.name("function"))
    }, TRUE)
    vapply(as.list(code)[lines > 80 & is_function], function(e) as.character(e[[2]]), "")
  }))
  expect_length(long, 0)
})
