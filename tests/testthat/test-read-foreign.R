folder <- withr::local_tempdir(.local_envir = teardown_env())
answers <- data.frame(id = 1:4, group = c(1, 2, 1, 2), a = c(1, 5, 9, 3), b = c(2, 4, 4, NA))
book <- data.frame(item = c("a", "b"), scale = "s", lowest = 1, highest = 5, missing = c("9", ""))

test_that("XLSX, Parquet and RDS give the same answers as a data frame", {
  plain <- sw_survey(answers, book)$answers
  parquet <- file.path(folder, "answers.parquet")
  nanoparquet::write_parquet(answers, parquet)
  expect_equal(sw_read(parquet, book)$answers, plain, ignore_attr = TRUE)
  rds <- file.path(folder, "answers.rds")
  saveRDS(answers, rds)
  expect_error(sw_read(rds, book), "can run code", class = "scalewort_error_file")
  expect_equal(sw_read(rds, book, trust = TRUE)$answers, plain, ignore_attr = TRUE)
  xlsx <- file.path(folder, "answers.xlsx")
  file.copy(readxl::readxl_example("datasets.xlsx"), xlsx)
  iris_book <- data.frame(item = c("Sepal.Length", "Petal.Width"), lowest = 0, highest = 10)
  sheet <- sw_read(xlsx, iris_book, sheet = "iris")
  expect_equal(sheet$answers$Petal.Width, datasets::iris$Petal.Width)
  expect_match(sw_log(sheet)$detail[1], "sheet iris")
})

test_that("labels, user-missing codes and wordings of SAV, DTA and XPT files are taken over", {
  labels <- c(Never = 1, Sometimes = 3, Always = 5)
  labelled <- data.frame(id = 1:4)
  labelled$district <- haven::labelled(c(1, 2, 1, 2), c(North = 1, South = 2))
  labelled$a <- haven::labelled_spss(c(1, 5, 9, 3), c(labels, Refused = 9), na_values = 9, label = "I feel settled.")
  labelled$b <- haven::labelled_spss(c(2, 98, 4, 3), labels, na_range = c(97, 99))
  sav <- file.path(folder, "answers.sav")
  haven::write_sav(labelled, sav)
  survey <- sw_read(sav, data.frame(item = c("a", "b"), scale = "s"), group = "district")
  expect_equal(survey$answers$a, c(1, 5, NA, 3))
  expect_equal(survey$answers$b, c(2, NA, 4, 3))
  expect_equal(survey$data$district, c("North", "South", "North", "South"))
  expect_equal(survey$codebook$items$wording[1], "I feel settled.")
  expect_match(sw_log(survey)$detail, "missing in a by the file's own word: 9", all = FALSE)
  draft <- sw_draft_codebook(sav)
  row <- draft$items[draft$items$item == "a", ]
  expect_equal(row$missing, "9")
  expect_match(row$labels, "1 = Never")
  expect_equal(c(row$lowest, row$highest), c(1, 5))
  dta <- file.path(folder, "answers.dta")
  haven::write_dta(data.frame(a = haven::labelled(c(1, 5, 3, 3), labels), b = c(2, 4, 4, 1)), dta)
  expect_equal(sw_read(dta, book)$answers$a, c(1, 5, 3, 3))
  xpt <- file.path(folder, "answers.xpt")
  haven::write_xpt(data.frame(a = c(1, 5, 3, 3), b = c(2, 4, 4, 1)), xpt)
  expect_equal(sw_read(xpt, book)$answers$b, c(2, 4, 4, 1))
})

test_that("fixed-width and packed answers are cut by the layout", {
  path <- withr::local_tempfile(fileext = ".txt")
  writeLines(c("P1n 34  5", "P2s 25 -9"), path)
  survey <- sw_read(path, data.frame(item = c("a", "b"), lowest = 1, highest = 5, missing = "-9"),
    layout = c(id = "1-2", district = "3", a = "5", b = "8-9"), id = "id", group = "district")
  expect_equal(survey$answers$a, c(3, 2))
  expect_equal(survey$answers$b, c(5, NA))
  expect_error(sw_read(path, book, layout = c(id = "1-2", a = "3")), class = "scalewort_error_input")
  packed <- withr::local_tempfile(fileext = ".txt")
  writeLines(c("013425", "025 1,", ""), packed)
  five <- data.frame(item = letters[1:3], lowest = 1, highest = 5)
  expect_error(sw_read(packed, five, layout = c(id = "1-2", answers = "3-6")), "shared evenly", class = "scalewort_error_input")
  writeLines(c("01342", "0255 "), packed)
  survey <- sw_read(packed, five, layout = c(id = "1-2", answers = "3-5"), id = "id")
  expect_equal(unname(as.matrix(survey$answers)), rbind(c(3, 4, 2), c(5, 5, NA)))
  expect_error(sw_read(packed, five, layout = c(answers = "3-8")), "line 1", class = "scalewort_error_file")
  expect_error(sw_read(packed, five, layout = c(answers = "x")), class = "scalewort_error_input")
})

test_that("labelled answers become numbers through the codebook", {
  words <- data.frame(item = c("a", "b"), scale = "s", labels = "1 = Never; 2 = Now and then; 3 = Always")
  survey <- sw_survey(data.frame(a = c("never", "Always ", "3"), b = c("Now  and then", "", "Always")), words)
  expect_equal(survey$answers$a, c(1, 3, 3))
  expect_equal(survey$answers$b, c(2, NA, 3))
  expect_equal(survey$codebook$items$highest, c(3, 3))
  error <- expect_error(sw_survey(data.frame(a = "Nver", b = "Always"), words), class = "scalewort_error_input")
  expect_match(error$faults, "\"Nver\" is neither a number nor a label")
})

test_that("several right answers get credit, and kinds of missing decide about blanks", {
  quiz <- data.frame(item = c("q1", "q2", "q3"), scale = "quiz", answer = c("A C", "B", "B"), options = "A B C",
    missing = c("", "skipped:blank", "unseen:blank"))
  survey <- sw_survey(data.frame(q1 = c("A", "B", "C", ""), q2 = c("B", "", "A", "C"), q3 = c("B", "", "A", "C")), quiz)
  expect_equal(survey$answers$q1, c(1, 0, 1, 0))
  expect_equal(survey$answers$q2, c(1, 0, 0, 0))
  expect_equal(survey$answers$q3, c(1, NA, 0, 0))
})

test_that("a drafted codebook guesses, and marks what it guessed", {
  set.seed(71)
  trait <- rnorm(300)
  answer <- function(sign) pmin(5, pmax(1, round(3 + sign * trait + rnorm(300, 0, .7))))
  data <- data.frame(person = 1:300, mood_1 = answer(1), mood_2 = answer(1), mood_3 = answer(-1), mood_4 = answer(1),
    freq = sample(c("Never", "Sometimes", "Often", "Always"), 300, TRUE), comment = paste("text", 1:300))
  data$mood_1[1:3] <- 99
  draft <- sw_draft_codebook(data)
  items <- draft$items
  expect_equal(items$role[items$item %in% c("person", "comment")], c("aside", "aside"))
  mood <- items[grepl("^mood", items$item), ]
  expect_equal(mood$scale, rep("mood", 4))
  expect_equal(mood$direction, c("forward", "forward", "reversed", "forward"))
  expect_equal(mood$missing[1], "99")
  expect_equal(unique(mood$highest), 5)
  expect_true(all(grepl("direction", mood$guessed)))
  expect_equal(items$labels[items$item == "freq"], "1 = Never; 2 = Sometimes; 3 = Often; 4 = Always")
  survey <- sw_survey(data, draft)
  expect_gt(tidy(sw_reliability(survey))$alpha, .7)
  expect_error(sw_draft_codebook(data.frame(text = letters)), "No column looks like an item", class = "scalewort_error_input")
  path <- withr::local_tempfile(fileext = ".csv")
  sw_write(draft, path)
  expect_equal(sw_codebook(path)$items, items)
})

test_that("steps are kept with their reasons, and the R lines repeat them", {
  data <- read.csv(system.file("extdata", "plotholders.csv", package = "scalewort"))
  paths <- system.file("extdata", c("plotholders.csv", "plotholders-draft-codebook.csv"), package = "scalewort")
  survey <- sw_read(paths[1], paths[2], id = "id") |>
    sw_flip("kin3", reason = "worded against the others") |>
    sw_drop(items = "calm6", reason = "asks about the time of day") |>
    sw_drop(cases = data$seconds < 44, reason = "too fast") |>
    sw_keep(cases = setdiff(data$id, data$id[10]), reason = "asked to be left out")
  expect_equal(sum(survey$kept), sum(data$seconds >= 44) - 1)
  expect_false("calm6" %in% core("scored_items")(survey))
  expect_match(sw_log(survey)$detail, "asks about the time of day", all = FALSE)
  again <- new.env()
  eval(parse(text = sw_log(survey, code = TRUE)), again)
  expect_equal(again$survey$kept, survey$kept)
  expect_equal(again$survey$codebook$items, survey$codebook$items)
  expect_equal(tidy(sw_reliability(again$survey)), tidy(sw_reliability(survey)))
})

test_that("setting aside asks for a reason, known names and something left", {
  survey <- sw_demo("plotholders")
  expect_error(sw_drop(survey, items = "calm6"), "`reason` is needed", class = "scalewort_error_input")
  expect_error(sw_drop(survey, reason = "why"), class = "scalewort_error_input")
  expect_error(sw_drop(survey, items = "clam6", reason = "why"), "calm6", class = "scalewort_error_input")
  expect_error(sw_drop(survey, cases = c(TRUE, FALSE), reason = "why"), "640 rows", class = "scalewort_error_input")
  expect_error(sw_drop(survey, cases = "nobody", reason = "why"), class = "scalewort_error_input")
  expect_error(sw_keep(survey, cases = 9999, reason = "why"), class = "scalewort_error_input")
  expect_error(sw_drop(survey, cases = rep(TRUE, 640), reason = "why"), "No case", class = "scalewort_error_input")
  expect_error(sw_flip(sw_demo("plantcare"), "q01", reason = "why"), "cannot be reversed", class = "scalewort_error_input")
  twice <- sw_flip(sw_flip(survey, "kin3", reason = "one"), "kin3", reason = "two")
  expect_equal(twice$codebook, survey$codebook)
})

test_that("a codebook can be an XLSX sheet", {
  book <- sw_codebook(test_path("fixtures", "codebook.xlsx"))
  expect_equal(book$items$item, c("a", "b", "c"))
  expect_equal(book$items$direction, c("forward", "reversed", "forward"))
  expect_equal(book$items$highest, c(5, 5, 5))
})

test_that("text without a header takes the codebook's items in order", {
  path <- withr::local_tempfile(fileext = ".csv")
  writeLines(c("1,2", "5,4"), path)
  survey <- sw_read(path, book, header = FALSE)
  expect_equal(survey$answers$b, c(2, 4))
  writeLines(c("1,2,3", "5,4,3"), path)
  expect_error(sw_read(path, book, header = FALSE), "no column", class = "scalewort_error_input")
})

test_that("groups that the codebook labels get their labels", {
  labelled <- rbind(book[c("item", "lowest", "highest")], data.frame(item = "group", lowest = NA, highest = NA))
  labelled$role <- c("scored", "scored", "aside")
  labelled$labels <- c("", "", "1 = North; 2 = South")
  survey <- sw_survey(answers, transform(labelled, missing = c("9", "", "")), group = "group")
  expect_equal(survey$data$group, c("North", "South", "North", "South"))
})
