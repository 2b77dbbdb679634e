complete <- core("core_complete_moments")
pairwise <- core("core_pairwise_moments")

test_that("complete moments equal mean() and cov() of the complete rows", {
  set.seed(1)
  x <- matrix(rnorm(1500 * 4, 50, 3), ncol = 4, dimnames = list(NULL, letters[1:4]))
  x[sample(length(x), 300)] <- NA
  full <- x[rowSums(is.na(x)) == 0, ]
  out <- complete(x)
  expect_equal(out$status, "ok")
  expect_equal(out$n, nrow(full))
  expect_equal(out$mean, colMeans(full), tolerance = 1e-13)
  expect_equal(out$covariance, cov(full), tolerance = 1e-12)
})

test_that("a huge offset costs no digits", {
  set.seed(2)
  x <- matrix(rnorm(3000), ncol = 3)
  shifted <- complete(x + 1e9)$covariance
  expect_equal(shifted, cov(x), tolerance = 1e-6, ignore_attr = TRUE)
})

test_that("integers work, and rows that are all missing are left out", {
  x <- rbind(six_by_three, NA)
  storage.mode(x) <- "integer"
  expect_equal(complete(x)$covariance, cov(six_by_three))
  expect_equal(complete(x)$n, 6)
})

test_that("columns are read where they lie: reversed, kept in part, whole or real", {
  set.seed(5)
  columns <- list(a = sample(c(1:5, NA), 40000, TRUE), b = rnorm(40000), c = sample(1:5, 40000, TRUE))
  columns$b[7] <- NA
  keep <- runif(40000) < .7
  out <- core("core_column_moments")(columns, c(6, 0, 0), c(-1, 1, 1), keep)
  x <- cbind(a = 6 - columns$a, b = columns$b, c = columns$c)[keep, ]
  x <- x[rowSums(is.na(x)) == 0, ]
  expect_equal(out$n, nrow(x))
  expect_equal(out$mean, colMeans(x), tolerance = 1e-12)
  expect_equal(out$covariance, cov(x), tolerance = 1e-12)
})

test_that("a tally counts options, missing and outside", {
  out <- core("kernel_tally")(c(1L, 3L, 3L, NA, 9L, 0L, 2L), 1L, 3L, NULL)
  expect_equal(out, list(counts = c(1, 1, 2), missing = 1, outside = 2))
  kept <- core("kernel_tally")(c(1L, 3L, 3L, NA), 1L, 3L, c(TRUE, FALSE, TRUE, TRUE))
  expect_equal(kept$counts, c(1, 0, 1))
})

test_that("fewer than two complete rows have their own status", {
  expect_equal(complete(six_by_three[1, , drop = FALSE])$status, "too_few_cases")
  expect_equal(complete(matrix(NA_real_, 5, 2))$status, "too_few_cases")
  expect_true(all(is.na(complete(matrix(NA_real_, 5, 2))$covariance)))
})

test_that("pairwise moments equal cov() of each pair", {
  set.seed(3)
  x <- matrix(rnorm(400), ncol = 4)
  x[sample(400, 80)] <- NA
  out <- pairwise(x)
  expect_equal(out$covariance, cov(x, use = "pairwise.complete.obs"), tolerance = 1e-12, ignore_attr = TRUE)
  expect_equal(out$pairs[1, 2], sum(!is.na(x[, 1]) & !is.na(x[, 2])), ignore_attr = TRUE)
  expect_equal(out$n, min(crossprod(!is.na(x))))
})

test_that("correlations of an item without variance are missing", {
  s <- cov(cbind(a = 1:4, b = c(2, 1, 4, 3), flat = 1))
  r <- core("core_correlation")(s)
  expect_equal(r["a", "b"], cor(1:4, c(2, 1, 4, 3)))
  expect_true(all(is.na(r["flat", ])))
})
