book <- data.frame(
  item = c("a", "b"), scale = "s", direction = c("forward", "reversed"), lowest = 1, highest = 5, missing = c("-9", "")
)

test_that("reversal is lowest + highest - answer, and the data stay as they are", {
  data <- data.frame(a = c(1, 5, -9), b = c(1, 2, 5))
  survey <- sw_survey(data, book)
  expect_equal(as.data.frame(survey$data), data)
  keyed <- core("source_rows")(survey)
  expect_equal(keyed[, "a"], c(1, 5, NA))
  expect_equal(keyed[, "b"], c(5, 4, 1))
})

test_that("numbers kept as text are numbers", {
  survey <- sw_survey(data.frame(a = c("1", " 5 ", ""), b = factor(c("2", "3", "NA"))), book)
  expect_equal(survey$answers$a, c(1, 5, NA))
  expect_equal(survey$answers$b, c(2, 3, NA))
  expect_match(sw_log(survey)$action, "text read as numbers", all = FALSE)
})

test_that("one error lists every faulty answer by row and column", {
  data <- data.frame(a = c("1", "seven", "9"), b = c(0, 3, NA))
  error <- expect_error(sw_survey(data, book), class = "scalewort_error_input")
  expect_equal(error$faults, c("row 1, b: 0 is outside 1 to 5", "row 2, a: \"seven\" is not a number", "row 3, a: 9 is outside 1 to 5"))
  error <- expect_error(sw_survey(data.frame(a = c(1, 6), b = 1:2), book), class = "scalewort_error_input")
  expect_equal(error$cells$row, 2)
  expect_match(conditionMessage(error), "sw_survey|1 answer does not fit")
})

test_that("usual missing codes far outside the range are found, said, and can be refused", {
  data <- data.frame(a = c(1, 2, -9), b = c(99, 3, 4))
  survey <- sw_survey(data, book)
  expect_equal(survey$answers$b, c(NA, 3, 4))
  expect_match(sw_log(survey)$detail, "99 taken as missing in b", all = FALSE)
  expect_error(sw_survey(data, book, find_codes = FALSE), class = "scalewort_error_input")
  expect_error(sw_survey(data.frame(a = 1, b = 7), book), class = "scalewort_error_input")
})

test_that("items, identifiers and codebook must fit together", {
  error <- expect_error(sw_survey(data.frame(a = 1, bb = 2, id = 1), book, id = "iid"), class = "scalewort_error_input")
  expect_match(error$faults, "item \"b\" of the codebook has no column", all = FALSE)
  expect_match(error$faults, "column \"iid\" is not in the data \\(did you mean \"id\"\\?\\)", all = FALSE)
  error <- expect_error(sw_survey(data.frame(x = 1, y = 2), book), class = "scalewort_error_input")
  expect_match(conditionMessage(error), "another data set's codebook")
  twice <- data.frame(a = 1, a = 2, b = 3, check.names = FALSE)
  expect_error(sw_survey(twice, book), "stands twice", class = "scalewort_error_input")
})

test_that("a range not given is taken from the answers, and that is said", {
  survey <- sw_survey(data.frame(a = c(2, 4)), data.frame(item = "a"))
  expect_equal(survey$codebook$items$lowest, 2)
  expect_match(sw_log(survey)$action, "range guessed", all = FALSE)
})

test_that("test items are scored by their key", {
  book <- data.frame(item = c("q1", "q2"), scale = "quiz", answer = c("A", "B"), options = "A B C", missing = c("skipped:blank", ""))
  survey <- sw_survey(data.frame(q1 = c("A", "C", ""), q2 = c("B", "", "A")), book)
  expect_equal(survey$answers$q1, c(1, 0, 0))
  expect_equal(survey$answers$q2, c(1, 0, 0))
  expect_error(sw_survey(data.frame(q1 = "D", q2 = "A"), book), "not among the options", class = "scalewort_error_input")
})

test_that("a skipped test answer is wrong, was not answered, and is said to be both", {
  data <- data.frame(a = c("A", "B", "", "A"), b = c("", "C", "", "C"), c = c("D", "", "D", "-1"), stringsAsFactors = FALSE)
  codebook <- data.frame(item = c("a", "b", "c"), scale = "s", answer = c("A", "C", "D"), options = "A B C D",
    missing = c("skipped:blank", "skipped:blank", "unseen:-1 skipped:blank"))
  survey <- sw_survey(data, codebook)
  expect_equal(unname(core("source_rows")(survey)), matrix(c(1, 0, 0, 1, 0, 1, 0, 1, 1, 0, 1, NA), 4))
  unanswered <- core("source_by_rows")(survey, c("a", "b", "c"), function(answers, cells) core("unanswered_of")(survey, answers, cells),
    beside = core("test_items")(survey))[[1]]
  expect_equal(unname(unanswered), matrix(c(FALSE, FALSE, TRUE, FALSE, TRUE, FALSE, TRUE, FALSE, FALSE,
    TRUE, FALSE, TRUE), 4))
  expect_equal(sw_answering(survey)$parts$values$unanswered, c(1, 1, 2, 1) / 3)
  expect_match(paste(format(survey), collapse = " "), "4 skipped answers count as wrong", fixed = TRUE)
  expect_match(sw_log(survey)$detail, "4 skipped answers count as wrong", all = FALSE)
  fewer <- sw_drop(survey, cases = c(FALSE, FALSE, TRUE, FALSE), reason = "left early")
  expect_match(paste(format(fewer), collapse = " "), "2 skipped answers count as wrong", fixed = TRUE)
})

test_that("the demo data are what they should be", {
  survey <- sw_demo("plotholders")
  expect_equal(nrow(survey$data), 640)
  expect_equal(length(core("analysed_items")(survey)), 22)
  expect_equal(sum(survey$codebook$items$direction == "reversed"), 5)
  expect_equal(sum(sw_demo("plotholders", codebook = "draft")$codebook$items$direction == "reversed"), 4)
  expect_equal(nrow(sw_demo("plotholders", wave = 1:2)$data), 1040)
  cells <- as.matrix(survey$data[survey$codebook$items$item])
  expect_setequal(cells[cells < 0], c(-9, -8))
  expect_lt(abs(mean(cells < 0) - .04), .01)
  quiz <- sw_demo("plantcare")
  expect_equal(dim(quiz$answers), c(500, 16))
  expect_equal(sum(quiz$codebook$items$role == "tryout"), 2)
})

test_that("a split is random, complete, without overlap, and keeps persons together", {
  survey <- sw_demo("plotholders", wave = 1:2)
  before <- get0(".Random.seed", globalenv())
  halves <- sw_split(survey, seed = 5)
  expect_identical(get0(".Random.seed", globalenv()), before)
  expect_true(all(xor(halves$calibration$kept, halves$validation$kept)))
  ids <- lapply(halves, function(h) unique(h$data$id[h$kept]))
  expect_length(intersect(ids[[1]], ids[[2]]), 0)
  expect_equal(length(ids[[1]]), 320)
  expect_identical(sw_split(survey, seed = 5)$calibration$kept, halves$calibration$kept)
  expect_false(identical(sw_split(survey, seed = 6)$calibration$kept, halves$calibration$kept))
})

test_that("limits can be changed, once for all", {
  strict <- sw_limits(alpha = .80, cfi = c(.92, .97))
  expect_equal(strict$bound[strict$figure == "alpha"], .80)
  expect_equal(strict$better[strict$figure == "cfi"], .97)
  expect_equal(strict$source[strict$figure == "alpha"], "set by the user")
  expect_error(sw_limits(alfa = .8), "did you mean \"alpha\"", class = "scalewort_error_input")
  expect_error(sw_limits(alpha = "high"), class = "scalewort_error_input")
  withr::local_options(scalewort.limits = strict)
  expect_equal(sw_limits(), strict)
  judge <- function(value, limits, figure) core("verdict_words")(core("judge_code")(value, limits, figure), figure, limits = limits)
  expect_equal(judge(c(.75, .85, .95, NA), strict, "alpha"), c("below .80", "meets \u2265 .80", "meets \u2265 .90", ""))
  expect_equal(judge(c(.09, .06, .04), strict, "rmsea"), c("above .08", "meets \u2264 .08", "meets \u2264 .05"))
})
