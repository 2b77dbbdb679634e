# Omega of the sum of ordered answers, and options joined.

ordered_omega <- function(r, loadings, thresholds, steps) {
  parts <- core("ordered_parts")(r, loadings, core("ordered_pairs")(thresholds, steps))
  parts$common / parts$observed
}

test_that("of 0/1 answers split at the middle it is what the arcsine says", {
  loadings <- c(.8, .7, .6, .5)
  r <- tcrossprod(loadings)
  diag(r) <- 1
  # P(X > 0, Y > 0) - 1/4 = asin(r) / (2 pi).
  by_hand <- sum(asin(tcrossprod(loadings))) / sum(asin(r))
  found <- ordered_omega(r, loadings, rep(list(0), 4), rep(list(1), 4))
  expect_equal(found, by_hand, tolerance = 1e-8)
  # The unit of the answers does not matter, unequal steps do.
  expect_equal(ordered_omega(r, loadings, rep(list(0), 4), rep(list(3), 4)), found)
})

test_that("it is the correlation of two sums of answers to the same items", {
  loadings <- c(.8, .6, .5)
  cuts <- c(.4, 1.2)
  n <- 2e5
  sums <- withr::with_seed(1, {
    factor <- rnorm(n)
    replicate(2, rowSums(matrix(findInterval(outer(factor, loadings) + matrix(rnorm(3 * n), n) %*% diag(sqrt(1 - loadings^2)), cuts), n)))
  })
  r <- tcrossprod(loadings)
  diag(r) <- 1
  expect_equal(ordered_omega(r, loadings, rep(list(cuts), 3), rep(list(c(1, 1)), 3)), cor(sums)[1, 2], tolerance = .01)
})

test_that("reliability gives it with an interval that the bootstrap bears out", {
  survey <- sw_simulate(sw_structure(s = paste0("s", 1:5)), 400, loading = .6, categories = 3, skew = 1, seed = 5)
  row <- tidy(sw_reliability(survey))
  expect_lt(abs(row$omega_sum - row$omega), .03)
  expect_gt(row$omega_ordinal, row$omega_sum)
  x <- as.matrix(survey$answers)
  values <- withr::with_seed(3, replicate(60, {
    p <- core("core_polychoric")(core("named_columns")(x[sample(400, 400, TRUE), ]))
    core("core_ordered_reliability")(p$r, p$thresholds, lapply(p$values, diff), n = 400)$omega
  }))
  expect_equal((row$omega_sum_high - row$omega_sum_low) / (2 * 1.96), sd(values), tolerance = .3)
})

test_that("rare options are joined by the rule, on record", {
  joined <- core("core_joined_options")(1:5, c(2, 30, 50, 4, 3), 5)
  # 1 with 2; 5 with 4, as 4, which then has seven.
  expect_equal(joined$to, c(2, 2, 3, 4, 4))
  expect_equal(core("core_joined_options")(1:3, c(1, 1, 1), 5)$to, c(2, 2, 3) |> replace(1:2, core("core_joined_options")(1:3, c(1, 1, 1), 5)$to[1]))
  expect_equal(core("core_joined_options")(c(0, 1), c(1, 99), 5)$to, c(0, 1))
  survey <- sw_demo("plotholders")
  least <- 60
  out <- sw_join_options(survey, least = least, items = "craft")
  counts <- table(out$answers$craft1)
  expect_true(all(counts >= least))
  expect_match(utils::tail(sw_log(out)$detail, 1), "fewer than 60 people: craft1: ")
  expect_equal(out$answers$calm1, survey$answers$calm1)
  expect_match(utils::tail(sw_log(sw_join_options(survey, least = 1))$detail, 1), "no option")
  expect_error(sw_join_options(survey, items = "nothing"), class = "scalewort_error_input")
})

test_that("the slopes of the reliability agree with small steps in every threshold and correlation", {
  withr::local_seed(3)
  loadings <- c(.5, .6, .7, .8, .55, .65)
  r <- cor(simulate_answers(400, matrix(loadings)))
  thresholds <- lapply(c(2, 3, 1, 4, 2, 3), function(k) sort(stats::rnorm(k)))
  steps <- lapply(thresholds, function(own) rep(1, length(own)))
  found <- core("core_omega")(r, 400)
  pairs <- core("ordered_pairs")(thresholds, steps)
  slopes <- core("core_ordered_slopes")(r, found$loadings, found$unique, pairs, core("ordered_parts")(r, found$loadings, pairs))
  below <- lower.tri(r)
  theta <- c(unlist(thresholds), r[below])
  at <- function(theta) {
    own <- r
    own[below] <- theta[-seq_len(15)]
    own[upper.tri(own)] <- t(own)[upper.tri(own)]
    ordered_omega(own, core("core_omega")(own, 400)$loadings, utils::relist(theta[1:15], thresholds), steps)
  }
  stepped <- vapply(seq_along(theta), function(k) (at(replace(theta, k, theta[k] + 1e-4)) - at(replace(theta, k, theta[k] - 1e-4))) / 2e-4, 0)
  expect_equal(slopes, stepped, tolerance = 1e-6)
})
