
answers_of_one_factor <- function(n, k, seed, loading = .7) {
  withr::with_seed(seed, {
    f <- rnorm(n)
    x <- vapply(seq_len(k), function(j) pmin(5, pmax(1, round(3 + loading * f + rnorm(n, 0, .8)))), numeric(n))
  })
  colnames(x) <- paste0("i", seq_len(k))
  x
}

test_that("every replicate draws n cases, the same on any machine", {
  counts <- vapply(0:4, function(i) core("core_draw_counts")(50, 7, i), integer(50))
  expect_equal(colSums(counts), rep(50L, 5))
  expect_false(identical(counts[, 1], counts[, 2]))
  expect_identical(core("core_draw_counts")(50, 7, 3), counts[, 4])
  expect_false(identical(core("core_draw_counts")(50, 8, 3), counts[, 4]))
  many <- vapply(0:1999, function(i) core("core_draw_counts")(10, 1, i), integer(10))
  expect_equal(mean(many), 1)
  # Binomial(10, 1/10): variance .9, share of zeros .9^10
  expect_equal(var(as.vector(many)), .9, tolerance = .03)
  expect_equal(mean(many == 0), .9^10, tolerance = .03)
})

test_that("weighted moments are those of the cases repeated", {
  x <- answers_of_one_factor(300, 4, 1)
  drawn <- core("core_replicate_moments")(x, first = 2, count = 3, seed = 5)
  for (i in 1:3) {
    repeated <- x[rep(1:300, core("core_draw_counts")(300, 5, i + 1)), ]
    expect_equal(drawn[[i]]$covariance, cov(repeated), tolerance = 1e-12)
    expect_equal(drawn[[i]]$mean, colMeans(repeated), tolerance = 1e-12)
  }
})

test_that("alpha and omega of a replicate are those of the same cases by the slow way", {
  x <- answers_of_one_factor(200, 6, 2)
  fast <- core("core_resample_reliability")(x, 12, seed = 3)
  for (i in c(1, 12)) {
    s <- cov(x[rep(1:200, core("core_draw_counts")(200, 3, i - 1)), ])
    expect_equal(fast[i, "alpha"][[1]], 6 / 5 * (1 - sum(diag(s)) / sum(s)), tolerance = 1e-12)
    expect_equal(fast[i, "omega"][[1]], core("core_omega")(s, 200)$omega, tolerance = 1e-8)
    expect_equal(unname(fast[i, 5:10]), core("core_alpha_without")(s), tolerance = 1e-12)
  }
  s <- cov(x[-17, ])
  left <- core("core_jackknife_reliability")(x, 17)
  expect_equal(left[1, "alpha"][[1]], core("core_alpha")(s), tolerance = 1e-12)
  expect_equal(left[1, "omega_observed"][[1]], core("core_omega")(s, 199)$omega_observed, tolerance = 1e-8)
})

test_that("the number of threads changes nothing", {
  x <- answers_of_one_factor(150, 5, 4)
  expect_identical(core("core_resample_reliability")(x, 100, 1, threads = 1L), core("core_resample_reliability")(x, 100, 1, threads = 2L))
})

test_that("two items have an alpha and no omega; a constant item leaves alpha alone", {
  two <- core("core_resample_reliability")(answers_of_one_factor(60, 2, 5), 5, 1)
  expect_true(all(is.finite(two[, "alpha"])))
  expect_true(all(is.nan(two[, "omega"])))
  x <- answers_of_one_factor(60, 4, 6)
  x[, 2] <- 3
  flat <- core("core_resample_reliability")(x, 5, 1)
  expect_true(all(is.finite(flat[, "alpha"])) && all(is.nan(flat[, "omega"])))
})

test_that("intervals by hand", {
  values <- (1:999) / 1000
  # type 7 quantile of 1..999: 1 + .025 * 998 = 25.95
  expect_equal(core("core_percentile_interval")(values, .95), c(25.95, 974.05) / 1000)
  # No bias and no acceleration: the percentile interval.
  expect_equal(core("core_bca_interval")(.5, values, c(1, 2, 3)), c(25.95, 974.05) / 1000, tolerance = 1e-9)
  # Bias only: estimate at the 60% point, shift z0 = qnorm(.6); limits at pnorm(2 z0 -+ 1.96).
  at <- pnorm(2 * qnorm(.6) + c(-1, 1) * qnorm(.975))
  expect_equal(core("core_bca_interval")(.6, values, c(1, 2, 3)), (1 + at * 998) / 1000, tolerance = 1e-3)
  # Acceleration from jackknife values 0, 0, 0, 4: deviations 1, 1, 1, -3, sum of cubes -24,
  # of squares 12; a = -24 / (6 * 12^1.5).
  a <- -24 / (6 * 12^1.5)
  z <- c(-1, 1) * qnorm(.975)
  expect_equal(core("core_bca_interval")(.5, values, c(0, 0, 0, 4)), (1 + pnorm(z / (1 - a * z)) * 998) / 1000, tolerance = 1e-9)
  expect_true(all(is.na(core("core_bca_interval")(2, values, c(1, 2, 3)))))
  expect_true(all(is.na(core("core_percentile_interval")(1:5))))
})

test_that("bootstrap intervals of alpha cover the truth about as often as they say", {
  # Population alpha of five parallel normal items with r = .5: 5 * .5 / (1 + 4 * .5)
  truth <- 5 * .5 / 3
  covered <- vapply(1:200, function(i) {
    x <- withr::with_seed(i, sqrt(.5) * rnorm(150) + matrix(rnorm(750, 0, sqrt(.5)), 150))
    values <- core("core_resample_reliability")(x, 400, i)[, "alpha"]
    left <- core("core_jackknife_reliability")(x)[, "alpha"]
    bounds <- core("core_bca_interval")(core("core_alpha")(cov(x)), values, left)
    bounds[1] < truth && truth < bounds[2]
  }, TRUE)
  # 3 standard errors of a share of .95 in 200, and what 400 replicates cost
  expect_gt(mean(covered), .95 - 3 * sqrt(.95 * .05 / 200) - .01)
  expect_lt(mean(covered), .999)
})

test_that("one factor alone gives what the general extraction gives", {
  withr::local_seed(8)
  for (i in 1:20) {
    r <- cov2cor(crossprod(matrix(rnorm(40 * 6), 40)) + 20 * tcrossprod(runif(6, -1, 1.5)))
    slow <- core("core_extract_ml")(r, 1L)
    sd <- runif(6, .5, 3)
    fast <- core("core_reliability_figures")(exact_sample(r * outer(sd, sd), 60))
    common <- sum(abs(sum(slow$loadings * sd)))^2
    expect_equal(fast[[3]], common / (common + sum(slow$uniqueness * sd^2)), tolerance = 1e-7)
  }
})

test_that("turned answers have the covariances that a structure implies, and a resample of them those of the same people turned", {
  set.seed(45)
  x <- matrix(rnorm(300 * 4), 300) %*% matrix(runif(16), 4)
  s <- cov(x) * 299 / 300
  implied <- tcrossprod(c(.8, .7, .6, .5)) + diag(c(.4, .5, .6, .7))
  turned <- core("core_turned_answers")(x, s, implied)
  expect_equal(crossprod(turned) / 300, implied)
  people <- sample(300, 300, TRUE)
  turn <- core("core_turn_to")(s, implied)
  expect_equal(cov(turned[people, ]), t(turn) %*% cov(x[people, ]) %*% turn)
})
