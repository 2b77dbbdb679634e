survey <- sw_demo("plotholders")

test_that("sw_resample() gives standard errors known from theory", {
  mean_of <- sw_resample(survey, function(m) m$mean[["calm1"]], items = "calm1", replicates = 2000)
  x <- survey$answers$calm1
  x <- x[!is.na(x)]
  expect_equal(mean_of$estimate, mean(x))
  expect_equal(mean_of$n, length(x))
  expect_equal(mean_of$std.error, sd(x) / sqrt(length(x)), tolerance = .06)
  expect_lt(mean_of$conf.low, mean(x))
  expect_gt(mean_of$conf.high, mean(x))
  again <- sw_resample(survey, function(m) m$mean[["calm1"]], items = "calm1", replicates = 2000)
  expect_identical(mean_of, again)
})

test_that("both kinds of material give the same replicates", {
  r <- function(m) cov2cor(m$covariance)[2, 1]
  by_moments <- sw_resample(survey, r, items = c("calm1", "calm2"), replicates = 60, interval = "percentile")
  by_answers <- sw_resample(survey, function(x) cor(x)[2, 1], items = c("calm1", "calm2"), replicates = 60, interval = "percentile",
    needs = "answers")
  expect_equal(by_moments, by_answers)
})

test_that("a verb inside a resample; figures that cannot be computed are counted", {
  two <- sw_resample(survey, function(m) c(alpha = tidy(sw_reliability(m))$alpha, omega = tidy(sw_reliability(m))$omega),
    items = "craft", replicates = 40, interval = "percentile")
  expect_equal(two$figure, c("alpha", "omega"))
  expect_equal(two$estimate[1], tidy(sw_reliability(survey, missing = "listwise"))$alpha[2])
  odd <- sw_resample(survey, function(m) if (m$mean[[1]] > 3.8) NA_real_ else m$mean[[1]], items = "calm1", replicates = 100, interval = "percentile")
  expect_lt(odd$replicates, 100)
})

test_that("wrong statistics are refused", {
  expect_error(sw_resample(survey, "alpha"), class = "scalewort_error_input")
  expect_error(sw_resample(survey, function(m) "text"), class = "scalewort_error_input")
  expect_error(sw_resample(survey, function(m) seq_len(sample(1:50, 1)), replicates = 50), class = "scalewort_error_input")
  expect_error(sw_resample(sw_keep(survey, cases = 1:5, reason = "few"), function(m) m$n), class = "scalewort_error_numeric")
})

test_that("resampled intervals of a reliability", {
  x <- sw_reliability(survey, interval = "bca", replicates = 500)
  scales <- tidy(x)
  plain <- tidy(sw_reliability(survey, missing = "listwise"))
  expect_equal(scales$alpha, plain$alpha)
  expect_lt(max(abs(scales$conf.low - plain$conf.low)), .02)
  expect_true(all(scales$omega_low < scales$omega & scales$omega < scales$omega_high))
  expect_false(identical(scales$omega_low, plain$omega_low))
  items <- tidy(x, "items")
  expect_true(all(items$change_low <= items$change & items$change <= items$change_high))
  expect_gt(items$change_low[items$item == "calm6"], 0)
  expect_error(sw_reliability(sw_moments(survey), interval = "bca"), class = "scalewort_error_input")
  expect_error(sw_reliability(survey, interval = "bca", missing = "em"), class = "scalewort_error_input")
  wide <- tidy(sw_reliability(survey, interval = "percentile", replicates = 500, level = .99))
  expect_true(all(wide$conf.low < scales$conf.low))
})
