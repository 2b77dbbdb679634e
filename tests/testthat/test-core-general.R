
test_that("a perfect general factor is found again", {
  # Three oblique factors of four items each, loadings .8, .7, .6, .5; their loadings on
  # the general factor .9, .8, .7: general = loading * upper, group = loading * sqrt(1 - upper^2).
  upper <- c(.9, .8, .7)
  pattern <- kronecker(diag(3), c(.8, .7, .6, .5))
  phi <- tcrossprod(upper) + diag(1 - upper^2)
  r <- pattern %*% phi %*% t(pattern)
  diag(r) <- 1
  found <- core("core_general_factor")(r, 3)
  expect_equal(unname(found$general), as.vector(pattern %*% upper), tolerance = 1e-5)
  expect_equal(sort(abs(found$group[1, ]))[3], .8 * sqrt(1 - .81), tolerance = 1e-4)
  # Sum of 12 items: general (2.6 * 2.4)^2, each group (2.6)^2 (1 - upper^2).
  sums <- core("core_general_shares")(found$general, found$group, rep(1, 12))
  general <- (2.6 * sum(upper))^2
  group <- 2.6^2 * sum(1 - upper^2)
  expect_equal(sums[["omega_hierarchical"]], general / sum(r), tolerance = 1e-5)
  expect_equal(sums[["omega_total"]], (general + group) / sum(r), tolerance = 1e-5)
  squares <- sum(c(.8, .7, .6, .5)^2)
  expect_equal(sums[["explained_common"]], squares * sum(upper^2) / (squares * 3), tolerance = 1e-4)
})

test_that("two group factors share the general factor equally; none without it", {
  expect_equal(core("core_upper_loadings")(matrix(c(1, .49, .49, 1), 2)), c(.7, .7))
  expect_null(core("core_upper_loadings")(matrix(c(1, -.3, -.3, 1), 2)))
  pattern <- kronecker(diag(2), c(.8, .7, .6, .7))
  r <- pattern %*% matrix(c(1, -.4, -.4, 1), 2) %*% t(pattern)
  diag(r) <- 1
  # The factors can be turned to go together: one of them is counted backwards.
  found <- core("core_general_factor")(r, 2)
  expect_equal(found$status, "no_general_factor")
})
