survey <- sw_demo("plotholders")
items <- paste0("i", 1:6)
two <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
x <- simulate_answers(500, two_factor_loadings, two_factor_r, seed = 91)
colnames(x) <- items
of <- function(x) sw_survey(as.data.frame(x), data.frame(item = colnames(x), scale = "s", lowest = -99, highest = 99))

test_that("free intercepts are the means and change no fit", {
  plain <- sw_confirm(of(x), two)
  with_means <- sw_confirm(of(x), sw_add_means(two))
  expect_equal(with_means$parts$figures$chi_square, plain$parts$figures$chi_square, tolerance = 1e-6)
  expect_equal(with_means$parts$figures$df, plain$parts$figures$df)
  expect_equal(tidy(with_means, "intercepts")$estimate, unname(colMeans(x)), tolerance = 1e-8)
  expect_equal(tidy(with_means, "intercepts")$std.error, tidy(plain, "intercepts")$std.error, tolerance = 1e-6)
  expect_equal(with_means$parts$figures$aic, plain$parts$figures$aic, tolerance = 1e-8)
})

test_that("a mean that is estimated with one intercept fixed says the same in other words", {
  shifted <- sweep(x, 2, c(2, 2, 2, 0, 0, 0), "+")
  structure <- sw_add_means(two, factors = "one", intercepts = c(i1 = 0))
  fit <- sw_confirm(of(shifted), structure)
  expect_equal(fit$parts$figures$chi_square, sw_confirm(of(x), two)$parts$figures$chi_square, tolerance = 1e-5)
  mean <- subset(tidy(fit, "factors"), kind == "mean")$estimate
  loading <- subset(tidy(fit, "loadings"), item == "i1")$estimate
  expect_equal(mean * loading, unname(colMeans(shifted)[1]), tolerance = 1e-6)
  expect_error(sw_confirm(of(x), sw_add_means(two, factors = "one")), class = "scalewort_error_structure")
})

test_that("equal intercepts cost a degree of freedom each, and hold or not", {
  equal <- sw_add_means(two, equal = items[1:3])
  fit <- sw_confirm(of(x), equal)
  expect_equal(fit$parts$figures$df, 10)
  expect_equal(length(unique(round(tidy(fit, "intercepts")$estimate[1:3], 10))), 1)
  off <- sweep(x, 2, c(.6, 0, 0, 0, 0, 0), "+")
  expect_gt(sw_confirm(of(off), equal)$parts$figures$chi_square, fit$parts$figures$chi_square + 50)
  test <- sw_compare(equal = sw_confirm(of(off), equal), free = sw_confirm(of(off), sw_add_means(two)))$tables$tests
  expect_equal(test$nested, "yes")
  expect_lt(test$p.value, .001)
  robust <- sw_confirm(of(x), equal, estimator = "robust")
  expect_equal(robust$parts$figures$scale, 1, tolerance = .15)
})

test_that("means are read from YAML, and refused where they cannot be used", {
  path <- withr::local_tempfile(fileext = ".yml")
  writeLines(c("factors:", "  one: [i1, i2, i3]", "  two: [i4, i5, i6]", "means:", "  equal:", "    - [i1, i2]",
    "bounds:", "  - {one: one, other: two, low: 0, high: 1}"), path)
  structure <- sw_structure(path)
  expect_equal(structure$means$equal, list(c("i1", "i2")))
  expect_equal(structure$bounds[[1]]$high, 1)
  expect_error(sw_confirm(of(x), structure, estimator = "gls"), class = "scalewort_error_structure")
  expect_error(sw_confirm(sw_moments(cov(x), n = 500), structure), class = "scalewort_error_structure")
  expect_equal(sw_confirm(sw_moments(cov(x), n = 500, mean = colMeans(x)), structure)$parts$figures$df, 9)
})

test_that("bounds hold, and are named when they do", {
  free <- sw_confirm(of(x), two)
  r <- tidy(free, "factor_correlations")$correlation
  same <- sw_confirm(of(x), sw_constrain(two, "one", "two", low = -1, high = 1))
  expect_equal(same$parts$figures$chi_square, free$parts$figures$chi_square, tolerance = 1e-8)
  held <- sw_confirm(of(x), sw_constrain(two, "one", "two", high = r - .2))
  expect_equal(tidy(held, "factor_correlations")$correlation, r - .2)
  expect_match(held$notes[1], "Held at a bound: covariance of one and two")
  fixed <- sw_confirm(of(x), sw_fix(two, "one", "two", value = r - .2))
  expect_equal(held$parts$figures$chi_square, fixed$parts$figures$chi_square, tolerance = 1e-6)
  expect_error(sw_constrain(two, "one", "two", low = 1, high = 0), class = "scalewort_error_structure")
})

test_that("an improper solution is kept, bounded or refused, and named each time", {
  # correlations of three items that no positive residual allows: .8 * .8 / .6 > 1
  m <- matrix(c(1, .8, .8, .8, 1, .6, .8, .6, 1), 3, dimnames = rep(list(c("a", "b", "c")), 2))
  moments <- sw_moments(m, n = 200)
  structure <- sw_structure(f = c("a", "b", "c"))
  kept <- sw_confirm(moments, structure)
  expect_match(kept$notes[1], "negative residual variance of a")
  expect_true(all(is.na(kept$tables$fit$verdict)))
  expect_equal(subset(tidy(kept, "convergence"), check == "no negative residual variance")$verdict, "no")
  bounded <- sw_confirm(moments, structure, improper = "bound")
  expect_match(bounded$notes[1], "Held at a bound: residual variance of a")
  expect_equal(min(tidy(bounded, "residuals")$estimate), 0)
  expect_error(sw_confirm(moments, structure, improper = "refuse"), class = "scalewort_error_numeric")
})

test_that("loadings that average one: same fit, and the other scalings' values turned", {
  by_variance <- sw_confirm(of(x), two)
  by_effects <- sw_confirm(of(x), two, scaling = "effects")
  expect_equal(by_effects$parts$figures$chi_square, by_variance$parts$figures$chi_square)
  loading <- tidy(by_effects, "loadings")
  expect_equal(mean(loading$estimate[1:3]), 1)
  expect_equal(loading$standardised, tidy(by_variance, "loadings")$standardised)
  # turned by hand, with errors from the first item's scaling by the delta method
  by_first <- sw_confirm(of(x), two, scaling = "first")
  l <- tidy(by_first, "loadings")$estimate[1:3]
  expect_equal(loading$estimate[1:3], l / mean(l), tolerance = 1e-6)
  at <- match(c("i2", "i3"), by_first$tables$estimates$second[by_first$tables$estimates$kind == "loading" & by_first$tables$estimates$free])
  v <- by_first$parts$estimates_covariance[at, at]
  gradient <- -l[1] / mean(l)^2 / 3 * c(1, 1)
  expect_equal(loading$std.error[1], sqrt(as.numeric(gradient %*% v %*% gradient)), tolerance = 1e-5)
  expect_error(sw_confirm(of(x), sw_item_model(two, "one", "tau"), scaling = "effects"), class = "scalewort_error_structure")
})

test_that("errors of standardised values are their spread over samples", {
  draws <- vapply(1:200, function(i) {
    y <- simulate_answers(300, two_factor_loadings, two_factor_r, seed = 9000 + i)
    colnames(y) <- items
    fit <- sw_confirm(of(y), two)
    c(fit$tables$loadings$standardised, fit$tables$loadings$standardised_error)
  }, numeric(12))
  expect_equal(mean(rowMeans(draws[7:12, ]) / apply(draws[1:6, ], 1, sd)), 1, tolerance = .06)
})

test_that("equal weights and clusters of one change nothing; clusters of copies halve what is known", {
  frame <- as.data.frame(x)
  book <- data.frame(item = items, scale = "s", lowest = -99, highest = 99)
  frame$weight <- 7
  frame$case <- seq_len(500)
  plain <- sw_confirm(sw_survey(frame, book), two, estimator = "robust")
  weighted <- sw_confirm(sw_survey(frame, book), two, estimator = "robust", weights = "weight")
  expect_equal(weighted$parts$figures, plain$parts$figures, tolerance = 1e-8)
  clustered <- sw_confirm(sw_survey(frame, book), two, estimator = "robust", cluster = "case")
  expect_equal(clustered$parts$figures$scale, plain$parts$figures$scale * 500 / 499, tolerance = 1e-6)
  # every case twice, copies in one cluster: chi-square doubles, and so does the scale
  twice <- sw_confirm(sw_survey(rbind(frame, frame), book), two, estimator = "robust", cluster = "case")
  expect_equal(twice$parts$figures$chi_square, 2 * plain$parts$figures$chi_square, tolerance = 1e-6)
  expect_equal(twice$parts$figures$chi_square_scaled, plain$parts$figures$chi_square_scaled * 499 / 500, tolerance = 1e-5)
  expect_equal(twice$tables$loadings$std.error, plain$tables$loadings$std.error * sqrt(500 / 499), tolerance = 1e-5)
  # a whole weight is that many cases
  frame$weight <- rep(1:2, 250)
  copies <- frame[rep(seq_len(500), frame$weight), ]
  by_weight <- sw_confirm(sw_survey(frame, book), two, estimator = "robust", weights = "weight")
  expect_equal(by_weight$tables$loadings$estimate, sw_confirm(sw_survey(copies, book), two)$tables$loadings$estimate, tolerance = 1e-6)
  gaps <- frame
  gaps[1:20, "i2"] <- NA
  expect_equal(sw_confirm(sw_survey(gaps, book), two, estimator = "robust", cluster = "case")$parts$figures$scale,
    sw_confirm(sw_survey(gaps, book), two, estimator = "robust")$parts$figures$scale, tolerance = .02)
  expect_error(sw_confirm(sw_survey(frame, book), two, estimator = "ml", weights = "weight"), class = "scalewort_error_input")
  expect_error(sw_confirm(sw_survey(frame, book), two, estimator = "robust", weights = "wieght"), "weight")
  frame$weight[3] <- -1
  expect_error(sw_confirm(sw_survey(frame, book), two, estimator = "robust", weights = "weight"), class = "scalewort_error_input")
})
