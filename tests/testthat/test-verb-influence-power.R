items <- paste0("i", 1:6)
two <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
x <- simulate_answers(300, two_factor_loadings, two_factor_r, seed = 121)
colnames(x) <- items
of <- function(x) sw_survey(as.data.frame(x), data.frame(item = colnames(x), scale = "s", lowest = -99, highest = 99))

test_that("a case's likelihood is its normal density, with answers missing or not", {
  y <- x[1:5, ]
  y[2, 3] <- NA
  y[4, c(1, 6)] <- NA
  mean <- seq(-.2, .3, .1)
  found <- core("core_case_likelihood")(y, two_factor_implied, mean)$minus_two
  by_hand <- vapply(1:5, function(i) {
    have <- !is.na(y[i, ])
    s <- two_factor_implied[have, have]
    d <- y[i, have] - mean[have]
    log(det(2 * pi * s)) + sum(d * solve(s, d))
  }, 0)
  expect_equal(found, by_hand)
  fit <- sw_confirm(of(x), two)
  influence <- sw_influence(fit, worst = 3)
  expect_equal(sum(tidy(influence, "cases")$minus_two), -2 * fit$parts$figures$log_likelihood, tolerance = 1e-8)
})

test_that("Cook's distance is what leaving the case out does, to first order", {
  fit <- sw_confirm(of(x), two)
  cases <- tidy(sw_influence(fit, worst = 3), "cases")
  some <- c(1, 2, 100, 250)
  exact <- vapply(some, function(i) {
    left <- sw_confirm(of(x[-as.integer(cases$case[i]), ]), two)
    d <- left$parts$theta - fit$parts$theta
    sum(d * solve(fit$parts$estimates_covariance, d))
  }, 0)
  expect_equal(cases$cook[some], exact, tolerance = .25)
})

test_that("an answer pattern that is out of place is found, and the fit without it shown", {
  odd <- rbind(x, c(2.5, -2.5, 2.5, -2.5, 2.5, -2.5))
  influence <- sw_influence(sw_confirm(of(odd), two), worst = 2)
  expect_equal(tidy(influence, "cases")$case[1], "301")
  without <- tidy(influence, "without")
  expect_equal(without$without, 0:2)
  expect_equal(without$chi_square[2], sw_confirm(of(x), two)$parts$figures$chi_square, tolerance = 1e-8)
  expect_error(sw_influence(sw_confirm(sw_moments(of(x)), two)), class = "scalewort_error_input")
})

test_that("power of the RMSEA tests: published figures and the noncentral chi-square by simulation", {
  # MacCallum, Browne & Sugawara (1996, tables 2 and 4) work with n - 1: n differs by one at most.
  needed <- tidy(sw_power(100), "needed")
  expect_lte(abs(needed$needed[needed$test == "close fit"] - 132), 1)
  expect_lte(abs(needed$needed[needed$test == "not-close fit"] - 178), 1)
  at <- core("core_rmsea_power")
  edge <- qchisq(.95, 50, ncp = 50 * 200 * .05^2)
  draws <- withr::with_seed(4, rchisq(2e5, 50, ncp = 50 * 200 * .08^2))
  expect_equal(at(50, 200, .05, .08), mean(draws > edge), tolerance = .01)
  expect_equal(at(50, 200, .05, .05 + 1e-9), .05, tolerance = 1e-4)
  for (test in 1:3) expect_gte(at(100, needed$needed[test], needed$null[test], needed$alternative[test]), .8)
  expect_equal(sw_power(two)$about$options$df, 8)
  expect_error(sw_power(0), class = "scalewort_error_input")
  expect_error(sw_power(two, n = 5), class = "scalewort_error_input")
})

test_that("power for a parameter by simulation is what the standard error predicts", {
  power <- tidy(sw_power(two, n = 300, parameter = c("one", "two"), loading = .7, correlation = .2, replicates = 1500), "parameter")
  s <- two_factor_implied
  truth <- cbind(c(.7, .7, .7, 0, 0, 0), c(0, 0, 0, .7, .7, .7))
  s <- truth %*% matrix(c(1, .2, .2, 1), 2) %*% t(truth)
  diag(s) <- 1
  dimnames(s) <- list(items, items)
  error <- tidy(sw_confirm(sw_moments(s * 300 / 299, n = 300), two), "factor_correlations")$std.error
  expect_equal(power$power, pnorm(.2 / error - qnorm(.975)), tolerance = .06)
  expect_equal(power$error_ratio, 1, tolerance = .05)
  expect_gt(power$coverage, .93)
  same <- tidy(sw_power(two, n = 300, parameter = c("one", "two"), loading = .7, correlation = .2, replicates = 1500), "parameter")
  expect_identical(power, same)
  expect_error(sw_power(two, parameter = c("one", "i5")), class = "scalewort_error_structure")
})

test_that("samples drawn from a structure have its covariances", {
  drawn <- core("with_seed")(3, core("core_sampled_covariances")(two_factor_implied, 50, 4000, core("random_draws")))
  expect_equal(matrix(rowMeans(drawn), 6) * 50 / 49, two_factor_implied, tolerance = .01, ignore_attr = TRUE)
  # variance of a covariance: (s_ij^2 + s_ii s_jj) / (n - 1)
  expect_equal(var(drawn[2, ]) * (50 / 49)^2, (two_factor_implied[2, 1]^2 + 1) / 49, tolerance = .08)
})

test_that("resampled estimates spread as their standard errors say; the resampled test keeps its level", {
  fit <- sw_confirm(of(x), two)
  again <- sw_resample(fit, replicates = 800)
  loading <- subset(again, kind == "loading")
  expect_equal(loading$std.error, tidy(fit, "loadings")$standardised_error, tolerance = .15)
  expect_identical(again, sw_resample(fit, replicates = 800))
  refit <- sw_confirm(of(x[rep(seq_len(300), core("core_draw_counts")(300, 1, 0)), ]), two)
  one <- core("core_resample_structure")(x, fit$parts$cells, 2L, fit$parts$theta, 20, 1)
  expect_equal(one$theta[, 1], refit$parts$theta, tolerance = 1e-5)
  p <- vapply(1:60, function(i) {
    y <- simulate_answers(200, two_factor_loadings, two_factor_r, seed = 12000 + i)
    colnames(y) <- items
    sw_resample(sw_confirm(of(y), two), "test", replicates = 100, seed = i)$p_bootstrap
  }, 0)
  expect_lt(abs(mean(p < .10) - .10), 3.2 * sqrt(.09 / 60))
  turned <- core("core_turned_answers")(x, fit$parts$observed, fit$parts$implied)
  expect_equal(crossprod(turned) / 300, fit$parts$implied, tolerance = 1e-10, ignore_attr = TRUE)
  expect_error(sw_resample(fit, "loadings"), class = "scalewort_error_input")
  expect_error(sw_resample(sw_confirm(sw_moments(of(x)), two)), class = "scalewort_error_input")
})

test_that("structures that are not nested are told apart by single cases when they differ, and not when they do not", {
  one <- sw_structure(a = c("i1", "i2", "i4"), b = c("i3", "i5", "i6"))
  comparison <- sw_compare(right = sw_confirm(of(x), two), wrong = sw_confirm(of(x), one))
  vuong <- tidy(comparison, "vuong")
  expect_match(vuong$says, "\"right\" is nearer")
  # by hand: log-likelihoods of cases differ by what whole log-likelihoods differ
  f <- lapply(comparison$parts$models, function(m) m$parts$figures$log_likelihood)
  expect_equal(abs(vuong$difference), abs(f$right - f$wrong), tolerance = 1e-8)
  near <- sw_compare(sw_confirm(of(x), sw_add_pair(two, "i1", "i4")), sw_confirm(of(x), sw_add_pair(two, "i2", "i5")))
  expect_match(tidy(near, "vuong")$says, "neither")
})

test_that("the true covariances of a structure with a higher factor are those worked out by hand", {
  structure <- sw_structure(a = paste0("a", 1:3), b = paste0("b", 1:3), c = paste0("c", 1:3)) |> sw_add_higher("g", c("a", "b", "c"))
  truth <- core("structure_truth")(structure, loading = c(a1 = .8, b1 = .5), path = .6)
  expect_equal(diag(truth$covariance), rep(1, 9))
  expect_equal(truth$covariance[1, 2], .8 * .7)
  expect_equal(truth$covariance[1, 4], .8 * .5 * .6^2)
  expect_error(sw_power(structure, n = 100, parameter = c("a1", "a"), loading = c(z = .5)), class = "scalewort_error_input")
})

test_that("rivals get one verdict, and are told when none of them fits", {
  survey <- sw_demo("plotholders")
  plain <- sw_structure(survey)
  four <- sw_confirm(survey, plain)
  better <- sw_compare(four = four, crossing = sw_confirm(survey, sw_add_loading(plain, "kin5", "craft")))
  expect_equal(better$parts$decision, list(best = "crossing", rival = "four", code = "better", misfit = FALSE))
  # A pair that is not there: BIC keeps the simpler one, and so does the test.
  idle <- sw_compare(four = four, pair = sw_confirm(survey, sw_add_pair(plain, "calm1", "soil4")))
  expect_equal(idle$parts$decision$best, "four")
  poor <- sw_compare(one = sw_confirm(survey, sw_structure(all = unlist(plain$factors))),
    two = sw_confirm(survey, sw_structure(a = unlist(plain$factors[1:2]), b = unlist(plain$factors[3:4]))))
  expect_true(poor$parts$decision$misfit)
  expect_match(headline_of(poor), "None of them fits")
})
