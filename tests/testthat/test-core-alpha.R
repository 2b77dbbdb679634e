alpha <- core("core_alpha")
s <- cov(six_by_three)

test_that("alpha equals 1 - MS residual / MS persons of the two-way table", {
  # Worked by hand. Persons' totals 4, 8, 10, 13, 14, 5, sum 54, mean answer 3.
  # SS persons = sum of totals^2 / 3 - 54^2 / 18 = (16 + 64 + 100 + 169 + 196 +
  # 25) / 3 - 162 = 190 - 162 = 28. Items' totals 18, 18, 18: SS items = 0.
  # Sum of squared answers 1+4+1+4+9+9+9+9+16+16+25+16+25+16+25+9+1+1 = 196,
  # SS total = 196 - 162 = 34, SS residual = 34 - 28 - 0 = 6.
  # MS persons = 28 / 5 = 5.6, MS residual = 6 / 10 = .6.
  expect_equal(sum(six_by_three^2), 196)
  expect_equal(alpha(s), 1 - .6 / 5.6, tolerance = 1e-14)
})

test_that("standardised alpha is k r / (1 + (k - 1) r)", {
  r <- cor(six_by_three)
  mean_r <- mean(r[lower.tri(r)])
  expect_equal(core("core_standardised_alpha")(s), 3 * mean_r / (1 + 2 * mean_r))
})

test_that("alpha without an item is alpha of the others", {
  expected <- c(alpha(s[-1, -1]), alpha(s[-2, -2]), alpha(s[-3, -3]))
  expect_equal(core("core_alpha_without")(s), expected)
  expect_true(all(is.na(core("core_alpha_without")(s[1:2, 1:2]))))
})

test_that("item-rest r is the correlation with the sum of the others", {
  expected <- vapply(1:3, function(j) cor(six_by_three[, j], rowSums(six_by_three[, -j])), 0)
  expect_equal(unname(core("core_item_rest_r")(s)), expected)
})

test_that("Feldt's interval turns back into the F distribution", {
  estimate <- alpha(s)
  interval <- core("core_feldt_interval")(estimate, 6, 3, .95)
  # P(F(5, 10) <= (1 - lower) / (1 - estimate)) = .975, with estimate inverted
  expect_equal(pf((1 - interval[1]) / (1 - estimate), 5, 10), .975)
  expect_equal(pf((1 - interval[2]) / (1 - estimate), 5, 10), .025)
  expect_true(interval[1] < estimate && estimate < interval[2])
})

test_that("Feldt's interval covers at its nominal rate", {
  set.seed(4)
  loading <- rep(sqrt(.4), 5) # parallel items: alpha = 5 * .4 / (1 + 4 * .4)
  truth <- 5 * .4 / (1 + 4 * .4)
  inside <- replicate(1000, {
    x <- outer(rnorm(60), loading) + sqrt(.6) * matrix(rnorm(300), 60)
    bounds <- core("core_feldt_interval")(alpha(cov(x)), 60, 5)
    bounds[1] < truth && truth < bounds[2]
  })
  expect_lt(abs(mean(inside) - .95), 3 * sqrt(.95 * .05 / 1000))
})

test_that("alpha is missing where it has no meaning", {
  expect_true(is.na(alpha(matrix(1))))
  expect_true(is.na(alpha(matrix(0, 3, 3))))
  expect_true(is.na(core("core_feldt_interval")(NA, 10, 3)[1]))
})

test_that("the item that points back is found, and only it", {
  set.seed(5)
  x <- outer(rnorm(500), c(.8, .7, .6, .7)) + matrix(rnorm(2000, 0, .6), 500)
  x[, 3] <- -x[, 3]
  expect_equal(core("core_keying")(cor(x))$turned, c(FALSE, FALSE, TRUE, FALSE))
  turned <- core("core_turn")(cov(x), c(FALSE, FALSE, TRUE, FALSE))
  expect_equal(alpha(turned), alpha(cov(x * rep(c(1, 1, -1, 1), each = 500))))
  expect_false(any(core("core_keying")(diag(4))$turned))
})
