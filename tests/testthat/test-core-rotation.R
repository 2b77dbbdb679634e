rotate <- core("core_rotate")
harman <- datasets::Harman74.cor$cov
unrotated <- core("core_extract_ml")(harman, 4L)$loadings

test_that("every rotation leaves communalities and implied correlations alone", {
  for (rotation in c("varimax", "promax", "oblimin")) {
    for (normalise in c("kaiser", "none")) {
      out <- rotate(unrotated, rotation, normalise)
      implied <- out$loadings %*% out$correlations %*% t(out$loadings)
      expect_equal(implied, tcrossprod(unrotated), tolerance = 1e-9, ignore_attr = TRUE)
      expect_equal(diag(out$correlations), rep(1, 4), tolerance = 1e-12)
      expect_equal(out$status, "ok")
    }
  }
})

test_that("gradients of the criteria agree with differences", {
  value <- core("kernel_criterion")
  set.seed(10)
  pattern <- matrix(rnorm(12), 4)
  cases <- list(list(0L, .25), list(0L, 0), list(1L, 0), list(1L, .3))
  for (case in cases) {
    numeric <- differences(function(x) value(matrix(x, 4), case[[1]], case[[2]])$value, as.vector(pattern))
    expect_equal(as.vector(value(pattern, case[[1]], case[[2]])$gradient), numeric, tolerance = 1e-7)
  }
})

test_that("criteria have the values of their definitions", {
  value <- core("kernel_criterion")
  pattern <- matrix(c(1, 2, 0, 1), 2) # squares 1 4 / 0 1
  # quartimin: sum over items of products of squares between factors, each pair
  # twice, over 4, that is 2
  expect_equal(value(pattern, 1L, 0)$value, 2)
  # Crawford-Ferguson at kappa 1: products between items within factors:
  # again 2
  expect_equal(value(pattern, 0L, 1)$value, 2)
})

test_that("varimax of two factors is the best of all angles", {
  a <- core("core_extract_ml")(harman, 2L)$loadings
  variance <- function(l) sum(apply(l^2, 2, function(x) mean(x^2) - mean(x)^2)) # Kaiser (1958)
  turn <- function(angle) a %*% matrix(c(cos(angle), sin(angle), -sin(angle), cos(angle)), 2)
  best <- optimise(function(angle) variance(turn(angle)), c(0, pi / 2), maximum = TRUE, tol = 1e-10)$objective
  other <- max(vapply(seq(0, pi / 2, length.out = 500), function(angle) variance(turn(angle)), 0))
  ours <- rotate(a, "varimax", "none")$loadings
  expect_equal(variance(ours), max(best, other), tolerance = 1e-8)
})

test_that("oblimin recovers a perfect simple structure exactly", {
  pattern <- two_factor_loadings
  a <- pattern %*% t(chol(two_factor_r))
  set.seed(11)
  a <- a %*% qr.Q(qr(matrix(rnorm(4), 2)))
  out <- rotate(a, "oblimin", "none")
  order <- order(-abs(out$loadings[1, ]))
  sign <- sign(colSums(out$loadings[, order]))
  expect_equal(out$loadings[, order] * rep(sign, each = 6), pattern, tolerance = 1e-6, ignore_attr = TRUE)
  expect_equal(abs(out$correlations[1, 2]), .4, tolerance = 1e-6)
})

test_that("no random start does better than the minimum kept", {
  kept <- rotate(unrotated, "oblimin", starts = 30L, seed = 1)$value
  many <- rotate(unrotated, "oblimin", starts = 300L, seed = 99)$values
  expect_gt(min(many), kept - 1e-8)
})

test_that("promax at power 1 hardly moves from varimax, and factors correlate more with power", {
  flat <- rotate(unrotated, "promax", power = 1)
  expect_equal(flat$correlations, diag(4), tolerance = 1e-6)
  steep <- rotate(unrotated, "promax", power = 4)
  expect_gt(max(abs(steep$correlations[lower.tri(diag(4))])), .1)
})

test_that("factors are ordered by variance explained and point upwards", {
  out <- core("core_order_factors")(-unrotated[, 4:1], diag(4))
  explained <- core("core_variance_explained")(out$loadings, out$correlations)
  expect_false(is.unsorted(rev(explained)))
  expect_true(all(colSums(out$loadings) > 0))
  expect_equal(sum(explained), sum(unrotated^2))
})

test_that("one factor or `none` is left as it is", {
  expect_identical(rotate(unrotated, "none")$loadings, unrotated)
  expect_identical(rotate(unrotated[, 1, drop = FALSE], "oblimin")$loadings, unrotated[, 1, drop = FALSE])
})
