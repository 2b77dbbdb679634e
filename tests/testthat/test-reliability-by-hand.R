# Worked out with pencil and paper; the arithmetic stands beside each figure.

survey_of <- function(answers, lowest, highest) {
  sw_survey(as.data.frame(answers), data.frame(item = colnames(answers), scale = "s", lowest = lowest, highest = highest))
}

test_that("six persons, three items", {
  # Item means 3, 3, 3; sums of squares 10, 10, 14 and products ab 6, ac 9, bc 10, over 5:
  # variances 2, 2, 2.8; covariances 1.2, 1.8, 2.0. Variance of the total 6.8 + 2 * 5 = 16.8.
  x <- sw_reliability(survey_of(six_by_three, 1, 5))
  one <- tidy(x)
  expect_equal(one$alpha, 3 / 2 * (1 - 6.8 / 16.8))
  expect_equal(one$lambda1, 10 / 16.8)
  # twice the squared covariances, 1.44, 3.24 and 4, is 17.36; times 3 / 2, 26.04
  expect_equal(one$lambda2, (10 + sqrt(26.04)) / 16.8)
  # largest column sum of squared covariances: c, 3.24 + 4 = 7.24
  expect_equal(one$lambda5, (10 + 2 * sqrt(7.24)) / 16.8)
  # Rulon: 4 * 3 / 16.8, 4 * 3.2 / 16.8, 4 * 3.8 / 16.8, over 1 - 1 / 9; their mean is alpha
  expect_equal(one$split_worst, 12 / 16.8 / (8 / 9))
  expect_equal(one$split_mean, one$alpha)
  expect_equal(one$lambda4, 15.2 / 16.8)
  # odd-even: b against a and c
  expect_equal(one$odd_even_rulon, 12.8 / 16.8)
  expect_equal(one$sem, sqrt(16.8 * (1 - one$alpha)))
  expect_equal(c(one$sum_mean, one$sum_sd, one$sum_lowest, one$sum_highest), c(9, sqrt(16.8), 4, 14))
  items <- tidy(x, "items")
  # a with b + c: 3 / sqrt(2 * 8.8); alpha of b and c: 2 (1 - 4.8 / 8.8)
  expect_equal(items$item_rest_r[1], 3 / sqrt(17.6))
  expect_equal(items$alpha_without[1], 2 * (1 - 4.8 / 8.8))
  # a's covariance with the total 5: 5 / sqrt(2 * 16.8); sd of b + c
  expect_equal(items$item_total_r[1], 5 / sqrt(33.6))
  expect_equal(items$sum_sd_without[1], sqrt(8.8))
  # Persons' totals 4, 8, 10, 13, 14, 5: between persons 84 / 3 = 28; within 34 - 28 - 0 = 6 on 10 df.
  anova <- tidy(x, "anova")
  expect_equal(anova$ss[1:3], c(28, 0, 6))
  expect_equal(1 - (6 / 10) / (28 / 5), one$alpha)
})

test_that("five persons, four right-or-wrong items on a perfect ladder", {
  # Shares right .8, .6, .4, .2: sum of p q = .16 + .24 + .24 + .16 = .80; totals 4, 3, 2, 1, 0
  # vary by 2. KR-20 = 4 / 3 (1 - .8 / 2) = .8.
  ladder <- outer(5:1, 1:4, function(person, item) as.integer(person > item))
  colnames(ladder) <- letters[1:4]
  one <- tidy(sw_reliability(survey_of(ladder, 0, 1)))
  expect_equal(one$alpha, .8)
  expect_equal(one$at_highest, .2)
  expect_equal(one$at_lowest, .2)
})

test_that("a published matrix of one exact factor", {
  # Loadings .8, .6, .5: r = .48, .40, .30. Omega (1.9)^2 / ((1.9)^2 + .36 + .64 + .75).
  r <- tcrossprod(c(.8, .6, .5))
  diag(r) <- 1
  dimnames(r) <- list(letters[1:3], letters[1:3])
  one <- tidy(sw_reliability(sw_moments(r, n = 100)))
  expect_equal(one$omega, 3.61 / 5.36, tolerance = 1e-7)
  expect_equal(one$alpha, 3 / 2 * 2.36 / 5.36)
  expect_equal(one$alpha_standardised, one$alpha)
  expect_equal(one$inter_item_r, 1.18 / 3)
  # squared multiple correlation of a: (.48^2 + .40^2 - 2 * .48 * .40 * .30) / (1 - .30^2)
  expect_equal(tidy(sw_reliability(sw_moments(r, n = 100)), "items")$squared_multiple_r[1], (.2304 + .16 - .1152) / .91)
})

test_that("two parallel halves: Spearman-Brown", {
  r <- matrix(c(1, .6, .6, 1), 2, dimnames = list(c("a", "b"), c("a", "b")))
  one <- tidy(sw_reliability(sw_moments(r, n = 50)))
  expect_equal(one$alpha, 1.2 / 1.6)
  expect_equal(one$odd_even_stepped, 1.2 / 1.6)
})

test_that("a weighted sum of two subscales", {
  # Two parallel items each, r .5 within and .2 between: totals 3, 3, covariance .8; alpha 2 / 3.
  r <- matrix(.2, 4, 4, dimnames = list(letters[1:4], letters[1:4]))
  r[1:2, 1:2] <- r[3:4, 3:4] <- .5
  diag(r) <- 1
  moments <- sw_moments(r, n = 90, scales = list(one = c("a", "b"), two = c("c", "d")))
  sums <- tidy(sw_reliability(moments, weights = c(two = 1, one = 2)), "composite")
  # error 4 * 3 / 3 + 3 / 3 = 5; variance 4 * 3 + 3 + 4 * .8 = 18.2
  expect_equal(sums$reliability[2], 1 - 5 / 18.2)
  expect_equal(sums$reliability[1], 1 - 2 / 7.6)
  expect_equal(sums$reliability[3], 1 - 2 / 4.4)
  expect_error(sw_reliability(moments, weights = c(one = 2)), class = "scalewort_error_input")
})

test_that("answers that make no coefficient say so", {
  x <- withr::with_seed(1, matrix(sample(1:5, 120, TRUE), 40, 3, dimnames = list(NULL, c("a", "b", "c"))))
  notes <- function(answers) paste(sw_reliability(survey_of(answers, -20, 20))$notes, collapse = " ")
  expect_match(notes(cbind(x, d = x[, 1])), "a and d correlate perfectly")
  expect_match(notes(x[1:3, ]), "Only 3 cases for 3 items")
  expect_match(notes(x[, 1, drop = FALSE]), "No alpha for a single item")
  expect_match(notes(x[, 1:2]), "Only two items")
  expect_match(notes(cbind(x, d = 3)), "Everyone answers the same: d")
  negative <- matrix(-.2, 4, 4, dimnames = list(letters[1:4], letters[1:4]))
  diag(negative) <- 1
  found <- sw_reliability(sw_moments(negative, n = 100))
  # total 1.6, so 4 / 3 of 1 - 2.5
  expect_equal(tidy(found)$alpha, -2)
  expect_match(found$notes[1], "negative in all")
  expect_match(paste(found$notes, collapse = " "), "a, b, c and d hardly go with the rest")
  x[3, 2] <- Inf
  expect_error(survey_of(x, -20, 20), class = "scalewort_error_input")
  expect_error(sw_moments(x), class = "scalewort_error_input")
})

test_that("a summary ends in sentences with n, coefficient and interval", {
  text <- paste(capture.output(summary(sw_reliability(sw_demo("plotholders")))), collapse = " ")
  text <- gsub(" +", " ", text)
  expect_match(text, "calm \\(6 items, n = 640\\): alpha = .72, 95% CI \\[.68, .75\\]; omega = .74")
  expect_match(text, "from everyone who answered anything \\(n = 640;")
  complete <- gsub(" +", " ", paste(capture.output(summary(sw_reliability(sw_demo("plotholders"), missing = "listwise"))), collapse = " "))
  expect_match(complete, "calm \\(6 items, n = 551\\): alpha = .71, 95% CI \\[.68, .75\\]; omega = .74")
  expect_match(complete, "Feldt \\(1965\\)")
  quiz <- gsub(" +", " ", paste(capture.output(summary(sw_reliability(sw_demo("plantcare")))), collapse = " "))
  expect_match(quiz, "Kuder-Richardson")
})
