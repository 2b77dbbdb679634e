# People in groups, people with weights.

balanced <- withr::with_seed(6, {
  of <- rep(1:25, each = 12)
  x <- matrix(rnorm(300 * 4), 300) + rnorm(300) + rnorm(25)[of]
  list(x = structure(x, dimnames = list(NULL, letters[1:4])), of = of)
})

two_levels <- function(x, cluster) core("core_levels_of_sums")(core("core_cluster_sums")(x, cluster, colMeans(x, na.rm = TRUE)), colnames(x))

test_that("within and between are those of a balanced analysis of variance", {
  found <- two_levels(balanced$x, balanced$of)
  model <- stats::manova(balanced$x ~ factor(balanced$of))
  squares <- summary(model)$SS
  within <- squares$Residuals / 275
  expect_equal(found$within, within, ignore_attr = TRUE)
  between <- (squares[[1]] / 24 - within) / 12
  expect_equal(found$between, between, ignore_attr = TRUE)
  table <- stats::anova(stats::lm(balanced$x[, "b"] ~ factor(balanced$of)))[["Mean Sq"]]
  expect_equal(found$icc[["b"]], (table[1] - table[2]) / (table[1] + 11 * table[2]))
  expect_equal(core("core_design_effect")(found$icc[["b"]], found$size), 1 + 11 * found$icc[["b"]])
  alpha <- function(s) 4 / 3 * (1 - sum(diag(s)) / sum(s))
  expect_equal(core("core_level_coefficients")(found)[, "alpha"], c(within = alpha(within), between = alpha(between)))
  # Unequal groups, by hand: three people and one.
  # Sums of two parts of the people are those of all.
  sums <- function(rows) core("core_cluster_sums")(balanced$x[rows, ], balanced$of[rows], c(0, .5, 1, 2))
  joined <- core("core_joined_sums")(sums(1:110), sums(111:nrow(balanced$x)))
  expect_equal(core("core_levels_of_sums")(joined, NULL)$within, found$within, ignore_attr = TRUE)
  expect_silent(nobody <- two_levels(matrix(numeric(), 0, 2), character()))
  expect_true(is.na(nobody$icc[1]))
  two <- two_levels(matrix(c(1, 2, 3, 6)), c("p", "p", "p", "q"))
  expect_equal(two$within[1, 1], 1)
  expect_equal(two$between[1, 1], (12 - 1) / (4 - 10 / 4))
  expect_true(is.na(two_levels(matrix(1:3 + 0), 1:3)$within[1, 1]))
})

test_that("a survey in clusters says so everywhere, with wider intervals, and gives both levels", {
  data <- as.data.frame(findInterval(scale(balanced$x), c(-1, 0, 1)) |> matrix(300, dimnames = list(NULL, letters[1:4])))
  data$school <- balanced$of
  data$w <- rep(c(1, 3), 150)
  book <- data.frame(item = letters[1:4], scale = "s", lowest = 0, highest = 3)
  plain <- sw_survey(data, book)
  clustered <- sw_survey(data, book, cluster = "school")
  weighted <- sw_survey(data, book, weight = "w")
  width <- function(s) with(tidy(sw_reliability(s)), conf.high - conf.low)
  expect_gt(width(clustered), width(plain))
  x <- sw_reliability(clustered)
  expect_equal(tidy(x)$alpha, tidy(sw_reliability(plain))$alpha)
  levels <- tidy(x, "levels")
  expect_equal(levels$n, c(275, 25))
  expect_true(all(levels$conf.low < levels$alpha & levels$alpha < levels$conf.high))
  expect_match(format(x)[1:2] |> paste(collapse = " "), "Intraclass correlation .*design effect")
  expect_match(paste(format(sw_screen(clustered)), collapse = " "), "design effect")
  said <- list(x, sw_screen(clustered), sw_explore(clustered, 1), sw_factorability(clustered), sw_confirm(clustered), sw_score(clustered))
  for (one in said) expect_match(paste(one$notes, collapse = " "), "Errors allow for 25 clusters \\(school\\)", info = class(one)[1])
  expect_match(paste(sw_explore(weighted, 1)$notes, collapse = " "), "Weighted by w \\(as good as 240 people")
  # Weights of whole numbers count people: the same estimates as those of the rows repeated.
  again <- sw_survey(data[rep(1:300, data$w), ], book)
  expect_equal(tidy(sw_reliability(weighted))$alpha, tidy(sw_reliability(again))$alpha, tolerance = 1e-6)
  expect_equal(tidy(sw_screen(weighted))$mean, tidy(sw_screen(again))$mean)
  expect_equal(tidy(sw_explore(weighted, 1))$F1, tidy(sw_explore(again, 1, correlation = "pearson"))$F1, tolerance = 1e-5)
  expect_equal(tidy(sw_confirm(weighted), "loadings")$standardised, tidy(sw_confirm(again, estimator = "ml"), "loadings")$standardised,
    tolerance = 1e-5)
  expect_equal(tidy(sw_score(weighted))$mean, tidy(sw_score(again))$mean)
  formed <- function(s) tidy(sw_score(s, form = c("t", "percentile")), "scores")
  expect_equal(formed(weighted)$s_mean_percentile, formed(again)$s_mean_percentile[!duplicated(rep(1:300, data$w))], ignore_attr = TRUE)
  expect_equal(formed(weighted)$s_mean_t, formed(again)$s_mean_t[!duplicated(rep(1:300, data$w))], tolerance = .002, ignore_attr = TRUE)
  within <- sw_moments(clustered, level = "within")
  expect_equal(within$n, 276)
  expect_equal(within$covariance, two_levels(as.matrix(data[1:4]), balanced$of)$within)
  expect_equal(sw_moments(clustered, level = "between")$n, 25)
  expect_error(sw_moments(plain, level = "within"), class = "scalewort_error_input")
})

test_that("weights and clusters that cannot be used have an answer", {
  data <- data.frame(a = c(1, 2, 3, 4, 2, 3), b = c(2, 2, 4, 4, 1, 3), g = c("x", "x", "y", "y", "", "z"), w = c(1, 0, 2, NA, 1, 1))
  book <- data.frame(item = c("a", "b"), scale = "s", lowest = 1, highest = 4)
  survey <- sw_survey(data, book, weight = "w", cluster = "g")
  expect_equal(core("case_rows")(survey), c(1L, 3L, 6L))
  expect_match(sw_log(survey)$detail, "2 cases without a weight in \"w\" set aside", all = FALSE)
  expect_match(sw_log(survey)$detail, "1 case without a cluster", all = FALSE)
  expect_error(sw_survey(transform(data, w = -w), book, weight = "w"), class = "scalewort_error_input")
  expect_error(sw_survey(transform(data, w = "heavy"), book, weight = "w"), class = "scalewort_error_input")
  expect_error(sw_survey(transform(data, g = "x"), book, cluster = "g"), class = "scalewort_error_input")
  expect_error(sw_survey(data, book, cluster = "nowhere"), class = "scalewort_error_input")
  # Clusters of one: nobody has a neighbour, and nothing is known within.
  alone <- sw_survey(transform(data, g = letters[1:6], w = 1), book, cluster = "g")
  expect_true(all(is.na(tidy(sw_screen(alone))$icc)))
})

test_that("invariance allows for clusters and weights: a doubled sample in pairs is as sure as one", {
  structure <- sw_structure(a = paste0("a", 1:3), b = paste0("b", 1:3))
  one <- as.data.frame(sw_simulate(structure, 300, loading = .7, seed = 4)$answers)
  one$g <- rep(c("x", "y"), 150)
  one$pair <- seq_len(300)
  one$w <- 2
  for (gaps in c(FALSE, TRUE)) {
    if (gaps) one$a1[1:30] <- NA
    book <- data.frame(item = names(one)[1:6], scale = substr(names(one)[1:6], 1, 1), lowest = 1, highest = 5)
    steps <- function(survey) sw_invariance(survey, structure, by = "g", estimator = "robust")$tables$steps
    alone <- steps(sw_survey(one, book))
    doubled <- steps(sw_survey(rbind(one, one), book, cluster = "pair"))
    expect_equal(doubled$chi_square, alone$chi_square, tolerance = .03)
    expect_equal(steps(sw_survey(one, book, weight = "w"))$chi_square, alone$chi_square, tolerance = 1e-6)
  }
  clustered <- sw_survey(rbind(one, one), book, cluster = "pair")
  expect_match(paste(sw_invariance(clustered, structure, by = "g")$notes, collapse = " "), "300 clusters")
  expect_error(sw_invariance(clustered, structure, by = "g", estimator = "ml"), class = "scalewort_error_input")
})
