items <- paste0("i", 1:6)
two <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
x <- `colnames<-`(simulate_answers(400, two_factor_loadings, two_factor_r, seed = 201), items)
survey <- sw_survey(cbind(as.data.frame(x), age = x[, 1] + x[, 2] + seq(-1, 1, length.out = 400)),
  data.frame(item = items, scale = rep(c("one", "two"), each = 3),
  lowest = -99, highest = 99))

test_that("the heterotrait-monotrait ratio by hand on four items", {
  r <- matrix(c(1, .6, .3, .2, .6, 1, .4, .1, .3, .4, 1, .5, .2, .1, .5, 1), 4)
  blocks <- list(a = 1:2, b = 3:4)
  expect_equal(core("core_htmt")(r, blocks)["a", "b"], mean(c(.3, .2, .4, .1)) / sqrt(.6 * .5))
  expect_equal(core("core_htmt")(r, blocks, geometric = TRUE)["a", "b"], (.3 * .2 * .4 * .1)^(1 / 4) / sqrt(.6 * .5))
  expect_true(is.na(core("core_htmt")(r, list(a = 1, b = 2:4))["a", "b"]))
})

test_that("AVE, composite and maximal reliability by hand from loadings", {
  l <- c(.8, .7, .6)
  expect_equal(unname(core("core_loading_reliability")(l)), c(2.1^2 / (2.1^2 + .36 + .51 + .64), (.64 + .49 + .36) / 3))
  h <- .64 / .36 + .49 / .51 + .36 / .64
  expect_equal(core("core_maximal_reliability")(l), h / (1 + h))
  exact <- sw_validity(sw_confirm(sw_moments(two_factor_implied, n = 400), two), replicates = 0)
  factors <- tidy(exact, "factors")
  expect_equal(factors$ave[1], (.64 + .49 + .36) / 3, tolerance = 1e-6)
  expect_equal(factors$msv, c(.16, .16), tolerance = 1e-6)
  expect_equal(tidy(exact, "matrix")$one[1], sqrt((.64 + .49 + .36) / 3), tolerance = 1e-6)
  expect_equal(tidy(exact, "pairs")$htmt, core("core_htmt")(two_factor_implied, list(a = 1:3, b = 4:6))["a", "b"])
  without <- tidy(exact, "items")
  expect_equal(without$ave_without[1], (.49 + .36) / 2, tolerance = 1e-6)
})

test_that("variance inflation is one over one less the squared multiple correlation", {
  r <- cor(x)
  slow <- vapply(1:6, function(i) 1 / (1 - summary(lm(x[, i] ~ x[, -i]))$r.squared), 0)
  expect_equal(core("core_inflation")(r), slow, ignore_attr = TRUE)
})

test_that("intervals of the ratio are those of a plain loop over the same draws; the test that two factors are one has its df", {
  v <- sw_validity(survey, two, replicates = 300)
  pair <- tidy(v, "pairs")
  loop <- vapply(0:299, function(i) {
    y <- x[rep(1:400, core("core_draw_counts")(400, 1, i)), ]
    core("core_htmt")(cor(y), list(a = 1:3, b = 4:6))["a", "b"]
  }, 0)
  expect_equal(c(pair$htmt_low, pair$htmt_high), quantile(loop, c(.025, .975), names = FALSE), tolerance = 1e-8)
  one <- sw_confirm(survey, sw_structure(all = items))
  plain <- sw_confirm(survey, two)
  expect_equal(pair$statistic, one$parts$figures$chi_square - plain$parts$figures$chi_square, tolerance = 1e-6)
  expect_equal(pair$df, 1)
  expect_lt(pair$p.value, .001)
})

test_that("one sound factor is called sound, in the singular", {
  r <- tcrossprod(c(.85, .8, .9, .85))
  diag(r) <- 1
  dimnames(r) <- rep(list(letters[1:4]), 2)
  sound <- sw_validity(sw_confirm(sw_moments(r, n = 400), sw_structure(f = letters[1:4])))
  expect_equal(headline_of(sound), "The items of the one factor belong together, by the usual bounds.")
})

test_that("two factors that are one fail, with a remedy", {
  same <- `colnames<-`(simulate_answers(500, rbind(two_factor_loadings), matrix(c(1, .97, .97, 1), 2), seed = 203), items)
  v <- sw_validity(sw_survey(as.data.frame(same), data.frame(item = items, scale = "s", lowest = -99, highest = 99)), two, replicates = 100)
  expect_equal(tidy(v, "pairs")$verdict, "missed")
  expect_equal(tidy(v, "pairs")$root_above, "no")
  expect_true(any(grepl("HTMT", tidy(v, "failures")$what)))
  expect_match(format(v)[1], "^Not told apart: one and two")
})

test_that("outside variables against their expected signs", {
  v <- sw_validity(survey, two, replicates = 0, outside = c(age = "+"))
  out <- tidy(v, "outside")
  expect_equal(out$correlation[1], cor(rowMeans(x[, 1:3]), survey$data$age))
  expect_equal(out$agrees[1], "yes")
  shrunk <- tidy(sw_validity(survey, two, replicates = 0, outside = c(age = "-"), corrected = TRUE), "outside")
  reliability <- tidy(v, "factors")$composite_reliability[1]
  expect_equal(shrunk$correlation[1], out$correlation[1] / sqrt(reliability))
  expect_equal(shrunk$agrees[1], "no")
  expect_error(sw_validity(survey, two, replicates = 0, outside = c(age = "up")), class = "scalewort_error_input")
  expect_error(sw_validity(survey, two, replicates = 0, outside = c(nothing = "+")), class = "scalewort_error_input")
})

test_that("second-order factors from the loadings below them", {
  demo <- sw_demo("plotholders")
  structure <- sw_structure(demo)
  fit <- sw_confirm(demo, sw_add_higher(structure, "good", names(structure$factors)))
  l <- subset(tidy(fit, "loadings"), factor == "good")$standardised
  higher <- tidy(sw_validity(fit, replicates = 0), "higher")
  expect_equal(higher$ave, mean(l^2))
  expect_equal(higher$composite_reliability, sum(l)^2 / (sum(l)^2 + sum(1 - l^2)))
})

test_that("one factor has reliability, and nothing to be told apart from", {
  v <- sw_validity(survey, sw_structure(one = c("i1", "i2", "i3", "i4")), replicates = 0)
  expect_equal(nrow(tidy(v, "pairs")), 0)
  expect_true(is.na(tidy(v, "factors")$msv))
  expect_output(print(v), "one")
  expect_output(print(summary(v)), "Composite reliability")
})

test_that("where covariances by likelihood have no errors HTMT has no interval, and the rest stands", {
  withr::local_seed(1)
  f <- rnorm(70)
  x <- as.data.frame(sapply(1:7, function(j) findInterval(f + rnorm(70), c(-1.5, -.5, .5, 1.5)) + 1))
  names(x) <- paste0("t", 1:7)
  for (j in 1:7) x[runif(70) < .35, j] <- NA
  book <- data.frame(item = names(x), scale = c(rep("s", 4), rep("u", 3)), lowest = 1, highest = 5,
    direction = rep(c("forward", "reversed"), length.out = 7))
  pairs <- tidy(sw_validity(sw_survey(x, book)), "pairs")
  expect_true(is.finite(pairs$htmt) && is.na(pairs$htmt_low))
})
