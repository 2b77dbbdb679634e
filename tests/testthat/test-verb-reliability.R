survey <- sw_demo("plotholders")

test_that("one table holds every coefficient, in agreement with the core", {
  out <- sw_reliability(survey)
  m <- sw_moments(survey, items = "kinship")
  row <- tidy(out)[3, ]
  lambda <- core("core_lambdas")(m$covariance)
  expect_equal(unlist(row[c("lambda1", "lambda2", "lambda5", "lambda6")]), lambda[c("lambda1", "lambda2", "lambda5", "lambda6")])
  expect_equal(row$glb, core("core_glb")(m$covariance))
  expect_equal(row$sem, sqrt(sum(m$covariance) * (1 - row$alpha)))
  expect_equal(row$reliable_change, qnorm(.975) * sqrt(2) * row$sem)
  expect_equal(row$sum_mean, sum(m$mean))
  expect_equal(row$sum_sd, sqrt(sum(m$covariance)))
  expect_true(row$split_worst <= row$split_mean && row$lambda4 <= row$glb)
  expect_equal(row$split_mean, row$alpha)
  items <- tidy(out, "items")
  mine <- items[items$scale == "kinship", ]
  expect_equal(mine$sum_mean_without + mine$mean, rep(sum(m$mean), 5))
  x <- core("source_rows")(survey, mine$item)
  x <- x[rowSums(is.na(x)) == 0, ]
  expect_equal(mine$squared_multiple_r[2], summary(lm(x[, 2] ~ x[, -2]))$r.squared)
  expect_equal(mine$sum_sd_without[2], sd(rowSums(x[, -2])))
})

test_that("KR-20 is alpha of 0/1 answers, and named so", {
  out <- sw_reliability(sw_demo("plantcare"))
  expect_equal(tidy(out)$coefficient, "KR-20")
  expect_match(format(out)[1], "^KR-20: plantcare")
  x <- core("source_rows")(sw_demo("plantcare"))
  p <- colMeans(x)
  n <- nrow(x)
  kr20 <- 14 / 13 * (1 - sum(p * (1 - p)) / (var(rowSums(x)) * (n - 1) / n))
  expect_equal(tidy(out)$alpha, kr20)
})

test_that("missing answers are treated as asked", {
  listwise <- tidy(sw_reliability(survey))
  em <- tidy(sw_reliability(survey, missing = "em"))
  pairwise <- tidy(sw_reliability(survey, missing = "pairwise"))
  expect_true(all(em$n > listwise$n))
  expect_equal(em$alpha, listwise$alpha, tolerance = .03)
  expect_equal(pairwise$alpha, listwise$alpha, tolerance = .03)
  complete <- small_survey()
  expect_equal(tidy(sw_reliability(complete, missing = "em"))$alpha, tidy(sw_reliability(complete))$alpha, tolerance = 1e-6)
})

test_that("intervals, targets and groups come when asked for", {
  feldt <- tidy(sw_reliability(survey))
  bonett <- tidy(sw_reliability(survey, interval = "bonett"))
  expect_false(identical(feldt$conf.low, bonett$conf.low))
  expect_equal(feldt$conf.low, bonett$conf.low, tolerance = .02)
  out <- sw_reliability(survey, target = .90, by = "district")
  needed <- tidy(out, "lengthen")
  stepped <- needed$items_needed / needed$items * needed$alpha / (1 + (needed$items_needed / needed$items - 1) * needed$alpha)
  expect_true(all(stepped >= .90))
  expect_match(out$notes, "capitalise on chance", all = FALSE)
  expect_equal(nrow(tidy(out, "compare")), 8)
  expect_error(sw_reliability(survey, by = "town"), class = "scalewort_error_input")
  expect_error(sw_reliability(sw_moments(survey), by = "district"), class = "scalewort_error_input")
  expect_error(sw_reliability(survey, target = 2), class = "scalewort_error_input")
})

test_that("a published matrix gives all that needs no single answers", {
  m <- sw_moments(small_survey())
  from_survey <- sw_reliability(small_survey())
  published <- sw_reliability(sw_moments(m$covariance, n = 300, mean = m$mean, scales = list(one = paste0("i", 1:3), two = paste0("i", 4:6))))
  shared <- intersect(names(tidy(published)), names(tidy(from_survey)))
  numeric <- setdiff(shared[vapply(tidy(published)[shared], is.numeric, TRUE)], c("n_left_out", "alpha_ordinal", "omega_ordinal", "conf.low", "conf.high", "omega_low", "omega_high"))
  expect_equal(as.data.frame(tidy(published)[numeric]), as.data.frame(tidy(from_survey)[numeric]), tolerance = 1e-8, ignore_attr = TRUE)
  expect_equal(tidy(published, "anova"), tidy(from_survey, "anova"), tolerance = 1e-8)
  expect_null(published$tables$bands)
})

test_that("the figures show the coefficients", {
  out <- sw_reliability(survey)
  points <- ggplot2::layer_data(ggplot2::autoplot(out), 5)
  expect_equal(sort(points$x), sort(c(tidy(out)$alpha, tidy(out)$omega)))
  items <- ggplot2::layer_data(ggplot2::autoplot(out, "items"), 3)
  expect_equal(sort(items$y), sort(tidy(out, "items")$alpha_without))
  splits <- ggplot2::autoplot(out, "splits")
  expect_equal(nrow(splits$data), 2 * choose(6, 3) / 2 + 2 * choose(5, 2))
  expect_error(ggplot2::autoplot(out, "pie"), class = "scalewort_error_input")
})

test_that("numbers that mean little are said to", {
  set.seed(111)
  against <- as.data.frame(matrix(sample(5, 600, TRUE), 100))
  against$V2 <- 6 - against$V1
  against$V4 <- 6 - against$V3
  book <- data.frame(item = names(against), scale = "s", lowest = 1, highest = 5)
  expect_match(sw_reliability(sw_survey(against[c("V1", "V2")], book[1:2, ]))$notes, "Only two items", all = FALSE)
  twins <- as.data.frame(matrix(rep(sample(5, 100, TRUE), 4), 100))
  twins$V2[1] <- 3
  high <- sw_reliability(sw_survey(twins, data.frame(item = names(twins), scale = "s", lowest = 1, highest = 5)))
  expect_match(high$notes, "repeat each other", all = FALSE)
  two_things <- small_survey(1000)
  two_things$codebook$items$scale <- "both"
  expect_match(sw_reliability(two_things)$notes, "One factor does not fit both", all = FALSE)
  minus <- data.frame(a = c(1, 2, 3, 4, 5, 1), b = c(5, 4, 3, 2, 1, 4))
  set.seed(112)
  f <- rnorm(400)
  answer <- function(sign) pmin(5, pmax(1, round(3 + sign * f + rnorm(400, 0, .6))))
  two_back <- as.data.frame(lapply(c(a = 1, b = -1, c = 1, d = -1, e = 1), answer))
  turned <- sw_reliability(sw_survey(two_back, data.frame(item = names(two_back), scale = "s", lowest = 1, highest = 5)))
  expect_match(turned$notes, "b and d in s look unreversed", all = FALSE)
  expect_match(format(turned)[1], "Check the keying first: b and d in s look unreversed")
  expect_match(sw_reliability(sw_survey(minus, data.frame(item = c("a", "b"), scale = "s", lowest = 1, highest = 5)))$notes, "negative", all = FALSE)
})
