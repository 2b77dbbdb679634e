rotate <- core("core_rotate")
harman <- datasets::Harman74.cor$cov
unrotated <- core("core_extract_ml")(harman, 4L)$loadings

test_that("every rotation leaves communalities and implied correlations alone", {
  names <- setdiff(core("option_choices")("explore", "rotation"), c("target", "none"))
  for (rotation in names) {
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
  withr::local_seed(10)
  pattern <- matrix(rnorm(12), 4)
  target <- matrix(c(0, NA, 1, 0, NA, 0, 0, .5, 0, 0, NA, 1), 4)
  cases <- list(list("crawford_ferguson", .25), list("crawford_ferguson", 0), list("oblimin", 0), list("oblimin", .3), list("geomin", .01),
    list("infomax", 0), list("target", 0), list("bigeomin", .02))
  for (case in cases) {
    numeric <- differences(function(x) value(matrix(x, 4), case[[1]], case[[2]], target)$value, as.vector(pattern))
    expect_equal(as.vector(value(pattern, case[[1]], case[[2]], target)$gradient), numeric, tolerance = 1e-6)
  }
})

test_that("criteria have the values of their definitions", {
  value <- function(...) core("kernel_criterion")(..., matrix(0, 1, 1))$value
  pattern <- matrix(c(1, 2, 0, 1), 2) # squares 1 4 / 0 1
  # quartimin: sum over items of products of squares between factors, each pair
  # twice, over 4, that is 2
  expect_equal(value(pattern, "oblimin", 0), 2)
  # Crawford-Ferguson at kappa 1: products between items within factors:
  # again 2
  expect_equal(value(pattern, "crawford_ferguson", 1), 2)
  # geomin, epsilon .5: sqrt(1.5 * .5) + sqrt(4.5 * 1.5)
  expect_equal(value(pattern, "geomin", .5), sqrt(.75) + sqrt(6.75))
  # bigeomin looks at the second column only: .5 + 1.5
  expect_equal(value(pattern, "bigeomin", .5), 2)
  # infomax: shares 1/6, 4/6, 0, 1/6; rows 1/6, 5/6; columns 5/6, 1/6
  entropy <- function(x) -sum(x[x > 0] * log(x[x > 0]))
  expect_equal(value(pattern, "infomax", 0), log(2) + entropy(c(1, 4, 1) / 6) - 2 * entropy(c(1, 5) / 6))
  # target with a free cell: (1 - 1)^2 + (0 - .2)^2 + (1 - 0)^2
  expect_equal(core("kernel_criterion")(pattern, "target", 0, matrix(c(1, NA, .2, 0), 2))$value, 1.04)
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

test_that("every oblique rotation recovers a perfect simple structure, and its target", {
  pattern <- kronecker(diag(3), c(.8, .7, .6))
  phi <- matrix(c(1, .3, .2, .3, 1, .4, .2, .4, 1), 3)
  start <- pattern %*% t(chol(phi)) %*% qr.Q(qr(matrix(c(1, 2, 3, 0, 1, 1, 2, 0, 1), 3)))
  for (rotation in c("oblimin", "quartimin", "geomin", "infomax", "target")) {
    out <- rotate(start, rotation, target = ifelse(pattern == 0, 0, NA), epsilon = 1e-4)
    found <- core("core_order_factors")(out$loadings, out$correlations)
    at <- apply(abs(crossprod(pattern, found$loadings)), 1, which.max)
    expect_equal(abs(found$loadings[, at]), pattern, tolerance = if (rotation == "geomin") .02 else 1e-5, ignore_attr = TRUE)
  }
})

test_that("direct bifactor rotation finds a general factor beside group factors", {
  pattern <- cbind(rep(.6, 12), kronecker(diag(3), c(.5, .4, .5, .45)))
  turn <- qr.Q(qr(matrix(c(2, 1, 0, 1, 0, 3, 1, 1, 1, 0, 2, 1, 1, 2, 0, 1), 4)))
  out <- rotate(pattern %*% turn, "bigeomin", normalise = "none", epsilon = 1e-4)
  expect_equal(abs(out$loadings[, 1]), rep(.6, 12), tolerance = .01)
  expect_equal(out$correlations, diag(4), tolerance = 1e-10)
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

test_that("distinct minima are told apart, counted and ordered", {
  for (rotation in c("geomin", "infomax", "varimax", "bigeomin")) {
    out <- rotate(unrotated, rotation, starts = 40L)
    values <- vapply(out$minima, `[[`, 0, "value")
    expect_false(is.unsorted(values, strictly = TRUE))
    expect_equal(sum(vapply(out$minima, `[[`, 0L, "times")), sum(!is.nan(out$values)))
    expect_equal(values[1], out$value, tolerance = 1e-9)
    expect_equal(abs(out$minima[[1]]$loadings[1, ]) |> sort(), abs(out$loadings[1, ]) |> sort(), tolerance = 1e-4)
  }
})

test_that("at the minimum the gradient along the allowed turns is zero", {
  value <- core("kernel_criterion")
  for (rotation in c("geomin", "infomax", "quartimin", "equamax")) {
    out <- rotate(unrotated, rotation, normalise = "none")
    g <- value(out$loadings, out$criterion$criterion, out$criterion$parameter, matrix(0, 1, 1))$gradient
    inner <- crossprod(out$loadings, g) %*% solve(out$correlations)
    flat <- if (out$criterion$oblique) inner[row(inner) != col(inner)] else (inner - t(inner))[lower.tri(inner)]
    expect_lt(max(abs(flat)), 1e-6)
  }
})

test_that("no random start of a thousand does better", {
  for (rotation in c("geomin", "oblimin", "varimax")) {
    kept <- rotate(unrotated, rotation)$value
    many <- rotate(unrotated, rotation, starts = 1000L, seed = 99)$values
    expect_gt(min(many, na.rm = TRUE), kept - 1e-8)
  }
})

test_that("the number of threads changes nothing", {
  expect_identical(rotate(unrotated, "geomin", threads = 1L), rotate(unrotated, "geomin", threads = 2L))
})
