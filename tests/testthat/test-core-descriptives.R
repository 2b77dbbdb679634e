test_that("skewness and kurtosis follow their definitions", {
  # 1, 2, 3, 4, 10: mean 4, deviations -3 -2 -1 0 6, squares 9 4 1 0 36 (m2 = 10),
  # cubes -27 -8 -1 0 216 (m3 = 36), fourths 81 16 1 0 1296 (m4 = 278.8).
  out <- core("core_describe")(c(1, 2, 3, 4, 10), rep(1, 5))
  g1 <- 36 / 10^1.5
  g2 <- 278.8 / 100 - 3
  expect_equal(out[["skewness_simple"]], g1)
  expect_equal(out[["kurtosis_simple"]], g2)
  expect_equal(out[["skewness"]], g1 * sqrt(20) / 3)
  expect_equal(out[["kurtosis"]], 4 / (3 * 2) * (6 * g2 + 6))
})

test_that("shape is missing for a constant or too few answers", {
  expect_true(all(is.na(core("core_describe")(3, 10)[-(1:3)])))
  expect_true(is.na(core("core_describe")(1:2, c(1, 1))[["skewness"]]))
  expect_true(is.na(core("core_describe")(c(1, 2, 5), rep(1, 3))[["kurtosis"]]))
})

test_that("person scores follow the rule for missing answers", {
  x <- rbind(c(1, 2, 3), c(4, NA, 5), c(NA, NA, 2), NA)
  out <- core("core_person_scores")(x, needed = 2)
  expect_equal(out$mean, c(2, 4.5, NA, NA))
  expect_equal(out$sum, c(6, 13.5, NA, NA))
  expect_equal(out$answered, c(3, 2, 1, 0))
})
