# Files are written whole or not at all, mean the same in every format, and are read as what they are.

book <- data.frame(item = c("a", "b", "c"), scale = "s", lowest = 1, highest = 5, direction = c("forward", "reversed", "forward"),
  labels = c("1 = never; 5 = always", "1 = never; 5 = always", ""), missing = c("-9", "-9", "99"))
answers <- data.frame(id = 1:4, a = c(1, 5, -9, 3), b = c(5, 1, 2, -9), c = c(2, 3, 99, 4))
survey <- sw_survey(answers, book, id = "id")

test_that("labels of reversed items turn with their answers", {
  path <- withr::local_tempfile(fileext = ".sav")
  sw_write(survey, path)
  back <- haven::read_sav(path)
  word <- function(column) names(attr(column, "labels"))[match(column, attr(column, "labels"))]
  # Whoever ticked "always" has "always" in the file, now at 1.
  expect_equal(as.vector(back$b), c(1, 5, 4, NA))
  expect_equal(word(back$b), c("always", "never", NA, NA))
  expect_equal(word(back$a), c("never", "always", NA, NA))
  expect_equal(attr(back$b, "label"), "b (answers reversed)")
  # The scored data hold the original answers under the original labels.
  sw_write(sw_score(survey), path, overwrite = TRUE)
  scored <- haven::read_sav(path, user_na = TRUE)
  expect_equal(as.vector(unclass(scored$b)), answers$b)
  expect_equal(word(scored$b)[1], "always")
  before <- tools::md5sum(path)
  sw_write(sw_score(survey), path, overwrite = TRUE)
  expect_equal(tools::md5sum(path), before)
})

test_that("codes for missing are missing in every form, and there on request", {
  scores <- sw_score(survey, at_least = .3)
  read <- list(csv = function(p) utils::read.csv(p), tsv = function(p) utils::read.delim(p), xlsx = function(p) readxl::read_excel(p),
    parquet = function(p) nanoparquet::read_parquet(p), sav = function(p) haven::read_sav(p))
  for (form in names(read)) {
    path <- withr::local_tempfile(fileext = paste0(".", form))
    sw_write(scores, path)
    back <- read[[form]](path)
    expect_equal(as.vector(unclass(back$a)), c(1, 5, NA, 3), info = form, ignore_attr = TRUE)
    expect_equal(as.vector(unclass(back$c)), c(2, 3, NA, 4), info = form, ignore_attr = TRUE)
  }
  path <- withr::local_tempfile(fileext = ".csv")
  sw_write(scores, path, codes = TRUE)
  expect_equal(utils::read.csv(path)$a, answers$a)
})

test_that("a full disk leaves the old file and says so", {
  place <- withr::local_tempdir()
  mounted <- system2("mount", c("-t", "tmpfs", "-o", "size=12k", "tmpfs", place), stdout = FALSE, stderr = FALSE)
  if (mounted != 0) skip("no small disk can be made here")
  withr::defer(system2("umount", place))
  scores <- sw_score(sw_demo("plotholders"))
  for (form in c("csv", "tsv", "xlsx", "sav", "parquet", "json", "rds")) {
    path <- file.path(place, paste0("x.", form))
    writeLines("old", path)
    x <- if (form %in% c("json", "rds")) sw_screen(sw_demo("plotholders")) else scores
    expect_error(sw_write(x, path, overwrite = TRUE), "could not be written", class = "scalewort_error_file", info = form)
    expect_equal(readLines(path), "old", info = form)
    unlink(path)
  }
  expect_equal(list.files(place, all.files = TRUE, no.. = TRUE), character())
})

test_that("a draft that a killed run left is swept when it is old", {
  folder <- withr::local_tempdir()
  old <- file.path(folder, ".x.csv-12ab34cd56.csv")
  young <- file.path(folder, ".x.csv-12ab34cd57.csv")
  for (path in c(old, young)) writeLines("half", path)
  Sys.setFileTime(old, Sys.time() - 3600)
  sw_write(data.frame(a = 1), file.path(folder, "x.csv"))
  expect_setequal(list.files(folder, all.files = TRUE, no.. = TRUE), c("x.csv", basename(young)))
})

test_that("headers are disarmed as cells are, and control characters are shown", {
  path <- withr::local_tempfile(fileext = ".csv")
  data <- data.frame(`=cmd` = "=1+1", `ok` = "a\033[31mred", check.names = FALSE)
  sw_write(data, path)
  expect_equal(readLines(path), c("'=cmd,ok", "'=1+1,a\\x1b[31mred"))
  names(data) <- c("x", "a\033b")
  steered <- sw_survey(cbind(answers, data), book, id = "id")
  expect_true("a\\x1bb" %in% names(steered$data))
  error <- expect_error(sw_survey(answers, transform(book, item = c("a", "b", "c\033[2J"))), class = "scalewort_error")
  expect_false(grepl("\033[2J", conditionMessage(error), fixed = TRUE))
  page <- withr::local_tempfile(fileext = ".xml")
  sw_write(sw_score(steered), page)
  expect_s3_class(xml2::read_xml(page), "xml_document")
})

test_that("columns whose payload is not the number are read as what they mean", {
  big <- structure(readBin(writeBin(c(1L, 0L, 5L, 0L, 3L, 0L, 2L, 0L), raw()), "double", 4), class = "integer64")
  expect_equal(sw_survey(transform(answers, a = I(1)) |> within(a <- big), book)$answers$a, c(1, 5, 3, 2))
  expect_equal(core("plain_integer64")(structure(readBin(writeBin(c(-3L, -1L), raw()), "double", 1), class = "integer64")), -3)
  spent <- as.difftime(c(1, 2, 3, 4), units = "mins")
  expect_equal(core("plain_column")(spent), c(60, 120, 180, 240))
  labelled <- answers
  labelled$c <- structure(c(2, 3, 8, 4), labels = c(refused = 8), na_values = 8,
    class = c("haven_labelled_spss", "haven_labelled", "vctrs_vctr", "double"))
  expect_equal(sw_survey(labelled, book)$answers$c, c(2, 3, NA, 4))
  listed <- answers
  listed$more <- list(1, 2, 3, 4)
  expect_error(sw_survey(listed, book), "more", class = "scalewort_error_input")
  huge <- transform(answers, a = c(1e300, 2, 3, 4))
  expect_error(sw_survey(huge, book[-(3:4)]), "too large to be an answer", class = "scalewort_error_input")
  twice <- cbind(answers, time = 1:4, time = 2:5)
  expect_equal(nrow(augment(sw_score(sw_survey(twice, book)))), 4)
})

test_that("one byte of another encoding loses no item of a YAML codebook, and an empty key is an error", {
  path <- withr::local_tempfile(fileext = ".yml")
  lines <- c("- item: a", "  wording: na\xefve", "  lowest: 1", "  highest: 5", "- item: b", "  lowest: 1", "  highest: 5")
  writeBin(charToRaw(paste(lines, collapse = "\n")), path)
  items <- sw_codebook(path)$items
  expect_equal(items$item, c("a", "b"))
  expect_equal(items$wording[1], "na\u00efve")
  writeLines(c("factors:", "  a: [x, y]", "\"\": 3"), path)
  expect_error(sw_structure(path), "empty key", class = "scalewort_error_file")
  for (bad in list(c("pairs:", "  - [x]"), c("fixed:", "  - {one: x, othr: a, value: 1}"), c("fixed:", "  - {one: x, other: a}"))) {
    writeLines(c("factors:", "  a: [x, y]", bad), path)
    expect_error(sw_structure(path), class = "scalewort_error_structure")
  }
})

test_that("a damaged binary file is an error, even where its reader dies", {
  died <- function(path) core("read_apart")(path, "a file", function(path) tools::pskill(Sys.getpid(), 9))
  path <- withr::local_tempfile(lines = "x")
  expect_error(died(path), "damaged or cut off", class = "scalewort_error_file")
})

test_that("text is UTF-8 whatever the locale", {
  folder <- withr::local_tempdir()
  script <- file.path(folder, "s.R")
  writeLines(c("library(scalewort)", "x <- sw_structure(f = c('gr\\u00f6\\u00dfe', 'b'))", "sw_write(x, 's.yml')"), script)
  withr::with_dir(folder, withr::with_envvar(c(LC_ALL = "C"), system2(file.path(R.home("bin"), "Rscript"), "s.R", stdout = TRUE, stderr = TRUE)))
  expect_equal(sw_structure(file.path(folder, "s.yml"))$factors$f, c("gr\u00f6\u00dfe", "b"))
})

test_that("items that are set aside keep their place among packed answers", {
  path <- withr::local_tempfile(fileext = ".txt", lines = c("13245", "22314"))
  packed <- data.frame(item = letters[1:5], lowest = 1, highest = 5, role = c("scored", "aside", "scored", "scored", "scored"))
  read <- sw_read(path, packed, layout = c(answers = "1-5"))
  expect_equal(read$answers$c, c(2, 3))
  expect_error(sw_read(path, packed, layout = c(answers = "1-99999999999")), "millionth", class = "scalewort_error_input")
})
