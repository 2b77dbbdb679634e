# Correlations and estimators that are chosen by the answers.

two <- sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4))
made_of <- function(cuts, n = 300, missing = 0) {
  at <- core("structure_truth")(two, .7, .3, .7)
  x <- withr::with_seed(11, {
    x <- matrix(findInterval(matrix(rnorm(n * 8), n) %*% chol(at$covariance), cuts) + 1, n)
    x[matrix(runif(n * 8) < missing, n)] <- NA
    x
  })
  colnames(x) <- at$items
  sw_survey(as.data.frame(x), data.frame(item = at$items, scale = substr(at$items, 1, 1), lowest = 1, highest = length(cuts) + 1))
}
bell <- c(-1.5, -.5, .5, 1.5)
note_of <- function(x, code) x$notes[x$noted$code == code]

test_that("few options or skewed answers are taken as ordered, others as numbers, and the reason is said", {
  taken <- function(survey) sw_confirm(survey, two)$about$options$estimator
  expect_equal(taken(made_of(0)), "ordinal")
  expect_equal(taken(made_of(c(-1, 1))), "ordinal")
  expect_equal(taken(made_of(bell)), "ml")
  expect_equal(taken(made_of(c(1, 1.4, 1.8, 2.1))), "ordinal")
  x <- sw_confirm(made_of(c(-1, 1)), two)
  expect_match(note_of(x, "auto_estimator"), "estimator = \"ordinal\"`, since answers have 3 options")
  expect_length(note_of(sw_confirm(made_of(bell), two), "auto_estimator"), 0)
  # More than a tenth missing, or likelihood asked for: not as completely random.
  gaps <- sw_confirm(made_of(c(-1, 1), missing = .2), two)
  expect_equal(gaps$about$options$estimator, "robust")
  expect_match(note_of(gaps, "auto_estimator"), "more than a tenth")
  expect_equal(sw_confirm(made_of(c(-1, 1)), two, missing = "fiml")$about$options$estimator, "robust")
  expect_equal(sw_confirm(made_of(c(-1, 1)), two, estimator = "ml")$about$options$estimator, "ml")
  expect_equal(sw_confirm(sw_moments(made_of(c(-1, 1))), two)$about$options$estimator, "ml")
  survey <- made_of(bell)
  survey$data$weight <- rep(c(1, 2), 150)
  expect_equal(sw_confirm(sw_survey(survey$data, survey$codebook), two, weights = "weight")$about$options$estimator, "robust")
})

test_that("an exploration of ordered answers is of polychoric correlations, and its test allows for them", {
  x <- sw_explore(made_of(0, n = 400), 2)
  expect_equal(x$about$options$correlation, "polychoric")
  expect_match(note_of(x, "auto_correlation"), "Polychoric correlations, since answers have 2 options")
  expect_equal(sw_explore(made_of(bell), 2)$about$options$correlation, "pearson")
  expect_equal(sw_factorability(made_of(0))$about$options$correlation, "polychoric")
  number <- sw_retention(made_of(0), replicates = 50)
  expect_equal(number$about$options$correlation, "pearson")
  expect_match(note_of(number, "auto_correlation"), "Pearson correlations, though")
  # Over samples of a true number of factors the adjusted test rejects at about its level; the likelihood's does not.
  p <- vapply(1:40, function(i) {
    at <- core("structure_truth")(two, .7, .3, .7)
    x <- withr::with_seed(i, matrix(findInterval(matrix(rnorm(300 * 8), 300) %*% chol(at$covariance), .5) + 1, 300, dimnames = list(NULL, at$items)))
    survey <- sw_survey(as.data.frame(x), data.frame(item = at$items, scale = "s", lowest = 1, highest = 2))
    c(sw_explore(survey, 2, starts = 1, errors = "none")$tables$fit$p.value,
      sw_explore(sw_moments(survey, correlation = "polychoric"), 2, starts = 1, errors = "none")$tables$fit$p.value)
  }, c(0, 0))
  expect_lt(mean(p[1, ] < .05), .18)
  expect_gt(mean(p[2, ] < .05), .35)
})

test_that("the path splits only where both halves can carry the model", {
  can <- core("halves_can_carry")
  survey <- sw_demo("plotholders")
  expect_true(can(survey))
  # 22 items in four subscales: 50 parameters, 150 people a half.
  expect_false(can(sw_keep(survey, cases = seq_along(survey$kept) <= 298, reason = "few")))
  expect_true(can(sw_keep(survey, cases = seq_along(survey$kept) <= 302, reason = "few")))
})
