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

test_that("six ability tests give the published fit of one and of two ML factors", {
  # Venables & Ripley (2002): 75.18 on 9 df, 6.11 on 4 df with p .191
  r <- cov2cor(datasets::ability.cov$cov)
  for (m in 1:2) {
    chi_square <- (112 - 1 - (2 * 6 + 5) / 6 - 2 * m / 3) * extract(r, m)$discrepancy
    expect_equal(round(chi_square, 2), c(75.18, 6.11)[m])
    expect_equal(core("core_exploration_df")(6, m), c(9, 4)[m])
  }
  expect_equal(round(pchisq(chi_square, 4, lower.tail = FALSE), 3), .191)
})

test_that("the discrepancy is the one defined, at its own solution", {
  out <- extract(harman, 4L)
  sigma <- tcrossprod(out$loadings) + diag(out$uniqueness)
  expect_equal(out$discrepancy, ml_discrepancy(harman, sigma), tolerance = 1e-12)
  expect_equal(diag(sigma), rep(1, 24), tolerance = 1e-8, ignore_attr = TRUE)
  inner <- t(out$loadings) %*% (out$loadings / out$uniqueness)
  expect_equal(inner[lower.tri(inner)], rep(0, 6), tolerance = 1e-10)
})

test_that("gradients and Hessians agree with differences", {
  at <- core("kernel_discrepancy")
  withr::local_seed(8)
  psi <- runif(24, .2, .8)
  for (method in c("ml", "minres", "gls")) {
    x <- if (method == "minres") psi else log(psi)
    here <- at(harman, 4L, method, x)
    expect_equal(here$gradient, differences(function(x) at(harman, 4L, method, x)$value, x), tolerance = 1e-6)
    expect_equal(here$hessian, differences(function(x) at(harman, 4L, method, x)$gradient, x), tolerance = 1e-6)
  }
})

test_that("minres and gls minimise what they are defined to minimise", {
  r <- harman[1:9, 1:9]
  implied <- function(out) tcrossprod(out$loadings) + diag(out$uniqueness)
  minres <- core("core_extract")(r, 2L, "minres")
  residual <- r - implied(minres)
  expect_equal(minres$discrepancy, sum(residual^2) / 2, tolerance = 1e-10)
  expect_equal(diag(residual), rep(0, 9), tolerance = 1e-8, ignore_attr = TRUE)
  gls <- core("core_extract")(r, 2L, "gls")
  apart <- diag(9) - solve(r, implied(gls))
  expect_equal(gls$discrepancy, sum(diag(apart %*% apart)) / 2, tolerance = 1e-10)
  plain <- function(x, of) of(tcrossprod(matrix(x[1:18], 9)) + diag(exp(x[19:27])))
  least <- function(f, out) {
    start <- c(as.vector(out$loadings), log(out$uniqueness))
    min(replicate(3, optim(start + rnorm(27, 0, .1), plain, of = f, method = "BFGS", control = list(maxit = 500, reltol = 1e-12))$value))
  }
  withr::local_seed(2)
  expect_gt(least(function(s) sum((r - s)^2) / 2, minres), minres$discrepancy - 1e-7)
  expect_gt(least(function(s) sum(diag((diag(9) - solve(r, s)) %*% (diag(9) - solve(r, s)))) / 2, gls), gls$discrepancy - 1e-7)
})

test_that("principal axes, iterated to the end, are minres", {
  for (m in 2:4) {
    axes <- core("core_extract")(harman, m, "paf", tolerance = 1e-11, max_iterations = 20000L)
    minres <- core("core_extract")(harman, m, "minres")
    expect_equal(axes$status, "ok")
    expect_equal(axes$uniqueness, minres$uniqueness, tolerance = 1e-6)
    expect_equal(abs(axes$loadings), abs(minres$loadings), tolerance = 1e-5)
  }
})

test_that("alpha factors keep their definition, and say so where there are none", {
  for (m in c(2L, 4L)) {
    out <- core("core_extract")(harman, m, "alpha")
    h <- sqrt(1 - out$uniqueness)
    expect_equal(out$status, "ok")
    scaled <- (harman - diag(out$uniqueness)) / outer(h, h)
    roots <- eigen(scaled, symmetric = TRUE)
    expect_equal(rowSums(out$loadings^2), h^2, tolerance = 1e-6, ignore_attr = TRUE)
    expect_equal(tcrossprod(out$loadings / h), roots$vectors[, 1:m] %*% diag(roots$values[1:m]) %*% t(roots$vectors[, 1:m]), tolerance = 1e-5,
      ignore_attr = TRUE)
  }
  # With three, the third and fourth roots change places at every step: there is no such solution.
  expect_equal(core("core_extract")(harman, 3L, "alpha")$status, "not_converged")
})

test_that("components reproduce the matrix when all are kept, and are its first axes", {
  all <- core("core_extract")(harman, 24L, "pca")
  expect_equal(tcrossprod(all$loadings), harman, tolerance = 1e-10, ignore_attr = TRUE)
  some <- core("core_extract")(harman, 2L, "pca")
  expect_equal(sum(some$loadings^2), sum(eigen(harman)$values[1:2]), tolerance = 1e-12)
})

test_that("every method finds the loadings of an exact structure", {
  pattern <- kronecker(diag(2), c(.8, .7, .6, .5))
  r <- tcrossprod(pattern)
  diag(r) <- 1
  for (method in c("ml", "minres", "gls", "paf", "alpha")) {
    out <- core("core_extract")(r, 2L, method)
    expect_equal(tcrossprod(out$loadings), tcrossprod(pattern), tolerance = 1e-5, ignore_attr = TRUE)
  }
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

test_that("at a bound, further starts are tried and counted", {
  r <- matrix(c(1, .9, .9, .9, 1, .7, .9, .7, 1), 3)
  out <- extract(r, 1L)
  expect_equal(out$starts, 10)
  expect_gte(out$reached, 1)
  expect_equal(extract(harman, 4L)$starts, 1)
})

test_that("the likelihood discrepancy of any solution", {
  minres <- core("core_extract")(harman, 4L, "minres")
  at_minres <- core("core_likelihood_discrepancy")(harman, minres$loadings, minres$uniqueness)
  expect_equal(at_minres, ml_discrepancy(harman, tcrossprod(minres$loadings) + diag(minres$uniqueness)), tolerance = 1e-10)
  expect_gt(at_minres, extract(harman, 4L)$discrepancy)
})

test_that("a matrix that is not positive definite has its own status", {
  r <- matrix(1, 3, 3)
  expect_equal(extract(r, 1L)$status, "not_positive_definite")
  expect_equal(core("core_extract")(r, 1L, "minres")$status, "ok")
})

test_that("the most factors leave no negative degrees of freedom", {
  most <- core("core_most_factors")
  expect_equal(vapply(3:9, most, 0L), c(1L, 1L, 2L, 3L, 3L, 4L, 5L))
})
