# What a misfit is called, from populations whose fault is known: moments of 500 people without sampling error.

three <- sw_structure(a = paste0("a", 1:5), b = paste0("b", 1:5), c = paste0("c", 1:5))
truth <- local({
  at <- core("structure_truth")(three, .6, .3, .7)
  dimnames(at$covariance) <- list(at$items, at$items)
  at$covariance
})
moved <- function(change) {
  s <- change(truth)
  s[upper.tri(s)] <- t(s)[upper.tri(s)]
  s
}
pair <- function(size) moved(function(s) replace(s, cbind(2, 1), s[2, 1] + size * .64))
read <- function(s, structure = three, n = 500) sw_confirm(sw_moments(s * n / (n - 1), n = n), structure)
first <- function(x) x$tables$readings[1, c("reading", "name")] |> unlist(use.names = FALSE)

test_that("a true structure has no reading and no fault", {
  x <- read(truth)
  expect_null(x$tables$readings)
  expect_match(headline_of(x), "^The structure fits. Chi-square 0.00")
  expect_false("missed" %in% x$tables$verdicts$code[x$tables$verdicts$figure != "ave"])
})

test_that("a pair, a pair with less in common, a crossing are each named as what they are", {
  expect_equal(first(read(pair(.35), n = 2000)), c("pair", "a1 and a2"))
  expect_equal(first(read(pair(-.35), n = 2000)), c("apart", "a1 and a2"))
  crossed <- moved(function(s) {
    s[paste0("b", 1:5), "a1"] <- s[paste0("b", 1:5), "a1"] + .35 * .6 * .91
    s
  })
  expect_equal(first(read(crossed, n = 2000)), c("loading", "a1 and b"))
  freed <- read(crossed, sw_add_loading(three, "a1", "b"), n = 2000)
  expect_equal(freed$parts$figures$chi_square, read(crossed, n = 2000)$tables$readings$chi_square[1], tolerance = 1e-6)
})

test_that("an item filed under the wrong factor moves, twins merge, and a solution over its bounds says why", {
  wrong <- sw_structure(a = paste0("a", 1:4), b = c(three$factors$b, "a5"), c = three$factors$c)
  x <- read(truth, wrong)
  expect_equal(first(x), c("move", "a5 and a"))
  expect_equal(x$tables$readings$chi_square[1], 0, tolerance = 1e-6)
  twins <- moved(function(s) replace(s, cbind(rep(6:10, 5), rep(1:5, each = 5)), .36 * .99))
  expect_equal(first(read(twins, n = 300)), c("merge", "a and b"))
  over <- read(moved(function(s) replace(s, cbind(rep(6:10, 5), rep(1:5, each = 5)), .36 * 1.08)), n = 300)
  expect_equal(over$about$status, "improper")
  expect_equal(first(over), c("merge", "a and b"))
  expect_match(headline_of(over), "improper.*a and b cannot be told apart")
  # Little is claimed where as little is gained: a pair that only doubles chance, among 300 people.
  expect_null(read(pair(.08), n = 300)$tables$readings)
})

test_that("two factors fitted as one are found among its items, or by the codebook's subscales", {
  joined <- sw_structure(ab = c(three$factors$a, three$factors$b), c = three$factors$c)
  x <- read(truth, joined)
  expect_equal(first(x), c("split", "ab: a1 a2 a3 a4 a5 | b1 b2 b3 b4 b5"))
  expect_false(any(grepl("share something", x$notes)))
  survey <- sw_simulate(three, 400, loading = .6)
  known <- sw_confirm(survey, joined)
  expect_equal(first(known), c("scales", "a, b"))
  expect_match(headline_of(known), "the codebook's subscales a and b do not make one factor")
})

test_that("reversed items that share their wording are fitted so, and what that changes is said", {
  turned <- c("a1", "a3", "b1", "b3", "c1", "c3")
  extra <- tcrossprod(ifelse(rownames(truth) %in% turned, .45, 0))
  s <- cov2cor(truth + extra)
  x <- core("with_seed")(2, matrix(rnorm(600 * 15), 600)) %*% chol(s)
  answers <- as.data.frame(apply(x, 2, function(v) findInterval(v, c(-1.5, -.5, .5, 1.5)) + 1))
  names(answers) <- rownames(truth)
  answers[turned] <- 6 - answers[turned]
  book <- data.frame(item = names(answers), scale = substr(names(answers), 1, 1), lowest = 1, highest = 5,
    direction = ifelse(names(answers) %in% turned, "reversed", "forward"))
  survey <- sw_survey(answers, book)
  fit <- sw_confirm(survey)
  expect_equal(first(fit), c("wording", paste(turned, collapse = " ")))
  richer <- sw_confirm(survey, sw_add_wording(sw_structure(survey)))
  expect_equal(richer$parts$figures$chi_square, fit$tables$readings$chi_square[1], tolerance = 1e-6)
  expect_equal(richer$parts$figures$cfi, fit$tables$readings$cfi[1], tolerance = 1e-6)
  expect_true(any(grepl(paste("CFI is", core("coefficient_text")(richer$parts$figures$cfi)), fit$notes, fixed = TRUE)))
})

test_that("a factor of wording: of the reversed items, of all, and what it needs", {
  turned <- c("a1", "a2", "b1")
  x <- sw_add_wording(three, turned)
  expect_equal(x$factors$wording, turned)
  expect_equal(x$unlinked, list(c("a", "wording"), c("b", "wording"), c("c", "wording")))
  all <- sw_add_wording(three, turned, items = "all")
  expect_equal(length(all$factors$wording), 15)
  # Agreeing with everything: the keyed answers of reversed items fall by as much as the others rise.
  signs <- ifelse(rownames(truth) %in% turned, -1, 1)
  fit <- read(truth + .1 * tcrossprod(signs), all)
  expect_equal(fit$parts$figures$chi_square, 0, tolerance = 1e-6)
  expect_equal(subset(fit$tables$factors, kind == "factor variance" & factor == "wording")$estimate, .1, tolerance = 1e-5)
  expect_equal(sw_add_wording(sw_structure(sw_demo("plotholders")))$factors$wording, core("reversed_items")(sw_demo("plotholders")))
  expect_error(sw_add_wording(three), "does not say which items", class = "scalewort_error_structure")
  expect_error(sw_add_wording(three, "a1"), "3 at least", class = "scalewort_error_structure")
  expect_error(sw_add_wording(three, "z9"), class = "scalewort_error_structure")
  expect_error(sw_add_wording(three, 3), class = "scalewort_error_input")
})

test_that("an item that does not belong and twin factors are said beside a good fit", {
  weak <- moved(function(s) {
    s["a5", 1:4] <- s[1:4, "a5"] <- .012
    s[paste0("b", 1:5), "a5"] <- s[paste0("c", 1:5), "a5"] <- .0036
    s
  })
  expect_match(headline_of(read(weak)), "^The structure fits, but a5 does not belong to a \\(loading .02\\)")
  twins <- core("structure_truth")(three, .7, .94, .7)
  dimnames(twins$covariance) <- list(twins$items, twins$items)
  x <- read(twins$covariance)
  expect_match(headline_of(x), "^The structure fits, but a and b can hardly be told apart \\(r .94")
  expect_equal(x$noted$rank[x$noted$code == "twins"], 1)
})

test_that("composite reliability and shared variance have the spread over samples that their intervals say", {
  at <- core("structure_truth")(sw_structure(a = paste0("a", 1:4)), .6, 0, .7)
  s <- core("with_seed")(3, core("core_sampled_covariances")(at$covariance, 300, 120, core("random_draws")))
  rows <- do.call(rbind, apply(s, 2, function(one) {
    m <- matrix(one * 300 / 299, 4, dimnames = list(at$items, at$items))
    sw_confirm(sw_moments(m, n = 300), sw_structure(a = paste0("a", 1:4)))$tables$reliability
  }))
  width <- function(low, high) mean((high - low) / (2 * qnorm(.975)))
  expect_equal(width(rows$reliability_low, rows$reliability_high), sd(rows$composite_reliability), tolerance = .2)
  expect_equal(width(rows$ave_low, rows$ave_high), sd(rows$ave), tolerance = .2)
})

test_that("bounds of fit: a slightly wrong structure is told from a true one where cases allow it", {
  x <- sw_bounds(read(truth, n = 1000), replicates = 60)
  bounds <- tidy(x)
  expect_equal(unique(bounds$left_out), c("one crossing left out", "2 crossings left out", "3 crossings left out"))
  expect_true(all(bounds$verdict == "met"))
  # By hand: the population with one crossing, fitted without it, has the CFI about which its samples lie.
  wrong <- core("wrong_truths")(core("bounded_truth")(read(truth)), .30)[[1]]$covariance
  expect_equal(sum(abs(wrong - truth)[1:5, 6:15] > 1e-6), 10)
  there <- read(wrong, n = 1000)
  expect_equal(1 - there$parts$figures$chi_square / there$parts$figures$baseline_chi_square,
    subset(tidy(x, "samples"), sample == "one crossing left out" & figure == "cfi")$mean, tolerance = .01)
  one <- sw_bounds(read(truth[1:6, 1:6] |> (\(s) s - s + core("structure_truth")(sw_structure(q = rownames(truth)[1:6]), .6, 0, .7)$covariance)(),
    sw_structure(q = rownames(truth)[1:6])), replicates = 50)
  expect_match(one$tables$bounds$left_out[1], "one pair left out")
  few <- sw_bounds(read(truth, n = 80), replicates = 60)
  expect_true(any(few$tables$bounds$verdict == "untested"))
  expect_equal(tidy(sw_bounds(read(truth, n = 300), replicates = 50)), tidy(sw_bounds(read(truth, n = 300), replicates = 50)))
  # The size of RMSEA and CFI: what the chi-square allows at 5% and 2.5%.
  fit <- sw_confirm(sw_simulate(three, 500, loading = .5, seed = 4), sw_structure(ab = c(three$factors$a, three$factors$b), c = three$factors$c),
    estimator = "ml")
  sure <- tidy(sw_bounds(fit, replicates = 50), "equivalence")
  t <- fit$tables$fit$corrected[1]
  expect_equal(pchisq(t, 89, ncp = sure$with_confidence[1]^2 * 89 * 500), .05, tolerance = 1e-5)
  expect_error(sw_bounds(read(truth[1:3, 1:3], sw_structure(a = paste0("a", 1:3)))), "fits always", class = "scalewort_error_input")
  expect_error(sw_bounds(sw_confirm(sw_demo("plotholders"), estimator = "ordinal")), class = "scalewort_error_input")
})

test_that("the slopes of reliability and shared variance are those of central differences", {
  survey <- sw_demo("plotholders")
  plain <- sw_structure(survey)
  for (case in list(list(sw_add_pair(plain, "craft5", "craft6"), "ml", "first"), list(sw_add_loading(plain, "kin5", "craft"), "ml", "variance"),
    list(plain, "ordinal", "variance"), list(plain, "ordinal", "first"))) {
    fit <- sw_confirm(survey, case[[1]], estimator = case[[2]], scaling = case[[3]], missing = "listwise")
    part <- fit$parts
    basis <- list(kind = if (case[[2]] == "ordinal") "ordinal" else "complete", s = part$observed)
    items <- rownames(part$observed)
    at <- function(theta) {
      matrices <- core("core_sample_matrices")(basis, part$cells, list(theta = theta), 4)
      core("core_shared_and_reliable")(part$structure, items, matrices, core("core_factor_covariance")(matrices), core("core_implied")(matrices))
    }
    slopes <- core("core_reliability_slopes")(part$structure, items, part$cells, part, basis)
    error <- core("core_slope_errors")(at(part$theta), slopes, part$estimates_covariance)
    expect_equal(error, core("core_delta_errors")(at, part$theta, part$estimates_covariance), tolerance = 1e-5)
  }
})
