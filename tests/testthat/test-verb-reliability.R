survey <- sw_demo("plotholders")

test_that("one table holds every coefficient, in agreement with the core", {
  out <- sw_reliability(survey, missing = "listwise")
  m <- sw_moments(survey, items = "kinship", missing = "listwise")
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
  listwise <- tidy(sw_reliability(survey, missing = "listwise"))
  em <- tidy(sw_reliability(survey, missing = "fiml"))
  pairwise <- tidy(sw_reliability(survey, missing = "pairwise"))
  expect_true(all(em$n > listwise$n))
  expect_equal(em$alpha, listwise$alpha, tolerance = .03)
  expect_equal(pairwise$alpha, listwise$alpha, tolerance = .03)
  complete <- small_survey()
  expect_equal(tidy(sw_reliability(complete, missing = "fiml"))$alpha, tidy(sw_reliability(complete))$alpha, tolerance = 1e-6)
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
  numeric <- setdiff(shared[vapply(tidy(published)[shared], is.numeric, TRUE)], c("n_left_out", "alpha_ordinal", "omega_ordinal", "conf.low",
    "conf.high", "omega_low", "omega_high"))
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

test_that("intervals hold their level for skewed answers, where Feldt's does not", {
  at <- core("structure_truth")(sw_structure(s = paste0("s", 1:5)), .7, 0, .7)
  draw <- function(n) matrix(findInterval(matrix(rnorm(n * 5), n) %*% chol(at$covariance), c(.8, 1.5)), n)
  withr::local_seed(21)
  large <- cov(draw(200000))
  true <- c(core("core_alpha")(large), core("core_omega")(large, 2e5)$omega)
  found <- replicate(300, {
    x <- draw(200)
    s <- cov(x)
    omega <- core("core_omega")(s, 200)
    holds <- function(ends, value) ends[1] <= value && value <= ends[2]
    c(holds(core("core_reliability_interval")(core("core_alpha")(s), core("core_alpha_error")(x), 200, .95), true[1]),
      holds(core("core_feldt_interval")(core("core_alpha")(s), 200, 5, .95), true[1]),
      holds(core("core_reliability_interval")(omega$omega, core("core_omega_error")(omega, s, 200, x), 200, .95), true[2]))
  })
  expect_gt(mean(found[1, ]), .89)
  expect_lt(mean(found[2, ]), .89)
  expect_gt(mean(found[3, ]), .89)
  # Normal answers: the influence of cases gives the normal-theory error, 2 k / (k - 1) (1 - alpha)^2 / n for equal items.
  x <- matrix(rnorm(20000 * 4), 20000) + rnorm(20000)
  a <- core("core_alpha")(cov(x))
  expect_equal(core("core_alpha_error")(x), sqrt(2 * 4 / 3 * (1 - a)^2 / 20000), tolerance = .03)
})

test_that("a mixed bag is named with its core and its ranges; half against half, and totals that run against each other", {
  x <- sw_simulate(sw_structure(a = paste0("a", 1:6)), 200, loading = .6)$data
  withr::local_seed(3)
  for (i in 1:5) x[[paste0("z", i)]] <- sample(0:10, 200, TRUE)
  bag <- sw_survey(x, data.frame(item = c(paste0("a", 1:6), paste0("z", 1:5)), scale = "bag", lowest = rep(1:0, c(6, 5)), highest = rep(c(5, 10),
    c(6, 5))))
  found <- sw_reliability(bag)
  expect_match(headline_of(found), "^Only 6 of 11 items of bag hang together \\(alpha .698\\)")
  expect_equal(found$noted$items[[which(found$noted$code == "core")]], paste0("a", 1:6))
  expect_match(found$notes[found$noted$code == "ranges"], "different ranges")
  turned <- x[paste0("a", 1:6)]
  turned[1:3] <- 6 - turned[1:3]
  half <- sw_survey(turned, data.frame(item = paste0("a", 1:6), scale = "s", lowest = 1, highest = 5))
  expect_match(headline_of(sw_reliability(half)), "half of s points against the other half")
  expect_match(headline_of(sw_screen(half)), "^Check the keying first: half of s")
  expect_true(all(tidy(sw_reliability(half), "items")$verdict == "untested"))
  apart <- x[paste0("a", 1:6)]
  apart[4:6] <- 6 - apart[4:6]
  names(apart) <- c("p1", "p2", "p3", "q1", "q2", "q3")
  both <- sw_survey(apart, data.frame(item = names(apart), scale = rep(c("p", "q"), each = 3), lowest = 1, highest = 5))
  expect_match(paste(sw_reliability(both, weights = c(p = 1, q = 1))$notes, collapse = " "), "Totals that run against each other: p and q")
  expect_false("negative_totals" %in% sw_reliability(both)$noted$code)
})
