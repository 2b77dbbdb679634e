mh <- core("core_mantel_haenszel")

test_that("Mantel-Haenszel on the Berkeley admissions gives the published figures", {
  cells <- as.data.frame(datasets::UCBAdmissions)
  people <- cells[rep(seq_len(nrow(cells)), cells$Freq), ]
  out <- mh(as.integer(people$Admit == "Admitted"), people$Gender == "Female", people$Dept)
  # Agresti (2002): the common odds ratio over departments is .90
  expect_equal(round(out$odds_ratio, 4), .9047)
  expect_equal(round(out$statistic, 4), 1.4269)
  expect_equal(round(out$p, 4), .2323)
  check <- mantelhaen.test(datasets::UCBAdmissions)
  expect_equal(out$statistic, unname(check$statistic))
  log_width <- diff(log(check$conf.int)) / (2 * qnorm(.975))
  expect_equal(out$delta_se / 2.35, log_width, tolerance = 1e-3)
  expect_equal(out$delta, -2.35 * log(out$odds_ratio))
})

test_that("a table worked by hand", {
  # One stratum: reference 6 right 4 wrong, focal 3 right 7 wrong. Odds ratio
  # (6 * 7) / (4 * 3) = 3.5. Expected 10 * 9 / 20 = 4.5, variance 10 * 10 * 9 * 11
  # / (400 * 19), chi-square (|6 - 4.5| - .5)^2 over it.
  item <- c(rep(1, 6), rep(0, 4), rep(1, 3), rep(0, 7))
  focal <- rep(c(FALSE, TRUE), each = 10)
  out <- mh(item, focal, rep(1, 20))
  expect_equal(out$odds_ratio, 3.5)
  expect_equal(out$statistic, 1 / (9900 / 7600))
})

test_that("Mantel's test of a 0/1 item is Mantel-Haenszel without the correction", {
  set.seed(51)
  n <- 400
  score <- sample(0:6, n, TRUE)
  focal <- runif(n) < .4
  item <- as.integer(runif(n) < plogis(score - 3 - .5 * focal))
  ours <- core("core_mantel")(item, focal, score)
  counts <- table(item, focal, score)
  check <- mantelhaen.test(counts, correct = FALSE)
  expect_equal(ours$statistic, unname(check$statistic))
})

test_that("the generalised test equals the one of base R on a three-way table", {
  set.seed(52)
  n <- 500
  stratum <- sample(4, n, TRUE)
  group <- sample(c("x", "y", "z"), n, TRUE)
  item <- sample(4, n, TRUE)
  ours <- core("core_general_association")(item, group, stratum)
  check <- mantelhaen.test(table(group, item, stratum))
  expect_equal(ours$statistic, unname(check$statistic), tolerance = 1e-10)
  expect_equal(ours$df, unname(check$parameter))
})

test_that("the matched difference is a weighted mean of gaps", {
  # stratum 1: reference 1, 3 (mean 2), focal 4; stratum 2: reference 5, focal 3, 3
  item <- c(1, 3, 4, 5, 3, 3)
  focal <- c(FALSE, FALSE, TRUE, FALSE, TRUE, TRUE)
  stratum <- c(1, 1, 1, 2, 2, 2)
  expect_equal(core("core_matched_difference")(item, focal, stratum), (1 * 2 + 2 * -2) / 3 / sd(item))
})

test_that("the proportional-odds model of two options is logistic regression", {
  set.seed(53)
  x <- cbind(rnorm(300), rnorm(300))
  y <- rbinom(300, 1, plogis(.3 + x[, 1] - .5 * x[, 2]))
  ours <- core("core_proportional_odds")(y + 1, x)
  check <- glm(y ~ x, family = binomial)
  expect_equal(ours$log_likelihood, as.numeric(logLik(check)), tolerance = 1e-8)
  expect_equal(unname(ours$coefficients), unname(coef(check)[-1]), tolerance = 1e-4)
})

test_that("the proportional-odds model of five options maximises its likelihood", {
  set.seed(54)
  x <- cbind(rnorm(400))
  y <- findInterval(x + rlogis(400), c(-2, -1, 0, 1.5)) + 1
  ours <- core("core_proportional_odds")(y, x)
  plain <- function(theta) {
    t <- c(-Inf, theta[1:4], Inf)
    -sum(log(plogis(t[y + 1] - x * theta[5]) - plogis(t[y] - x * theta[5])))
  }
  found <- suppressWarnings(optim(c(-2, -1, 0, 1.5, 1), plain, method = "BFGS", control = list(reltol = 1e-14)))
  expect_equal(ours$log_likelihood, -found$value, tolerance = 1e-8)
  expect_equal(unname(ours$coefficients), found$par[5], tolerance = 1e-4)
})

test_that("rows that stand for several people, items that nothing can be told of, and answers that a group gives alone are taken as they are", {
  odds <- core("core_proportional_odds")
  set.seed(56)
  x <- cbind(sample(0:4, 300, TRUE), rep(0:1, 150))
  y <- findInterval(.5 * x[, 1] + rlogis(300), c(0, 1, 2)) + 1
  one <- odds(y, x)
  key <- paste(y, x[, 1], x[, 2])
  first <- !duplicated(key)
  expect_equal(odds(y[first], x[first, ], tabulate(match(key, key[first]))), one)
  # Without anything to go by, the thresholds are the shares' own.
  share <- tabulate(y) / 300
  expect_equal(odds(y, matrix(0, 300, 0))$log_likelihood, 300 * sum(share * log(share)))
  # A column that does not vary, or says what another says, changes nothing.
  expect_equal(odds(y, cbind(x, 1, x[, 1]))$log_likelihood, one$log_likelihood)
  # The highest answer only where x is 1: the likelihood has no highest point, but a bound that it comes near to.
  apart <- odds(rep(1:2, c(40, 60)), cbind(rep(0:1, c(40, 60))))
  expect_equal(apart$log_likelihood, 0, tolerance = 1e-6)
})

test_that("uniform and non-uniform bias are told apart", {
  set.seed(55)
  n <- 3000
  ability <- rnorm(n)
  group <- sample(c("p", "q"), n, TRUE)
  score <- round(2 * ability)
  item_for <- function(shift, tilt) rbinom(n, 1, plogis((1 + tilt * (group == "q")) * ability + shift * (group == "q")))
  logistic <- core("core_logistic_dif")
  none <- logistic(item_for(0, 0), group, score)
  uniform <- logistic(item_for(-1, 0), group, score)
  bent <- logistic(item_for(0, 1.5), group, score)
  expect_gt(none$p_uniform, .01)
  expect_lt(uniform$p_uniform, 1e-6)
  expect_gt(uniform$p_nonuniform, .01)
  expect_lt(bent$p_nonuniform, 1e-6)
  expect_gt(uniform$r2_change, none$r2_change)
})

test_that("the power to see a large difference is the share of samples in which it is seen", {
  draws <- withr::with_seed(5, replicate(400, {
    ability <- rnorm(300)
    focal <- rep(c(TRUE, FALSE), 150)
    rest <- rowSums(matrix(rnorm(300 * 5, .7 * ability, .7), 300) > 0)
    item <- findInterval(.7 * ability + .7 * rnorm(300) + .30 * focal, c(-1, 0, 1))
    c(core("core_mantel")(item, focal, rest + item)$statistic > qchisq(1 - .01, 1), core("core_matched_error")(item, rest + item, focal),
      core("core_mantel")(item, focal, rest + item)$difference)
  }))
  expect_equal(mean(draws[2, ]), sd(draws[3, ]), tolerance = .2)
  expect_equal(mean(draws[1, ]), core("core_dif_power")(mean(draws[2, ]), mean(draws[3, ]), .01), tolerance = .2)
  expect_equal(core("core_dif_power")(.1, 0, .05), .05)
})

test_that("counts of people give what the people themselves give", {
  set.seed(57)
  people <- data.frame(item = sample(0:3, 600, TRUE), score = sample(0:6, 600, TRUE), group = sample(c("x", "y"), 600, TRUE))
  counts <- aggregate(list(n = rep(1, 600)), people, sum)
  both <- function(f, of, group = identity) {
    arguments <- function(data) lapply(of, function(name) if (name == "group") group(data$group) else data[[name]])
    expect_equal(do.call(core(f), c(arguments(counts), list(n = counts$n))), do.call(core(f), arguments(people)), label = f)
  }
  focal <- function(group) group == "y"
  both("core_mantel", c("item", "group", "score"), focal)
  both("core_matched_difference", c("item", "group", "score"), focal)
  both("core_general_association", c("item", "group", "score"))
  both("core_logistic_dif", c("item", "group", "score"))
  both("core_matched_error", c("item", "score", "group"), focal)
  people$item <- people$item %/% 2
  counts <- aggregate(list(n = rep(1, 600)), people, sum)
  both("core_mantel_haenszel", c("item", "group", "score"), focal)
  expect_equal(core("core_bands")(1:3, 2, c(1, 1, 8)), c(1, 1, 2))
})

test_that("an item that one group never gets right is flagged, though its odds ratio has no end", {
  withr::local_seed(8)
  f <- rnorm(200)
  x <- as.data.frame(lapply(stats::setNames(nm = paste0("t", 1:6)), function(item) as.integer(f + rnorm(200) > 0)))
  x$sex <- rep(c("f", "m"), 100)
  x$t4[x$sex == "m"] <- 0L
  found <- tidy(sw_dif(sw_survey(x, data.frame(item = paste0("t", 1:6), scale = "s", lowest = 0, highest = 1), group = "sex")))
  expect_equal(found$item[found$flagged], "t4")
  expect_equal(found[found$flagged, c("effect", "class", "favours")], data.frame(effect = -Inf, class = "B", favours = "f"), ignore_attr = TRUE)
  few <- x[c(1:30, 101:130), ]
  few$t4 <- 0L
  few$t4[1] <- 1L
  expect_no_error(sw_dif(sw_survey(few, data.frame(item = paste0("t", 1:6), scale = "s", lowest = 0, highest = 1), group = "sex")))
})
