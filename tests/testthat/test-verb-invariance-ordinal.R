two <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
cut_at <- function(x, cuts) {
  x[] <- findInterval(x, cuts) + 1
  x
}
# Two groups of ordered answers; the second's latent answers to some items are moved.
ordered_groups <- function(n, cuts, seed, moved = numeric(6), size = 1) {
  first <- cut_at(simulate_answers(n, two_factor_loadings, two_factor_r, seed = seed), cuts)
  second <- simulate_answers(n, two_factor_loadings, two_factor_r, seed = seed + 10000) * size
  second <- cut_at(sweep(second, 2, moved, "+"), cuts)
  out <- as.data.frame(rbind(first, second))
  names(out) <- paste0("i", 1:6)
  out$place <- rep(c("a", "b"), each = n)
  sw_survey(out, data.frame(item = paste0("i", 1:6), scale = "s", lowest = 1, highest = length(cuts) + 1), group = "place")
}
five <- c(-1.5, -.5, .5, 1.2)

test_that("the configural step is the sum of separate fits, and each step adds the degrees of freedom counted by hand", {
  survey <- ordered_groups(400, five, 3)
  out <- sw_invariance(survey, two, by = "place", estimator = "ordinal")
  apart <- vapply(c("a", "b"), function(g) {
    sw_confirm(sw_keep(survey, cases = survey$data$place == g, reason = "one group"), two, estimator = "ordinal")$parts$figures$chi_square
  }, 0)
  expect_equal(out$parts$fits$configural$figures$chi_square, sum(apart), tolerance = 1e-6)
  # 24 thresholds with 6 intercepts and 6 variances freed; 6 loadings with 2 factor variances freed;
  # 6 intercepts with 2 means freed; 6 residual variances.
  expect_equal(out$tables$steps$df, cumsum(c(16, 12, 4, 4, 6)))
  expect_true(all(out$tables$steps$verdict[-1] == "met"))
})

test_that("where nothing differs the test of each step keeps its level", {
  p <- vapply(1:70, function(i) {
    sw_invariance(ordered_groups(300, c(-1, 0, 1), 100 + i), two, by = "place", estimator = "ordinal")$tables$steps$p_difference[-1]
  }, numeric(4))
  expect_true(all(abs(rowMeans(p < .05) - .05) < 3.3 * sqrt(.05 * .95 / 70)))
})

test_that("a moved item is found and only it, the others' means and sizes come back, and what it does is in answer units", {
  survey <- ordered_groups(1500, five, 7, moved = c(.4, .4, 1.2, 0, 0, 0) * c(.8, .7, 1, 1, 1, 1) + c(0, 0, 0, 0, 0, 0))
  out <- sw_invariance(survey, two, by = "place", estimator = "ordinal", release = "auto")
  expect_equal(unique(out$tables$effects$item), "i3")
  means <- out$tables$means
  expect_equal(means$effect[means$factor == "one"], .4, tolerance = .25)
  expect_lt(abs(means$effect[means$factor == "two"]), .1)
  # i3 is moved by 1.2 where its factor's mean, .4 with loading .6, explains .24.
  own <- cut_at(matrix(simulate_answers(20000, two_factor_loadings, two_factor_r, seed = 5)[, 3]), five)
  moved <- cut_at(matrix(simulate_answers(20000, two_factor_loadings, two_factor_r, seed = 5)[, 3] + 1.2), five)
  less <- cut_at(matrix(simulate_answers(20000, two_factor_loadings, two_factor_r, seed = 5)[, 3] + .24), five)
  expect_gt(mean(moved), mean(own))
  expect_equal(out$tables$effects$difference, mean(moved) - mean(less), tolerance = .12)
})

test_that("a group that spreads more has larger factor and residual variances, not other thresholds", {
  out <- sw_invariance(ordered_groups(1500, five, 17, size = 1.3), two, by = "place", estimator = "ordinal")
  # In 3,000 people the test may see a trifle: no item is named for it.
  expect_false(any(out$tables$steps$verdict[2:4] == "missed"))
  expect_false(any(out$tables$named$kind %in% c("threshold", "loading", "intercept")))
  variances <- out$tables$means$variance
  expect_equal(sqrt(variances), c(1.3, 1.3), tolerance = .12)
})

test_that("two answers go from configural to scalar; three say nothing about thresholds", {
  yes_no <- sw_invariance(ordered_groups(600, .2, 5), two, by = "place", estimator = "ordinal")
  expect_equal(yes_no$tables$steps$step, c("configural", "scalar", "strict"))
  # 6 thresholds and 6 loadings equal and 2 variances, 2 means and 6 residual variances freed.
  expect_equal(yes_no$tables$steps$df, c(16, 18, 24))
  three <- sw_invariance(ordered_groups(600, c(-.5, .6), 5), two, by = "place", estimator = "ordinal")
  expect_equal(three$tables$steps$df[1:2], c(16, 16))
  expect_equal(three$tables$steps$chi_square[1], three$tables$steps$chi_square[2], tolerance = 1e-4)
  expect_match(paste(three$notes, collapse = " "), "tell nothing about equal thresholds")
})

test_that("waves of ordered answers, with residuals of the same item covarying", {
  out <- sw_invariance(sw_demo("plotholders", wave = 1:2), sw_structure(calm = paste0("calm", 1:5), kinship = paste0("kin", 1:5)), across = "wave",
    estimator = "ordinal")
  expect_equal(diff(out$tables$steps$df), c(40 - 20, 10 - 2, 10 - 2, 10))
  expect_equal(out$about$missing, "pairwise")
})

test_that("answers that one group does not use are named", {
  survey <- ordered_groups(200, five, 9)
  survey$answers$i2[survey$data$place == "b" & survey$answers$i2 == 5] <- 4
  expect_error(sw_invariance(survey, two, by = "place", estimator = "ordinal"), "i2: nobody in b answers 5", class = "scalewort_error_input")
})

test_that("few options are compared as ordered by default, where every group gives every answer and nothing else is asked for", {
  by_default <- function(...) sw_invariance(ordered_groups(300, ...), two, by = "place")
  chosen <- function(x) x$about$options$estimator
  yes_no <- by_default(.2, 5)
  expect_equal(chosen(yes_no), "ordinal")
  expect_match(yes_no$notes, "since answers have 2 options", all = FALSE)
  expect_equal(chosen(sw_invariance(ordered_groups(300, .2, 5), two, by = "place", missing = "fiml")), "robust")
  rare <- by_default(c(-.5, .4, 2.6), 5)
  expect_equal(chosen(rare), "robust")
  expect_match(rare$notes, "some answer is given by fewer than five people", all = FALSE)
})
