polychoric <- function(x, ...) core("core_polychoric")(as.list(as.data.frame(x)), ...)
# Answers whose cross-table is `table`.
answers_of_table <- function(table) {
  at <- which(table >= 0, arr.ind = TRUE)
  at <- at[rep(seq_len(nrow(at)), table[at]), ]
  data.frame(a = as.integer(at[, 1]), b = as.integer(at[, 2]))
}

test_that("the bivariate normal probability is exact", {
  b <- core("core_bivariate_normal")
  r <- c(-.99, -.5, 0, .2, .7, .93, .999)
  # Sheppard (1899): at the medians 1/4 + asin(r) / (2 pi)
  expect_equal(b(0, 0, r), .25 + asin(r) / (2 * pi), tolerance = 1e-14)
  expect_equal(b(.3, -.8, 0), pnorm(.3) * pnorm(-.8), tolerance = 1e-15)
  expect_equal(b(.3, 1.2, 1), pnorm(.3))
  expect_equal(b(.3, -1.2, -1), 0)
  expect_equal(b(.3, 1.2, -1), pnorm(.3) + pnorm(1.2) - 1, tolerance = 1e-15)
  expect_equal(b(c(Inf, -Inf, 1), c(.4, .4, Inf), .5), c(pnorm(.4), 0, pnorm(1)))
  withr::local_seed(1)
  for (i in 1:150) {
    h <- rnorm(1, 0, 1.5)
    k <- rnorm(1, 0, 1.5)
    r <- sample(c(runif(1, -.999, .999), runif(1, .9, .9999), -runif(1, .9, .9999)), 1)
    s <- sqrt(1 - r^2)
    cuts <- sort(unique(pmin(h, c(-38, -8, k / r + c(-10, -3, 0, 3, 10) * s, h))))
    pieces <- mapply(function(from, to) {
      integrate(function(x) dnorm(x) * pnorm((k - r * x) / s), from, to, rel.tol = 1e-12, abs.tol = 1e-16, stop.on.error = FALSE)$value
    }, head(cuts, -1), tail(cuts, -1))
    expect_lt(abs(b(h, k, r) - sum(pieces)), 1e-12)
  }
})

test_that("a table cut at the medians gives Sheppard's correlation", {
  found <- polychoric(answers_of_table(matrix(c(40, 10, 10, 40), 2)))
  expect_equal(found$r["a", "b"], sin(2 * pi * (.40 - .25)), tolerance = 1e-10)
  expect_equal(unlist(found$thresholds, use.names = FALSE), c(0, 0), tolerance = 1e-12)
  # and its standard error that of Pearson (1913) at the medians: with p the share of
  # equal answers the estimate is cos(pi (1 - p)), so pi sin(pi (1 - p)) sqrt(p (1 - p) / n)
  # when the margins are known; estimating them adds nothing at the medians.
  expect_equal(found$std_error["a", "b"], pi * sin(pi * .2) * sqrt(.8 * .2 / 100), tolerance = 1e-8)
})

test_that("a 3 x 3 table: the maximum of the likelihood by numerical integration", {
  table <- matrix(c(30, 12, 3, 14, 41, 15, 2, 18, 25), 3)
  found <- polychoric(answers_of_table(table))
  cut_a <- qnorm(cumsum(rowSums(table))[1:2] / sum(table))
  cut_b <- qnorm(cumsum(colSums(table))[1:2] / sum(table))
  cell <- function(i, j, r) {
    a <- c(-Inf, cut_a, Inf)
    b <- c(-Inf, cut_b, Inf)
    integrate(function(x) {
      dnorm(x) * (pnorm((b[j + 1] - r * x) / sqrt(1 - r^2)) - pnorm((b[j] - r * x) / sqrt(1 - r^2)))
    }, a[i], a[i + 1], rel.tol = 1e-10)$value
  }
  loglik <- function(r) sum(table * log(outer(1:3, 1:3, Vectorize(function(i, j) cell(i, j, r)))))
  best <- optimize(loglik, c(-.99, .99), maximum = TRUE, tol = 1e-9)$maximum
  expect_equal(found$r["a", "b"], best, tolerance = 1e-6)
  expect_equal(unname(found$thresholds$a), cut_a, tolerance = 1e-12)
})

test_that("a known correlation is recovered, and its standard error is the spread over samples", {
  draw <- function(seed, n = 400) {
    withr::with_seed(seed, {
      z <- matrix(rnorm(2 * n), n) %*% chol(matrix(c(1, .5, .5, 1), 2))
      data.frame(a = findInterval(z[, 1], c(-1, 0, 1.2)), b = findInterval(z[, 2], c(-.5, .7)))
    })
  }
  fits <- lapply(1:400, function(i) polychoric(draw(i)))
  r <- vapply(fits, function(f) f$r[1, 2], 0)
  se <- vapply(fits, function(f) f$std_error[1, 2], 0)
  expect_lt(abs(mean(r) - .5), 4 * sd(r) / 20)
  expect_equal(mean(se), sd(r), tolerance = .12)
})

test_that("the full covariance matrix agrees with the single standard errors and with the bootstrap", {
  x <- withr::with_seed(3, {
    z <- matrix(rnorm(600 * 3), 600) %*% chol(matrix(c(1, .6, .3, .6, 1, .4, .3, .4, 1), 3))
    data.frame(a = findInterval(z[, 1], c(-1, 0, 1)), b = findInterval(z[, 2], 0), c = findInterval(z[, 3], c(-.5, .5)))
  })
  found <- polychoric(x, covariance = TRUE)
  expect_equal(dim(found$covariance), c(9, 9))
  se <- sqrt(diag(found$covariance) / 600)
  expect_equal(se[7:9], found$std_error[lower.tri(diag(3))], tolerance = .1)
  draws <- withr::with_seed(4, t(replicate(400, {
    again <- polychoric(x[sample(600, replace = TRUE), ])
    c(unlist(again$thresholds), again$r[lower.tri(diag(3))])
  })))
  expect_equal(se, unname(apply(draws, 2, sd)), tolerance = .12)
  by_boot <- cor(draws)
  by_formula <- cov2cor(found$covariance)
  expect_lt(max(abs(by_boot - by_formula)), .17)
})

test_that("direction, order and spacing of the codes", {
  x <- withr::with_seed(5, {
    z <- matrix(rnorm(400), 200) %*% chol(matrix(c(1, .4, .4, 1), 2))
    data.frame(a = findInterval(z[, 1], c(-1, 0, 1)) + 1L, b = findInterval(z[, 2], c(-.3, .6)) + 1L)
  })
  plain <- polychoric(x)$r[1, 2]
  expect_equal(polychoric(data.frame(a = x$a, b = 4L - x$b))$r[1, 2], -plain, tolerance = 1e-9)
  expect_equal(polychoric(x, shift = c(0, 4), sign = c(1, -1))$r[1, 2], -plain, tolerance = 1e-9)
  expect_equal(polychoric(data.frame(a = x$a * 10.5, b = x$b))$r[1, 2], plain, tolerance = 1e-9)
  expect_equal(polychoric(data.frame(a = c(1L, 2L, 5L, 9L)[x$a], b = x$b))$r[1, 2], plain, tolerance = 1e-9)
})

test_that("missing answers, cases left out, threads", {
  x <- withr::with_seed(6, data.frame(a = sample(1:3, 200, TRUE), b = sample(1:4, 200, TRUE), c = sample(1:2, 200, TRUE)))
  x$a[1:20] <- NA
  x$b[11:40] <- NA
  pairwise <- polychoric(x)
  expect_equal(pairwise$n["a", "b"], 160L)
  expect_equal(pairwise$cases, 200)
  expect_equal(polychoric(x, complete = TRUE)$cases, 160)
  expect_equal(polychoric(x, complete = TRUE)$r, polychoric(x[41:200, ])$r)
  keep <- rep(c(TRUE, FALSE), 100)
  expect_equal(polychoric(x, keep = keep)$r, polychoric(x[keep, ])$r)
  expect_identical(polychoric(x, threads = 1L), polychoric(x, threads = 2L))
})

test_that("empty cells, empty corners, constant items, too many categories", {
  empty <- polychoric(answers_of_table(matrix(c(30, 0, 10, 20), 2)))
  expect_equal(empty$state["a", "b"], "empty_cell")
  half <- matrix(c(30, .5, 10, 20), 2)
  expect_lt(abs(empty$r["a", "b"]), 1)
  # the rule by hand: thresholds from the margins as counted, likelihood with half a case
  cuts <- qnorm(c(40, 30) / 60)
  loglik <- function(r) {
    p11 <- core("core_bivariate_normal")(cuts[1], cuts[2], r)
    p <- c(p11, 30 / 60 - p11, 40 / 60 - p11, 1 - 70 / 60 + p11)
    sum(c(30, .5, 10, 20) * log(p))
  }
  best <- optimize(loglik, c(-.999, .9999), maximum = TRUE, tol = 1e-10)$maximum
  expect_equal(empty$r["a", "b"], best, tolerance = 1e-5)
  perfect <- polychoric(answers_of_table(diag(c(20, 30, 25))))
  expect_equal(perfect$state["a", "b"], "at_bound")
  expect_equal(polychoric(data.frame(a = rep(1L, 9), b = rep(1:3, 3)))$status, "constant_item")
  expect_equal(polychoric(data.frame(a = 1:30, b = rep(1:2, 15)))$status, "too_many_categories")
})

test_that("smoothing gives a positive definite correlation matrix near the old one", {
  r <- matrix(c(1, .9, -.9, .9, 1, .9, -.9, .9, 1), 3)
  smooth <- core("core_smooth")(r)
  expect_gt(min(eigen(smooth)$values), 0)
  expect_equal(diag(smooth), rep(1, 3))
  fine <- matrix(c(1, .5, .5, 1), 2)
  expect_equal(core("core_smooth")(fine), fine)
})
