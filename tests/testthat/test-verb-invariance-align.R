test_that("aligned means of many groups come back although two items differ in one group each", {
  truth <- c(0, .3, -.2, .5, .1, -.4)
  data <- withr::with_seed(4, do.call(rbind, lapply(1:6, function(g) {
    level <- c(0, .2, .1, .3, 0)
    if (g == 3) level[2] <- 1.2
    slope <- c(.8, .7, .9, if (g == 5) .1 else .6, .75)
    x <- outer(truth[g] + rnorm(500), slope) + rep(level, each = 500) + matrix(rnorm(2500) * .6, 500)
    data.frame(x, place = paste0("g", g))
  })))
  names(data)[1:5] <- paste0("i", 1:5)
  survey <- sw_survey(data, data.frame(item = paste0("i", 1:5), scale = "f", lowest = -99, highest = 99))
  out <- sw_invariance(survey, by = "place", align = TRUE)
  aligned <- out$tables$aligned
  expect_true(all(abs(aligned$mean - truth)[-1] < 3 * aligned$std.error[-1]))
  items <- out$tables$alignment
  expect_equal(items$item[which.max(items$spread_intercept)], "i2")
  expect_equal(items$item[which.max(items$spread_loading)], "i4")
  expect_gt(min(items$explained_intercept[c(1, 3, 5)]), .9)
})

test_that("the alignment's slopes are those by differences", {
  loading <- withr::with_seed(1, matrix(runif(20, .4, .9), 4))
  intercept <- withr::with_seed(2, matrix(rnorm(20, 0, .3), 4))
  pairs <- utils::combn(4, 2)
  at <- function(a) core("alignment_loss")(a, loading, intercept, pairs, rep(1, 6), .01)
  a <- c(.2, -.1, .3, .1, 0, -.2)
  expect_equal(unname(at(a)$slope), as.vector(differences(function(a) at(a)$value, a)), tolerance = 1e-6)
})

test_that("groups of several columns are crossed, and higher factors have steps of their own", {
  survey <- sw_demo("plotholders")
  survey$data$half <- rep(c("odd", "even"), length.out = nrow(survey$data))
  structure <- sw_drop(sw_structure(survey), items = "calm6")
  crossed <- sw_invariance(survey, structure, by = c("district", "half"), steps = "metric")
  expect_equal(crossed$tables$groups$group, c("north, even", "north, odd", "south, even", "south, odd"))
  higher <- sw_invariance(survey, sw_add_higher(structure, "plot", c("calm", "craft", "kinship", "stewardship")), by = "district",
    release = list(intercept = "soil5"))
  # 21 loadings less 4 variances, 4 paths less 1, 20 intercepts less 4 means, 4 levels less 1, 21 residuals.
  expect_equal(diff(higher$tables$steps$df), c(17, 3, 16, 3, 21))
  expect_equal(higher$tables$means$factor, "plot")
  expect_error(sw_invariance(survey, structure, by = "district", align = TRUE, estimator = "ordinal"), class = "scalewort_error_input")
})

test_that("the quick ratio over resamples is the one of each resample's correlations", {
  x <- simulate_answers(120, two_factor_loadings, two_factor_r, seed = 3)
  blocks <- list(a = 1:3, b = 4:6)
  quick <- core("core_resample_htmt")(x, blocks, 5, 9)
  drawn <- core("core_replicate_moments")(`colnames<-`(x, paste0("i", 1:6)), 0, 5, 9)
  slow <- vapply(drawn, function(m) core("core_htmt")(stats::cov2cor(m$covariance), blocks)[2, 1], 0)
  expect_equal(quick[, 2], slow, tolerance = 1e-10)
})

test_that("AVE less the squared correlation has the error it shows over samples", {
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  draws <- vapply(1:150, function(i) {
    x <- simulate_answers(400, two_factor_loadings, two_factor_r, seed = 4000 + i)
    colnames(x) <- paste0("i", 1:6)
    fit <- sw_confirm(sw_moments(x), structure)
    pairs <- sw_validity(fit, replicates = 0)$tables$pairs
    c(pairs$ave_excess, abs(pairs$ave_excess) / stats::qnorm(1 - pairs$ave_excess_p / 2))
  }, numeric(2))
  expect_equal(mean(draws[2, ]), sd(draws[1, ]), tolerance = .15)
})

test_that("two factors held together by equal parameters fit as one factor of all their items", {
  survey <- sw_demo("plotholders")
  structure <- sw_structure(survey)
  fit <- sw_confirm(survey, structure, missing = "listwise")
  joined <- structure
  joined$factors$calm <- c(structure$factors$calm, structure$factors$craft)
  joined$factors$craft <- NULL
  one <- sw_confirm(survey, joined, missing = "listwise")
  held <- sw_confirm(survey, core("held_together")(fit, structure, "calm", "craft"), missing = "listwise")
  expect_equal(held$parts$figures$chi_square, one$parts$figures$chi_square, tolerance = 1e-6)
})
