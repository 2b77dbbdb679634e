# A data frame in place of a survey.

test_that("verbs take a data frame at once and say what they assumed", {
  survey <- sw_demo("plotholders")
  answers <- as.data.frame(survey$answers)
  craft <- answers[paste0("craft", 1:6)]
  craft$craft3 <- 6 - craft$craft3
  x <- sw_reliability(craft)
  expect_equal(tidy(x)$alpha, tidy(sw_reliability(sw_survey(craft, data.frame(item = names(craft), scale = "s", lowest = 1, highest = 5))))$alpha)
  expect_match(paste(x$notes, collapse = " "), "6 items of one scale, numbers as they are from 1 to 5, none reversed")
  for (one in list(sw_screen(craft), sw_keying(craft), sw_explore(craft, 1), sw_factorability(craft), sw_retention(craft, replicates = 50),
    sw_confirm(craft), sw_score(craft))) {
    expect_match(paste(one$notes, collapse = " "), "Assumed of this data frame", info = class(one)[1])
  }
  expect_match(headline_of(sw_confirm(answers[names(craft)])), "craft3 loads against the other items: check the keying first")
  expect_s3_class(sw_answering(answers), "sw_answering")
  # The codebook has no number of factors to hold against.
  expect_false(any(tidy(sw_retention(craft, replicates = 50))$rule == "the codebook's subscales"))
  # Not what a published matrix is, and nothing is assumed of a survey.
  expect_false(any(grepl("Assumed", sw_reliability(survey)$notes)))
})

test_that("columns that are no answers are left aside by name, labels and missing values are understood", {
  data <- data.frame(id = 1:40, group = rep(c("x", "y"), 20), same = 3, a = rep(1:5, 8), b = rep(c(1, 2, 4, 5, -9), 8), c = rep(5:1, 8))
  data$a <- structure(data$a, class = c("haven_labelled", "vctrs_vctr", "double"), labels = c(never = 1, always = 5), label = "How often?")
  x <- sw_screen(data)
  expect_equal(tidy(x)$item, c("a", "b", "c"))
  expect_equal(tidy(x)$missing[2], 8)
  expect_match(paste(x$notes, collapse = " "), "left aside: id, group and same")
  words <- factor(rep(c("no", "some", "yes"), 20), ordered = TRUE)
  ordered <- data.frame(p = words, q = rev(words), r = words)
  expect_equal(sw_reliability(ordered)$tables$items$mean, rep(2, 3))
  expect_equal(sw_reliability(data.table::as.data.table(ordered))$tables$scales$alpha, sw_reliability(ordered)$tables$scales$alpha)
  expect_error(sw_screen(tibble::tibble(a = 1:3, b = list(1, 2, 3))), "b: an object of class", class = "scalewort_error_input")
  expect_error(sw_reliability(data.frame(x = letters)), class = "scalewort_error_input")
  expect_error(sw_screen("file.csv"), class = "scalewort_error_input")
  expect_equal(nrow(tidy(sw_dif(cbind(ordered, g = rep(c("u", "v"), 30)), by = "g"))), 3)
})

test_that("groups that differ in case or blanks only are one, and that is said", {
  survey <- sw_demo("plotholders")
  data <- survey$data
  data$district[1:30] <- toupper(data$district[1:30])
  data$district[31:40] <- paste0(data$district[31:40], " ")
  other <- sw_survey(data, survey$codebook, id = "id", group = "district")
  x <- sw_dif(other)
  expect_equal(tidy(x)$statistic, tidy(sw_dif(survey, by = "district"))$statistic)
  expect_match(paste(x$notes, collapse = " "), "Counted as one group: .*NORTH")
  expect_null(core("spelling_note")(survey, "district"))
})

test_that("numbers with many decimals are taken as they are, whatever their size", {
  frame <- as.data.frame(simulate_answers(150, matrix(.7, 4, 1)))
  alpha <- function(d) sw_reliability(d)$tables$scales$alpha
  s <- stats::cov(frame)
  expect_equal(alpha(frame), 4 / 3 * (1 - sum(diag(s)) / sum(s)))
  expect_equal(alpha(frame / 1e7), alpha(frame))
  expect_equal(alpha(frame * 1e9 + pi), alpha(frame))
})

test_that("sixteen factors are sixteen items, of a matrix its columns are; where most columns say nothing, it stops", {
  words <- c("never", "rarely", "sometimes", "often", "always")
  number <- withr::with_seed(1, {
    f <- rnorm(200)
    sapply(1:16, function(j) cut(f + rnorm(200), c(-Inf, -1, -.3, .3, 1, Inf), labels = FALSE))
  })
  colnames(number) <- paste0(letters[1:16], letters[16:1])
  data <- as.data.frame(lapply(as.data.frame(number), function(x) factor(words[x], sample(words))))
  alpha <- function(x) sw_reliability(x)$tables$scales$alpha
  right <- 16 / 15 * (1 - sum(diag(cov(number))) / sum(cov(number)))
  expect_equal(alpha(data), right)
  expect_equal(alpha(cbind(data, sex = rep(c("f", "m"), 100))), right)
  expect_equal(alpha(number), right)
  expect_match(gsub("\\s+", " ", paste(format(sw_reliability(data)), collapse = " ")), "1 = never; 2 = rarely; 3 = sometimes")
  odd <- as.data.frame(rep(list(sprintf("text %d", 1:200)), 9), col.names = paste0("t", 1:9))
  expect_error(sw_reliability(cbind(number[, 1:3], odd)), "9 of 12 columns would be left out", class = "scalewort_error_input")
})
