# Fit without what a small sample adds, and its intervals.

test_that("the small-sample factors by their formulas", {
  # Swain (1975) for 6 items and 13 free parameters: q = (sqrt(105) - 1) / 2.
  q <- (sqrt(105) - 1) / 2
  by_hand <- 1 - (6 * (72 + 18 - 1) - q * (2 * q^2 + 3 * q - 1)) / (12 * 8 * 99)
  expect_equal(core("core_small_sample")(6, 2, 13, 100), list(factor = by_hand, name = "swain"))
  expect_equal(core("core_small_sample")(15, 3, 33, 40), list(factor = 1 - (35 / 6 + 2) / 39, name = "bartlett"))
  expect_equal(core("core_small_sample")(3, 1, 6, 100)$factor, 1)
})

test_that("true structures of few people are rejected at the level stated, once corrected", {
  truth <- core("structure_truth")(sw_structure(a = paste0("a", 1:5), b = paste0("b", 1:5), c = paste0("c", 1:5)), .6, .3, .7)
  draws <- core("random_draws")
  s <- core("with_seed")(4, core("core_sampled_covariances")(truth$covariance, 50, 500, draws))
  fits <- core("core_refit")(truth$cells, 15, 3, s, truth$theta, 50, FALSE)
  fine <- fits$status == "ok"
  t <- 50 * fits$value[fine]
  factor <- core("core_small_sample")(15, 3, max(truth$cells$free), 50)$factor
  expect_gt(mean(t > qchisq(.95, 87)), .12)
  expect_lt(mean(factor * t > qchisq(.95, 87)), .09)
})

test_that("intervals of fit come from the noncentrality, and hold the point", {
  at <- core("core_fit_intervals")(120, 87, 200, list(chi_square = 1105, df = 105))
  expect_equal(pchisq(120, 87, ncp = (1 - at$low[1]) * 1000), .05, tolerance = 1e-6)
  expect_equal(at$value, c(1 - 33 / 1000, 1 - 33 / 1000 / 87 * 105, sqrt(33 / 87 / 200)))
  expect_true(all(at$low <= at$value & at$value <= at$high))
  expect_equal(at$high[3], core("core_rmsea")(120, 87, 200)$high, tolerance = 1e-6)
  # A scaled test: noncentrality in the unscaled metric.
  expect_equal(core("core_fit_intervals")(100, 87, 200, list(chi_square = 1105, df = 105), 1.2, 1)$value[1], 1 - 1.2 * 13 / 1000)
  expect_true(all(is.na(core("core_fit_intervals")(120, 87, 200, list(chi_square = 100, df = 105))$value[1:2])))
  expect_true(all(is.na(core("core_fit_intervals")(0, 0, 200, list(chi_square = 103, df = 3))$value)))
})

test_that("what SRMR needs of normal residuals is what the whole matrix gives", {
  fit <- sw_confirm(sw_demo("plotholders"), sw_structure(a = paste0("calm", 1:5), b = paste0("kin", 1:5)), missing = "listwise")
  part <- fit$parts
  j <- core("core_structure_jacobian")(part$cells, part$theta, 10, 2)
  n <- fit$about$n
  gamma <- core("core_normal_gamma")(part$implied)
  x <- (gamma - n * j %*% part$estimates_covariance %*% t(j)) / n
  lower <- lower.tri(part$observed, diag = TRUE)
  d <- (1 / sqrt(outer(diag(part$observed), diag(part$observed))))[lower]
  e <- d * (part$observed - part$implied)[lower]
  x <- x * outer(d, d)
  fast <- core("core_normal_residual_spread")(part$cells, part$theta, 2, n * part$estimates_covariance, part$implied, sqrt(diag(part$observed)), n,
    part$observed - part$implied)
  expect_equal(fast$explained, diag(j %*% (n * part$estimates_covariance) %*% t(j)))
  expect_equal(fast[-1], list(trace = sum(diag(x)), square = sum(x^2), form = as.vector(e %*% x %*% e)))
  # The figure and its interval from it, by the published formula.
  size <- sum(e^2)
  k <- 1 - (fast$square + 2 * fast$form) / (4 * size^2)
  row <- subset(fit$tables$fit, figure == "srmr")
  expect_equal(row$corrected, sqrt(max(size - fast$trace, 0) / 55) / k)
  width <- qnorm(.95) * sqrt((fast$square + 2 * fast$form) / (2 * 55 * size)) / k
  expect_equal(row$conf.high, row$corrected + width)
  # From the influence of cases the same, where answers are near normal.
  robust <- subset(sw_confirm(sw_demo("plotholders"), fit$parts$structure, missing = "listwise", estimator = "robust")$tables$fit, figure == "srmr")
  expect_equal(robust$corrected, row$corrected, tolerance = .1)
})

test_that("the unbiased SRMR is near the population's where the raw one is far from it", {
  truth <- core("structure_truth")(sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4)), .6, .3, .7)
  s <- core("with_seed")(9, core("core_sampled_covariances")(truth$covariance, 100, 60, core("random_draws")))
  found <- apply(s, 2, function(one) {
    m <- matrix(one, 8, dimnames = list(truth$items, truth$items))
    subset(sw_confirm(sw_moments(m * 100 / 99, n = 100), sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4)))$tables$fit, figure == "srmr")
  }) |> do.call(what = rbind)
  expect_gt(mean(found$value), .04)
  expect_lt(mean(found$corrected), .025)
  expect_gt(mean(found$conf.low < 1e-9), .6)
  expect_equal(mean(found$conf.low > .04), 0)
})
