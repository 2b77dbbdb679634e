# One treatment of gaps, from the survey to every verb.

gappy <- local({
  st <- sw_structure(a = paste0("a", 1:5), b = paste0("b", 1:5))
  complete <- sw_simulate(st, 600, loading = .6, seed = 3)
  data <- as.data.frame(complete$answers)
  # Left out by those whose first answers are high: random given these.
  withr::with_seed(5, for (item in c("a2", "a3", "a4", "a5")) data[[item]][runif(600) < plogis(1.5 * (data$a1 - 3.5))] <- NA)
  book <- as.data.frame(sw_codebook(complete$codebook))
  list(complete = complete, survey = sw_survey(data, complete$codebook), structure = st)
})

test_that("everybody who answered anything counts, in every verb that rests on moments", {
  survey <- sw_demo("plotholders")
  fit <- sw_confirm(survey)
  results <- list(sw_reliability(survey), sw_factorability(survey), sw_retention(survey, replicates = 50, most = 5), sw_explore(survey, 4), fit,
    sw_validity(fit, replicates = 50), sw_composites(survey, replicates = 50), sw_stability(survey, 4, halves = 5),
    sw_invariance(survey, sw_structure(calm = paste0("calm", 1:4)), by = "district"))
  for (x in results) {
    expect_equal(x$about$n, 640, info = class(x)[1])
    expect_equal(x$about$missing, "fiml", info = class(x)[1])
    expect_match(paste(format(x), collapse = " "), "everyone who answered anything", info = class(x)[1])
  }
  complete <- gappy$complete
  expect_identical(tidy(sw_reliability(complete, missing = "fiml")), tidy(sw_reliability(complete, missing = "listwise")))
  expect_identical(tidy(sw_explore(complete, 2), "estimates"), tidy(sw_explore(complete, 2, missing = "listwise"), "estimates"))
  expect_equal(sw_explore(complete, 2)$about$missing, "listwise")
})

test_that("answers missing at random bias complete cases, not likelihood, and intervals grow with the gaps", {
  whole <- tidy(sw_reliability(gappy$complete))
  all <- tidy(sw_reliability(gappy$survey))
  some <- tidy(sw_reliability(gappy$survey, missing = "listwise"))
  expect_lt(abs(all$alpha[1] - whole$alpha[1]), abs(some$alpha[1] - whole$alpha[1]))
  expect_gt(all$conf.high[1] - all$conf.low[1], whole$conf.high[1] - whole$conf.low[1])
  expect_equal(all$interval[1], "delta")
  means <- function(missing) sw_moments(gappy$survey, missing = missing)$mean
  truth <- colMeans(gappy$complete$answers)[1:5]
  expect_lt(max(abs(means("fiml")[1:5] - truth)), .15)
  expect_gt(max(abs(means("listwise")[1:5] - truth)), .25)
  # A structure fitted to these moments in a second stage is the likelihood's own.
  direct <- tidy(sw_confirm(gappy$survey, gappy$structure, estimator = "ml"), "loadings")
  staged <- tidy(sw_confirm(sw_moments(gappy$survey), gappy$structure), "loadings")
  expect_equal(staged$estimate, direct$estimate, tolerance = .02)
  expect_equal(staged$std.error, direct$std.error, tolerance = .1)
})

test_that("an exploration in two stages allows for gaps: errors grow, chi-square does not", {
  two <- sw_explore(gappy$survey, 2)
  whole <- sw_explore(gappy$complete, 2)
  error <- function(x) subset(tidy(x, "estimates"), kind == "loading" & substr(item, 1, 1) == "a" & abs(estimate) > .4)$std.error
  expect_gt(mean(error(two)), 1.05 * mean(error(whole)))
  naive <- sw_explore(sw_moments(gappy$survey)$covariance |> sw_moments(n = 600), 2)
  expect_lt(tidy(two, "fit")$chi_square, tidy(naive, "fit")$chi_square)
  fits <- tidy(sw_retention(gappy$survey, replicates = 50, most = 3), "fits")
  expect_equal(fits$chi_square[fits$factors == 2], tidy(two, "fit")$chi_square, tolerance = 1e-6)
})

test_that("chance has the same gaps", {
  seen <- matrix(TRUE, 200, 6)
  seen[1:120, 1:3] <- FALSE
  gapped <- core("core_gapped_eigenvalues")(seen, 2000, 1)
  full <- core("core_gapped_eigenvalues")(matrix(TRUE, 200, 6), 2000, 1)
  expect_gt(mean(gapped$plain[, 1]), mean(full$plain[, 1]))
  expect_equal(colMeans(full$plain), colMeans(core("core_random_eigenvalues")(200, 6, 2000, 1)), tolerance = .01)
  # Drawn anew by hand: pairwise correlations, and squared multiple correlations in the diagonal.
  values <- function(r) eigen(r, symmetric = TRUE, only.values = TRUE)$values
  by_hand <- withr::with_seed(2, replicate(1000, {
    r <- cor(replace(matrix(rnorm(length(seen)), nrow(seen)), !seen, NA), use = "pairwise.complete.obs")
    c(values(r), values(`diag<-`(r, 1 - 1 / diag(solve(r)))))
  }))
  apart <- c(colMeans(gapped$plain), colMeans(gapped$reduced)) - rowMeans(by_hand)
  chance <- sqrt(c(apply(gapped$plain, 2, var), apply(gapped$reduced, 2, var)) / 2000 + apply(by_hand, 1, var) / 1000)
  expect_lt(max(abs(apart) / chance), 4)
  # Hardly more people than items, half of their answers gone: matrices that are not positive definite are raised.
  few <- core("core_gapped_eigenvalues")(withr::with_seed(3, matrix(runif(16 * 10) < .8, 16)), 50, 1)
  expect_gt(min(few$plain), 1e-5)
  expect_equal(rowSums(few$plain), rep(10, 50))
  expect_equal(core("core_pair_count")(replace(matrix(1, 4, 2), cbind(1, 1), NA)), 3)
})

test_that("columns that tell who leaves answers out help, and are said", {
  data <- as.data.frame(gappy$complete$answers)
  data$age <- withr::with_seed(9, rowMeans(data[1:5]) * 10 + rnorm(600))
  data$town <- ifelse(data$age > median(data$age), "new", "old")
  withr::with_seed(5, for (item in paste0("a", 1:5)) data[[item]][runif(600) < plogis(.4 * (data$age - 33))] <- NA)
  survey <- sw_survey(data, gappy$complete$codebook)
  truth <- mean(as.matrix(gappy$complete$answers[, 1:5]))
  off <- function(also) abs(mean(sw_moments(survey, also = also)$mean[1:5]) - truth)
  expect_lt(off("age"), off(NULL) / 2)
  expect_lt(off("town"), off(NULL))
  x <- sw_explore(survey, 2, also = c("age", "town"))
  expect_match(paste(x$notes, collapse = " "), "random given the other answers and age and town")
  for (verb in list(sw_factorability, sw_retention, sw_reliability, sw_composites)) expect_no_error(suppressWarnings(verb(survey, also = "age")))
  fit <- sw_confirm(survey, gappy$structure, also = "age")
  expect_equal(fit$about$options$estimator, "robust")
  expect_error(sw_explore(survey, 2, also = "nowhere"), class = "scalewort_error_input")
  expect_error(sw_confirm(survey, sw_add_means(gappy$structure), also = "age"), class = "scalewort_error")
})

test_that("where likelihood has too little, less is taken and said, or refused when asked for", {
  data <- as.data.frame(withr::with_seed(2, matrix(sample(1:5, 12 * 15, TRUE), 15, 12)))
  data[1, 1] <- NA
  book <- data.frame(item = names(data), scale = "s", lowest = 1, highest = 5)
  survey <- sw_survey(data, book)
  data$V1 <- NA
  empty <- sw_survey(data, book)
  expect_error(sw_explore(empty, 1), class = "scalewort_error_numeric")
  expect_error(sw_moments(empty, missing = "fiml"), class = "scalewort_error_numeric")
  expect_error(sw_moments(survey, missing = "fiml", correlation = "polychoric"), class = "scalewort_error_input")
  # More items than people: no likelihood; the pairs say what they can.
  wide <- sw_survey(data[1:8, -1] |> transform(V2 = replace(V2, 1, NA)), book[-1, ])
  loose <- sw_moments(wide)
  expect_equal(loose$missing, "pairwise")
  expect_match(loose$notes, "each pair is taken", all = FALSE)
  # Somebody alone in a pattern, and somebody without any answer.
  odd <- gappy$complete$data
  odd[1, ] <- NA
  odd[2, 2:10] <- NA
  expect_equal(sw_reliability(sw_survey(odd, gappy$complete$codebook))$tables$scales$n, c(599, 599))
})

test_that("scores with gaps: what is to be expected, and what stays open", {
  x <- matrix(c(1, 2, 3, 4, 5, 2, 3, 3, 5, 4, 1, NA, 3, 4, NA), 5, dimnames = list(NULL, c("p", "q", "r")))
  mean <- c(3, 3, 3)
  s <- matrix(c(1, .5, .4, .5, 1, .6, .4, .6, 1), 3)
  found <- core("core_expected_answers")(x, mean, s, matrix(1 / 3, 3, 1))
  # By hand: regression of r on p and q.
  slope <- solve(s[1:2, 1:2], s[1:2, 3])
  expect_equal(found$filled[2, 3], 3 + sum(slope * (x[2, 1:2] - 3)), ignore_attr = TRUE)
  expect_equal(found$error[c(1, 2), 1], c(0, sqrt(1 - sum(slope * s[1:2, 3])) / 3))
  expected <- tidy(sw_score(gappy$survey, fill = "expected", at_least = .2), "scores")
  own <- tidy(sw_score(gappy$survey, at_least = .2), "scores")
  truth <- mean(rowMeans(gappy$complete$answers[1:5]))
  expect_lt(abs(mean(expected$a_mean) - truth), abs(mean(own$a_mean) - truth))
  expect_true(all(expected$a_mean_gap[stats::complete.cases(gappy$survey$answers[1:5])] == 0))
  expect_true(all(expected$a_mean >= 1 & expected$a_mean <= 5))
})

test_that("two waves: a score's test-retest coefficients are those of the analysis of variance", {
  both <- sw_demo("plotholders", wave = 1:2)
  found <- tidy(sw_score(both), "retest")
  scores <- tidy(sw_score(both), "scores")
  first <- scores[scores$wave == 1, ]
  second <- scores[match(first$id, ifelse(scores$wave == 2, scores$id, NA)), ]
  two <- na.omit(cbind(first$calm_mean, second$calm_mean))
  long <- data.frame(y = as.vector(two), person = factor(rep(seq_len(nrow(two)), 2)), wave = factor(rep(1:2, each = nrow(two))))
  table <- stats::anova(stats::lm(y ~ person + wave, long))[["Mean Sq"]]
  n <- nrow(two)
  row <- found[found$score == "calm_mean", ]
  expect_equal(row$n, n)
  expect_equal(row$correlation, cor(two)[1, 2])
  expect_equal(row$consistency, (table[1] - table[3]) / (table[1] + table[3]))
  expect_equal(row$agreement, (table[1] - table[3]) / (table[1] + table[3] + 2 / n * (table[2] - table[3])))
  expect_equal(row$sem_retest^2, table[3] + max((table[2] - table[3]) / n, 0))
  expect_equal(row$real_change, 1.959964 * sqrt(2) * row$sem_retest, tolerance = 1e-6)
  expect_null(sw_score(sw_demo("plotholders"))$tables$retest)
})
