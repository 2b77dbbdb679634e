s3 <- cov(six_by_three)

test_that("Guttman's lambdas follow their definitions", {
  # total variance V, off-diagonal covariances of a six by three table
  v <- sum(s3)
  between <- s3 - diag(diag(s3))
  lambda <- core("core_lambdas")(s3)
  expect_equal(lambda[["lambda1"]], 1 - sum(diag(s3)) / v)
  expect_equal(lambda[["lambda2"]], lambda[["lambda1"]] + sqrt(1.5 * sum(between^2)) / v)
  expect_equal(lambda[["lambda3"]], core("core_alpha")(s3))
  expect_equal(lambda[["lambda5"]], lambda[["lambda1"]] + 2 * sqrt(max(colSums(between^2))) / v)
  residual <- vapply(1:3, function(j) {
    fit <- lm(six_by_three[, j] ~ six_by_three[, -j])
    sum(resid(fit)^2) / 5
  }, 0)
  expect_equal(lambda[["lambda6"]], 1 - sum(residual) / v)
})

test_that("the coefficients keep their order on many matrices", {
  set.seed(101)
  for (i in 1:25) {
    x <- matrix(rnorm(60 * 6), 60) %*% matrix(runif(36), 6)
    s <- cov(x)
    lambda <- core("core_lambdas")(s)
    glb <- core("core_glb")(s)
    splits <- core("core_split_coefficients")(s, core("core_split_sets")(6))
    expect_gte(lambda[["lambda2"]], lambda[["lambda3"]] - 1e-12)
    expect_true(all(c(lambda, splits) <= glb + 1e-7))
    expect_equal(mean(splits), core("core_alpha")(s))
  }
})

test_that("the greatest lower bound of a clean one-factor matrix is omega", {
  loading <- c(.8, .7, .6, .5)
  s <- tcrossprod(loading) + diag(1 - loading^2)
  expect_equal(core("core_glb")(s), sum(loading)^2 / sum(s), tolerance = 1e-7)
  scaled <- s * outer(1:4, 1:4)
  expect_equal(core("core_glb")(scaled), sum(loading * 1:4)^2 / sum(scaled), tolerance = 1e-7)
  parallel <- matrix(.4, 5, 5) + diag(.6, 5)
  expect_equal(core("core_glb")(parallel), core("core_alpha")(parallel), tolerance = 1e-7)
  expect_true(is.na(core("core_glb")(matrix(1, 3, 3))))
})

test_that("the bound is no worse than what a general optimiser reaches", {
  set.seed(102)
  s <- cov(matrix(rnorm(400), 80) %*% matrix(runif(25), 5))
  penalised <- function(t) {
    smallest <- min(eigen(s - diag(t), TRUE, TRUE)$values)
    -sum(t) + 1e4 * (max(0, -smallest) + sum(pmax(-t, 0)))
  }
  found <- -min(vapply(1:5, function(i) optim(runif(5, 0, .1), penalised, control = list(maxit = 20000, reltol = 1e-12))$value, 0))
  expect_lte(core("core_glb")(s), 1 - found / sum(s) + 1e-5)
})

test_that("omega of an exact one-factor matrix is its share", {
  loading <- c(.9, .8, .7, .6)
  s <- (tcrossprod(loading) + diag(1 - loading^2)) * outer(c(1, 2, 1, 3), c(1, 2, 1, 3))
  out <- core("core_omega")(s, 200)
  raw <- loading * c(1, 2, 1, 3)
  expect_equal(out$omega, sum(raw)^2 / sum(s), tolerance = 1e-7)
  expect_equal(out$omega_observed, out$omega, tolerance = 1e-7)
  expect_equal(out$loadings, raw, tolerance = 1e-6)
  expect_equal(core("core_omega")(s[1:2, 1:2], 200)$status, "too_few_items")
  tau <- matrix(.5, 4, 4) + diag(c(.3, .4, .5, .6))
  expect_equal(core("core_omega")(tau, 200)$omega, core("core_alpha")(tau), tolerance = 1e-7)
})

test_that("splits: Spearman-Brown, Horst and all of them", {
  parallel <- matrix(.5, 4, 4) + diag(.5, 4)
  half <- c(TRUE, FALSE, TRUE, FALSE)
  # halves correlate (4 * .5) / (2 + 1) = 2/3, stepped up 2 (2/3) / (5/3) = .8
  expect_equal(core("core_stepped_up")(parallel, half), .8)
  expect_equal(core("core_rulon")(parallel, half), .8)
  # five parallel items cut 2 to 3 step up to the same reliability as alpha
  five <- matrix(.5, 5, 5) + diag(.5, 5)
  expect_equal(core("core_stepped_up")(five, c(TRUE, TRUE, FALSE, FALSE, FALSE)), core("core_alpha")(five), tolerance = 1e-10)
  set.seed(107)
  s5 <- cov(matrix(rnorm(300), 60) %*% matrix(runif(25), 5))
  raju <- core("core_split_coefficients")(s5, core("core_split_sets")(5)) / core("core_split_balance")(5)
  expect_equal(mean(raju), core("core_alpha")(s5))
  expect_equal(nrow(core("core_split_sets")(6)), choose(6, 3) / 2)
  expect_equal(nrow(core("core_split_sets")(5)), choose(5, 2))
  expect_equal(dim(core("core_split_sets")(20, sampled = 50, random = core("random_draws"))), c(50, 20))
})

test_that("the two-way table is the one of aov(), and Hoyt is alpha", {
  long <- data.frame(
    answer = as.vector(six_by_three), person = factor(rep(1:6, 3)), item = factor(rep(1:3, each = 6))
  )
  check <- summary(aov(answer ~ person + item, long))[[1]]
  out <- core("core_twoway")(s3, colMeans(six_by_three), 6)
  expect_equal(out$table$ss[1:3], check[["Sum Sq"]], tolerance = 1e-10)
  expect_equal(out$table$df[1:3], check[["Df"]])
  expect_equal(out$hoyt, core("core_alpha")(s3))
  expect_equal(out$table$ss[6], sum((six_by_three - 3)^2))
})

test_that("Tukey's test of additivity is the regression on the product of effects", {
  set.seed(103)
  x <- outer(1:8, 1:4) / 4 + matrix(rnorm(32, 0, .5), 8)
  long <- data.frame(answer = as.vector(x), person = factor(rep(1:8, 4)), item = factor(rep(1:4, each = 8)))
  long$product <- as.vector(outer(rowMeans(x) - mean(x), colMeans(x) - mean(x)))
  check <- anova(lm(answer ~ person + item + product, long))
  out <- core("core_twoway")(cov(x), colMeans(x), 8)$table
  expect_equal(out$ss[4], check["product", "Sum Sq"], tolerance = 1e-9)
  expect_equal(out$statistic[4], check["product", "F value"], tolerance = 1e-9)
  expect_equal(out$p[4], check["product", "Pr(>F)"], tolerance = 1e-9)
})

test_that("intraclass correlations of a published table", {
  # Shrout & Fleiss (1979), table 2: six targets rated by four judges.
  ratings <- matrix(c(9, 2, 5, 8, 6, 1, 3, 2, 8, 4, 6, 8, 7, 1, 2, 6, 10, 5, 6, 9, 6, 2, 4, 7), 6, byrow = TRUE)
  icc <- core("core_twoway")(cov(ratings), colMeans(ratings), 6)$icc
  expect_equal(round(icc$estimate, 2), c(.71, .91, .29, .62))
  expect_equal(round(icc$low[1:2], 2), c(.34, .68))
  expect_equal(round(icc$high[1:2], 2), c(.95, .99))
  expect_equal(icc$estimate[2], core("core_alpha")(cov(ratings)))
})

test_that("composites: stratified alpha and differences by hand", {
  # two scores, variances 4 and 9, covariance 3, reliabilities .8 and .7
  c2 <- matrix(c(4, 3, 3, 9), 2)
  expect_equal(core("core_weighted_sum_reliability")(c2, c(.8, .7)), 1 - (4 * .2 + 9 * .3) / 19)
  expect_equal(core("core_weighted_sum_reliability")(c2, c(.8, .7), c(1, -1)), 1 - (4 * .2 + 9 * .3) / 7)
  expect_equal(core("core_items_needed")(10, .8, .9), 23)
  expect_true(is.na(core("core_items_needed")(10, -.2, .9)))
})

test_that("tests between alphas keep their level", {
  set.seed(104)
  alpha_of <- function(n) core("core_alpha")(cov(outer(rnorm(n), rep(.7, 6)) + matrix(rnorm(6 * n, 0, .7), n)))
  two <- replicate(800, core("core_compare_alphas")(c(alpha_of(80), alpha_of(120)), c(80, 120), 6)$p)
  three <- replicate(800, core("core_compare_alphas")(c(alpha_of(100), alpha_of(100), alpha_of(100)), rep(100, 3), 6)$p)
  band <- 4 * sqrt(.05 * .95 / 800)
  expect_lt(abs(mean(two < .05) - .05), band)
  expect_lt(abs(mean(three < .05) - .05), band)
  dependent <- replicate(800, {
    f <- matrix(rnorm(300), 150) %*% chol(matrix(c(1, .5, .5, 1), 2))
    x <- f[, rep(1:2, each = 5)] * .7 + matrix(rnorm(1500, 0, .7), 150)
    s <- cov(x)
    one <- 1:5
    r <- sum(s[one, -one]) / sqrt(sum(s[one, one]) * sum(s[-one, -one]))
    core("core_compare_dependent")(core("core_alpha")(s[one, one]), core("core_alpha")(s[-one, -one]), r, 150)$p
  })
  expect_lt(abs(mean(dependent < .05) - .05), band)
})

test_that("Bonett's interval covers at its nominal rate", {
  set.seed(105)
  truth <- 5 * .4 / (1 + 4 * .4)
  inside <- replicate(800, {
    x <- outer(rnorm(100), rep(sqrt(.4), 5)) + sqrt(.6) * matrix(rnorm(500), 100)
    bounds <- core("core_bonett_interval")(core("core_alpha")(cov(x)), 100, 5)
    bounds[1] < truth && truth < bounds[2]
  })
  expect_lt(abs(mean(inside) - .95), 4 * sqrt(.95 * .05 / 800))
})

test_that("short forms are the best of their length", {
  set.seed(106)
  s <- cov(matrix(rnorm(500), 100) %*% matrix(runif(25), 5))
  dimnames(s) <- rep(list(letters[1:5]), 2)
  forms <- core("core_short_forms")(s)
  expect_equal(forms$items, 5:2)
  three <- combn(5, 3, function(set) core("core_alpha")(s[set, set]))
  expect_equal(forms$alpha[3], max(three))
  expect_null(core("core_short_forms")(s[1:2, 1:2]))
  big <- matrix(.3, 18, 18) + diag(.7, 18)
  dimnames(big) <- rep(list(paste0("i", 1:18)), 2)
  expect_equal(core("core_short_forms")(big)$items, 18:2)
})

test_that("the greatest lower bound is found, or not given, where two items are nearly the same", {
  r <- matrix(c(1, .4, .3, 1, .4, 1, .5, .4, .3, .5, 1, .3, 1, .4, .3, 1), 4)
  of <- function(apart) core("core_glb")(r + diag(c(0, 0, 0, apart)))
  # Smoothly nearer to its limit, then too near to singular to say.
  expect_equal(of(1e-6), of(1e-7), tolerance = 1e-5)
  expect_gte(of(1e-6), core("core_alpha")(r))
  expect_true(all(is.na(vapply(10^-(8:14), of, 0))))
})
