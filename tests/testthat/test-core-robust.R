test_that("with normal answers the test is not adjusted, with heavy tails it is", {
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  survey_of <- function(x) sw_survey(as.data.frame(x), data.frame(item = colnames(x), scale = "s", lowest = -1e3, highest = 1e3))
  scale_of <- function(x) sw_confirm(survey_of(x), structure, estimator = "robust")$parts$figures$scale
  normal <- vapply(1:8, function(i) scale_of(simulate_answers(1500, two_factor_loadings, two_factor_r, seed = i)), 0)
  expect_equal(mean(normal), 1, tolerance = .03)
  # Each case multiplied by its own root of 5 / chi-square(8) / 8 ... : a t distribution with 8
  # degrees of freedom has kurtosis 4.5 in place of 3, and the scale is their ratio, 1.5.
  heavy <- vapply(1:12, function(i) {
    x <- simulate_answers(4000, two_factor_loadings, two_factor_r, seed = i)
    scale_of(x / sqrt(withr::with_seed(i, rchisq(4000, 8)) / 8))
  }, 0)
  expect_equal(mean(heavy), 1.5, tolerance = .12)
})

test_that("trace and sandwich by the slow way, with the full matrix of fourth moments", {
  x <- withr::with_seed(3, simulate_answers(300, two_factor_loadings, two_factor_r)^3)
  colnames(x) <- paste0("i", 1:6)
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  items <- colnames(x)
  n <- 300
  s <- cov(x) * (n - 1) / n
  cells <- core("structure_cells")(structure, items, "variance")
  fit <- core("core_fit_structure")(cells, s, 2L)
  fast <- core("core_robust")(x, s, fit$implied, cells, fit$theta, 2L, fit$expected_hessian, 8)
  lower <- lower.tri(s, diag = TRUE)
  d <- sweep(x, 2, colMeans(x))
  products <- t(apply(d, 1, function(row) outer(row, row)[lower]))
  gamma <- crossprod(sweep(products, 2, colMeans(products))) / n
  inverse <- solve(fit$implied)
  at <- which(lower, arr.ind = TRUE)
  weight <- outer(seq_len(21), seq_len(21), Vectorize(function(a, b) {
    i <- at[a, ]
    j <- at[b, ]
    twice <- (2 - (i[1] == i[2])) * (2 - (j[1] == j[2]))
    twice / 4 * (inverse[i[1], j[1]] * inverse[i[2], j[2]] + inverse[i[1], j[2]] * inverse[i[2], j[1]])
  }))
  delta <- core("core_structure_jacobian")(cells, fit$theta, 6, 2)
  bread <- solve(t(delta) %*% weight %*% delta)
  u <- weight - weight %*% delta %*% bread %*% t(delta) %*% weight
  expect_equal(fast$scale, sum(diag(u %*% gamma)) / 8, tolerance = 1e-8)
  expect_equal(fast$covariance, bread %*% t(delta) %*% weight %*% gamma %*% weight %*% delta %*% bread / n, tolerance = 1e-7, ignore_attr = TRUE)
})

test_that("under heavy tails the scaled test keeps its level and the plain one does not", {
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  items <- paste0("i", 1:6)
  cells <- core("structure_cells")(structure, items, "variance")
  p <- withr::with_seed(5, replicate(300, {
    z <- matrix(rnorm(600 * 6), 600) %*% chol(two_factor_implied) / sqrt(rchisq(600, 6) / 6)
    s <- cov(z) * 599 / 600
    fit <- core("core_fit_structure")(cells, s, 2L)
    robust <- core("core_robust")(z, s, fit$implied, cells, fit$theta, 2L, fit$expected_hessian, 8)
    pchisq(600 * fit$discrepancy / c(1, robust$scale), 8, lower.tail = FALSE)
  }))
  rejected <- rowMeans(p < .05)
  expect_gt(rejected[1], .12)
  expect_lt(rejected[2], .05 + 3.5 * sqrt(.05 * .95 / 300))
})

test_that("robust needs answers", {
  expect_error(sw_confirm(sw_moments(small_survey()), sw_structure(small_survey()), estimator = "robust"), class = "scalewort_error_input")
})
