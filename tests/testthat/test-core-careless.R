x <- rbind(c(3, 3, 3, 3, 3, 3), c(1, 2, 2, 2, NA, 2), c(5, 1, 4, 2, 3, 3), c(NA, NA, 4, 4, 1, 1))

test_that("runs, spreads and contradictions follow their definitions", {
  expect_equal(core("core_longest_run")(x), c(6, 3, 2, 2))
  expect_equal(core("core_row_sd")(x), apply(x, 1, sd, na.rm = TRUE))
  expect_true(is.na(core("core_row_sd")(matrix(c(1, NA), 1))))
  # forward items 1 and 2, reversed 3 and 4 (keyed), range 4: row 3 has 3 against 3
  gap <- core("core_contradiction")(x, list(1:2), list(3:4), 4)
  expect_equal(gap, c(0, abs(1.5 - 2) / 4, 0, NA))
})

test_that("even-odd consistency is the stepped-up correlation of half means", {
  y <- rbind(c(1, 2, 3, 3, 5, 4), c(5, 1, 1, 5, 3, 3))
  scales <- list(1:2, 3:4, 5:6)
  r <- c(cor(c(1, 3, 5), c(2, 3, 4)), cor(c(5, 1, 3), c(1, 5, 3)))
  expect_equal(core("core_even_odd")(y, scales), ifelse(r < 0, r, 2 * r / (1 + r)))
  expect_true(all(is.na(core("core_even_odd")(y, scales[1:2]))))
})

test_that("people are gone through alike however many they are, and equal answers spread by nothing at all", {
  set.seed(63)
  x <- matrix(sample(c(1:5, NA), 700 * 12, TRUE), 700)
  x[1:3, ] <- c(1.1, 2.3, 4)
  scales <- split(1:12, rep(1:4, each = 3))
  sd_of <- function(row) if (sum(!is.na(row)) < 2) NA else sd(row, na.rm = TRUE)
  expect_equal(core("core_row_sd")(x), apply(x, 1, sd_of))
  page <- t(apply(x, 1, function(row) vapply(scales, function(own) sd_of(row[own])^2, 0)))
  few <- rowSums(!is.na(page)) < 2
  expect_equal(core("core_page_variance")(x, scales, rep(1, 12)), ifelse(few, NA, rowMeans(page, na.rm = TRUE)))
  # Exactly nothing, whatever the answer.
  expect_identical(core("core_page_variance")(x[1:3, ], scales, rep(.3, 12)), c(0, 0, 0))
  halves <- function(row, at) vapply(scales, function(own) mean(row[own[at]], na.rm = TRUE), 0)
  by_hand <- apply(x, 1, function(row) {
    odd <- halves(row, c(1, 3))
    even <- halves(row, 2)
    both <- !is.na(odd) & !is.na(even)
    if (sum(both) < 3 || sd(odd[both]) == 0 || sd(even[both]) == 0) return(NA)
    r <- cor(odd[both], even[both])
    if (r < 0) r else 2 * r / (1 + r)
  })
  expect_equal(core("core_even_odd")(x, scales), by_hand)
})

test_that("bands hold about equal numbers and keep ties together", {
  bands <- core("core_bands")
  expect_equal(bands(1:9, 3), rep(1:3, each = 3))
  expect_equal(bands(c(2, 1, 1, 2, 3, 3), 3), c(2, 1, 1, 2, 3, 3))
  expect_equal(bands(c(1, 1, 1, 1, 1, 1), 3), rep(2, 6))
  expect_true(is.na(bands(c(1, NA, 3), 2)[2]))
})

test_that("the best signs are the best of all, and the approximate search agrees", {
  set.seed(61)
  signs <- sample(c(-1, 1), 8, TRUE)
  r <- cor(outer(rnorm(200), signs * runif(8, .5, .9)) + matrix(rnorm(1600, 0, .6), 200))
  exact <- core("core_best_signs")(r)
  near <- core("core_best_signs")(r, exact = 2)
  expect_equal(exact * exact[1], signs * signs[1])
  expect_equal(near * near[1], exact * exact[1])
  expect_gte(sum(exact), 0)
  brute <- as.matrix(expand.grid(rep(list(c(-1, 1)), 8)))
  expect_equal(drop(exact %*% r %*% exact), max(rowSums((brute %*% r) * brute)))
})

test_that("an item that belongs nowhere is unclear, not reversed", {
  set.seed(62)
  x <- cbind(outer(rnorm(400), rep(.8, 4)) + matrix(rnorm(1600, 0, .6), 400), rnorm(400))
  out <- core("core_keying")(cor(x))
  expect_equal(out$unclear, c(FALSE, FALSE, FALSE, FALSE, TRUE))
  expect_false(any(out$turned))
})
