r <- matrix(c(1, .5, .4, .5, 1, .3, .4, .3, 1), 3, dimnames = rep(list(letters[1:3]), 2))

test_that("moments of a survey, of answers and of their published matrix agree", {
  survey <- small_survey()
  from_survey <- sw_moments(survey)
  from_answers <- sw_moments(survey$answers)
  published <- sw_moments(cov(survey$answers), n = 300)
  expect_equal(from_survey$covariance, from_answers$covariance)
  expect_equal(published$covariance, from_answers$covariance, tolerance = 1e-12)
  expect_equal(published$kind, "published")
})

test_that("a published correlation matrix takes n, sd, means and subscales", {
  m <- sw_moments(r, n = 100, sd = c(1, 2, 3), mean = 1:3, scales = list(s = c("a", "c")))
  expect_equal(m$covariance["a", "c"], .4 * 3)
  expect_equal(m$n, 100)
  expect_equal(sw_moments(m, items = "s")$mean, c(1, 3))
  expect_error(sw_moments(r), "needs `n`", class = "scalewort_error_input")
  expect_error(sw_moments(r, n = 100, sd = 1:2), class = "scalewort_error_input")
  expect_error(sw_moments(r, n = 100, scales = list(s = "z")), class = "scalewort_error_input")
})

test_that("items are taken by name or subscale, in order", {
  survey <- sw_demo("plotholders")
  m <- sw_moments(survey, items = c("kin1", "calm"))
  expect_equal(colnames(m$covariance)[1:2], c("kin1", "calm1"))
  expect_equal(ncol(m$covariance), 7)
  expect_error(sw_moments(survey, items = "clam"), "did you mean \"calm\"", class = "scalewort_error_input")
})

test_that("what is no moments is refused", {
  expect_error(sw_moments(letters), class = "scalewort_error_input")
  expect_error(sw_moments(data.frame(a = "x", b = 1)), class = "scalewort_error_input")
  expect_error(sw_moments(matrix(c(1, Inf, 3, 4, 5, 6), 3)), class = "scalewort_error_input")
  expect_error(sw_moments(matrix(1:6, 3), n = 10), class = "scalewort_error_input")
  expect_error(sw_moments(matrix(NA_real_, 4, 2)), class = "scalewort_error_numeric")
})
