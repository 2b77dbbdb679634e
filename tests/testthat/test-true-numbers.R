# Numbers that were wrong, each against what it has to be by another road.

two <- kronecker(diag(2), c(.8, .7, .6, .7)) |> `dimnames<-`(list(letters[1:8], c("f", "g")))
two_structure <- sw_structure(f = letters[1:4], g = letters[5:8])
with_gaps <- function(seed, n = 300) {
  x <- simulate_answers(n, two, matrix(c(1, .4, .4, 1), 2), seed = seed)
  x[cbind(sample(n, 1.2 * n, TRUE), sample(8, 1.2 * n, TRUE))] <- NA
  as.data.frame(x)
}

test_that("maximum likelihood of moments with gaps takes them for what they are, in every way in", {
  found <- lapply(1:25, function(i) sw_confirm(sw_moments(with_gaps(i), missing = "fiml"), two_structure, estimator = "ml"))
  tested <- vapply(found, function(x) x$parts$figures$chi_square_scaled, 0)
  df <- found[[1]]$parts$figures$df
  expect_lt(abs(mean(tested) - df), 3 * sqrt(2 * df / 25))
  expect_gt(mean(vapply(found, function(x) x$parts$figures$chi_square, 0)) - df, 3 * sqrt(2 * df / 25))
  x <- with_gaps(1)
  x$site <- rep(c("a", "b"), 150)
  x$help <- rnorm(300)
  book <- data.frame(item = letters[1:8], scale = rep(c("f", "g"), each = 4), lowest = -9, highest = 9)
  survey <- sw_survey(x, book, id = NULL)
  pair <- function(f) lapply(c("ml", "robust"), f)
  fits <- pair(function(e) sw_confirm(survey, estimator = e, also = "help"))
  expect_equal(fits[[1]]$tables$loadings, fits[[2]]$tables$loadings)
  expect_match(sentences_of(fits[[1]]), "in two stages, with standard errors and a mean-adjusted test that allow for the gaps")
  steps <- pair(function(e) tidy(sw_invariance(survey, by = "site", estimator = e, also = "help", steps = "metric")))
  expect_equal(steps[[1]], steps[[2]])
  for (e in c("uls", "gls")) expect_error(sw_confirm(sw_moments(survey), two_structure, estimator = e), "not as sure as",
    class = "scalewort_error_input")
  expect_error(sw_confirm(survey, estimator = "ordinal", also = "help"), "also", class = "scalewort_error_input")
})

test_that("errors through the covariance matrix of the moments are those of the jackknife, whatever the divisor", {
  x <- withr::with_seed(3, round(simulate_answers(40, two[1:4, 1, drop = FALSE]), 1))
  n <- 40
  # Of complete answers alpha's error is root mean square influence over root n: its infinitesimal jackknife, by weights.
  alpha_at <- function(w) {
    s <- stats::cov.wt(x, w / sum(w), method = "ML")$cov
    4 / 3 * (1 - sum(diag(s)) / sum(s))
  }
  influence <- vapply(seq_len(n), function(i) (alpha_at(replace(rep(1, n), i, 1 + 1e-5)) - alpha_at(rep(1, n))) / 1e-5 * n, 0)
  expected <- sqrt(mean(influence^2) / n)
  gamma <- core("core_meat")(core("core_product_influence")(x, rep(1, n)))
  expect_equal(core("core_alpha_error")(x), expected, tolerance = 1e-3)
  expect_equal(core("core_alpha_error_of")(cov(x), gamma, n), expected, tolerance = 1e-3)
  expect_equal(core("core_delta_error")(core("core_alpha"), cov(x), gamma, n), expected, tolerance = 1e-3)
  omega <- core("core_omega")(cov(x), n)
  expect_equal(core("core_omega_error")(omega, cov(x), n, gamma = gamma), core("core_omega_error")(omega, cov(x), n, answers = x), tolerance = 1e-6)
  drawn <- core("core_drawn_covariances")(cov(x), gamma, n, 4000, core("random_draws"))
  expect_equal(sd(drawn[1, ]), sqrt(gamma[1, 1] / n) * n / (n - 1), tolerance = .05)
})

test_that("intervals of figures pooled over few imputations have the degrees of freedom of Barnard and Rubin", {
  # Their formula, written out.
  added <- .3
  m <- 4
  old <- (m - 1) / added^2
  seen <- 100 / 102 * 99 * (1 - added)
  expect_equal(core("core_pooled_df")(1, sqrt(1 - added), m, 99), old * seen / (old + seen))
  expect_equal(core("core_pooled_df")(c(1, 2), NULL, NULL, 99), c(Inf, Inf))
  gaps <- with_gaps(4, 120)
  gaps[] <- lapply(gaps, function(v) as.integer(cut(v, c(-Inf, -1, 0, 1, Inf))))
  book <- data.frame(item = letters[1:8], scale = rep(c("f", "g"), each = 4), lowest = 1, highest = 4)
  imputed <- sw_impute(sw_survey(gaps, book, id = NULL), m = 2)
  moments <- sw_moments(imputed, items = "f")
  error <- function(gamma) core("core_delta_error")(core("core_alpha"), moments$covariance, gamma, 120)
  df <- core("core_pooled_df")(error(moments$gamma), error(moments$pooled$within), 2, 119)
  alpha <- core("core_alpha")(moments$covariance)
  found <- tidy(sw_reliability(imputed))[1, ]
  width <- qt(.975, df) * error(moments$gamma) / (1 - alpha)
  expect_equal(c(found$conf.low, found$conf.high), 1 - (1 - alpha) * exp(c(width, -width)))
  # Percentile intervals of drawn figures are stretched from the normal quantile to that of t.
  ends <- unlist(tidy(sw_validity(sw_confirm(imputed, estimator = "ml"), replicates = 400), "pairs")[c("htmt_low", "htmt_high")])
  both <- sw_moments(imputed)
  htmt <- function(gamma) {
    drawn <- core("with_seed")(1, core("core_drawn_covariances")(both$covariance, gamma, both$n, 400, core("random_draws")))
    core("core_htmt_of")(drawn, list(1:4, 5:8), FALSE)[, 2]
  }
  drawn <- htmt(both$gamma)
  wider <- qt(.975, core("core_pooled_df")(sd(drawn), sd(htmt(both$pooled$within)), 2, both$n - 1)) / qnorm(.975)
  expect_gt(wider, 1.005)
  expect_equal(unname(ends), median(drawn) + wider * (unname(quantile(drawn, c(.025, .975))) - median(drawn)))
  for (estimator in c("ml", "ordinal")) {
    fit <- sw_confirm(imputed, estimator = estimator)
    of <- fit$tables$estimates[fit$tables$estimates$kind == "loading", ]
    expect_true(all(is.finite(of$df) & of$df < 119))
    expect_equal(of$conf.high, of$estimate + qt(.975, of$df) * of$std.error)
    expect_equal(fit$tables$loadings$standard_low, of$standardised - qt(.975, of$standardised_df) * of$standardised_error)
  }
  turned <- sw_explore(imputed, 2, correlation = "pearson")$tables$estimates
  expect_true(all(with(turned, (conf.high - estimate) / std.error) > qnorm(.975) + .01))
})

test_that("a fit scores people as its items were keyed, and says where this survey's codebook differs", {
  fit <- sw_confirm(sw_demo("plotholders"))
  draft <- sw_demo("plotholders", codebook = "draft")
  by_fit <- sw_score(draft, from = fit)
  right <- sw_score(sw_demo("plotholders"), from = fit)
  expect_equal(by_fit$tables$scores$kinship_regression, right$tables$scores$kinship_regression)
  expect_true("kin3" %in% unlist(by_fit$noted$items[by_fit$noted$code == "keyed_by_fit"]))
  expect_false("keyed_by_fit" %in% right$noted$code)
  of_moments <- sw_score(draft, from = sw_explore(sw_moments(sw_demo("plotholders")), 4))
  expect_true("keyed_by_fit" %in% of_moments$noted$code)
  other <- draft
  other$codebook$items$highest[other$codebook$items$item == "calm1"] <- 7
  expect_error(sw_score(other, from = fit), "from 1 to 5 there, from 1 to 7 here", class = "scalewort_error_input")
})

test_that("searches of factors and rotations find the lowest of several places, and say when they may not have", {
  r <- cor(state.x77)
  expect_lt(core("core_extract")(r, 3, "gls")$discrepancy, .35212)
  pattern <- core("core_extract")(Harman74.cor$cov, 5, "ml")$loadings
  turned <- core("core_rotate")(pattern, "geomin", epsilon = .001)
  expect_lt(turned$value, .61771)
  expect_length(turned$values, 120)
  expect_length(core("core_rotate")(pattern, "geomin", epsilon = .01)$values, 30)
  open <- sw_explore(sw_moments(Harman74.cor$cov, n = 145), 5, rotation = "geomin", epsilon = .0001, errors = "none")
  expect_true("resting_place_open" %in% open$noted$code)
})

test_that("factors of a target point the way their free loadings do, in every resample", {
  survey <- small_survey(400)
  items <- core("scored_items")(survey)
  goal <- matrix(0, length(items), 2)
  goal[1:3, 1] <- NA
  goal[4:6, 2] <- NA
  for (i in 1:6) {
    rows <- withr::with_seed(i, sample(400, replace = TRUE))
    found <- sw_explore(as.data.frame(core("source_rows")(survey))[rows, ], 2, rotation = "target", target = goal, errors = "none")
    expect_true(all(colSums(found$parts$pattern * is.na(goal)) > 0))
    expect_gt(found$parts$factor_correlations[1, 2], 0)
  }
  aimed <- core("core_face_target")(matrix(c(-.8, -.7, .1, 0), 4), diag(1), matrix(c(-.8, NA, NA, 0), 4))
  expect_equal(aimed$loadings[1], -.8)
})

wave_answers <- function(n, twin, moved, seed) {
  withr::with_seed(seed, {
    f <- rnorm(n)
    shared <- matrix(rnorm(n * 6), n) * sqrt(twin)
    own <- function(f) .75 * f + sqrt(1 - .75^2) * (shared + matrix(rnorm(n * 6), n) * sqrt(1 - twin))
    x <- rbind(own(f), own(f + moved * rnorm(n)))
  })
  data <- data.frame(id = rep(seq_len(n), 2), wave = rep(1:2, each = n), round(pmin(pmax(1.3 * x + 5, 1), 9), 1))
  sw_survey(data, data.frame(item = paste0("X", 1:6), scale = "s", lowest = 1, highest = 9), id = "id", wave = "wave")
}

test_that("the error of a change comes from both waves, and counts are held against what error alone gives", {
  found <- lapply(1:8, function(i) sw_score(wave_answers(300, .4, 0, i)))
  both <- Filter(function(x) x$tables$change$se_from[1] == "both waves", found)
  expect_gt(length(both), 5)
  share <- mean(vapply(both, function(x) x$tables$rates$beyond / x$tables$rates$n, 0))
  expect_lt(abs(share - .05), .02)
  # The error that makes it so, from the answers' own making: root(2 (1 - twin)) of one answer's unique spread, over six items.
  expect_equal(mean(vapply(both, function(x) x$tables$change$se[1], 0)), 1.3 * sqrt(1 - .75^2) * sqrt(2 * .6 / 6), tolerance = .05)
  quiet <- vapply(found, function(x) x$tables$rates$more == "no", TRUE)
  expect_gte(sum(quiet), 7)
  expect_match(format(found[[which(quiet)[1]]])[1:3] |> paste(collapse = " "), "no more than error alone may give")
  moved <- sw_score(wave_answers(300, .4, .8, 9))
  expect_equal(moved$tables$rates$more, "yes")
  few <- sw_score(wave_answers(40, .4, 0, 1))
  expect_equal(few$tables$change$se[1], sqrt(2) * tidy(few)$sem)
  expect_true("change_error" %in% few$noted$code)
})

test_that("groups stand in the order of a factor's levels, labels or numbers, and the first is the reference", {
  survey <- sw_demo("plotholders")
  survey$data$district <- factor(survey$data$district, c("south", "north"))
  again <- sw_survey(survey$data, survey$codebook, id = "id")
  expect_equal(core("in_group_order")(again, "district", c("north", "south")), c("south", "north"))
  steps <- sw_invariance(again, by = "district", steps = "scalar", release = list(intercept = "soil5"), missing = "listwise")
  expect_equal(steps$parts$labels$group, c("south", "north"))
  bias <- sw_dif(again, by = "district")
  expect_equal(bias$about$options$reference, "south")
  expect_equal(tidy(sw_reliability(again, by = "district"), "compare")$group[1:2], c("south", "north"))
  again$data$age <- rep_len(c("10", "9", "100"), 640)
  numbers <- sw_survey(again$data, survey$codebook, id = "id")
  expect_equal(core("in_group_order")(numbers, c("age", "district"), c("100, north", "9, south", "10, north", "9, north")),
    c("9, south", "9, north", "10, north", "100, north"))
})

test_that("what has no number says so: alpha of impossible covariances, inflation of sums, tests without residual", {
  impossible <- matrix(c(1, 1.2, 1.2, 1.2, 1, 1.2, 1.2, 1.2, 1), 3)
  expect_true(is.na(core("core_alpha")(impossible)))
  expect_true(all(is.na(core("core_inflation")(matrix(1, 2, 2)))))
  same <- matrix(c(2, 1, 3, 5, 4, 4), 6, 3)
  found <- core("core_twoway")(cov(same), colMeans(same), 6)
  expect_false(any(is.infinite(unlist(found$table[-1]))))
  expect_false(any(is.infinite(unlist(found$icc[-1]))))
})

test_that("figures of polychoric correlations are left out of weighted surveys, and the reason is said", {
  data <- sw_demo("plotholders")$data
  data$w <- rep_len(c(.5, 1.5), 640)
  data$plot <- rep_len(1:40, 640)
  of <- function(...) sw_reliability(sw_survey(data, sw_demo("plotholders")$codebook, id = "id", ...))
  weighted <- of(weight = "w")
  expect_true(all(is.na(tidy(weighted)$alpha_ordinal)) && !"omega_sum" %in% names(tidy(weighted)))
  expect_true("unweighted" %in% weighted$noted$code)
  clustered <- of(cluster = "plot")
  expect_false(anyNA(tidy(clustered)$omega_sum))
  expect_false("omega_sum_low" %in% names(tidy(clustered)))
  expect_true("unweighted" %in% clustered$noted$code)
})

test_that("solutions whose likelihoods do not exist are compared in words", {
  set.seed(2)
  common <- rnorm(32)
  answers <- as.data.frame(matrix(as.integer(rnorm(32 * 8) + common > .3), 32, dimnames = list(NULL, paste0("i", 1:8))))
  survey <- sw_survey(answers, data.frame(item = names(answers), scale = rep(c("a", "b"), c(3, 5)), lowest = 0, highest = 1))
  apart <- sw_structure(survey)
  structures <- list(apart = apart, pair = sw_add_pair(apart, "i1", "i2"), crossed = sw_add_loading(apart, "i4", "a"))
  fits <- lapply(structures, sw_confirm, x = survey)
  expect_error(chol(fits$crossed$parts$implied))
  compared <- do.call(sw_compare, fits)
  expect_true("no" %in% compared$tables$tests$nested)
  expect_null(compared$tables$vuong)
})

test_that("three complete cases are too few for a test of ordered answers, wherever one is asked for", {
  set.seed(3)
  common <- rnorm(58)
  answers <- as.data.frame(matrix(as.integer(rnorm(58 * 8) * 1.1 + common > .2), 58, dimnames = list(NULL, paste0("i", 1:8))))
  answers[1:3, ] <- rbind(c(0, 0, 0, 0, 0, 0, 0, 1), c(1, 1, 1, 1, 1, 1, 1, 0), c(0, 0, 1, 0, 0, 1, 0, 1))
  answers[4:58, ][cbind(1:55, rep_len(1:8, 55))] <- NA
  survey <- sw_survey(answers, data.frame(item = names(answers), scale = rep(c("x", "y"), each = 4), lowest = 0, highest = 1))
  expect_error(sw_confirm(survey, missing = "listwise"), "too few cases for a test of ordered answers", class = "scalewort_error_numeric")
  expect_s3_class(sw_answering(survey), "sw_answering")
  expect_equal(core("core_cfi")(NA_real_, 19, list(chi_square = 60, df = 28)), NA_real_)
  expect_true(all(is.na(unlist(core("core_rmsea")(NA_real_, 19, 50)))))
})
