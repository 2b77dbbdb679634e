structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
items <- paste0("i", 1:6)
cells <- core("structure_cells")(structure, items, "variance")
x <- simulate_answers(500, two_factor_loadings, two_factor_r, seed = 21)
colnames(x) <- items
s <- cov(x) * 499 / 500
lower <- lower.tri(s, diag = TRUE)
implied_at <- function(theta, cells) {
  m <- core("core_structure_matrices")(cells, theta, 6, 2)
  m$loading %*% m$factor %*% t(m$loading) + m$residual
}

# The normal-theory weight matrix of the covariances at sigma, entry by entry.
normal_weight <- function(sigma) {
  inverse <- solve(sigma)
  at <- which(lower, arr.ind = TRUE)
  outer(seq_len(21), seq_len(21), Vectorize(function(a, b) {
    i <- at[a, ]
    j <- at[b, ]
    twice <- (2 - (i[1] == i[2])) * (2 - (j[1] == j[2]))
    twice / 4 * (inverse[i[1], j[1]] * inverse[i[2], j[2]] + inverse[i[1], j[2]] * inverse[i[2], j[1]])
  }))
}

test_that("both discrepancies and their slopes are their definitions", {
  theta <- core("core_structure_start")(cells, s, 2L) + .03 * sin(1:13)
  target <- function(weight) list(list(share = 1, s = s, weight = weight))
  elements <- function(t) core("kernel_evaluate_least_squares")(cells, 6L, 2L, target(core("uls_weight")(6)), t, TRUE)
  quadratic <- function(t) core("kernel_evaluate_least_squares")(cells, 6L, 2L, target(solve(s)), t, FALSE)
  apart <- s - implied_at(theta, cells)
  expect_equal(elements(theta)$discrepancy, sum(apart^2) / 2)
  expect_equal(quadratic(theta)$discrepancy, sum(diag(solve(s, apart) %*% solve(s, apart))) / 2)
  for (evaluate in list(elements, quadratic)) {
    expect_equal(evaluate(theta)$gradient, differences(function(t) evaluate(t)$discrepancy, theta), tolerance = 1e-6)
  }
  j <- differences(function(t) implied_at(t, cells)[lower], theta)
  expect_equal(quadratic(theta)$expected_hessian, 2 * t(j) %*% normal_weight(s) %*% j, tolerance = 1e-7)
  expect_equal(elements(theta)$expected_hessian, 2 * t(j) %*% (core("uls_weight")(6)[lower] * j), tolerance = 1e-7)
})

test_that("a general optimiser finds nothing better", {
  for (kind in c("uls", "gls")) {
    weight <- if (kind == "uls") core("uls_weight")(6) else solve(s)
    fit <- core("core_fit_least_squares")(cells, s, 2L, weight, kind == "uls")
    plain <- function(t) {
      apart <- s - implied_at(t, cells)
      if (kind == "uls") sum(apart^2) / 2 else sum(diag(weight %*% apart %*% weight %*% apart)) / 2
    }
    expect_equal(optim(fit$theta + .02, plain, method = "BFGS", control = list(reltol = 1e-14, maxit = 500))$value, fit$discrepancy, tolerance = 1e-7)
  }
})

test_that("errors and tests are those of the full weight matrices", {
  n <- 500
  fit <- core("core_fit_least_squares")(cells, s, 2L, core("uls_weight")(6), TRUE)
  j <- differences(function(t) implied_at(t, cells)[lower], fit$theta)
  w <- diag(core("uls_weight")(6)[lower])
  gamma <- solve(normal_weight(fit$implied))
  expect_equal(core("core_normal_gamma")(fit$implied), gamma, tolerance = 1e-8, ignore_attr = TRUE)
  bread <- solve(t(j) %*% w %*% j)
  slow <- bread %*% t(j) %*% w %*% gamma %*% w %*% j %*% bread / n
  found <- core("core_uls_inference")(cells, fit$theta, s, fit$implied, 2L, n)
  expect_equal(found$covariance, slow, tolerance = 1e-6)
  v <- normal_weight(fit$implied)
  e <- (s - fit$implied)[lower]
  left <- v - v %*% j %*% solve(t(j) %*% v %*% j) %*% t(j) %*% v
  expect_equal(found$chi_square, n * as.numeric(t(e) %*% left %*% e), tolerance = 1e-6)
  # baselines by the same definitions, items alone
  only <- diag(6)[lower] == 1
  of_diagonal <- diag(21)[, only]
  v <- normal_weight(diag(diag(s)))
  e <- (s - diag(diag(s)))[lower]
  left <- v - v %*% of_diagonal %*% solve(t(of_diagonal) %*% v %*% of_diagonal) %*% t(of_diagonal) %*% v
  expect_equal(core("core_uls_baseline")(s, n)$chi_square, n * as.numeric(t(e) %*% left %*% e), tolerance = 1e-8)
  alone <- optim(diag(s), function(d) sum(diag((diag(6) - diag(d) %*% solve(s)) %*% (diag(6) - diag(d) %*% solve(s)))) / 2, method = "BFGS",
    control = list(reltol = 1e-14))
  expect_equal(core("core_gls_baseline")(s, n)$chi_square, n * alone$value, tolerance = 1e-6)
})

test_that("all estimators agree on a structure that holds, and give back its parameters", {
  survey <- sw_survey(as.data.frame(simulate_answers(4000, two_factor_loadings, two_factor_r, seed = 31)),
    data.frame(item = items, scale = "s", lowest = -99, highest = 99))
  exact <- sw_moments(two_factor_implied, n = 300)
  for (estimator in c("ml", "gls", "uls")) {
    fit <- sw_confirm(exact, structure, estimator = estimator)
    expect_equal(tidy(fit, "loadings")$standardised, c(.8, .7, .6, .75, .65, .55), tolerance = 1e-6)
    expect_equal(fit$parts$figures$chi_square, 0, tolerance = 1e-6)
    sampled <- sw_confirm(survey, structure, estimator = estimator)
    expect_lt(max(abs(tidy(sampled, "loadings")$standardised - c(.8, .7, .6, .75, .65, .55))), .05)
    expect_equal(sampled$parts$figures$chi_square, sw_confirm(survey, structure)$parts$figures$chi_square, tolerance = .15)
  }
  expect_false("aic" %in% names(Filter(Negate(is.null), sw_confirm(exact, structure, estimator = "uls")$parts$figures)))
})

test_that("a score test is near the fall of chi-square when the cell is freed", {
  survey <- sw_demo("plotholders")
  structure <- sw_structure(survey)
  for (estimator in c("gls", "uls", "ordinal")) {
    fit <- sw_confirm(survey, structure, estimator = estimator)
    freed <- sw_confirm(survey, sw_add_pair(structure, "craft5", "craft6"), estimator = estimator)
    row <- subset(tidy(fit, "modifications"), item == "craft5" & with == "craft6")
    difference <- subset(tidy(sw_compare(plain = fit, pair = freed), "tests"))
    expect_equal(row$index, difference$statistic, tolerance = .3)
    change <- subset(tidy(freed, "residuals"), item == "craft5" & with == "craft6")$estimate
    expect_equal(row$change, change, tolerance = .3)
  }
})
