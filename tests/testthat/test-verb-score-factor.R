# Factor scores of people who left items out, by the definition of a conditional mean.

survey <- sw_demo("plotholders")
held <- sw_confirm(survey)

test_that("everybody in the fit has E(factor | what was answered) and its own error", {
  scores <- augment(sw_score(survey, from = held))
  x <- core("source_rows")(survey, rownames(held$parts$observed))
  m <- held$parts$matrices
  sigma <- held$parts$implied
  phi <- m$factor
  some <- which(rowSums(is.na(x)) > 0)[c(1, 20, 200)]
  for (i in c(some, which(rowSums(is.na(x)) == 0)[1:2])) {
    on <- which(!is.na(x[i, ]))
    reach <- phi %*% t(m$loading[on, ]) %*% solve(sigma[on, on])
    by_hand <- reach %*% (x[i, on] - held$parts$mean[on])
    error <- sqrt(diag(phi - reach %*% m$loading[on, ] %*% phi))
    expect_equal(as.numeric(scores[i, c("calm_regression", "craft_regression", "kinship_regression", "stewardship_regression")]), as.vector(by_hand))
    expect_equal(as.numeric(scores[i, "craft_regression_error"]), error[2])
  }
  expect_false(anyNA(scores$calm_regression))
  expect_equal(augment(held)$calm, as.vector(scores$calm_regression))
})

test_that("Bartlett's scores stand where a factor was answered, ten Berge's where all were", {
  x <- core("source_rows")(survey, rownames(held$parts$observed))
  scores <- augment(sw_score(survey, c("bartlett", "tenberge"), from = held))
  none <- sapply(c(calm = "calm", stewardship = "soil"), function(stem) rowSums(!is.na(x[, startsWith(colnames(x), stem)])) == 0)
  expect_equal(is.na(as.vector(scores$stewardship_bartlett)), unname(none[, "stewardship"]))
  expect_false(any(is.na(scores$calm_bartlett[!none[, "calm"]])))
  expect_true(all(is.na(scores$calm_tenberge[none[, "stewardship"]])))
  i <- which(rowSums(is.na(x)) > 0 & !none[, 1] & !none[, 2])[3]
  on <- which(!is.na(x[i, ]))
  l <- held$parts$matrices$loading[on, ]
  weight <- t(l / diag(held$parts$matrices$residual)[on])
  expect_equal(as.numeric(scores[i, "craft_bartlett"]), (solve(weight %*% l) %*% weight %*% (x[i, on] - held$parts$mean[on]))[2])
})

test_that("expected scores of three factors are within .01 of a fine grid", {
  loading <- kronecker(diag(3), c(.8, .7, .6))
  phi <- matrix(.5, 3, 3) + diag(.5, 3)
  cuts <- rep(list(c(-1, 0, 1)), 9)
  set.seed(3)
  codes <- matrix(sample(1:4, 12 * 9, TRUE), 12)
  codes[2, 1:4] <- NA
  found <- core("core_expected_scores")(codes, cuts, loading, phi)
  line <- seq(-5, 5, length.out = 51)
  grid <- unname(as.matrix(expand.grid(line, line, line)))
  prior <- -rowSums((grid %*% solve(phi)) * grid) / 2
  unique <- sqrt(1 - rowSums(loading %*% phi * loading))
  exact <- t(sapply(1:12, function(i) {
    mass <- prior
    for (j in which(!is.na(codes[i, ]))) {
      edge <- c(-Inf, cuts[[j]], Inf)
      middle <- grid %*% loading[j, ]
      mass <- mass + log(pnorm((edge[codes[i, j] + 1] - middle) / unique[j]) - pnorm((edge[codes[i, j]] - middle) / unique[j]))
    }
    weight <- as.vector(exp(mass - max(mass)))
    colSums(weight * grid) / sum(weight)
  }))
  expect_lt(max(abs(found$score - exact)), .01)
  expect_lte(found$precision, .01)
})

test_that("gaps in items of different ranges are filled by the person's share of the range", {
  book <- data.frame(item = c("a", "b", "c"), scale = "s", lowest = c(1, 0, 1), highest = c(5, 10, 5))
  mixed <- sw_survey(data.frame(a = c(2, NA, 5), b = c(2.5, 2.5, NA), c = c(2, 2, 5)), book)
  scores <- sw_score(mixed, c("mean", "share"), at_least = .5)
  # A quarter of the way on all that was answered is a quarter of the way on the rest.
  expect_equal(as.vector(augment(scores)$s_mean), c(6.5, 6.5, 20) / 3)
  expect_equal(as.vector(augment(scores)$s_share), c(25, 25, 100))
  expect_match(paste(scores$notes, collapse = " "), "different ranges are added in s")
  expect_equal(tidy(sw_explain(scores, 2))$working[1], "(2 + 2.5 + 2) / 3")
})

test_that("a total of subscales that go against each other is said", {
  set.seed(6)
  f <- rnorm(120)
  of <- function(sign) pmin(5, pmax(1, round(3 + sign * f + rnorm(120, 0, .7))))
  data <- data.frame(a1 = of(1), a2 = of(1), b1 = of(-1), b2 = of(-1))
  scores <- sw_score(sw_survey(data, data.frame(item = names(data), scale = rep(c("a", "b"), each = 2), lowest = 1, highest = 5)), total = TRUE)
  expect_match(paste(scores$notes, collapse = " "), "go against each other: a and b \\(r -")
})

test_that("a cut between two possible scores is the higher of them, in every form", {
  agree <- function(pass) tidy(sw_band(sw_score(survey, form = "t"), pass = pass), "consistency")$consistency
  # Means of six items lie a sixth apart: 3.41 to 3.5 mean the same.
  expect_equal(agree(c(calm_mean = 3.41)), agree(c(calm_mean = 3.5)))
  expect_lt(agree(c(calm_mean = 3.34)), 1)
  scores <- sw_score(survey, form = "t")
  t_of <- function(x) 50 + 10 * (x - mean(augment(scores)$calm_mean, na.rm = TRUE)) / sd(augment(scores)$calm_mean, na.rm = TRUE)
  expect_equal(agree(stats::setNames(t_of(3.5) - 1e-6, "calm_mean_t")), agree(c(calm_mean = 3.5)), tolerance = 1e-6)
  about <- function(method, weights = NULL) sw_score(survey, method, weights = weights)$parts$found$about[1, c("least", "most", "step")]
  expect_equal(unlist(about("sum")), c(least = 6, most = 30, step = 1))
  expect_equal(unlist(about("share")), c(least = 0, most = 100, step = 100 / 24))
  expect_equal(about("weighted", c(calm1 = 2, calm2 = .5))$step, .5 / 6.5)
  error <- expect_error(sw_band(sw_score(survey), pass = 3), "units of one score", class = "scalewort_error_input")
  expect_error(sw_band(sw_score(survey), pass = c(calm_mean = 6)), "goes from 1 to 5", class = "scalewort_error_input")
})
