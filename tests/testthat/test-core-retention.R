random <- core("core_random_eigenvalues")

test_that("random eigenvalues are those of sample correlations of unrelated normal items", {
  set.seed(6)
  by_hand <- t(replicate(2000, eigen(cor(matrix(rnorm(40 * 5), 40)), TRUE, only.values = TRUE)$values))
  drawn <- random(40L, 5L, 2000L, 7)
  error <- sqrt(apply(by_hand, 2, var) / 2000 + apply(drawn, 2, var) / 2000)
  expect_true(all(abs(colMeans(by_hand) - colMeans(drawn)) < 4 * error))
  expect_equal(apply(drawn, 2, sd), apply(by_hand, 2, sd), tolerance = .1)
  expect_equal(rowSums(drawn), rep(5, 2000))
  expect_true(all(diff(t(drawn)) <= 0))
})

test_that("a seed fixes each replicate, whatever their number", {
  expect_identical(random(30L, 4L, 10L, 3), random(30L, 4L, 20L, 3)[1:10, ])
  expect_false(identical(random(30L, 4L, 10L, 3), random(30L, 4L, 10L, 4)))
  before <- .Random.seed
  random(30L, 4L, 10L, 3)
  expect_identical(.Random.seed, before)
})

test_that("only eigenvalues in a row from the first count", {
  count <- core("core_count_above")
  expect_equal(count(c(3, 2, 1), c(2, 1.5, 1.2)), 2)
  expect_equal(count(c(1, 2, 1), c(2, 1.5, 1.2)), 0)
  expect_equal(count(c(3, 2), c(1, 1)), 2)
})

test_that("reduced random eigenvalues are those of matrices with squared multiple correlations", {
  reduced <- function(r) {
    diag(r) <- 1 - 1 / diag(solve(r))
    eigen(r, TRUE, only.values = TRUE)$values
  }
  withr::local_seed(6)
  by_hand <- t(replicate(1500, reduced(cor(matrix(rnorm(40 * 5), 40)))))
  drawn <- core("core_random_eigenvalues")(40L, 5L, 1500L, 7, reduced = TRUE)
  error <- sqrt(apply(by_hand, 2, var) / 1500 + apply(drawn, 2, var) / 1500)
  expect_true(all(abs(colMeans(by_hand) - colMeans(drawn)) < 4 * error))
  r <- datasets::Harman74.cor$cov
  expect_equal(core("core_reduced_eigenvalues")(r), reduced(r), tolerance = 1e-10)
})

test_that("shuffling keeps each item's answers and breaks what they share", {
  withr::local_seed(2)
  x <- simulate_answers(200, two_factor_loadings, two_factor_r)
  shuffled <- core("core_shuffled_eigenvalues")(x, 200, random = core("random_draws"))
  normal <- core("core_random_eigenvalues")(200L, 6L, 2000L, 1)
  expect_equal(colMeans(shuffled), colMeans(normal), tolerance = .02)
})

test_that("average partials by the slow way", {
  r <- datasets::Harman74.cor$cov[1:8, 1:8]
  found <- core("core_average_partials")(r)
  expect_equal(found$squared[1], mean(r[lower.tri(r)]^2))
  e <- eigen(r)
  left <- r - e$vectors[, 1:2] %*% diag(e$values[1:2]) %*% t(e$vectors[, 1:2])
  partial <- cov2cor(left)
  expect_equal(found$squared[3], mean(partial[lower.tri(r)]^2), tolerance = 1e-10)
  expect_equal(found$fourth[3], mean(partial[lower.tri(r)]^4), tolerance = 1e-10)
})

test_that("bend, empirical Kaiser and hull by hand", {
  # Line from 3 to .3 over six points: 3, 2.46, 1.92, 1.38, .84, .3. Furthest below it: the third.
  expect_equal(core("core_scree_bend")(c(3, 1.5, .5, .4, .35, .3)), 2)
  # p = 4, n = 100: (1 + .2)^2 = 1.44 for the first; then 1.44 (4 - 2) / 3 = .96, so 1.
  expect_equal(core("core_empirical_kaiser")(c(2, 1, .6, .4), 100), c(1.44, 1, 1, 1))
  # Fit .2, .5, .8, .82, .83 against 0, 4, 7, 9, 10 parameters: slopes .075, .1, .01, .01; the
  # second point sags below the line from the first to the third (slope .6 / 7), and the
  # fourth lies on the line to the fifth. After the third fit rises .0857 / .01 less sharply.
  found <- core("core_hull")(0:4, c(.2, .5, .8, .82, .829), c(0, 4, 7, 9, 10))
  expect_equal(found$factors, 2)
  expect_equal(found$sharpness[2], (.6 / 7) / .01, tolerance = 1e-9)
  # Where one factor more does not fit better at all, that is the number.
  # Two points stay, since fit falls after the second: there is nothing to say, and never the last.
  expect_true(is.na(core("core_hull")(0:3, c(.1, .9, .89, .88), c(0, 4, 7, 9))$factors))
  expect_equal(core("core_hull")(0:3, c(.1, .8, .9, .85), c(0, 4, 7, 9))$factors, 1)
  expect_true(is.na(core("core_hull")(0:1, c(.1, .9), c(0, 4))$factors))
})

test_that("fit per number of factors: chi-square, information criteria, degrees of freedom", {
  r <- datasets::Harman74.cor$cov
  fits <- core("core_fit_per_number")(r, 145, 5)
  expect_equal(fits$df, c(276, 252, 229, 207, 186, 166))
  expect_equal(fits$chi_square[5], 145 * core("core_extract_ml")(r, 4L)$discrepancy, tolerance = 1e-9)
  expect_equal(fits$chi_square[1], -145 * log(det(r)), tolerance = 1e-8)
  # -2 ln L differs between solutions as chi-square does
  free <- 24 * (fits$factors + 1) - fits$factors * (fits$factors - 1) / 2
  expect_equal(diff(fits$aic - 2 * free), diff(fits$chi_square), tolerance = 1e-7)
  expect_equal(fits$bic - fits$aic, (log(145) - 2) * free, tolerance = 1e-8)
  expect_equal(fits$cfi[1], 0)
})

test_that("comparison data find the number of factors answers were made from", {
  loadings <- kronecker(diag(2), c(.75, .7, .7, .65, .7))
  dimnames(loadings) <- list(paste0("i", 1:10), c("a", "b"))
  x <- apply(simulate_answers(400, loadings, two_factor_r, seed = 3), 2, function(v) findInterval(v, c(-1.2, -.4, .4, 1.2)))
  found <- withr::with_seed(1, core("core_comparison_data")(x, 5, samples = 100, size = 3000, random = core("random_draws")))
  expect_equal(found$factors, 2)
  population <- withr::with_seed(2, core("core_comparison_population")(x, 2, size = 3000, random = core("random_draws")))
  expect_lt(population$error, .04)
  expect_equal(colMeans(population$population), colMeans(x), tolerance = .05)
})

test_that("two rules decide, and what they give is looked at", {
  x <- sw_retention(small_survey(), replicates = 200)
  rules <- tidy(x)
  expect_equal(x$parts$agreement$first, 2)
  expect_true(is.na(x$parts$agreement$second))
  expect_equal(rules$rule[rules$counts == "decides"], c("parallel analysis, common", "empirical Kaiser"))
  expect_match(format(x)[1], "^2 factors: the two rules that decide agree")
  expect_equal(nrow(tidy(x, "fits")), 4)
  shuffled <- sw_retention(small_survey(), draws = "shuffled", replicates = 50)
  expect_equal(tidy(shuffled)$suggestion[1], 2)
  expect_equal(tidy(sw_retention(small_survey(), correlation = "polychoric", replicates = 50))$suggestion[1], 2)
  expect_error(sw_retention(sw_moments(small_survey()), draws = "shuffled"), class = "scalewort_error_input")
  expect_error(sw_retention(sw_moments(small_survey()), comparison = TRUE), class = "scalewort_error_input")
  nothing <- withr::with_seed(1, sw_moments(matrix(rnorm(900), 150, dimnames = list(NULL, letters[1:6]))))
  nothing <- sw_retention(nothing, replicates = 200)
  expect_match(nothing$notes[1], "nothing in common")
  expect_match(headline_of(nothing), "there is no factor to extract")
})

of_structure <- function(structure, loading, correlation) {
  at <- core("structure_truth")(structure, loading, correlation, .7)
  dimnames(at$covariance) <- list(at$items, at$items)
  at$covariance
}

test_that("a residual pair is no factor, and the note names it", {
  r <- of_structure(sw_structure(a = paste0("a", 1:6), b = paste0("b", 1:6)), .6, .2)
  r["a1", "a2"] <- r["a2", "a1"] <- r["a1", "a2"] + .55 * .64
  x <- sw_retention(sw_moments(r, n = 1000), replicates = 100)
  expect_equal(tidy(x)$suggestion[1], 3)
  expect_equal(x$parts$agreement$first, 2)
  expect_equal(subset(x$tables$suspects, rule == "parallel analysis, common")[c("before", "after", "why", "items")] |> unlist(use.names = FALSE),
    c("3", "2", "pair", "a1 a2"))
  expect_match(x$notes[x$noted$code == "pair_not_factor"], "a1 and a2. Without one of the two there is one factor fewer")
})

test_that("the middle of three breaks a tie; a factor without items goes; solutions stand side by side", {
  decided <- function(common, kaiser, components, r = of_structure(sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4), c = paste0("c", 1:4)),
    .7, .2)) {
    rules <- data.frame(rule = c("parallel analysis, common", "empirical Kaiser", "parallel analysis, components"),
      suggestion = c(common, kaiser, components))
    core("decided_number")(rules, NA, r, 300, function(rest) rep(.2, length(rest)))
  }
  expect_equal(decided(3, 3, 2)[c("first", "second")], list(first = 3L, second = NA_integer_))
  expect_equal(decided(3, 2, 2)[c("first", "second")], list(first = 2L, second = 3L))
  expect_equal(decided(2, 3, 3)[c("first", "second")], list(first = 3L, second = 2L))
  # Four of these items are nothing but three factors: the fourth has no item of its own.
  four <- decided(4, 3, 3)
  expect_equal(four$first, 3L)
  expect_equal(four$suspects$why, "thin")
  differ <- sw_retention(sw_simulate(sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4), c = paste0("c", 1:4)), 100, loading = .5,
    correlation = .5, seed = 5), replicates = 100)
  expect_match(headline_of(differ), "it is 3 in the codebook")
  side <- tidy(differ, "solutions")
  expect_equal(names(side), c("item", "factor_of_2", "loading_of_2", "factor_of_3", "loading_of_3"))
  expect_setequal(side$factor_of_3, c("F1", "F2", "F3"))
})

test_that("the number is right in nine samples of ten where it can be known", {
  structure <- sw_structure(a = paste0("a", 1:5), b = paste0("b", 1:5), c = paste0("c", 1:5))
  found <- vapply(1:30, function(seed) {
    sw_retention(sw_simulate(structure, 250, loading = .6, correlation = .3, seed = seed), replicates = 100, most = 4)$parts$agreement$first
  }, 0L)
  expect_gt(mean(found == 3), .85)
})

test_that("fits stop where no rule looks any further, and say what all of them say", {
  survey <- sw_demo("plotholders")
  some <- sw_retention(survey, replicates = 20)
  all <- sw_retention(survey, replicates = 20, most = 14)
  expect_lt(nrow(some$tables$fits), 12)
  expect_equal(nrow(all$tables$fits), 15)
  expect_equal(some$tables$rules, all$tables$rules)
  expect_equal(some$tables$fits, all$tables$fits[seq_len(nrow(some$tables$fits)), ], ignore_attr = TRUE)
  bic <- some$tables$fits$bic
  expect_gte(length(bic) - which.min(bic), 3)
})
