set.seed(31)
trivariate <- matrix(rnorm(600), 200) %*% chol(matrix(c(2, .8, .5, .8, 1, .3, .5, .3, 1.5), 3)) + rep(c(1, 2, 3), each = 200)
colnames(trivariate) <- letters[1:3]
holes <- trivariate
holes[sample(600, 90)] <- NA

# Minus the observed-data log-likelihood, case by case.
observed_deviance <- function(x, mean, covariance) {
  total <- 0
  for (i in seq_len(nrow(x))) {
    seen <- which(!is.na(x[i, ]))
    if (length(seen) == 0) next
    s <- covariance[seen, seen, drop = FALSE]
    gap <- x[i, seen] - mean[seen]
    total <- total + log(det(s)) + sum(gap * solve(s, gap)) + length(seen) * log(2 * pi)
  }
  total / 2
}

test_that("without missing answers EM gives the plain moments", {
  out <- core("core_em")(trivariate)
  expect_equal(out$mean, colMeans(trivariate), tolerance = 1e-10)
  expect_equal(out$covariance, cov(trivariate) * 199 / 200, tolerance = 1e-8)
})

test_that("EM reaches the maximum that a general optimiser finds", {
  out <- core("core_em")(holes)
  expect_equal(out$status, "ok")
  unpack <- function(theta) {
    root <- diag(exp(theta[4:6]))
    root[upper.tri(root)] <- theta[7:9]
    list(mean = theta[1:3], covariance = crossprod(root))
  }
  objective <- function(theta) {
    tryCatch(observed_deviance(holes, unpack(theta)$mean, unpack(theta)$covariance), error = function(e) 1e6)
  }
  found <- optim(c(1, 2, 3, 0, 0, 0, 0, 0, 0), objective, method = "BFGS", control = list(maxit = 500, reltol = 1e-13))
  expect_equal(observed_deviance(holes, out$mean, out$covariance), found$value, tolerance = 1e-8)
  expect_equal(unname(out$mean), unpack(found$par)$mean, tolerance = 1e-3)
  expect_equal(unname(out$covariance), unpack(found$par)$covariance, tolerance = 1e-3)
})

test_that("patterns are counted", {
  x <- rbind(c(1, NA), c(1, 2), c(3, 4), c(2, NA), c(5, 6), c(NA, NA))
  out <- core("core_patterns")(x)
  expect_equal(out$n, c(3, 2, 1))
  expect_equal(out$missing, rbind(c(FALSE, FALSE), c(FALSE, TRUE), c(TRUE, TRUE)))
  expect_equal(out$of, c(2, 1, 1, 2, 1, 3))
})

test_that("Little's statistic equals its definition, worked pattern by pattern", {
  em <- core("core_em")(holes)
  some <- holes[rowSums(!is.na(holes)) > 0, ]
  spread <- em$covariance * nrow(some) / (nrow(some) - 1)
  key <- apply(is.na(some), 1, paste, collapse = "")
  total <- 0
  df <- -3
  for (k in unique(key)) {
    rows <- some[key == k, , drop = FALSE]
    seen <- which(!is.na(rows[1, ]))
    gap <- colMeans(rows[, seen, drop = FALSE]) - em$mean[seen]
    total <- total + nrow(rows) * drop(gap %*% solve(spread[seen, seen]) %*% gap)
    df <- df + length(seen)
  }
  out <- core("core_little")(holes)
  expect_equal(out$statistic, total, tolerance = 1e-10)
  expect_equal(out$df, df)
  expect_equal(out$p, 1 - pchisq(total, df), tolerance = 1e-10)
})

test_that("Little's test keeps its level and sees answers that depend on others", {
  set.seed(32)
  p <- replicate(200, {
    x <- matrix(rnorm(450), 150) %*% chol(matrix(.4, 3, 3) + diag(.6, 3))
    x[cbind(sample(150, 40), 3)] <- NA
    x[cbind(sample(150, 30), 2)] <- NA
    core("core_little")(x)$p
  })
  expect_lt(abs(mean(p < .05) - .05), 4 * sqrt(.05 * .95 / 200))
  x <- matrix(rnorm(900), 300) %*% chol(matrix(.4, 3, 3) + diag(.6, 3))
  x[x[, 1] > .5, 3] <- NA
  expect_lt(core("core_little")(x)$p, .001)
})

test_that("what cannot be computed has its status", {
  expect_equal(core("core_em")(cbind(c(1, 2, 3), NA_real_))$status, "too_few_cases")
  expect_true(is.na(core("core_little")(trivariate)$statistic))
})

test_that("means and covariances are those of the algorithm as books write it", {
  x <- simulate_answers(150, two_factor_loadings, two_factor_r, seed = 17)
  x[withr::with_seed(18, matrix(runif(900) < .2, 150))] <- NA
  fast <- core("core_em")(x, tolerance = 1e-10)
  slow <- slow_em(x)
  expect_equal(fast$status, "ok")
  expect_equal(fast$mean, slow$mean, tolerance = 1e-7, ignore_attr = TRUE)
  expect_equal(fast$covariance, slow$covariance, tolerance = 1e-7, ignore_attr = TRUE)
})

test_that("where nearly everybody has gaps of their own the screening says that Little's test could hardly see anything", {
  said <- function(share) {
    set.seed(4)
    x <- round(matrix(rnorm(200 * 12), 200) + rnorm(200), 1)
    holes <- replace(x, cbind(rep(1:200, 12), rep(1:12, each = 200))[runif(2400) < share, ], NA)
    grouped <- replace(x, cbind(rep(1:60, 2), rep(1:2, each = 60)), NA)
    data <- as.data.frame(if (share > 0) holes else grouped)
    sw_screen(sw_survey(data, data.frame(item = names(data), scale = "s", lowest = -9, highest = 9)))$notes
  }
  expect_match(said(.2), "with 1[.][0-9] people in a pattern of gaps on average it hardly could", all = FALSE)
  expect_match(said(0), "it cannot prove it", all = FALSE)
  # Three with gaps in one pattern, one in another.
  y <- matrix(rnorm(40), 10)
  y[1:3, 1] <- NA
  y[4, 2] <- NA
  expect_equal(core("core_little")(y)$crowd, 2)
})
