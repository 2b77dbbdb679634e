survey <- sw_demo("plotholders")
plain <- sw_structure(survey)
# Complete cases, so that the figures can be worked out from covariances.
confirm <- function(...) sw_confirm(..., missing = "listwise")
four <- confirm(survey, plain)
scales <- names(plain$factors)

test_that("a higher factor: degrees of freedom, reproduction, both scalings", {
  higher <- sw_add_higher(plain, "plot", scales)
  x <- confirm(survey, higher)
  # four paths in place of six covariances
  expect_equal(x$parts$figures$df, 205)
  expect_equal(confirm(survey, higher, scaling = "first")$parts$figures$chi_square, x$parts$figures$chi_square, tolerance = 1e-7)
  paths <- tidy(x, "loadings")[tidy(x, "loadings")$factor == "plot", ]
  expect_equal(paths$item, scales)
  expect_equal(paths$r_squared, paths$standardised^2, tolerance = 1e-8)
  # implied correlations of the factors are products of the paths: known loadings come back
  upper <- c(.9, .8, .7, .6)
  l <- kronecker(diag(4), c(.8, .7, .6))
  phi <- tcrossprod(upper) + diag(1 - upper^2)
  s <- l %*% phi %*% t(l)
  diag(s) <- 1
  dimnames(s) <- list(paste0("i", 1:12), paste0("i", 1:12))
  structure <- do.call(sw_structure, split(paste0("i", 1:12), rep(letters[1:4], each = 3))) |> sw_add_higher("top", letters[1:4])
  back <- tidy(sw_confirm(sw_moments(s, n = 500), structure), "loadings")
  expect_equal(back$standardised[back$factor == "top"], upper, tolerance = 1e-5)
})

test_that("a general factor beside groups recovers its loadings", {
  general <- rep(c(.6, .5, .7), 4)
  group <- kronecker(diag(4), c(.5, .4, .3))
  s <- tcrossprod(general) + tcrossprod(group)
  diag(s) <- 1
  dimnames(s) <- list(paste0("i", 1:12), paste0("i", 1:12))
  structure <- do.call(sw_structure, split(paste0("i", 1:12), rep(letters[1:4], each = 3))) |> sw_add_general()
  x <- sw_confirm(sw_moments(s, n = 500), structure)
  expect_equal(x$parts$figures$df, 78 - 36)
  back <- tidy(x, "loadings")
  expect_equal(back$standardised[back$factor == "general"], general, tolerance = 1e-4)
})

test_that("fixed, equal, parallel, tau-equivalent, single", {
  fixed <- confirm(survey, sw_fix(plain, "calm6", "calm", value = 0))
  expect_equal(fixed$parts$figures$df, 204)
  expect_equal(tidy(fixed, "loadings")$estimate[6], 0)
  tau <- confirm(survey, sw_item_model(plain, "craft", "tau"))
  expect_equal(tau$parts$figures$df, 208)
  expect_equal(sd(tidy(tau, "loadings")$estimate[7:12]), 0, tolerance = 1e-10)
  parallel <- confirm(survey, sw_item_model(plain, "craft", "parallel"))
  expect_equal(parallel$parts$figures$df, 213)
  # One factor of parallel items: loading^2 is the mean covariance, the residual the mean
  # variance less that (Lord & Novick, 1968).
  r <- matrix(c(1, .5, .4, .5, 1.2, .3, .4, .3, .9), 3, dimnames = list(letters[1:3], letters[1:3]))
  one <- sw_confirm(sw_moments(r, n = 101), sw_structure(f = letters[1:3]) |> sw_item_model("f", "parallel"))
  expect_equal(tidy(one, "loadings")$estimate[1]^2, .4 * 100 / 101, tolerance = 1e-6)
  expect_equal(tidy(one, "residuals")$estimate[1], (3.1 / 3 - .4) * 100 / 101, tolerance = 1e-6)
  # A single item of known reliability: the correlation is corrected for attenuation.
  s <- matrix(c(1, .56, .48, .42, .56, 1, .42, .35, .48, .42, 1, .3, .42, .35, .3, 1), 4, dimnames = list(letters[1:4], letters[1:4]))
  single <- sw_confirm(sw_moments(s, n = 300), sw_structure(f = letters[1:3]) |> sw_add_single("g", "d", .81))
  certain <- sw_confirm(sw_moments(s, n = 300), sw_structure(f = letters[1:3]) |> sw_add_single("g", "d", 1))
  expect_equal(tidy(single, "factor_correlations")$correlation, tidy(certain, "factor_correlations")$correlation / .9, tolerance = 1e-5)
})

test_that("structures that say impossible things are refused", {
  expect_error(sw_fix(plain, "calm6", "nothing", value = 0), class = "scalewort_error_structure")
  expect_error(confirm(survey, sw_fix(plain, "calm6", "craft", value = 0)), class = "scalewort_error_structure")
  expect_error(confirm(survey, sw_equate(plain, c("calm1", "calm"), c("calm2", "calm")), scaling = "first"), class = "scalewort_error_structure")
  expect_error(sw_equate(plain, c("calm1", "calm")), class = "scalewort_error_structure")
  expect_error(sw_add_higher(plain, "calm", scales), class = "scalewort_error_structure")
  expect_error(sw_add_higher(plain, "top", "calm"), class = "scalewort_error_structure")
  expect_error(plain |> sw_add_higher("top", scales) |> sw_add_higher("other", scales[1:2]), class = "scalewort_error_structure")
  # A factor above two others cannot be told apart from their covariance.
  expect_error(confirm(survey, sw_structure(calm = paste0("calm", 1:5), kinship = paste0("kin", 1:5)) |> sw_add_higher("top", c("calm",
    "kinship"))),
    class = "scalewort_error_structure")
})

test_that("a structure with everything in it survives YAML", {
  rich <- plain |>
    sw_add_higher("plot", scales) |>
    sw_add_pair("craft5", "craft6") |>
    sw_fix("calm6", "calm", value = .1) |>
    sw_item_model("kinship", "tau")
  path <- withr::local_tempfile(fileext = ".yml")
  sw_write(rich, path)
  back <- sw_structure(path)
  expect_equal(format(back), format(rich))
  expect_equal(confirm(survey, back)$parts$figures$chi_square, confirm(survey, rich)$parts$figures$chi_square)
  expect_match(format(rich)[1], "5 factors, 22 items. 45 free parameters, 208 degrees of freedom")
})

test_that("the headline of a robust fit gives its scaled test", {
  x <- confirm(survey, plain, estimator = "robust")
  first <- paste(format(x)[1:4], collapse = " ")
  expect_match(first, "Scaled chi-square")
  expect_match(first, formatC(core("judged_chi_square")(x$tables$fit)$corrected, format = "f", digits = 2))
})

test_that("further indices by hand from chi-squares", {
  f <- four$parts$figures
  expect_equal(f$nfi, 1 - f$chi_square / f$baseline_chi_square)
  expect_equal(f$rni, f$cfi, tolerance = 1e-10)
  expect_equal(f$critical_n, qchisq(.95, 203) / (f$chi_square / 421) + 1)
  expect_equal(f$bic - f$aic, (log(421) - 2) * 72)
  ratio <- solve(four$parts$implied) %*% four$parts$observed
  expect_equal(f$gfi, 1 - sum(diag((ratio - diag(22)) %*% (ratio - diag(22)))) / sum(diag(ratio %*% ratio)), tolerance = 1e-10)
  residual <- four$parts$observed - four$parts$implied
  expect_equal(f$rmr, sqrt(mean(residual[lower.tri(residual, diag = TRUE)]^2)))
})

test_that("composite reliability and AVE from the standardised loadings", {
  table <- tidy(four, "reliability")
  l <- tidy(four, "loadings")
  craft <- l$standardised[l$factor == "craft"]
  raw <- l$estimate[l$factor == "craft"]
  residual <- tidy(four, "residuals")
  error <- sum(residual$estimate[residual$item %in% plain$factors$craft & residual$item == residual$with])
  expect_equal(table$composite_reliability[2], sum(raw)^2 / (sum(raw)^2 + error))
  expect_equal(table$ave[2], mean(craft^2))
})

test_that("rivals: nested ones are tested, others compared", {
  one <- confirm(survey, sw_structure(all = unlist(plain$factors, use.names = FALSE)))
  pair <- confirm(survey, sw_add_pair(plain, "craft5", "craft6"))
  cross <- confirm(survey, sw_add_loading(plain, "kin5", "craft"))
  x <- sw_compare(one = one, four = four, pair = pair, cross = cross)
  tests <- tidy(x, "tests")
  row <- tests[tests$stricter == "four" & tests$freer == "pair", ]
  expect_equal(row$statistic, four$parts$figures$chi_square - pair$parts$figures$chi_square)
  expect_equal(row$df, 1)
  expect_equal(tests$nested[tests$stricter %in% c("pair", "cross") & tests$freer %in% c("pair", "cross")], "no")
  expect_equal(tests$nested[tests$stricter == "one" & tests$freer == "four"], "yes")
  expect_equal(sum(tidy(x)$bic_weight), 1)
  expect_match(headline_of(x), "The answers do not decide between \"cross\" and \"pair\": BIC leans to")
  robust <- sw_compare(four = confirm(survey, plain, estimator = "robust"), pair = confirm(survey, sw_add_pair(plain, "craft5", "craft6"),
    estimator = "robust"))
  a <- robust$parts$models$four$parts$figures
  b <- robust$parts$models$pair$parts$figures
  scale <- 203 * a$scale - 202 * b$scale
  expect_equal(tidy(robust, "tests")$statistic, (a$chi_square - b$chi_square) / scale)
  expect_error(sw_compare(four), class = "scalewort_error_input")
  expect_error(sw_compare(four, confirm(sw_keep(survey, cases = 1:400, reason = "x"), plain)), class = "scalewort_error_input")
  expect_error(sw_compare(four, robust$parts$models$four), class = "scalewort_error_input")
})

test_that("items are dropped from a confirmation on record, and scores come back", {
  shorter <- sw_drop(four, "calm6", reason = "loads nowhere")
  expect_equal(tidy(shorter, "route")$items, c(22, 21))
  expect_equal(tidy(shorter, "route")$chi_square[2], confirm(sw_drop(survey, "calm6", reason = "x"), sw_drop(plain,
    "calm6"))$parts$figures$chi_square)
  from_moments <- sw_drop(sw_confirm(sw_moments(survey), plain), "calm6", reason = "x")
  expect_equal(from_moments$parts$figures$df, shorter$parts$figures$df)
  expect_error(sw_drop(four, "calm6"), class = "scalewort_error_input")
  scored <- augment(four)
  # Everybody in the fit has a score.
  expect_equal(sum(!is.na(scored$calm)), 640)
  expect_gt(cor(scored$craft, rowMeans(pick_keyed(survey)[paste0("craft", 1:6)]), use = "complete.obs"), .95)
  expect_error(augment(sw_confirm(sw_moments(survey), plain)), class = "scalewort_error_input")
})

test_that("a published covariance matrix gives the published chi-squares", {
  # Wheaton, Muth\u00e9n, Alwin & Summers (1977): 932 people, anomia and powerlessness in 1967 and
  # 1971, education and an index of occupation. J\u00f6reskog & S\u00f6rbom printed chi-squares of 71.47 on
  # 6 df, 6.33 on 5 and 4.73 on 4, which are (n - 1) F; ours are n F.
  printed <- c(11.834, 6.947, 9.364, 6.819, 5.091, 12.532, 4.783, 5.028, 7.495, 9.986, -3.839, -3.889, -3.841, -3.625, 9.610, -21.899, -18.831,
    -21.748, -18.775, 35.522, 450.288)
  s <- matrix(0, 6, 6, dimnames = rep(list(c("anomia67", "power67", "anomia71", "power71", "education", "occupation")), 2))
  s[upper.tri(s, TRUE)] <- printed
  s[lower.tri(s)] <- t(s)[lower.tri(s)]
  plain <- sw_structure(then = c("anomia67", "power67"), later = c("anomia71", "power71"), status = c("education", "occupation"))
  one <- sw_add_pair(plain, "anomia67", "anomia71")
  found <- lapply(list(plain, one, sw_add_pair(one, "power67", "power71")),
    function(structure) sw_confirm(sw_moments(s, n = 932), structure)$parts$figures)
  expect_equal(vapply(found, `[[`, 0, "df"), 6:4)
  expect_equal(round(vapply(found, `[[`, 0, "chi_square") * 931 / 932, 2), c(71.47, 6.33, 4.73))
})

test_that("a factor above three fits as three correlated ones do, which is said", {
  survey <- sw_demo("plotholders")
  three <- sw_structure(calm = paste0("calm", 1:5), craft = paste0("craft", 1:6), kin = paste0("kin", 1:4))
  plain <- sw_confirm(survey, three)
  above <- sw_confirm(survey, sw_add_higher(three, "plot", c("calm", "craft", "kin")))
  expect_equal(above$parts$figures$chi_square, plain$parts$figures$chi_square, tolerance = 1e-6)
  expect_equal(above$parts$figures$df, plain$parts$figures$df)
  expect_match(paste(plain$notes, collapse = " "), "One factor above the three would fit exactly as well")
  expect_false(any(grepl("One factor above", above$notes)))
})

test_that("in few cases a scale below one does not raise the test, and gaps count in its correction", {
  book <- data.frame(item = letters[1:5], scale = "s", lowest = 1, highest = 5)
  fitted <- function(seed, n, share = .25) {
    withr::local_seed(seed)
    f <- rnorm(n)
    x <- sapply(letters[1:5], function(item) findInterval(f + rnorm(n), c(-1.5, -.5, .5, 1.5)) + 1)
    x[runif(length(x)) < share] <- NA
    list(answers = x, of = sw_confirm(sw_survey(as.data.frame(x), book), estimator = "robust"))
  }
  seen <- function(x, n, pairs) {
    fit <- x$tables$fit
    f <- x$parts$figures
    chance <- n < 100 && f$scale < 1
    judged <- if (chance) "chi_square" else "chi_square_scaled"
    expect_equal(fit$figure[!is.na(fit$corrected_p)], judged)
    free <- 10
    # Swain (1975), of as many people as answered both of two items.
    q <- (sqrt(1 + 8 * free) - 1) / 2
    factor <- 1 - (5 * (2 * 25 + 15 - 1) - q * (2 * q^2 + 3 * q - 1)) / (12 * 5 * (pairs - 1))
    expect_equal(fit$corrected[fit$figure == judged], factor * f$chi_square / if (chance) 1 else f$scale)
    expect_equal(any(grepl("mostly chance", x$notes)), chance)
    expect_match(headline_of(x), if (chance) "Chi-square" else "Scaled chi-square")
    expect_equal(isTRUE(grepl("from the unscaled chi-square", core("say")(core("corrected_fit_sentence")(fit)))), chance)
    chance
  }
  few <- vapply(c(1, 2, 4, 8), function(seed) {
    one <- fitted(seed, 58)
    both <- crossprod(!is.na(one$answers))
    seen(one$of, sum(rowSums(!is.na(one$answers)) > 0), 1 / mean(1 / both[lower.tri(both)]))
  }, TRUE)
  expect_true(any(few) && !all(few))
  many <- fitted(2, 150)
  both <- crossprod(!is.na(many$answers))
  expect_false(seen(many$of, 150, 1 / mean(1 / both[lower.tri(both)])))
  expect_lt(many$of$parts$figures$scale, 1)
  seen(fitted(2, 58, 0)$of, 58, 58)
})

test_that("a solution whose implied correlations are impossible is shown, without weights of scores", {
  fit <- list(implied = matrix(c(1, 1.1, 1.1, 1), 2, dimnames = rep(list(c("a", "b")), 2)))
  fit$matrices <- list(loading = diag(2), residual = diag(.1, 2), factor = matrix(c(.9, 1.1, 1.1, .9), 2), path = matrix(0, 2, 2))
  expect_null(core("standard_places")(fit, list(factors = list(x = "a", y = "b"))))
  withr::local_seed(6)
  f <- rnorm(25)
  x <- as.data.frame(sapply(1:7, function(j) findInterval(f + rnorm(25), c(-1.5, -.5, .5, 1.5)) + 1))
  names(x) <- paste0("t", 1:7)
  for (j in 1:7) x[runif(25) < .35, j] <- NA
  x$t2 <- x$t1
  book <- data.frame(item = names(x), scale = c(rep("s", 4), rep("u", 3)), lowest = 1, highest = 5,
    direction = rep(c("forward", "reversed"), length.out = 7))
  found <- sw_confirm(sw_survey(x, book), estimator = "ordinal")
  expect_equal(found$about$status, "improper")
  expect_null(found$parts$weights)
})
