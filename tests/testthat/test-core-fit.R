test_that("CFI, TLI and RMSEA follow their formulas", {
  # model 60 on 40 df, baseline 500 on 60 df, n = 200
  baseline <- list(chi_square = 500, df = 60)
  expect_equal(core("core_cfi")(60, 40, baseline), 1 - 20 / 440)
  expect_equal(core("core_tli")(60, 40, baseline), (500 / 60 - 60 / 40) / (500 / 60 - 1))
  expect_equal(core("core_rmsea")(60, 40, 200)$estimate, sqrt(20 / (40 * 200)))
})

test_that("the interval of RMSEA inverts the noncentral chi-square", {
  out <- core("core_rmsea")(60, 40, 200)
  expect_equal(pchisq(60, 40, ncp = out$low^2 * 40 * 200), .95, tolerance = 1e-6)
  expect_equal(pchisq(60, 40, ncp = out$high^2 * 40 * 200), .05, tolerance = 1e-6)
  expect_equal(out$p_close, 1 - pchisq(60, 40, ncp = .05^2 * 40 * 200))
  expect_equal(core("core_rmsea")(20, 40, 200)[c("estimate", "low")], list(estimate = 0, low = 0))
})

test_that("a saturated model has no RMSEA or TLI", {
  expect_true(is.na(core("core_rmsea")(0, 0, 100)$estimate))
  expect_true(is.na(core("core_tli")(0, 0, list(chi_square = 10, df = 3))))
  expect_equal(core("core_cfi")(0, 0, list(chi_square = 10, df = 3)), 1)
})

test_that("SRMR averages standardised residuals over the triangle with the diagonal", {
  s <- matrix(c(4, 1, 1, 9), 2)
  implied <- matrix(c(4, .4, .4, 9), 2)
  expect_equal(core("core_srmr")(s, implied), sqrt((.6 / 6)^2 / 3))
})

test_that("the baseline is n times the log ratio of determinants", {
  s <- matrix(c(1, .5, .5, 1), 2)
  expect_equal(core("core_baseline")(s, 100), list(chi_square = -100 * log(.75), df = 1))
})
