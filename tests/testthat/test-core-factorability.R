harman <- datasets::Harman74.cor$cov

test_that("partial correlations are those of regressions on all other items", {
  withr::local_seed(1)
  x <- matrix(rnorm(300), 60) %*% matrix(runif(25, 0, 1), 5)
  partial <- core("core_partial_r")(cor(x))
  left <- function(j) resid(lm(x[, j] ~ x[, -c(1, 2)]))
  expect_equal(partial[1, 2], cor(left(1), left(2)), tolerance = 1e-10)
})

test_that("sampling adequacy of three items by hand", {
  # r12 .6, r13 .5, r23 .4. Partials (r12 - r13 r23) / sqrt((1 - r13^2)(1 - r23^2)):
  r <- matrix(c(1, .6, .5, .6, 1, .4, .5, .4, 1), 3)
  p12 <- (.6 - .2) / sqrt(.75 * .84)
  p13 <- (.5 - .24) / sqrt(.64 * .84)
  p23 <- (.4 - .3) / sqrt(.64 * .75)
  found <- core("core_sampling_adequacy")(r)
  expect_equal(found$overall, .77 / (.77 + p12^2 + p13^2 + p23^2))
  expect_equal(found$items[1], .61 / (.61 + p12^2 + p13^2))
})

test_that("sphericity: chi-square by hand, and its level when items are unrelated", {
  r <- matrix(c(1, .6, .5, .6, 1, .4, .5, .4, 1), 3)
  # determinant 1 + 2 * .12 - .36 - .25 - .16 = .47; multiplier 100 - 1 - 11 / 6
  found <- core("core_sphericity")(r, 100)
  expect_equal(found$chi_square, -(99 - 11 / 6) * log(.47))
  expect_equal(found$df, 3)
  withr::local_seed(4)
  p <- replicate(1500, core("core_sphericity")(cor(matrix(rnorm(60 * 4), 60)), 60)$p)
  expect_lt(abs(mean(p < .05) - .05), 3 * sqrt(.05 * .95 / 1500))
})

test_that("the verb judges each figure and names the items", {
  survey <- sw_demo("plotholders")
  x <- sw_factorability(survey, missing = "listwise")
  overall <- tidy(x)
  expect_equal(overall$figure[1:2], c("sampling_adequacy", "sphericity"))
  expect_equal(overall$value[3], det(cor(na.omit(as.matrix(sapply(pick_keyed(survey), identity))))), tolerance = 1e-8)
  expect_equal(tidy(x, "items")$item[which.min(tidy(x, "items")$sampling_adequacy)], "calm6")
  expect_match(paste(x$notes, collapse = " "), "calm6")
  expect_match(format(x)[1], "Sampling adequacy .88|factored")
  twin <- survey$data[c("calm1", "calm2", "craft1")]
  twin$again <- twin$calm1 + rep(c(0, 0, 0, 0, 0, 0, 0, 0, 0, 1), length.out = nrow(twin))
  moments <- sw_moments(twin[stats::complete.cases(twin) & rowSums(twin > 5, na.rm = TRUE) == 0 & rowSums(twin < 1, na.rm = TRUE) == 0, ])
  expect_match(paste(sw_factorability(moments)$notes, collapse = " "), "calm1 and again nearly say the same")
  expect_null(sw_factorability(moments)$tables$normality)
  expect_error(sw_factorability(moments, items = c("calm1", "calm2")), class = "scalewort_error_input")
})
