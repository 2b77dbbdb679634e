pattern <- two_factor_loadings
phi <- two_factor_r
r <- two_factor_implied
psi <- 1 - diag(pattern %*% phi %*% t(pattern))
weights <- core("core_score_weights")(r, pattern, phi, psi)

test_that("regression scores are the regression of factors on items", {
  expect_equal(weights$regression, solve(r, pattern %*% phi), tolerance = 1e-10, ignore_attr = TRUE)
  validity <- core("core_score_validity")(r, pattern, phi, weights$regression)
  expect_equal(validity, core("core_determinacy")(r, pattern, phi), tolerance = 1e-10, ignore_attr = TRUE)
})

test_that("one factor by hand", {
  # Loadings .8, .6: Bartlett weights l / psi over sum l^2 / psi; l / psi = 20 / 9, 15 / 16.
  l <- matrix(c(.8, .6))
  s <- matrix(c(1, .48, .48, 1), 2)
  w <- core("core_score_weights")(s, l, matrix(1), c(.36, .64))
  precision <- .64 / .36 + .36 / .64
  expect_equal(as.vector(w$bartlett), c(.8 / .36, .6 / .64) / precision)
  expect_equal(core("core_determinacy")(s, l, matrix(1)), sqrt(precision / (1 + precision)), tolerance = 1e-10)
})

test_that("Bartlett scores are unbiased, ten Berge scores correlate as the factors do", {
  expect_equal(crossprod(weights$bartlett, pattern), diag(2), tolerance = 1e-10, ignore_attr = TRUE)
  expect_equal(crossprod(weights$tenberge, r %*% weights$tenberge), phi, tolerance = 1e-8, ignore_attr = TRUE)
})

test_that("scores come back to who answered", {
  survey <- small_survey()
  x <- sw_explore(survey, 2)
  scored <- augment(x)
  expect_equal(nrow(scored), 300)
  expect_equal(c(mean(scored$F1), mean(scored$F2)), c(0, 0), tolerance = 1e-10)
  one <- scale(as.matrix(survey$data)) %*% x$parts$weights$regression
  expect_equal(scored$F1, unname(one[, 1]), tolerance = 1e-8)
  expect_equal(cor(augment(x, method = "tenberge")[c("F1", "F2")])[1, 2], x$parts$factor_correlations[1, 2], tolerance = 1e-6)
  expect_error(augment(x, method = "other"), class = "scalewort_error_input")
  expect_error(augment(sw_explore(sw_moments(survey), 2)), class = "scalewort_error_input")
})
