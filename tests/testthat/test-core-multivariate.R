test_that("Mardia's measures equal their n by n definitions", {
  set.seed(41)
  x <- matrix(rexp(240), 60)
  centred <- scale(x, scale = FALSE)
  d <- centred %*% solve(crossprod(centred) / 60) %*% t(centred)
  out <- core("core_mardia")(x)
  expect_equal(out$skewness, sum(d^3) / 60^2, tolerance = 1e-10)
  expect_equal(out$kurtosis, mean(diag(d)^2), tolerance = 1e-10)
  expect_equal(out$skewness_df, 4 * 5 * 6 / 6)
  expect_equal(out$skewness_statistic, 60 * out$skewness / 6)
  expect_equal(out$kurtosis_statistic, (out$kurtosis - 24) / sqrt(8 * 24 / 60))
  expect_null(core("core_mardia")(x[1:3, ]))
  # Fewer people than items squared: by pairs of people, the same figure.
  wide <- matrix(rexp(40 * 8), 40)
  centred <- scale(wide, scale = FALSE)
  expect_equal(core("core_mardia")(wide)$skewness, sum((centred %*% solve(crossprod(centred) / 40) %*% t(centred))^3) / 40^2, tolerance = 1e-10)
})

test_that("distances equal their definition, with and without missing answers", {
  set.seed(42)
  x <- matrix(rnorm(120), 30)
  m <- colMeans(x)
  s <- cov(x)
  expect_equal(core("core_distances")(x, m, s)$distance, apply(x, 1, function(row) drop((row - m) %*% solve(s) %*% (row - m))))
  x[1, 2] <- NA
  x[2, ] <- NA
  out <- core("core_distances")(x, m, s)
  gap <- x[1, -2] - m[-2]
  expect_equal(out$distance[1], drop(gap %*% solve(s[-2, -2]) %*% gap))
  expect_true(is.na(out$distance[2]))
  expect_equal(out$df[1:3], c(3, 0, 4))
})
