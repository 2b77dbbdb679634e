book <- data.frame(item = c("a", "b", "c"), scale = "s", lowest = 1, highest = 5, direction = c("forward", "reversed", "forward"))
people <- data.frame(who = c("p1", "p2", "p3", "p4"), a = c(5, 4, NA, 1), b = c(1, NA, NA, 5), c = c(4, 2, 3, 1))
survey <- sw_survey(people, book, id = "who")
column <- function(scores, name) as.vector(augment(scores)[[name]])

test_that("scores with missing answers are those worked out by hand", {
  out <- sw_score(survey, c("mean", "sum", "share"), at_least = .6)
  # p1: 5, 6 - 1 = 5, 4; p2: 4 and 2 of three; p3: one of three; p4: 1, 1, 1.
  expect_equal(column(out, "s_mean"), c(14 / 3, 3, NA, 1))
  expect_equal(column(out, "s_sum"), c(14, 9, NA, 3))
  expect_equal(column(out, "s_share"), c(100 * (14 / 3 - 1) / 4, 50, NA, 0))
  expect_equal(column(sw_score(survey, fill = "none"), "s_mean"), c(14 / 3, NA, NA, 1))
  expect_equal(column(sw_score(survey, at_least = .1), "s_mean")[3], 3)
  weighted <- sw_score(survey, "weighted", at_least = .6, weights = c(a = 2))
  expect_equal(column(weighted, "s_weighted"), c((2 * 5 + 5 + 4) / 4, (2 * 4 + 2) / 3, NA, 1))
  expect_match(tidy(weighted)$recipe, "2 x a, 1 x (6 - b), 1 x c; 2 of 3 needed", fixed = TRUE)
  expect_equal(attr(augment(out)$s_mean, "made_of"), c("a", "b", "c"))
  expect_match(sw_log(out$parts$source)$detail[3], "mean of a, 6 - b, c")
  expect_error(sw_score(survey, "right"), class = "scalewort_error_input")
  expect_error(sw_score(survey, "weighted"), class = "scalewort_error_input")
})

test_that("a quiz has one reliability, and one rule for blanks in every verb", {
  quiz <- sw_demo("plantcare")
  out <- sw_score(quiz, "right", at_least = .5)
  keyed <- core("source_rows")(quiz, core("scored_items")(quiz))
  expect_equal(column(out, "plantcare_right"), rowSums(keyed))
  k <- ncol(keyed)
  kr20 <- k / (k - 1) * (1 - sum(apply(keyed, 2, var)) / var(rowSums(keyed)))
  expect_equal(tidy(out)$reliability, kr20)
  expect_equal(tidy(sw_reliability(quiz))$alpha, kr20)
  expect_equal(tidy(sw_reliability(quiz))$n, 500)
  expect_match(out$about$missing, "an item passed over is not right")
  # Where the codebook says nothing of blanks they are wrong, too; never shown is missing.
  silent <- quiz$codebook
  silent$items$missing <- NA_character_
  same <- sw_survey(quiz$data, silent)
  expect_equal(unname(core("source_rows")(same)), unname(core("source_rows")(quiz)))
  unseen <- quiz$codebook
  unseen$items$missing <- "unseen:blank"
  gaps <- sw_survey(quiz$data, unseen)
  expect_equal(tidy(sw_reliability(gaps, missing = "listwise"))$n, sum(complete.cases(core("source_rows")(gaps))))
  absent <- quiz$data
  absent[5, quiz$codebook$items$item] <- ""
  expect_true(all(is.na(core("source_rows")(sw_survey(absent, silent))[5, ])))
  expect_false(any(quiz$codebook$items$item[quiz$codebook$items$role == "tryout"] %in% attr(augment(out)$plantcare_right, "made_of")))
})

test_that("T scores, percentiles with ties, stanines and other forms", {
  five <- sw_survey(data.frame(x = c(1, 2, 2, 3, 5)), data.frame(item = "x", scale = "s", lowest = 1, highest = 5))
  out <- sw_score(five, form = c("z", "t", "percentile", "stanine"))
  z <- (c(1, 2, 2, 3, 5) - 2.6) / sd(c(1, 2, 2, 3, 5))
  expect_equal(column(out, "s_mean_z"), z)
  expect_equal(column(out, "s_mean_t"), 50 + 10 * z)
  expect_equal(column(out, "s_mean_percentile"), c(10, 40, 40, 70, 90))
  # Edges of the stanines: 4, 11, 23, 40, 60, 77, 89, 96 percent, to a whole percent.
  expect_equal(column(out, "s_mean_stanine"), c(2, 4, 4, 6, 8))
  expect_equal(core("core_stanine")(c(3.9, 4.1, 10.5, 10.6, 39.9, 40.2, 96, 95.9)), c(1, 2, 2, 3, 4, 5, 9, 8))
  expect_equal(column(sw_score(five, form = c(mean = 100, sd = 15)), "s_mean_scaled"), 100 + 15 * z)
  expect_equal(column(sw_score(five, form = c(slope = 2, intercept = 1)), "s_mean_scaled"), c(3, 5, 5, 7, 11))
  expect_error(sw_score(five, form = c(mean = 1)), class = "scalewort_error_input")
})

test_that("norms come from a group or a table, and the interval is the score and its error either way", {
  plot <- sw_demo("plotholders")
  north <- sw_score(plot, form = "t", norms = list(district = "north"))
  own <- column(north, "calm_mean")[plot$data$district == "north"]
  expect_equal(column(north, "calm_mean_t"), 50 + 10 * (column(north, "calm_mean") - mean(own, na.rm = TRUE)) / sd(own, na.rm = TRUE))
  norms <- sw_demo("norms")
  tabled <- sw_score(plot, form = "t", norms = norms, interval = TRUE, level = .90)
  row <- norms[norms$score == "calm_mean", ]
  expect_equal(column(tabled, "calm_mean_t"), 50 + 10 * (column(tabled, "calm_mean") - row$mean) / row$sd)
  sem <- tidy(tabled)$sem[1]
  # Error and reliability are those of the norms.
  expect_equal(tidy(tabled)$reliability[1], row$reliability)
  expect_equal(sem, row$sd * sqrt(1 - row$reliability))
  expect_equal(column(tabled, "calm_mean_high") - column(tabled, "calm_mean"), ifelse(is.na(column(tabled, "calm_mean")), NA, qnorm(.95) * sem))
  expect_error(sw_score(plot, "share", form = "t", norms = norms), "calm_share", class = "scalewort_error_input")
  expect_error(sw_score(plot, form = "t", norms = list(town = "x")), class = "scalewort_error_input")
})

test_that("change between waves is judged by its error", {
  out <- sw_score(sw_demo("plotholders", wave = 1:2))
  change <- tidy(out, "change")
  one <- change[!is.na(change$change) & change$score == "calm_mean", ][1, ]
  sem <- tidy(out)$sem[tidy(out)$score == "calm_mean"]
  expect_equal(one$statistic, (one$second - one$first) / one$se)
  expect_lt(one$se, sqrt(2) * sem)
  expect_equal(one$verdict, if (one$statistic > 1.96) "up" else if (one$statistic < -1.96) "down" else "within error")
})

test_that("factor scores keep their algebra, and each has the error it is said to have", {
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  simulated <- sw_simulate(structure, 4000, loading = .7, correlation = .4, categories = NULL, seed = 3)
  fit <- sw_confirm(simulated, structure)
  out <- sw_score(simulated, c("regression", "bartlett", "tenberge"), from = fit)
  solution <- core("score_solution")(fit)
  w <- fit$parts$weights
  lp <- solution$pattern %*% solution$correlations
  # Covariance of regression scores; Bartlett's conditional unbiasedness; ten Berge's correlations.
  expect_equal(t(w$regression) %*% solution$r %*% w$regression, t(lp) %*% solve(solution$r) %*% lp, tolerance = 1e-8, ignore_attr = TRUE)
  expect_equal(t(w$bartlett) %*% solution$pattern, diag(2), tolerance = 1e-8, ignore_attr = TRUE)
  expect_equal(cov2cor(t(w$tenberge) %*% solution$r %*% w$tenberge), solution$correlations, tolerance = 1e-8, ignore_attr = TRUE)
  found <- core("core_score_error")(solution$r, solution$pattern, solution$correlations, w$regression)
  expect_equal(found$error^2, 1 - diag(t(lp) %*% solve(solution$r) %*% lp), tolerance = 1e-8, ignore_attr = TRUE)
  expect_equal(tidy(out)$reliability[1:2], unname(found$reliability), tolerance = 1e-10)
  expect_error(sw_score(simulated, "expected", from = fit), class = "scalewort_error_input")
  expect_error(sw_score(simulated, "sum", from = fit), class = "scalewort_error_input")
  both <- sw_score(simulated, c("mean", "regression"), from = fit)
  expect_gt(cor(column(both, "one_mean"), column(both, "one_regression")), .9)
  expect_error(sw_score(simulated, "regression"), class = "scalewort_error_input")
})

test_that("scores of an exploration's factors are those it gives itself, with their errors", {
  survey <- sw_demo("plotholders")
  for (found in list(sw_explore(survey, 4), sw_explore(survey, 3, rotation = "varimax"), sw_explore(survey, 1))) {
    for (method in c("regression", "bartlett", "tenberge")) {
      scores <- sw_score(survey, method, from = found)
      own <- augment(found, method)
      factors <- colnames(found$parts$pattern)
      for (name in factors) expect_equal(as.vector(augment(scores)[[paste0(name, "_", method)]]), own[[name]], info = paste(method, name))
      # Reliability of a regression score is the squared correlation with its factor, 1 - error variance.
      if (method == "regression") {
        table <- tidy(scores)
        weights <- found$parts$weights$regression
        variance <- diag(t(weights) %*% found$parts$correlations %*% weights)
        expect_equal(table$reliability, unname(variance), tolerance = 1e-6)
        expect_equal(table$sem^2, unname(1 - variance), tolerance = 1e-6)
      }
    }
  }
})

test_that("expected scores are the conditional means of the factor, and their errors its spread", {
  # One factor, two items of two answers: by integration.
  cuts <- list(0, .5)
  loading <- matrix(c(.8, .6))
  given <- function(pattern) {
    share <- function(k, l, cut, f) if (k == 2) pnorm((l * f - cut) / sqrt(1 - l^2)) else pnorm((cut - l * f) / sqrt(1 - l^2))
    mass <- function(f) dnorm(f) * share(pattern[1], .8, 0, f) * share(pattern[2], .6, .5, f)
    total <- integrate(mass, -8, 8)$value
    mean <- integrate(function(f) f * mass(f), -8, 8)$value / total
    c(mean, sqrt(integrate(function(f) f^2 * mass(f), -8, 8)$value / total - mean^2))
  }
  found <- core("core_expected_scores")(rbind(c(2, 1), c(2, 2), c(NA, 1), c(NA, NA)), cuts, loading, matrix(1))
  expect_equal(c(found$score[1], found$error[1]), given(c(2, 1)), tolerance = 1e-5)
  expect_equal(c(found$score[2], found$error[2]), given(c(2, 2)), tolerance = 1e-5)
  expect_lt(found$score[3], 0)
  expect_true(is.na(found$score[4]))
})

test_that("expected scores of four factors recover what made the answers", {
  survey <- sw_demo("plotholders")
  fit <- sw_confirm(survey, sw_drop(sw_structure(survey), items = "calm6"), estimator = "ordinal")
  out <- sw_score(survey, c("expected", "regression"), from = fit)
  expect_gt(cor(column(out, "calm_expected"), column(out, "calm_regression"), use = "complete.obs"), .98)
  expect_false(anyNA(column(out, "calm_expected")))
  expect_gt(min(column(out, "calm_expected_error")), .2)
})

test_that("bands by cuts, groups and a pass mark; the median split says what it does", {
  five <- sw_survey(data.frame(x = c(1, 2, 2, 3, 5, 4)), data.frame(item = "x", scale = "s", lowest = 1, highest = 5))
  cut <- augment(sw_band(sw_score(five), cuts = c(2, 4)))$s_mean_band
  expect_equal(as.character(cut), c("low", "middle", "middle", "middle", "high", "high"))
  expect_true(is.ordered(cut))
  tied <- sw_survey(data.frame(x = c(1, 2, 3, 3, 3, 4, 5)), data.frame(item = "x", scale = "s", lowest = 1, highest = 5))
  split <- sw_band(sw_score(tied), groups = 2)
  expect_match(paste(split$notes, collapse = " "), "median split throws away")
  expect_match(paste(split$notes, collapse = " "), "3 at 3, all high")
  expect_equal(tidy(split, "bands")$n, c(2, 5))
  expect_error(sw_band(sw_score(five)), class = "scalewort_error_input")
  expect_error(sw_band(sw_score(five), cuts = c(4, 2)), class = "scalewort_error_input")
  expect_error(sw_band(sw_score(five), pass = 8), "no possible score of s_mean, which goes from 1 to 5", class = "scalewort_error_input")
  expect_match(paste(sw_band(sw_score(five), pass = 1)$notes, collapse = " "), "tells nobody apart in s_mean")
  expect_false(any(grepl("nobody apart", sw_band(sw_score(five), pass = 3)$notes)))
  once <- sw_band(sw_score(five), groups = 2)
  expect_error(sw_band(once, groups = 3), "s_mean_band", class = "scalewort_error_input")
  expect_equal(nlevels(augment(sw_band(once, groups = 3, overwrite = TRUE))$s_mean_band), 3)
})

test_that("decision consistency is that of two parallel forms", {
  found <- core("core_decision_consistency")(.3, 0, 1, .7)
  x <- withr::with_seed(1, {
    true <- rnorm(4e5) * sqrt(.7)
    cbind(true, true + rnorm(4e5) * sqrt(.3), true + rnorm(4e5) * sqrt(.3))
  }) > .3
  expect_equal(found$share, mean(x[, 2] == x[, 3]), tolerance = .005)
  expect_equal(found$accuracy, mean(x[, 2] == (x[, 1])), tolerance = .005)
  chance <- mean(x[, 2])^2 + mean(!x[, 2])^2
  expect_equal(found$kappa, (mean(x[, 2] == x[, 3]) - chance) / (1 - chance), tolerance = .01)
})

test_that("a person's score is worked out step by step", {
  out <- sw_explain(sw_score(survey, c("mean", "sum"), at_least = .6), "p2")
  expect_equal(tidy(out)$working, c("(4 + 2) / 2", "3 x (4 + 2) / 2"))
  expect_equal(tidy(out, "answers")$how, c("as answered", "not answered", "as answered"))
  expect_equal(tidy(sw_explain(sw_score(survey), "p1"), "answers")$how[2], "reversed: 6 - 1")
  expect_error(sw_explain(sw_score(survey), "p9"), class = "scalewort_error_input")
})

test_that("simulated answers have the correlations of their structure", {
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  x <- sw_simulate(structure, 20000, loading = c(i1 = .9, i2 = .5), correlation = .5, categories = NULL, seed = 5)
  r <- cor(as.matrix(x$data[paste0("i", 1:6)]))
  expect_equal(r[1, 2], .45, tolerance = .03)
  expect_equal(r[1, 4], .9 * .7 * .5, tolerance = .05)
  expect_identical(sw_simulate(structure, 50)$data, sw_simulate(structure, 50)$data)
  expect_error(sw_simulate(structure, 50, loading = 2), class = "scalewort_error_input")
})
