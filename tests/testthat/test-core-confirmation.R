cells_of <- core("structure_cells")
fit_structure <- core("core_fit_structure")
two <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
items <- paste0("i", 1:6)

test_that("the implied covariance matrix gives back its parameters and chi-square 0", {
  cells <- cells_of(two, items, "variance")
  out <- fit_structure(cells, two_factor_implied, 2L)
  expect_equal(out$status, "ok")
  expect_equal(out$theta[1:6], c(.8, .7, .6, .75, .65, .55), tolerance = 1e-6)
  expect_equal(out$theta[7], .4, tolerance = 1e-6)
  expect_equal(out$theta[8:13], 1 - c(.8, .7, .6, .75, .65, .55)^2, tolerance = 1e-6)
  expect_equal(1000 * out$discrepancy, 0, tolerance = 1e-9)
})

one_sample <- function(s, mean = numeric(ncol(s))) list(list(share = 1, covariance = s, mean = mean))

# A sample that fits none exactly.
s <- cov(simulate_answers(400, two_factor_loadings, two_factor_r, 12)) * 399 / 400

test_that("both scalings give the same chi-square and implied covariances", {
  by_variance <- fit_structure(cells_of(two, items, "variance"), s, 2L)
  by_first <- fit_structure(cells_of(two, items, "first"), s, 2L)
  expect_equal(by_variance$discrepancy, by_first$discrepancy, tolerance = 1e-10)
  expect_equal(by_variance$implied, by_first$implied, tolerance = 1e-7)
})

test_that("the order of items changes nothing", {
  turned <- rev(items)
  out <- fit_structure(cells_of(two, turned, "variance"), s[turned, turned], 2L)
  expect_equal(out$discrepancy, fit_structure(cells_of(two, items, "variance"), s, 2L)$discrepancy, tolerance = 1e-10)
})

test_that("discrepancy, gradient and expected Hessian agree with their definitions", {
  evaluate <- core("kernel_evaluate_structure")
  structure <- sw_add_pair(two, "i1", "i5")
  cells <- cells_of(structure, items, "first")
  set.seed(13)
  theta <- core("core_structure_start")(cells, s, 2L)
  theta <- theta + runif(length(theta), -.05, .05)
  at <- function(x) evaluate(cells, 6L, 2L, one_sample(s), x)
  implied <- function(x) {
    m <- core("core_structure_matrices")(cells, x, 6, 2)
    m$loading %*% m$factor %*% t(m$loading) + m$residual
  }
  here <- at(theta)
  expect_equal(here$discrepancy, ml_discrepancy(s, implied(theta)), tolerance = 1e-12)
  expect_equal(here$gradient, differences(function(x) at(x)$discrepancy, theta), tolerance = 1e-6)
  # expected Hessian: tr(A S_i A S_j) with S_i the derivative of Sigma
  slopes <- differences(function(x) as.vector(implied(x)), theta)
  inverse <- solve(implied(theta))
  twin <- outer(seq_along(theta), seq_along(theta), Vectorize(function(i, j) {
    sum(diag(inverse %*% matrix(slopes[, i], 6) %*% inverse %*% matrix(slopes[, j], 6)))
  }))
  expect_equal(here$expected_hessian, twin, tolerance = 1e-7)
})

test_that("a path between factors has the right derivatives", {
  # factor 2 measured by factor 1: its variance is what is left over
  cells <- cells_of(two, items, "first")
  link <- which(cells$part == 1 & cells$row != cells$column)
  cells$part[link] <- 3L
  at <- function(x) core("kernel_evaluate_structure")(cells, 6L, 2L, one_sample(s), x)
  theta <- core("core_structure_start")(cells, s, 2L)
  theta[cells$free[link]] <- .3
  expect_equal(at(theta)$gradient, differences(function(x) at(x)$discrepancy, theta), tolerance = 1e-6)
  plain <- fit_structure(cells_of(two, items, "first"), s, 2L)
  expect_equal(fit_structure(cells, s, 2L, theta)$discrepancy, plain$discrepancy, tolerance = 1e-10)
})

test_that("a general optimiser finds nothing better", {
  cells <- cells_of(two, items, "variance")
  plain <- function(x) {
    m <- core("core_structure_matrices")(cells, x, 6, 2)
    sigma <- m$loading %*% m$factor %*% t(m$loading) + m$residual
    if (min(eigen(sigma, TRUE, TRUE)$values) <= 0) 1e6 else ml_discrepancy(s, sigma)
  }
  start <- core("core_structure_start")(cells, s, 2L)
  found <- optim(start, plain, method = "BFGS", control = list(maxit = 1000, reltol = 1e-14))$value
  expect_equal(fit_structure(cells, s, 2L)$discrepancy, found, tolerance = 1e-7)
})

test_that("standard errors agree with the spread of estimates over samples", {
  cells <- cells_of(two, items, "variance")
  one <- function(seed) {
    x <- cov(simulate_answers(300, two_factor_loadings, two_factor_r, seed)) * 299 / 300
    fit <- fit_structure(cells, x, 2L)
    c(fit$theta, sqrt(diag(core("core_estimate_covariance")(fit$expected_hessian, 300))))
  }
  runs <- vapply(1:300, one, numeric(26))
  spread <- apply(runs[1:13, ], 1, sd)
  stated <- rowMeans(runs[14:26, ])
  expect_true(all(abs(stated / spread - 1) < .17)) # 4 standard errors of an sd over 300 runs
  expect_equal(rowMeans(runs[1:6, ]), c(.8, .7, .6, .75, .65, .55), tolerance = .02)
})

test_that("the chi-square of a true structure rejects at about its level", {
  cells <- cells_of(two, items, "variance")
  rejected <- vapply(1:400, function(seed) {
    x <- cov(simulate_answers(500, two_factor_loadings, two_factor_r, 1000 + seed)) * 499 / 500
    500 * fit_structure(cells, x, 2L)$discrepancy > qchisq(.95, 8)
  }, TRUE)
  expect_lt(abs(mean(rejected) - .05), 4 * sqrt(.05 * .95 / 400))
})

test_that("covariances that are not positive definite have their own status", {
  expect_equal(fit_structure(cells_of(two, items, "variance"), matrix(1, 6, 6), 2L)$status, "not_positive_definite")
})

# The slow twin: the rank of the implied covariances' numeric Jacobian.
rank_of_jacobian <- function(cells, theta) {
  implied <- function(theta) {
    x <- core("core_structure_matrices")(cells, theta, 6, 2)
    x$loading %*% core("core_factor_covariance")(x) %*% t(x$loading) + x$residual
  }
  qr(differences(function(x) as.vector(implied(x)), theta), tol = 1e-7)$rank
}

test_that("what cannot be told apart is seen by the rank of the Jacobian", {
  identified <- core("core_identified")
  cells <- cells_of(two, items, "variance")
  theta <- core("core_structure_start")(cells, s, 2L)
  theta[7] <- .3
  expect_true(identified(cells, theta, 6, 2L)$identified)
  expect_equal(rank_of_jacobian(cells, theta), length(theta))
  free <- cells
  variance <- which(free$part == 1 & free$row == free$column)
  free$free[variance] <- max(free$free) + 1:2
  found <- identified(free, c(theta, 1, 1), 6, 2L)
  expect_false(found$identified)
  expect_true(all(free$free[variance] %in% found$unclear))
  expect_equal(rank_of_jacobian(free, c(theta, 1, 1)), length(theta))
  unlinked <- cells_of(sw_structure(one = paste0("i", 1:4), two = c("i5", "i6")) |> sw_unlink("one", "two"), items, "variance")
  theta <- core("core_structure_start")(unlinked, s, 2L)
  found <- identified(unlinked, theta, 6, 2L)
  expect_false(found$identified)
  # what cannot be told apart is the second factor's, and nothing of the first
  of_second <- unlinked$row %in% 5:6 & unlinked$free > 0
  expect_setequal(found$unclear, unlinked$free[of_second])
  expect_equal(rank_of_jacobian(unlinked, theta), length(theta) - 1)
})
