# Constants of published formulas, each against a value worked out by hand from the formula as
# printed: a wrong divisor or factor fails here.

test_that("indices of fit: ECVI, AGFI, the adjusted BIC, and what is counted", {
  s <- matrix(c(1, .5, .4, .3, .5, 1, .4, .3, .4, .4, 1, .3, .3, .3, .3, 1), 4)
  implied <- diag(4) + .35 - diag(.35, 4)
  n <- 200
  base <- list(chi_square = 150, df = 6)
  f <- core("core_fit_indices")(12, 2, base, s, implied, n, 12)
  # Eight parameters of covariances and four means: 2 q / n counts the eight.
  expect_equal(f$ecvi, (12 + 2 * 8) / 200)
  expect_equal(f$agfi, 1 - 4 * 5 / (2 * 2) * (1 - f$gfi))
  expect_equal(f$bic_adjusted, -2 * f$log_likelihood + log((200 + 2) / 24) * 12)
  expect_equal(f$bic, -2 * f$log_likelihood + log(200) * 12)
  # Log-likelihood: the saturated one by its definition, less half of chi-square.
  saturated <- -n / 2 * (4 * log(2 * pi) + log(det(s)) + 4)
  expect_equal(f$log_likelihood, saturated - 6)
  expect_equal(core("core_p_not_close")(12, 2, n), pchisq(12, 2, ncp = .08^2 * 2 * 200))
})

test_that("scaled tests: close fit, not close fit, chi-square over df and critical n come from the scaled chi-square", {
  f <- core("core_robust_indices")(60, 20, 1.5, list(chi_square = 900, df = 28), 1.4, 300)
  expect_equal(f$ratio, 40 / 20)
  expect_equal(f$critical_n, qchisq(.95, 20) / (40 / 300) + 1)
  expect_equal(f$rmsea_p_not_close, pchisq(40, 20, ncp = .08^2 / 1.5 * 20 * 300))
  expect_equal(f$rmsea_p_close, pchisq(40, 20, ncp = .05^2 / 1.5 * 20 * 300, lower.tail = FALSE))
})

test_that("errors by band: half the number of items times the sd of the halves' gap", {
  # Forty people in each of three bands of two totals; in each band half of them have a gap of 1, half of -1.
  tally <- list(total = c(3, 4, 7, 8, 11, 12), n = rep(20, 6), gap = rep(0, 6), gap_squared = rep(20, 6))
  found <- core("core_band_errors")(tally, 4)
  expect_equal(found, list(band = c(1, 2, 3), n = rep(40, 3), from_score = c(3, 7, 11), to_score = c(4, 8, 12), sem = rep(2 * sqrt(40 / 39), 3)))
  # One person alone spreads nowhere.
  alone <- core("core_band_errors")(list(total = c(3, 8, 12), n = c(1, 1, 1), gap = c(1, 0, -1), gap_squared = c(1, 0, 1)), 4)
  expect_equal(alone$sem, rep(NA_real_, 3))
})

test_that("Bonett's interval: variance 2k / ((k - 1)(n - 2))", {
  width <- qnorm(.975) * sqrt(2 * 5 / (4 * 18))
  expect_equal(core("core_bonett_interval")(.8, 20, 5), 1 - exp(log(.2) + c(width, -width)))
})

test_that("Hakstian and Whalen: n' = n (k - 1) / (k + 1)", {
  alpha <- c(.8, .7, .6)
  n <- c(50, 80, 60)
  m <- (1 - alpha)^(-1 / 3)
  w <- 9 * n * (4 / 6) * (1 - alpha)^(2 / 3) / 2
  expect_equal(core("core_compare_alphas")(alpha, n, 5)$statistic, sum(w * (m - sum(w * m) / sum(w))^2))
})

test_that("random eigenvalues have the spread of correlations of n cases", {
  # Of two items the larger eigenvalue is 1 + |r|, and r^2 of n normal cases has the mean 1 / (n - 1).
  values <- core("core_random_eigenvalues")(6, 2, 40000, 3)
  r2 <- (values[, 1] - 1)^2
  expect_equal(mean(r2), 1 / 5, tolerance = .02)
})

test_that("an interval of a correlation by Fisher's z has n - 3", {
  set.seed(8)
  survey <- small_survey()
  survey$data$outer <- rowMeans(core("source_rows")(survey)) + rnorm(nrow(survey$data))
  held <- sw_confirm(survey)
  out <- tidy(sw_validity(held, replicates = 0, outside = c(outer = "+"), level = .9), "outside")
  expect_equal(atanh(out$conf.high) - atanh(out$conf.low), 2 * qnorm(.95) / sqrt(out$n - 3))
})

test_that("bounds in the wrong order are refused", {
  expect_error(sw_limits(alpha = c(.9, .7)), "wrong order", class = "scalewort_error_input")
  expect_error(sw_limits(rmsea = c(.05, .08)), "wrong order", class = "scalewort_error_input")
})

test_that("usual codes are missing only far outside the range", {
  of <- function(x) core("far_codes")(x, list(lowest = 1, highest = 5))
  expect_equal(of(c(99, -9, 9, 77)), c(-9, 77, 99))
  expect_equal(of(c(6, 7, 8, 9, -2, -3)), numeric())
  # 97 and 99 are usual codes, and yet may be slips of a scale that ends at 95.
  expect_equal(core("far_codes")(c(97, 99, 999), list(lowest = 0, highest = 95)), 999)
  wide <- data.frame(x = c(1, 90, 99, 50))
  expect_error(sw_survey(wide, data.frame(item = "x", lowest = 0, highest = 95)), "99 is outside 0 to 95", class = "scalewort_error_input")
})

test_that("Tukey's test: its remainder has one degree of freedom less than the residual", {
  x <- six_by_three
  table <- core("core_twoway")(cov(x), colMeans(x), 6, .95)$table
  # Six persons, three items: residual 10 df, of which non-additivity takes one.
  expect_equal(table$df, c(5, 2, 10, 1, 9, 17))
  expect_equal(sum(table$ss[c(1, 2, 3)]), sum((x - mean(x))^2))
})

test_that("even-odd consistency is stepped up by Spearman and Brown, but not where it is negative", {
  # Four subscales of two items each: halves of a person are the items themselves.
  x <- rbind(c(1, 2, 2, 2, 3, 4, 4, 5), c(5, 1, 4, 2, 2, 4, 1, 5))
  found <- core("core_even_odd")(x, list(1:2, 3:4, 5:6, 7:8))
  r <- c(cor(x[1, c(1, 3, 5, 7)], x[1, c(2, 4, 6, 8)]), cor(x[2, c(1, 3, 5, 7)], x[2, c(2, 4, 6, 8)]))
  expect_gt(r[1], 0)
  expect_lt(r[2], 0)
  expect_equal(found, c(2 * r[1] / (1 + r[1]), r[2]))
})

test_that("the standard error of kurtosis, by Fisher's formula", {
  x <- c(1, 2, 2, 3, 3, 3, 4, 4, 5, 9)
  n <- 10
  found <- core("core_describe")(sort(unique(x)), as.vector(table(x)))
  skew <- sqrt(6 * n * (n - 1) / ((n - 2) * (n + 1) * (n + 3)))
  expect_equal(found[["kurtosis_se"]], 2 * skew * sqrt((n^2 - 1) / ((n - 3) * (n + 5))))
})

test_that("Vuong's difference is corrected by half of ln(n) for each parameter more", {
  first <- c(-2, -3, -1, -2.5)
  second <- c(-2.1, -2.8, -1.5, -2.4)
  found <- core("core_vuong")(first, second, c(7, 5))
  expect_equal(found$difference, sum(first - second) - (7 - 5) / 2 * log(4))
})

test_that("a band is set by the share below and half of those at it", {
  expect_equal(core("core_bands")(1:6, 3), c(1, 1, 2, 2, 3, 3))
  expect_equal(core("core_bands")(c(1, 2, 2, 2, 2, 3), 2), c(1, 2, 2, 2, 2, 2))
})
