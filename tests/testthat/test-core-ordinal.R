structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
items <- paste0("i", 1:6)

# Ordered answers cut from normal ones.
ordered_answers <- function(n, cuts, seed) {
  x <- simulate_answers(n, two_factor_loadings, two_factor_r, seed = seed)
  x[] <- findInterval(x, cuts) + 1
  colnames(x) <- items
  x
}
survey_of <- function(x) sw_survey(as.data.frame(x), data.frame(item = items, scale = "s", lowest = 1, highest = max(x, na.rm = TRUE)))

test_that("loadings behind 2, 3 and 5 categories come back, which product-moment ones do not", {
  for (cuts in list(.3, c(-.5, .8), c(-1.5, -.5, .5, 1.2))) {
    survey <- survey_of(ordered_answers(6000, cuts, 41))
    fit <- sw_confirm(survey, structure, estimator = "ordinal")
    expect_lt(max(abs(tidy(fit, "loadings")$standardised - c(.8, .7, .6, .75, .65, .55))), .05)
    expect_lt(max(sw_confirm(survey, structure, estimator = "ml")$tables$loadings$standardised - c(.8, .7, .6, .75, .65, .55)), 0)
    expect_equal(tidy(fit, "thresholds")$estimate[seq_along(cuts)], cuts, tolerance = .1)
  }
})

test_that("the adjusted test keeps its level and errors are the spread over samples, with 2, 3 and 5 categories", {
  for (cuts in list(.3, c(-.5, .8), c(-1.5, -.5, .5, 1.2))) {
    draws <- vapply(1:150, function(i) {
      fit <- sw_confirm(survey_of(ordered_answers(400, cuts, 5000 + i)), structure, estimator = "ordinal")
      c(fit$parts$figures$p_scaled, fit$tables$loadings$standardised, fit$tables$loadings$standardised_error)
    }, numeric(13))
    expect_lt(abs(mean(draws[1, ] < .05) - .05), 3.2 * sqrt(.05 * .95 / 150))
    expect_equal(mean(rowMeans(draws[8:13, ]) / apply(draws[2:7, ], 1, sd)), 1, tolerance = .08)
  }
})

test_that("fit, errors and test by the slow way", {
  x <- ordered_answers(500, c(-.5, .8), 61)
  found <- core("source_pairs")(survey_of(x), items, TRUE, TRUE)
  gamma <- found$covariance[-(1:12), -(1:12)]
  fit <- sw_confirm(survey_of(x), structure, estimator = "ordinal")
  strict <- lower.tri(found$r)
  w <- 1 / diag(gamma)
  implied <- function(t) {
    l <- cbind(c(t[1:3], 0, 0, 0), c(0, 0, 0, t[4:6]))
    (l %*% matrix(c(1, t[7], t[7], 1), 2) %*% t(l))[strict]
  }
  slow <- optim(c(two_factor_loadings[1:3, 1], two_factor_loadings[4:6, 2], .4), function(t) sum(w * (found$r[strict] - implied(t))^2),
    method = "BFGS",
    control = list(reltol = 1e-15))
  expect_equal(fit$parts$theta, unname(slow$par), tolerance = 1e-4)
  expect_equal(fit$parts$figures$chi_square, 500 * slow$value, tolerance = 1e-7)
  j <- differences(implied, fit$parts$theta)
  bread <- solve(t(j) %*% diag(w) %*% j)
  expect_equal(fit$parts$estimates_covariance, bread %*% t(j) %*% diag(w) %*% gamma %*% diag(w) %*% j %*% bread / 500, tolerance = 1e-5,
    ignore_attr = TRUE)
  u <- (diag(w) - diag(w) %*% j %*% bread %*% t(j) %*% diag(w)) %*% gamma
  a <- sqrt(8 / sum(diag(u %*% u)))
  expect_equal(fit$parts$figures$chi_square_scaled, 500 * slow$value * a + 8 - a * sum(diag(u)), tolerance = 1e-5)
})

test_that("two structures that differ in nothing are compared without harm; the difference of nested ones keeps its level", {
  p <- vapply(1:100, function(i) {
    survey <- survey_of(ordered_answers(400, c(-.5, .8), 7000 + i))
    strict <- sw_confirm(survey, sw_item_model(structure, "one", "tau") |> sw_item_model("two", "tau"), estimator = "ordinal")
    free <- sw_confirm(survey, sw_add_pair(structure, "i1", "i4"), estimator = "ordinal")
    plain <- sw_confirm(survey, structure, estimator = "ordinal")
    c(sw_compare(plain, free)$tables$tests$p.value, sw_compare(strict, plain)$tables$tests$p.value)
  }, numeric(2))
  expect_lt(abs(mean(p[1, ] < .05) - .05), 3.2 * sqrt(.05 * .95 / 100))
  # equal loadings are wrong, and found so
  expect_gt(mean(p[2, ] < .05), .5)
})

test_that("what cannot be done with ordered answers is said", {
  survey <- survey_of(ordered_answers(300, c(-.5, .8), 71))
  expect_error(sw_confirm(survey, sw_item_model(structure, "one", "parallel"), estimator = "ordinal"), class = "scalewort_error_structure")
  expect_error(sw_confirm(sw_moments(survey), structure, estimator = "ordinal"), class = "scalewort_error_input")
  expect_error(sw_confirm(survey, structure, estimator = "ordinal", missing = "fiml"), class = "scalewort_error_input")
  expect_match(paste(sw_confirm(survey, structure, estimator = "ordinal")$notes, collapse = " "), "polychoric")
})

test_that("with missing answers errors of pairwise correlations are those of leaving out single cases", {
  x <- ordered_answers(150, c(-.5, .8), 71)
  x[withr::with_seed(1, matrix(runif(900) < .15, 150))] <- NA
  x <- x[rowSums(!is.na(x)) > 1, ]
  n <- nrow(x)
  correlations <- function(rows) core("source_pairs")(survey_of(x[rows, ]), items, FALSE)$r[lower.tri(diag(6))]
  left_out <- t(vapply(seq_len(n), function(i) correlations(-i), numeric(15)))
  jackknife <- sqrt((n - 1) / n * colSums(sweep(left_out, 2, colMeans(left_out))^2))
  found <- core("source_pairs")(survey_of(x), items, FALSE, TRUE)
  expect_equal(sqrt(diag(found$covariance)[13:27] / n), jackknife, tolerance = .06)
  fit <- sw_confirm(survey_of(x), structure, estimator = "ordinal")
  expect_equal(fit$about$missing, "pairwise")
  expect_equal(fit$about$n, n)
  expect_match(sentences_of(fit), "everyone who had answered both")
  expect_lt(sw_confirm(survey_of(x), structure, estimator = "ordinal", missing = "listwise")$about$n, n)
})
