survey <- sw_demo("plotholders")
four <- sw_explore(survey, 4)

test_that("every extraction and rotation runs on the demo, and keeps communalities", {
  for (extraction in c("ml", "minres", "gls", "paf", "pca")) {
    x <- sw_explore(survey, 4, extraction = extraction, starts = 5)
    expect_equal(x$about$status, "ok")
    expect_equal(x$about$options$extraction, extraction)
    expect_gt(sum(grepl("^belongs", tidy(x, "items")$says)), 17)
  }
  for (rotation in setdiff(core("option_choices")("explore", "rotation"), c("none", "target"))) {
    x <- sw_rotate(four, rotation, starts = 5)
    expect_equal(tidy(x)$communality, tidy(four)$communality, tolerance = 1e-6)
    expect_equal(tidy(x, "fit"), tidy(four, "fit"))
  }
})

test_that("the planted items are found: one that belongs nowhere, one that crosses", {
  items <- tidy(four, "items")
  expect_equal(items$item[items$says == "loads nowhere"], "calm6")
  expect_match(items$says[items$item == "kin5"], "cross-loads")
  expect_true(all(items$gap[startsWith(items$says, "belongs")] >= .20))
})

test_that("small loadings are blank in print and present in the table", {
  printed <- grep("^  craft1 ", format(four), value = TRUE)[1]
  expect_match(printed, "^  craft1 +\\.644 +\\.434 +F1$")
  expect_false(anyNA(tidy(four)$F2))
  all_shown <- grep("^  craft1 ", format(sw_explore(survey, 4, hide = 0)), value = TRUE)[1]
  expect_match(all_shown, "-?\\.0\\d\\d")
})

test_that("residuals, variance and complexity follow their definitions", {
  parts <- four$parts
  implied <- parts$pattern %*% parts$factor_correlations %*% t(parts$pattern)
  residual <- (parts$correlations - implied)[lower.tri(implied)]
  expect_equal(sort(abs(tidy(four, "residuals")$residual)), sort(abs(residual)), tolerance = 1e-8)
  expect_equal(tidy(four, "fit")$rmsr, sqrt(mean(residual^2)), tolerance = 1e-8)
  variance <- tidy(four, "variance")
  expect_equal(sum(variance$sum_of_squares), sum(tidy(four)$communality))
  expect_equal(sum(variance$before_rotation), sum(variance$sum_of_squares), tolerance = 1e-8)
  row <- parts$pattern["kin5", ]
  expect_equal(tidy(four)$complexity[tidy(four)$item == "kin5"], sum(row^2)^2 / sum(row^4))
})

test_that("the general factor above keeps communalities", {
  general <- tidy(four, "general")
  squares <- rowSums(as.matrix(general[c("general", "F1", "F2", "F3", "F4")])^2)
  expect_equal(squares, tidy(four)$communality, tolerance = .02)
  expect_null(sw_rotate(four, "varimax")$tables$general)
})

test_that("a target is met, kept in its order, and checked", {
  home <- c(calm = 1, craft = 2, kin = 3, soil = 4)
  at <- home[sub("[0-9]+$", "", rownames(four$parts$pattern))]
  target <- matrix(0, 22, 4)
  target[cbind(1:22, at)] <- NA
  aimed <- sw_rotate(four, "target", target = target)
  expect_equal(tidy(aimed, "items")$factor[c(1, 7, 14, 18)], paste0("F", 1:4))
  expect_error(sw_rotate(four, "target"), class = "scalewort_error_input")
  expect_error(sw_rotate(four, "target", target = target[, 1:3]), class = "scalewort_error_input")
  expect_error(sw_rotate(four, "target", target = target * NA), class = "scalewort_error_input")
})

test_that("several numbers side by side, one of them taken out", {
  several <- sw_explore(survey, 2:5)
  table <- tidy(several)
  expect_equal(table$factors, 2:5)
  expect_true(all(diff(table$chi_square) < 0))
  expect_equal(table$nowhere[3], 1)
  expect_equal(several[[4]]$parts$pattern, four$parts$pattern)
  expect_match(paste(several$notes, collapse = " "), "With 5")
  expect_error(several[[9]], class = "scalewort_error_input")
  expect_error(sw_explore(survey, c(2, 2.5)), class = "scalewort_error_input")
  expect_error(sw_explore(survey, 2:3, names = c("a", "b")), class = "scalewort_error_input")
})

test_that("items are dropped one at a time, on record", {
  shorter <- four |>
    sw_drop("calm6", reason = "loads nowhere") |>
    sw_drop("kin5", reason = "loads on two factors")
  route <- tidy(shorter, "route")
  expect_equal(route$dropped, c("", "calm6", "kin5"))
  expect_equal(route$items, 22:20)
  expect_equal(route$nowhere, c(1, 0, 0))
  expect_equal(tidy(shorter)$F1, tidy(sw_explore(sw_drop(survey, items = c("calm6", "kin5"), reason = "x"), 4))$F1, tolerance = 1e-8)
  expect_match(paste(sw_log(shorter$parts$source$x)$detail, collapse = " "), "loads on two factors")
  expect_error(sw_drop(four, "calm6"), class = "scalewort_error_input")
  expect_error(sw_drop(four, "nothere", reason = "x"), class = "scalewort_error_input")
  expect_error(sw_drop(four, cases = 1, reason = "x"), class = "scalewort_error_input")
  from_moments <- sw_drop(sw_explore(sw_moments(survey), 4), "calm6", reason = "x")
  expect_equal(nrow(tidy(from_moments)), 21)
})

test_that("an exploration hands a structure on, and says what it did not take over", {
  drafted <- sw_structure(four, cutoff = .25)
  expect_match(paste(format(drafted), collapse = " "), "kin5 also loads on F1")
  path <- withr::local_tempfile(fileext = ".yml")
  sw_write(sw_structure(four), path)
  expect_equal(sw_structure(path)$factors, sw_structure(four)$factors)
  expect_error(sw_write(drafted, withr::local_tempfile(fileext = ".csv")), class = "scalewort_error_file")
})

test_that("stability: congruence of halves and of groups", {
  x <- sw_stability(survey, 4, halves = 10, by = "district")
  expect_equal(nrow(tidy(x)), 4)
  expect_true(all(tidy(x)$congruence > .85))
  expect_equal(nrow(tidy(x, "groups")), 4)
  expect_equal(tidy(x, "items")$item[which.min(tidy(x, "items")$share_same)], "calm6")
  expect_identical(tidy(sw_stability(survey, 4, halves = 5)), tidy(sw_stability(survey, 4, halves = 5)))
  noise <- withr::with_seed(1, sw_survey(as.data.frame(matrix(sample(1:5, 1200, TRUE), 200)), data.frame(item = paste0("V", 1:6), scale = "s",
    lowest = 1, highest = 5)))
  expect_match(paste(sw_stability(noise, 2, halves = 20)$notes, collapse = " "), "too small for F1 and F2: even if this solution were true")
})

test_that("halves: random, stratified, matched", {
  strata <- sw_split(survey, method = "stratified", by = "district")
  share <- function(s) mean(s$data$district[s$kept] == "north")
  expect_equal(share(strata$calibration), share(strata$validation), tolerance = .01)
  apart <- function(halves) {
    table <- attr(halves, "halves")
    abs(diff(table$sampling_adequacy)) + abs(diff(table$common_variance))
  }
  expect_lt(apart(sw_split(survey, method = "matched", tries = 40)), apart(sw_split(survey)) + 1e-12)
  expect_equal(sum(strata$calibration$kept) + sum(strata$validation$kept), 640)
  expect_false(any(strata$calibration$kept & strata$validation$kept))
  expect_error(sw_split(small_survey(), method = "stratified"), class = "scalewort_error_input")
  expect_error(sw_split(survey, by = "nowhere"), class = "scalewort_error_input")
})

test_that("bad matrices have their stated answers", {
  x <- withr::with_seed(2, as.data.frame(matrix(rnorm(600), 100)))
  names(x) <- letters[1:6]
  x$g <- x$a + x$b
  expect_error(sw_explore(sw_moments(x), 1), class = "scalewort_error_numeric")
  smooth <- sw_explore(sw_moments(x), 1, smooth = TRUE, extraction = "minres")
  expect_match(paste(smooth$notes, collapse = " "), "smoothed")
  expect_error(sw_explore(sw_moments(x[1:5, 1:6]), 1), "cases", class = "scalewort_error_numeric")
  x$flat <- 3
  expect_error(sw_explore(sw_moments(x[c("a", "b", "c", "flat")]), 1), "flat", class = "scalewort_error_numeric")
  expect_error(sw_explore(sw_moments(x[c("a", "b", "c")]), 2), class = "scalewort_error_input")
  expect_error(sw_explore(sw_moments(x[c("a", "b")]), 1), class = "scalewort_error_input")
  expect_error(sw_explore(sw_moments(x[letters[1:6]]), 2, correlation = "polychoric"), class = "scalewort_error_input")
  r <- matrix(c(1, .9, -.9, .9, 1, .9, -.9, .9, 1), 3, dimnames = list(letters[1:3], letters[1:3]))
  expect_error(sw_explore(sw_moments(r, n = 100), 1), class = "scalewort_error_numeric")
  heywood <- matrix(c(1, .9, .9, .9, 1, .7, .9, .7, 1), 3, dimnames = list(letters[1:3], letters[1:3]))
  expect_match(sw_explore(sw_moments(heywood, n = 100), 1)$notes[1], "lower bound")
  harman <- sw_moments(datasets::Harman74.cor$cov, n = 145)
  stuck <- sw_explore(harman, 3, extraction = "alpha")
  expect_equal(stuck$about$status, "not_converged")
  expect_match(stuck$notes[1], "Do not use these loadings")
  expect_match(format(stuck)[1], "^These loadings may not be used")
  expect_equal(stuck$about$options$iterations, 5000)
})

test_that("what is said of components, of approximate chi-squares, of missing formulas", {
  notes <- function(...) paste(sw_explore(survey, 4, ..., starts = 3)$notes, collapse = " ")
  expect_match(notes(extraction = "pca"), "no common factors")
  expect_match(notes(extraction = "minres"), "does not minimise")
  expect_match(notes(rotation = "promax", errors = "analytic"), "bootstrap")
  expect_match(notes(correlation = "polychoric"), "adjusted for the errors of polychoric")
  expect_match(paste(sw_explore(sw_moments(survey, correlation = "polychoric"), 4, starts = 3)$notes, collapse = " "), "too large")
  expect_no_match(notes(rotation = "promax"), "bootstrap")
  expect_match(paste(sw_explore(survey, 1)$notes, collapse = " "), "nothing to rotate")
})

test_that("polychoric moments know their kind", {
  poly <- sw_moments(survey, items = "calm", correlation = "polychoric")
  expect_match(format(poly)[1], "^Polychoric correlations of 6 items")
  expect_error(sw_explore(sw_moments(survey), 4, correlation = "spearman"), class = "scalewort_error_input")
  ranks <- sw_moments(survey, items = "calm", correlation = "spearman", missing = "listwise")
  keyed <- na.omit(pick_keyed(survey)[paste0("calm", 1:6)])
  expect_equal(ranks$covariance, cor(keyed, method = "spearman"), tolerance = 1e-12)
})

test_that("congruence of two explorations, or of published loadings", {
  halves <- sw_split(survey, seed = 3)
  table <- sw_compare(sw_explore(halves$calibration, 4), sw_explore(halves$validation, 4))
  expect_true(all(table$conf.low < table$congruence & table$congruence < table$conf.high & table$conf.high <= 1))
  # Where few people decide, the interval is wide and holds the bound.
  few <- sw_simulate(sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4)), 60, loading = .6, seed = 2)
  other <- sw_simulate(sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4)), 60, loading = .6, seed = 3)
  small <- sw_compare(sw_explore(few, 2), sw_explore(other, 2))
  expect_true(all(small$verdict == "near"))
  expect_true(all(table$congruence > .85))
  expect_setequal(table$matched, paste0("F", 1:4))
  a <- matrix(c(.8, .7, .1, 0, .1, .2, .7, .8), 4, dimnames = list(letters[1:4], c("one", "two")))
  swapped <- -a[, 2:1]
  expect_equal(sw_compare(a, swapped)$congruence, c(1, 1))
  expect_equal(sw_compare(a, swapped)$matched, c("one", "two"))
  turned <- a %*% matrix(c(.6, .8, -.8, .6), 2)
  expect_lt(min(sw_compare(a, turned)$congruence), .99)
  expect_equal(sw_compare(a, turned, turn = TRUE)$congruence, c(1, 1))
  expect_error(sw_compare(a, a[, 1, drop = FALSE]), class = "scalewort_error_input")
  expect_error(sw_compare(a, "b"), class = "scalewort_error_input")
  expect_error(sw_compare(a, a[1:2, ]), class = "scalewort_error_input")
})

test_that("residuals have the spread over samples that their errors say, and chance ones are not called missed", {
  at <- core("structure_truth")(sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4)), .6, .3, .7)
  drawn <- core("with_seed")(8, core("core_sampled_covariances")(at$covariance, 200, 150, core("random_draws")))
  found <- lapply(seq_len(150), function(i) {
    m <- matrix(drawn[, i], 8, dimnames = list(at$items, at$items))
    x <- sw_explore(sw_moments(m * 200 / 199, n = 200), 2, starts = 1, errors = "none")
    list(z = x$tables$residuals$statistic, missed = any(x$tables$residuals$verdict == "missed"), large = any(abs(x$tables$residuals$residual) > .1),
      index = x$tables$modifications$index[x$tables$modifications$item == "a1" & x$tables$modifications$with == "b1"],
      ours = x$tables$residuals$statistic[x$tables$residuals$item == "a1" & x$tables$residuals$with == "b1"])
  })
  expect_equal(sd(unlist(lapply(found, `[[`, "z")), na.rm = TRUE), 1, tolerance = .1)
  expect_lt(mean(vapply(found, `[[`, TRUE, "missed")), .1)
  # A score test of a pair is near the square of its residual's z.
  expect_gt(cor(unlist(lapply(found, `[[`, "index")), unlist(lapply(found, `[[`, "ours"))^2), .95)
  # A pair that shares more, and one that shares less, is said with its sign.
  s <- at$covariance
  dimnames(s) <- list(at$items, at$items)
  s["a1", "a2"] <- s["a2", "a1"] <- s["a1", "a2"] - .22
  x <- sw_explore(sw_moments(s, n = 2000), 2, starts = 3)
  expect_match(x$notes[x$noted$code == "missed_correlations"], "Less in common than the factors say: ")
})
