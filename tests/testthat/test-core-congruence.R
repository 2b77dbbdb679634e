test_that("congruence by hand, matching and turning", {
  a <- cbind(F1 = c(.8, .6, 0), F2 = c(0, .3, .9))
  b <- cbind(c(0, -.3, -.9), c(.6, .8, .1))
  phi <- core("core_congruence")(a, b)
  expect_equal(phi[[1, 2]], (.48 + .48) / sqrt((.64 + .36) * (.36 + .64 + .01)))
  expect_equal(phi[[2, 1]], -1)
  found <- core("core_match_factors")(a, b)
  expect_equal(found$order, c(2, 1))
  expect_equal(unname(found$sign), c(1, -1))
  matched <- core("core_matched")(a, b, matrix(c(1, -.4, -.4, 1), 2))
  expect_equal(matched$loadings[, 2], c(0, .3, .9))
  expect_equal(matched$correlations[1, 2], .4)
})

test_that("the matching is the best of all assignments", {
  withr::local_seed(5)
  orders <- as.matrix(expand.grid(1:4, 1:4, 1:4, 1:4))
  orders <- orders[apply(orders, 1, function(o) !anyDuplicated(o)), ]
  for (i in 1:30) {
    a <- matrix(rnorm(40), 10)
    b <- matrix(rnorm(40), 10)
    alike <- abs(core("core_congruence")(a, b))
    best <- max(apply(orders, 1, function(o) sum(alike[cbind(1:4, o)])))
    found <- core("core_match_factors")(a, b)$order
    expect_gt(sum(alike[cbind(1:4, found)]), best - .15)
    expect_setequal(found, 1:4)
  }
})

test_that("a rigid turn is undone", {
  a <- kronecker(diag(3), c(.8, .7, .6))
  q <- qr.Q(qr(matrix(c(1, 2, 0, 3, 1, 1, 0, 2, 1), 3)))
  expect_equal(core("core_procrustes")(a %*% q, a), a, tolerance = 1e-10)
})
