# Multiple imputation: what is pooled, and from where.

gaps <- local({
  st <- sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4))
  whole <- sw_simulate(st, 300, loading = .7, seed = 8)
  data <- as.data.frame(whole$answers)
  withr::with_seed(2, for (item in names(data)[-1]) data[[item]][runif(300) < .12] <- NA)
  data$age <- rep(20:69, 6)
  book <- as.data.frame(whole$codebook)
  book$direction[2] <- "reversed"
  data$a2 <- 6 - data$a2
  list(data = data, book = book, structure = st)
})

test_that("imputed answers are within range, seeded, keyed, and pooled by Rubin's rules", {
  skip_without("mice")
  survey <- sw_survey(gaps$data, gaps$book)
  state <- get0(".Random.seed", globalenv())
  imputed <- sw_impute(survey, m = 5, also = "age", seed = 4)
  expect_identical(get0(".Random.seed", globalenv()), state)
  expect_true(all(unlist(imputed$imputed$cells) %in% 1:5))
  expect_identical(sw_impute(survey, m = 5, also = "age", seed = 4)$imputed$cells, imputed$imputed$cells)
  expect_match(format(imputed)[1], "5 imputations by chained equations")
  expect_equal(sum(tidy(imputed)$missing), sum(is.na(gaps$data)))
  items <- names(gaps$data)[1:8]
  # By hand.
  each <- lapply(1:5, function(i) {
    x <- as.matrix(gaps$data[items])
    for (item in names(imputed$imputed$cells)) x[is.na(x[, item]), item] <- imputed$imputed$cells[[item]][, i]
    x[, "a2"] <- 6 - x[, "a2"]
    x
  })
  moments <- sw_moments(imputed)
  expect_equal(moments$covariance, Reduce(`+`, lapply(each, cov)) / 5)
  lower <- sapply(each, function(x) 299 / 300 * cov(x)[lower.tri(diag(8), diag = TRUE)])
  within <- Reduce(`+`, lapply(each, function(x) {
    em <- list(covariance = cov(x) * 299 / 300, mean = colMeans(x))
    if (core("near_normal")(x)) core("core_observed_gamma")(em, core("core_answer_patterns")(x)) else
      core("core_meat")(core("core_product_influence")(x, rep(1, 300)))
  })) / 5
  expect_equal(moments$gamma, within + 300 * (1 + 1 / 5) * cov(t(lower)), tolerance = 1e-6, ignore_attr = TRUE)
  # Every verb says what it took.
  fit <- sw_confirm(imputed, gaps$structure)
  for (x in list(sw_reliability(imputed), sw_explore(imputed, 2), fit, sw_factorability(imputed), sw_retention(imputed, replicates = 50),
    sw_validity(fit, replicates = 50), sw_composites(imputed, gaps$structure, replicates = 50))) {
    expect_equal(x$about$missing, "imputed", info = class(x)[1])
    expect_match(paste(format(x), collapse = " "), "pooled over imputations", info = class(x)[1])
  }
  ordinal <- sw_confirm(imputed, gaps$structure, estimator = "ordinal")
  r <- core("core_polychoric")
  expect_equal(ordinal$parts$observed, Reduce(`+`, lapply(each, function(x) r(core("named_columns")(x))$r)) / 5, ignore_attr = TRUE)
  scores <- tidy(sw_score(imputed, fill = "imputed", at_least = .5), "scores")
  means <- sapply(each, function(x) rowMeans(x[, 1:4]))
  known <- !is.na(scores$a_mean)
  expect_equal(scores$a_mean[known], rowMeans(means)[known])
  expect_equal(scores$a_mean_gap[known], sqrt(1.2 * apply(means, 1, var))[known])
  # Fewer people, fewer imputed answers.
  half <- sw_keep(imputed, cases = rep(c(TRUE, FALSE), 150), reason = "half")
  expect_equal(sw_moments(half)$covariance, Reduce(`+`, lapply(each, function(x) cov(x[rep(c(TRUE, FALSE), 150), ]))) / 5)
})

test_that("invariance in two stages is that of likelihood, with helping columns", {
  two <- as.data.frame(sw_simulate(gaps$structure, 600, loading = .7, seed = 9)$answers)
  two$age <- rep(20:69, 12)
  withr::with_seed(6, for (item in names(two)[2:8]) two[[item]][runif(600) < .15] <- NA)
  two$g <- rep(c("x", "y"), 300)
  book <- transform(gaps$book, direction = "forward")
  survey <- sw_survey(two, book)
  steps <- function(...) sw_invariance(..., structure = gaps$structure, by = "g")$tables$steps
  direct <- steps(survey, estimator = "robust")
  helped <- steps(survey, also = "age")
  expect_equal(helped$df, direct$df)
  expect_equal(helped$chi_square, direct$chi_square, tolerance = .12)
  expect_equal(helped$cfi, direct$cfi, tolerance = .01)
  # Without gaps helping columns change nothing.
  whole <- sw_survey(stats::na.omit(two), book)
  expect_equal(steps(whole, also = "age")$chi_square, steps(whole, estimator = "robust")$chi_square)
})

test_that("the likelihood ratio over imputations is Meng and Rubin's", {
  x <- lapply(1:3, function(i) withr::with_seed(i, matrix(rnorm(200 * 4), 200) %*% chol(diag(.5, 4) + .5)))
  samples <- lapply(x, function(x) list(covariance = cov(x) * 199 / 200, mean = colMeans(x)))
  one <- sw_structure(f = paste0("v", 1:4))
  cells <- core("structure_cells")(one, paste0("v", 1:4), "variance", rep(1, 4))
  start <- core("core_structure_start")(cells, samples[[1]]$covariance, 1)
  found <- core("core_pooled_ratio")(samples, 200, cells, 1, start, 2)
  # By its definition, likelihoods of rows.
  log_likelihood <- function(x, mean, s) -sum(apply(x, 1, function(row) log(det(s)) + sum((row - mean) * solve(s, row - mean)))) / 2
  fits <- lapply(samples, function(one) core("core_fit_structure")(cells, one$covariance, 1, start))
  implied_at <- function(theta) core("core_implied")(core("core_structure_matrices")(cells, theta, 4, 1))
  own <- mean(mapply(function(x, sample, fit) {
    2 * (log_likelihood(x, sample$mean, sample$covariance) - log_likelihood(x, sample$mean, implied_at(fit$theta)))
  }, x, samples, fits))
  average <- function(part) Reduce(`+`, part) / 3
  mean <- average(lapply(samples, `[[`, "mean"))
  pooled <- mean(sapply(x, function(x) {
    2 * (log_likelihood(x, mean, average(lapply(samples, `[[`, "covariance"))) - log_likelihood(x, mean, implied_at(average(lapply(fits, `[[`,
      "theta")))))
  }))
  rise <- 4 / (2 * 2) * (own - pooled)
  expect_equal(found$rise, max(rise, 0), tolerance = 1e-5)
  expect_equal(found$statistic, pooled / (2 * (1 + max(rise, 0))), tolerance = 1e-5)
  # Three times the same: nothing is missing, and the test is the chi-square's.
  same <- core("core_pooled_ratio")(samples[c(1, 1, 1)], 200, cells, 1, start, 2)
  expect_equal(same$p, stats::pchisq(200 * fits[[1]]$discrepancy, 2, lower.tail = FALSE), tolerance = 1e-6)
})

test_that("imputation and likelihood agree as far as chance lets them", {
  skip_without("mice")
  survey <- sw_survey(gaps$data, gaps$book)
  imputed <- sw_impute(survey, m = 20, seed = 1)
  one <- tidy(sw_reliability(survey))
  other <- tidy(sw_reliability(imputed))
  expect_equal(other$alpha, one$alpha, tolerance = .015)
  expect_equal(other$conf.high - other$conf.low, one$conf.high - one$conf.low, tolerance = .15)
  a <- tidy(sw_confirm(survey, gaps$structure, estimator = "ml"), "loadings")
  b <- tidy(sw_confirm(imputed, gaps$structure), "loadings")
  expect_lt(max(abs(a$standardised - b$standardised) / a$standardised_error), 1)
  expect_equal(mean(b$standardised_error), mean(a$standardised_error), tolerance = .15)
  ratio <- sw_confirm(imputed, gaps$structure)$parts$figures
  expect_lt(abs(ratio$pooled_ratio_p - ratio$p_scaled), .25)
  expect_gt(ratio$pooled_rise, 0)
})

test_that("imputations made elsewhere are taken, and wrong ones refused", {
  survey <- sw_survey(gaps$data, gaps$book)
  frames <- lapply(1:3, function(i) {
    out <- gaps$data
    for (item in names(out)[2:8]) {
      lost <- is.na(out[[item]])
      out[[item]][lost] <- withr::with_seed(i, sample(out[[item]][!lost], sum(lost), TRUE))
    }
    out
  })
  imputed <- sw_impute(survey, from = frames)
  expect_equal(imputed$imputed$m, 3)
  expect_equal(core("imputed_rows")(imputed, "b1", 2)[, 1], frames[[2]]$b1)
  expect_error(sw_impute(survey, from = frames[[1]]), class = "scalewort_error_input")
  expect_error(sw_impute(survey, from = lapply(frames, head)), class = "scalewort_error_input")
  expect_error(sw_impute(survey, from = lapply(frames, function(d) replace(d, "b1", 9))), class = "scalewort_error_input")
  expect_error(sw_impute(sw_survey(stats::na.omit(gaps$data), gaps$book)), class = "scalewort_error_input")
  chains <- matrix(c(1, 2, 3, 4, 2, 3, 4, 5), 4)
  expect_equal(core("core_scale_reduction")(chains), sqrt(3 / 4 + .5 / (5 / 3)))
})

test_that("an item that repeats another cannot be imputed, and that is said", {
  skip_without("mice")
  withr::local_seed(1)
  f <- rnorm(60)
  x <- as.data.frame(sapply(letters[1:4], function(item) findInterval(f + rnorm(60), c(-1, 0, 1)) + 1))
  x[1:9, "a"] <- NA
  x$b <- x$a
  expect_error(sw_impute(sw_survey(x, data.frame(item = letters[1:4], scale = "s", lowest = 1, highest = 4)), 2), "repeat others",
    class = "scalewort_error_numeric")
})
