extract <- core("core_extract_ml")
harman <- datasets::Harman74.cor$cov

test_that("Harman's 24 tests give the published fit of four ML factors", {
  out <- extract(harman, 4L)
  multiplier <- 145 - 1 - (2 * 24 + 5) / 6 - 2 * 4 / 3 # Bartlett (1950)
  chi_square <- multiplier * out$discrepancy
  expect_equal(out$status, "ok")
  expect_equal(round(chi_square, 2), 226.68)
  expect_equal(core("core_exploration_df")(24, 4), 186)
  expect_equal(round(pchisq(chi_square, 186, lower.tail = FALSE), 4), .0224)
})

test_that("the discrepancy is the one defined, at its own solution", {
  out <- extract(harman, 4L)
  sigma <- tcrossprod(out$loadings) + diag(out$uniqueness)
  expect_equal(out$discrepancy, ml_discrepancy(harman, sigma), tolerance = 1e-12)
  expect_equal(diag(sigma), rep(1, 24), tolerance = 1e-8, ignore_attr = TRUE)
  inner <- t(out$loadings) %*% (out$loadings / out$uniqueness)
  expect_equal(inner[lower.tri(inner)], rep(0, 6), tolerance = 1e-10)
})

test_that("gradient and Hessian agree with differences", {
  at <- core("kernel_ml_discrepancy")
  set.seed(8)
  x <- log(runif(24, .2, .8))
  here <- at(harman, 4L, x)
  expect_equal(here$gradient, differences(function(x) at(harman, 4L, x)$value, x), tolerance = 1e-6)
  expect_equal(here$hessian, differences(function(x) at(harman, 4L, x)$gradient, x), tolerance = 1e-6)
})

test_that("a general optimiser with the plain definition finds nothing better", {
  r <- harman[1:9, 1:9]
  plain <- function(x) {
    sigma <- tcrossprod(matrix(x[1:18], 9)) + diag(exp(x[19:27]))
    ml_discrepancy(r, sigma)
  }
  set.seed(9)
  found <- min(replicate(5, optim(c(rnorm(18, .5, .2), rep(log(.5), 9)), plain, method = "BFGS", control = list(maxit = 500))$value))
  ours <- extract(r, 2L)$discrepancy
  expect_lt(ours, found + 1e-8)
  expect_equal(ours, found, tolerance = 1e-4)
})

test_that("an exact one-factor matrix gives back its loadings", {
  loading <- c(.9, .8, .7, .6, .5)
  r <- tcrossprod(loading)
  diag(r) <- 1
  out <- extract(r, 1L)
  expect_equal(abs(as.vector(out$loadings)), loading, tolerance = 1e-7)
  expect_equal(out$discrepancy, 0, tolerance = 1e-12)
})

test_that("a Heywood case stops at the bound", {
  r <- matrix(c(1, .9, .9, .9, 1, .7, .9, .7, 1), 3) # loading of the first would be 1.076
  out <- extract(r, 1L)
  expect_equal(out$uniqueness[[1]], .005, tolerance = 1e-8)
  expect_equal(out$status, "ok")
})

test_that("a matrix that is not positive definite has its own status", {
  r <- matrix(1, 3, 3)
  expect_equal(extract(r, 1L)$status, "not_positive_definite")
})

test_that("the most factors leave no negative degrees of freedom", {
  most <- core("core_most_factors")
  expect_equal(vapply(3:9, most, 0L), c(1L, 1L, 2L, 3L, 3L, 4L, 5L))
})
