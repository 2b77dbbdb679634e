structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
items <- paste0("i", 1:6)
cells <- core("structure_cells")(structure, items, "variance")
complete <- simulate_answers(400, two_factor_loadings, two_factor_r, seed = 4)
with_gaps <- local({
  x <- complete
  x[withr::with_seed(5, matrix(runif(2400) < .15, 400))] <- NA
  x
})

test_that("value and gradient are those of the cases one by one", {
  patterns <- core("core_answer_patterns")(with_gaps)
  theta <- c(.8, .7, .6, .75, .65, .55, .4, .36, .51, .64, .44, .58, .7)
  at <- core("kernel_incomplete_value")(cells, 6L, 2L, patterns, theta)
  expect_equal(at$gradient, differences(function(t) core("kernel_incomplete_value")(cells, 6L, 2L, patterns, t)$value, theta), tolerance = 1e-6)
  x <- core("core_structure_matrices")(cells, theta, 6, 2)
  sigma <- x$loading %*% core("core_factor_covariance")(x) %*% t(x$loading) + x$residual
  mean <- core("kernel_pattern_likelihood")(patterns, sigma)$mean
  seen <- with_gaps[rowSums(!is.na(with_gaps)) > 0, ]
  by_case <- apply(seen, 1, function(row) {
    have <- !is.na(row)
    d <- row[have] - mean[have]
    as.numeric(determinant(sigma[have, have, drop = FALSE])$modulus) + sum(d * solve(sigma[have, have, drop = FALSE], d))
  })
  expect_equal(at$value, mean(by_case), tolerance = 1e-10)
  # and no other means do better
  lower <- optim(mean, function(m) {
    mean(apply(seen, 1, function(row) {
      have <- !is.na(row)
      d <- row[have] - m[have]
      sum(d * solve(sigma[have, have, drop = FALSE], d))
    }))
  }, method = "BFGS")$par
  expect_equal(unname(lower), mean, tolerance = 1e-3)
})

test_that("complete answers give what complete-data maximum likelihood gives", {
  patterns <- core("core_answer_patterns")(complete)
  s <- cov(complete) * 399 / 400
  ml <- core("core_fit_structure")(cells, s, 2L)
  fiml <- core("core_fit_incomplete")(cells, patterns, list(mean = colMeans(complete), covariance = s), 2L, core("core_structure_start")(cells, s,
    2L))
  expect_equal(fiml$theta, ml$theta, tolerance = 1e-6)
  expect_equal(fiml$discrepancy, ml$discrepancy, tolerance = 1e-9)
  se <- function(h) sqrt(diag(core("core_estimate_covariance")(h, 400)))
  expect_equal(se(fiml$observed_hessian), se(ml$expected_hessian), tolerance = .1)
  expect_identical(
    core("core_fit_incomplete")(cells, patterns, list(mean = colMeans(complete), covariance = s), 2L, ml$theta, threads = 1L),
    core("core_fit_incomplete")(cells, patterns, list(mean = colMeans(complete), covariance = s), 2L, ml$theta, threads = 2L)
  )
})

test_that("a structure without degrees of freedom reproduces the EM moments", {
  three <- with_gaps[, 1:3]
  em <- core("core_em")(three, tolerance = 1e-12)
  cells3 <- core("structure_cells")(sw_structure(f = items[1:3]), items[1:3], "variance")
  fit <- core("core_fit_incomplete")(cells3, core("core_answer_patterns")(three), em, 1L, core("core_structure_start")(cells3, em$covariance, 1L))
  expect_equal(fit$implied, unname(em$covariance), tolerance = 1e-5)
  expect_equal(fit$mean, unname(em$mean), tolerance = 1e-5)
  expect_equal(fit$discrepancy, 0, tolerance = 1e-8)
})

test_that("the verb uses everyone who answered anything, and its test keeps its level", {
  survey <- sw_survey(as.data.frame(with_gaps), data.frame(item = items, scale = "s", lowest = -99, highest = 99))
  x <- sw_confirm(survey, structure, missing = "fiml")
  expect_equal(x$about$n, sum(rowSums(!is.na(with_gaps)) > 0))
  expect_match(paste(capture.output(x), collapse = " "), "fiml")
  expect_lt(max(abs(tidy(x, "loadings")$standardised - c(.8, .7, .6, .75, .65, .55))), .15)
  f <- x$parts$figures
  expect_equal(f$aic, -2 * f$log_likelihood + 26)
  expect_equal(sw_confirm(survey, structure, missing = "fiml", scaling = "first")$parts$figures$chi_square, f$chi_square, tolerance = 1e-5)
  expect_error(sw_confirm(survey, structure, missing = "fiml", estimator = "robust"), class = "scalewort_error_input")
  expect_error(sw_confirm(sw_moments(survey), structure, missing = "fiml"), class = "scalewort_error_input")
  p <- vapply(1:150, function(i) {
    y <- simulate_answers(250, two_factor_loadings, two_factor_r, seed = 1000 + i)
    y[matrix(runif(1500) < .15, 250)] <- NA
    em <- core("core_em")(y)
    fit <- core("core_fit_incomplete")(cells, core("core_answer_patterns")(y), em, 2L, core("core_structure_start")(cells, em$covariance, 2L))
    pchisq(250 * fit$discrepancy, 8, lower.tail = FALSE)
  }, 0)
  expect_lt(abs(mean(p < .05) - .05), 3.2 * sqrt(.05 * .95 / 150))
})

test_that("standard errors are the spread over samples", {
  draws <- vapply(1:150, function(i) {
    y <- simulate_answers(300, two_factor_loadings, two_factor_r, seed = 3000 + i)
    y[matrix(runif(1800) < .2, 300)] <- NA
    em <- core("core_em")(y)
    fit <- core("core_fit_incomplete")(cells, core("core_answer_patterns")(y), em, 2L, core("core_structure_start")(cells, em$covariance, 2L))
    c(fit$theta, sqrt(diag(core("core_estimate_covariance")(fit$observed_hessian, 300))))
  }, numeric(26))
  ratio <- rowMeans(draws[14:26, ]) / apply(draws[1:13, ], 1, sd)
  expect_equal(mean(ratio), 1, tolerance = .08)
})

test_that("modification indices from incomplete answers: as ML for complete ones, and near the fall of chi-square", {
  s <- cov(complete) * 399 / 400
  ml <- core("core_fit_structure")(cells, s, 2L)
  candidates <- core("core_candidates")(cells, 6, 2)
  plain <- core("kernel_score_tests")(cells, 6L, 2L, s, ml$theta, candidates)
  by_pattern <- core("kernel_incomplete_score_tests")(cells, 6L, 2L, core("core_answer_patterns")(complete), ml$theta, candidates)
  expect_equal(by_pattern, plain, tolerance = 1e-8)
  survey <- sw_demo("plotholders")
  fit <- sw_confirm(survey, sw_structure(survey), missing = "fiml")
  freed <- sw_confirm(survey, sw_structure(survey) |> sw_add_pair("craft5", "craft6"), missing = "fiml")
  row <- subset(tidy(fit, "modifications"), item == "craft5" & with == "craft6")
  expect_equal(row$index, fit$parts$figures$chi_square - freed$parts$figures$chi_square, tolerance = .15)
})
