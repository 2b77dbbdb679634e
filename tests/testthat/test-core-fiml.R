structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
items <- paste0("i", 1:6)
plain_cells <- core("structure_cells")(structure, items, "variance")
cells <- core("core_free_intercepts")(plain_cells, 6)
complete <- simulate_answers(400, two_factor_loadings, two_factor_r, seed = 4)
with_gaps <- local({
  x <- complete
  x[withr::with_seed(5, matrix(runif(2400) < .15, 400))] <- NA
  x
})

log_density <- function(row, mean, sigma) {
  have <- !is.na(row)
  d <- row[have] - mean[have]
  as.numeric(determinant(sigma[have, have, drop = FALSE])$modulus) + sum(d * solve(sigma[have, have, drop = FALSE], d))
}
theta <- c(.8, .7, .6, .75, .65, .55, .4, .36, .51, .64, .44, .58, .7, .1, -.1, .2, 0, .05, -.2)
seen <- with_gaps[rowSums(!is.na(with_gaps)) > 0, ]

test_that("value, gradient and Hessian are those of the cases one by one", {
  patterns <- list(core("core_answer_patterns")(with_gaps))
  evaluate <- function(t) core("kernel_evaluate_incomplete")(cells, 6L, 2L, patterns, t, TRUE)
  at <- evaluate(theta)
  expect_equal(at$gradient, differences(function(t) evaluate(t)$value, theta), tolerance = 1e-6)
  expect_equal(at$observed_hessian, differences(function(t) evaluate(t)$gradient, theta), tolerance = 1e-6)
  x <- core("core_structure_matrices")(cells, theta, 6, 2)
  sigma <- x$loading %*% core("core_factor_covariance")(x) %*% t(x$loading) + x$residual
  expect_equal(at$value, mean(apply(seen, 1, log_density, x$intercept, sigma)), tolerance = 1e-10)
})

test_that("each case's gradient is its own, and that of the free moments, too", {
  own <- core("kernel_case_gradients")(cells, 6L, 2L, seen, theta, 1L)
  at <- core("kernel_evaluate_incomplete")(cells, 6L, 2L, list(core("core_answer_patterns")(seen)), theta, FALSE)
  expect_equal(colMeans(own), at$gradient, tolerance = 1e-10)
  of_case <- function(t) {
    x <- core("core_structure_matrices")(cells, t, 6, 2)
    log_density(seen[3, ], x$intercept, x$loading %*% x$factor %*% t(x$loading) + x$residual)
  }
  expect_equal(own[3, ], as.vector(differences(of_case, theta)), tolerance = 1e-6)
  mean <- seq(-.2, .3, length.out = 6)
  lower <- lower.tri(diag(6), diag = TRUE)
  moments <- function(t) {
    sigma <- matrix(0, 6, 6)
    sigma[lower] <- t[-(1:6)]
    sigma[upper.tri(sigma)] <- t(sigma)[upper.tri(sigma)]
    list(mean = t[1:6], covariance = sigma)
  }
  start <- c(mean, two_factor_implied[lower])
  saturated <- core("kernel_saturated_gradients")(seen, two_factor_implied, mean)
  expect_equal(saturated[5, ], as.vector(differences(function(t) log_density(seen[5, ], moments(t)$mean, moments(t)$covariance), start)),
    tolerance = 1e-5)
  hessian <- core("kernel_saturated_hessian")(core("core_answer_patterns")(seen), two_factor_implied, mean)
  slope <- function(t) colMeans(core("kernel_saturated_gradients")(seen, moments(t)$covariance, moments(t)$mean))
  expect_equal(hessian, differences(slope, start), tolerance = 1e-6)
})

test_that("robust errors and test from incomplete answers: as Satorra-Bentler for complete ones, and right under heavy tails", {
  survey_of <- function(x) sw_survey(as.data.frame(x), data.frame(item = items, scale = "s", lowest = -1e4, highest = 1e4))
  heavy <- complete^3
  by_fiml <- sw_confirm(survey_of(heavy), structure, estimator = "robust", missing = "fiml")
  by_complete <- sw_confirm(survey_of(heavy), structure, estimator = "robust")
  expect_equal(by_fiml$parts$figures$chi_square, by_complete$parts$figures$chi_square, tolerance = 1e-6)
  # observed in place of expected information
  expect_equal(by_fiml$parts$figures$scale, by_complete$parts$figures$scale, tolerance = .25)
  p <- withr::with_seed(8, vapply(1:120, function(i) {
    z <- matrix(rnorm(600 * 6), 600) %*% chol(two_factor_implied) / sqrt(rchisq(600, 6) / 6)
    z[matrix(runif(3600) < .1, 600)] <- NA
    f <- sw_confirm(survey_of(z), structure, estimator = "robust")$parts$figures
    c(f$p.value, f$p_scaled)
  }, numeric(2)))
  rejected <- rowMeans(p < .05, na.rm = TRUE)
  expect_lt(mean(is.na(p[2, ])), .03)
  expect_gt(rejected[1], .12)
  expect_lt(rejected[2], .05 + 3.2 * sqrt(.05 * .95 / 120))
})

test_that("complete answers give what complete-data maximum likelihood gives", {
  patterns <- core("core_answer_patterns")(complete)
  s <- cov(complete) * 399 / 400
  em <- list(mean = colMeans(complete), covariance = s)
  ml <- core("core_fit_structure")(plain_cells, s, 2L)
  fiml <- core("core_fit_incomplete")(cells, patterns, em, 2L)
  expect_equal(fiml$theta[1:13], ml$theta, tolerance = 1e-6)
  expect_equal(fiml$theta[14:19], unname(em$mean), tolerance = 1e-6)
  expect_equal(fiml$discrepancy, ml$discrepancy, tolerance = 1e-9)
  se <- function(h) sqrt(diag(core("core_estimate_covariance")(h, 400)))
  expect_equal(se(fiml$observed_hessian)[1:13], se(ml$expected_hessian), tolerance = .1)
  many <- core("core_answer_patterns")(with_gaps)
  expect_identical(core("core_fit_incomplete")(cells, many, em, 2L, threads = 1L), core("core_fit_incomplete")(cells, many, em, 2L, threads = 2L))
})

test_that("a structure without degrees of freedom reproduces the EM moments", {
  three <- with_gaps[, 1:3]
  em <- core("core_em")(three, tolerance = 1e-12)
  cells3 <- core("core_free_intercepts")(core("structure_cells")(sw_structure(f = items[1:3]), items[1:3], "variance"), 3)
  fit <- core("core_fit_incomplete")(cells3, core("core_answer_patterns")(three), em, 1L)
  expect_equal(fit$implied, unname(em$covariance), tolerance = 1e-5)
  expect_equal(fit$implied_mean, unname(em$mean), tolerance = 1e-5)
  expect_equal(fit$discrepancy, 0, tolerance = 1e-8)
})

test_that("the verb uses everyone who answered anything, and its test keeps its level", {
  survey <- sw_survey(as.data.frame(with_gaps), data.frame(item = items, scale = "s", lowest = -99, highest = 99))
  x <- sw_confirm(survey, structure, missing = "fiml")
  expect_equal(x$about$n, sum(rowSums(!is.na(with_gaps)) > 0))
  expect_match(paste(capture.output(x), collapse = " "), "maximum likelihood")
  expect_lt(max(abs(tidy(x, "loadings")$standardised - c(.8, .7, .6, .75, .65, .55))), .15)
  f <- x$parts$figures
  expect_equal(f$aic, -2 * f$log_likelihood + 38)
  expect_equal(sw_confirm(survey, structure, missing = "fiml", scaling = "first")$parts$figures$chi_square, f$chi_square, tolerance = 1e-5)
  expect_error(sw_confirm(survey, structure, missing = "fiml", estimator = "gls"), class = "scalewort_error_input")
  expect_error(sw_confirm(sw_moments(survey), structure, missing = "fiml"), class = "scalewort_error_input")
  p <- vapply(1:150, function(i) {
    y <- simulate_answers(250, two_factor_loadings, two_factor_r, seed = 1000 + i)
    y[matrix(runif(1500) < .15, 250)] <- NA
    em <- core("core_em")(y)
    fit <- core("core_fit_incomplete")(cells, core("core_answer_patterns")(y), em, 2L)
    pchisq(250 * fit$discrepancy, 8, lower.tail = FALSE)
  }, 0)
  expect_lt(abs(mean(p < .05) - .05), 3.2 * sqrt(.05 * .95 / 150))
})

test_that("standard errors are the spread over samples", {
  draws <- vapply(1:150, function(i) {
    y <- simulate_answers(300, two_factor_loadings, two_factor_r, seed = 3000 + i)
    y[matrix(runif(1800) < .2, 300)] <- NA
    em <- core("core_em")(y)
    fit <- core("core_fit_incomplete")(cells, core("core_answer_patterns")(y), em, 2L)
    c(fit$theta[1:13], sqrt(diag(core("core_estimate_covariance")(fit$observed_hessian, 300)))[1:13])
  }, numeric(26))
  ratio <- rowMeans(draws[14:26, ]) / apply(draws[1:13, ], 1, sd)
  expect_equal(mean(ratio), 1, tolerance = .08)
})

test_that("modification indices from incomplete answers: as ML for complete ones, and near the fall of chi-square", {
  s <- cov(complete) * 399 / 400
  ml <- core("core_fit_structure")(plain_cells, s, 2L)
  candidates <- core("core_candidates")(plain_cells, 6, 2)
  plain <- core("kernel_score_tests")(plain_cells, 6L, 2L, list(list(share = 1, covariance = s, mean = numeric(6))), ml$theta, candidates)
  by_pattern <- core("kernel_incomplete_score_tests")(cells, 6L, 2L, core("core_answer_patterns")(complete), c(ml$theta, colMeans(complete)),
    candidates)
  expect_equal(by_pattern, plain, tolerance = 1e-8)
  survey <- sw_demo("plotholders")
  fit <- sw_confirm(survey, sw_structure(survey), missing = "fiml")
  freed <- sw_confirm(survey, sw_structure(survey) |> sw_add_pair("craft5", "craft6"), missing = "fiml")
  row <- subset(tidy(fit, "modifications"), item == "craft5" & with == "craft6")
  expect_equal(row$index, fit$parts$figures$chi_square - freed$parts$figures$chi_square, tolerance = .15)
})

test_that("a weight of two is two cases in the estimates, with missing answers", {
  x <- as.data.frame(simulate_answers(200, two_factor_loadings, two_factor_r, seed = 12))
  names(x) <- paste0("i", 1:6)
  x[3, 2] <- x[7, 5] <- x[9, 1] <- NA
  x$w <- rep(1:2, 100)
  book <- data.frame(item = paste0("i", 1:6), scale = "s", lowest = -1e3, highest = 1e3)
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  weighted <- sw_confirm(sw_survey(x, book), structure, estimator = "robust", weights = "w")
  doubled <- sw_confirm(sw_survey(x[rep(1:200, x$w), ], book), structure)
  expect_equal(weighted$tables$loadings$estimate, doubled$tables$loadings$estimate, tolerance = 1e-6)
  expect_equal(weighted$parts$figures$chi_square / 200, doubled$parts$figures$chi_square / 300, tolerance = 1e-6)
  expect_equal(weighted$about$n, 200)
})

test_that("covariances by likelihood are symmetric where they hardly have an inverse", {
  withr::local_seed(12)
  f <- rnorm(45)
  x <- sapply(1:6, function(j) as.numeric(f + rnorm(45) > c(0, 1.5)[1 + j %% 2]))
  colnames(x) <- paste0("t", 1:6)
  for (j in 1:6) x[runif(45) < .25, j] <- NA
  found <- core("core_em")(x)
  expect_identical(found$covariance, t(found$covariance))
  other <- core("core_em_patterns")(core("core_answer_patterns")(x), colnames(x))
  expect_identical(other$covariance, t(other$covariance))
})
