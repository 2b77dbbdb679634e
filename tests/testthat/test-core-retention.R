random <- core("kernel_random_eigenvalues")

test_that("random eigenvalues are those of sample correlations of unrelated normal items", {
  set.seed(6)
  by_hand <- t(replicate(2000, eigen(cor(matrix(rnorm(40 * 5), 40)), TRUE, only.values = TRUE)$values))
  drawn <- random(40L, 5L, 2000L, 7)
  error <- sqrt(apply(by_hand, 2, var) / 2000 + apply(drawn, 2, var) / 2000)
  expect_true(all(abs(colMeans(by_hand) - colMeans(drawn)) < 4 * error))
  expect_equal(apply(drawn, 2, sd), apply(by_hand, 2, sd), tolerance = .1)
  expect_equal(rowSums(drawn), rep(5, 2000))
  expect_true(all(diff(t(drawn)) <= 0))
})

test_that("a seed fixes each replicate, whatever their number", {
  expect_identical(random(30L, 4L, 10L, 3), random(30L, 4L, 20L, 3)[1:10, ])
  expect_false(identical(random(30L, 4L, 10L, 3), random(30L, 4L, 10L, 4)))
  before <- .Random.seed
  random(30L, 4L, 10L, 3)
  expect_identical(.Random.seed, before)
})

test_that("only eigenvalues in a row from the first count", {
  count <- core("core_count_above")
  expect_equal(count(c(3, 2, 1), c(2, 1.5, 1.2)), 2)
  expect_equal(count(c(1, 2, 1), c(2, 1.5, 1.2)), 0)
  expect_equal(count(c(3, 2), c(1, 1)), 2)
})
