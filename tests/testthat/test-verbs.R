survey <- sw_demo("plotholders")
draft <- sw_demo("plotholders", codebook = "draft")

test_that("screening finds the planted faults and nothing in clean answers", {
  flags <- tidy(sw_screen(draft), "flags")
  expect_setequal(flags$item, c("calm6", "kin3"))
  expect_equal(flags$what[flags$item == "kin3"], "looks unreversed")
  expect_equal(nrow(tidy(sw_screen(small_survey(2000)), "flags")), 0)
})

test_that("the items table describes answers as they were given", {
  table <- tidy(sw_screen(survey))
  x <- survey$data$calm3[survey$data$calm3 > 0]
  row <- table[table$item == "calm3", ]
  expect_equal(row$n, length(x))
  expect_equal(row$mean, mean(x))
  expect_equal(row$sd, sd(x))
  expect_equal(row$at_highest, mean(x == 5))
  expect_equal(row$unused, "")
  unused <- tidy(sw_screen(sw_survey(data.frame(a = c(1, 2, 5), b = 1:3), data.frame(item = c("a", "b"), lowest = 1, highest = 5))))
  expect_equal(unused$unused, c("3 4", "4 5"))
})

test_that("reliability names the unreversed item and what reversing it gives", {
  before <- sw_reliability(draft)
  after <- sw_reliability(survey)
  row <- tidy(before)[3, ]
  expect_equal(row$looks_unreversed, "kin3")
  expect_equal(row$alpha_turned, tidy(after)$alpha[3])
  expect_match(before$notes[1], "kin3 in kinship looks unreversed")
  expect_equal(tidy(after)$looks_unreversed, rep("", 4))
})

test_that("reliability equals alpha worked out from the file by hand", {
  data <- read.csv(system.file("extdata", "plotholders.csv", package = "scalewort"))
  x <- data[paste0("soil", 1:5)]
  x[x < 0] <- NA
  x$soil3 <- 6 - x$soil3
  x <- as.matrix(na.omit(x))
  persons <- rowMeans(x)
  items <- colMeans(x)
  residual <- x - outer(persons, items, "+") + mean(x)
  ms_persons <- 5 * sum((persons - mean(x))^2) / (nrow(x) - 1)
  ms_residual <- sum(residual^2) / ((nrow(x) - 1) * 4)
  row <- tidy(sw_reliability(survey, missing = "listwise"))[4, ]
  expect_equal(row$alpha, 1 - ms_residual / ms_persons, tolerance = 1e-12)
  expect_equal(row$n, nrow(x))
})

test_that("a published matrix gives the same reliability as the answers", {
  s <- small_survey()
  m <- sw_moments(cov(s$answers), n = 300, scales = list(one = paste0("i", 1:3), two = paste0("i", 4:6)))
  expect_equal(tidy(sw_reliability(m))$alpha, tidy(sw_reliability(s))$alpha, tolerance = 1e-12)
})

test_that("retention finds the four factors and repeats itself", {
  out <- sw_retention(survey, replicates = 200)
  expect_equal(tidy(out)$suggestion[1], 4)
  expect_identical(tidy(out, "eigenvalues"), tidy(sw_retention(survey, replicates = 200), "eigenvalues"))
  expect_equal(sum(tidy(out, "eigenvalues")$eigenvalue), 22)
})

test_that("exploration sorts the items into their subscales and names the odd ones", {
  out <- sw_explore(survey, factors = 4)
  table <- tidy(out)
  home <- setNames(table$belongs, table$item)
  for (scale in c("calm", "craft", "kin", "soil")) {
    members <- grep(paste0("^", scale), names(home), value = TRUE)
    members <- setdiff(members, c("calm6", "kin5"))
    expect_length(unique(home[members]), 1)
  }
  expect_equal(home[["calm6"]], "none")
  expect_match(home[["kin5"]], " and ")
  expect_equal(unname(table$communality + table$uniqueness), rep(1, 22))
  expect_equal(rowSums(out$parts$pattern * out$parts$structure), setNames(table$communality, table$item), ignore_attr = TRUE)
  structure <- sw_structure(out)
  expect_equal(structure$left_out, "calm6")
  expect_length(structure$factors, 4)
})

test_that("chi-square uses the multiplier asked for", {
  m <- sw_moments(datasets::Harman74.cor$cov, n = 145)
  bartlett <- tidy(sw_explore(m, 4, multiplier = "bartlett"), "fit")
  plain <- tidy(sw_explore(m, 4), "fit")
  expect_equal(round(bartlett$chi_square, 2), 226.68)
  expect_equal(plain$chi_square / bartlett$chi_square, 145 / (145 - 1 - 53 / 6 - 8 / 3))
})

test_that("an exploration and a confirmation of one factor agree", {
  s <- small_survey()
  m <- sw_moments(s, items = "one")
  more <- sw_moments(survey, items = "soil1 soil2 soil4 soil5" |> strsplit(" ") |> unlist(), missing = "listwise")
  explored <- sw_explore(more, 1)
  confirmed <- sw_confirm(more, sw_structure(soil = colnames(more$covariance)))
  expect_equal(tidy(explored)$F1, tidy(confirmed, "loadings")$standardised, tolerance = 1e-6)
  expect_equal(tidy(explored, "fit")$chi_square, glance(confirmed)$chi_square, tolerance = 1e-6)
  expect_equal(glance(sw_confirm(m, sw_structure(one = paste0("i", 1:3))))$chi_square, 0, tolerance = 1e-8)
})

test_that("simulated answers give back the structure they were made from", {
  x <- simulate_answers(20000, two_factor_loadings, two_factor_r, 21)
  m <- sw_moments(x)
  out <- sw_confirm(m, sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6)))
  expect_equal(tidy(out, "loadings")$estimate, c(.8, .7, .6, .75, .65, .55), tolerance = .03)
  expect_equal(tidy(out, "factor_correlations")$correlation, .4, tolerance = .05)
  expect_equal(out$about$status, "ok")
  explored <- sw_explore(m, 2)
  expect_equal(abs(explored$parts$pattern), abs(two_factor_loadings), tolerance = .05, ignore_attr = TRUE)
})

test_that("a confirmation counts its degrees of freedom and judges by the limits", {
  structure <- sw_structure(survey)
  out <- sw_confirm(survey, structure)
  # 22 items: 253 moments; 22 loadings, 22 residuals, 6 correlations
  expect_equal(glance(out)$df, 253 - 50)
  expect_equal(glance(sw_confirm(survey, sw_add_pair(structure, "craft5", "craft6")))$df, 253 - 51)
  expect_equal(glance(sw_confirm(survey, sw_unlink(structure, "calm", "craft")))$df, 253 - 49)
  expect_equal(glance(sw_confirm(survey, structure, scaling = "first"))$chi_square, glance(out)$chi_square, tolerance = 1e-8)
  fit <- tidy(out)
  expect_equal(fit$verdict[fit$figure == "rmsea"], core("judge_code")(glance(out)$rmsea, sw_limits(), "rmsea"))
  lax <- sw_confirm(survey, structure, limits = sw_limits(rmsea = c(.30, .20)))
  expect_equal(core("verdict_column")(tidy(lax), "verdict")[fit$figure == "rmsea"], "meets \u2264 .20")
})

test_that("standardised estimates are what rescaled data give", {
  m <- sw_moments(survey, items = "kinship")
  structure <- sw_structure(kinship = colnames(m$covariance))
  raw <- sw_confirm(m, structure)
  scaled <- sw_confirm(sw_moments(cov2cor(m$covariance), n = m$n), structure)
  expect_equal(tidy(raw, "loadings")$standardised, tidy(scaled, "loadings")$estimate * sqrt(m$n / (m$n - 1)), tolerance = 1e-6)
})

test_that("cases that were explored are named when they come back", {
  halves <- sw_split(survey)
  drafted <- sw_structure(sw_explore(halves$calibration, 4))
  same <- sw_confirm(halves$calibration, drafted)
  expect_match(same$notes[1], "no independent confirmation")
  other <- sw_confirm(halves$validation, drafted)
  expect_false(any(grepl("no independent confirmation", other$notes)))
})

test_that("an improper solution says so first and carries no verdict", {
  r <- matrix(c(1, .9, .9, .5, .9, 1, .7, .4, .9, .7, 1, .4, .5, .4, .4, 1), 4, dimnames = rep(list(letters[1:4]), 2))
  out <- sw_confirm(sw_moments(r, n = 300), sw_structure(f = letters[1:4]))
  expect_equal(out$about$status, "improper")
  expect_match(out$notes[1], "negative residual variance of a")
  expect_true(all(is.na(tidy(out)$verdict)))
  expect_match(format(out)[1], "improper")
})

test_that("scores follow the codebook and the rule for missing answers", {
  scores <- sw_score(survey, c("mean", "sum"), at_least = .8)
  data <- augment(scores)
  expect_identical(data[names(survey$data)], survey$data)
  soil <- as.matrix(survey$data[paste0("soil", 1:5)])
  soil[soil < 0] <- NA
  soil[, 3] <- 6 - soil[, 3]
  expected <- rowMeans(soil, na.rm = TRUE)
  expected[rowSums(!is.na(soil)) < 4] <- NA
  expect_equal(as.vector(data$stewardship_mean), expected)
  expect_equal(as.vector(data$stewardship_sum), 5 * expected)
  expect_equal(attr(data$stewardship_mean, "made_of"), paste0("soil", 1:5))
  expect_match(tidy(scores)$recipe[7], "mean of soil1, soil2, 6 - soil3")
  expect_gt(sum(is.na(expected)), 0)
  quiz <- sw_score(sw_demo("plantcare"), "sum")
  expect_equal(tidy(quiz)$items, 14)
})

test_that("a score never replaces a column unasked", {
  clash <- survey
  clash$data$calm_mean <- 1
  expect_error(sw_score(clash), "calm_mean", class = "scalewort_error_input")
  expect_equal(names(augment(sw_score(clash, overwrite = TRUE))), c(names(clash$data), "craft_mean", "kinship_mean", "stewardship_mean"))
})
