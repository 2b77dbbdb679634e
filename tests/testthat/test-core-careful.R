# Careless answering, planted and found; careful people left alone.

planted <- local({
  truth <- core("structure_truth")(sw_structure(a = paste0("a", 1:5), b = paste0("b", 1:5), c = paste0("c", 1:5)), .6, .3, .7)
  cuts <- c(-1.6, -.6, .6, 1.6)
  withr::with_seed(3, {
    careful <- matrix(findInterval(matrix(rnorm(400 * 15), 400) %*% chol(truth$covariance), cuts) + 1, 400)
    # One item of each subscale is reversed: as given its answers are turned.
    careful[, c(2, 7, 12)] <- 6 - careful[, c(2, 7, 12)]
    straight <- matrix(rep(sample(1:5, 30 * 3, TRUE), each = 5), 30, byrow = TRUE)
    slips <- matrix(runif(30 * 15) < .08, 30)
    straight <- pmin(pmax(straight + slips * sample(c(-1, 1), 30 * 15, TRUE), 1), 5)
    random <- matrix(sample(1:5, 30 * 15, TRUE), 30)
    list(answers = rbind(careful, straight, random), kind = rep(c("careful", "straight", "random"), c(400, 30, 30)), items = truth$items)
  })
})
survey <- local({
  answers <- as.data.frame(planted$answers)
  names(answers) <- planted$items
  direction <- ifelse(seq_len(15) %in% c(2, 7, 12), "reversed", "forward")
  sw_survey(answers, data.frame(item = planted$items, scale = substr(planted$items, 1, 1), lowest = 1, highest = 5, direction = direction))
})

test_that("straight lines on pages are found with their slips, random answers mostly, careful people hardly ever flagged", {
  x <- sw_answering(survey)
  share <- function(what) tapply(what, planted$kind, mean)
  straight <- share(x$parts$straight)
  expect_gte(straight[["straight"]], .9)
  expect_lte(straight[["careful"]], .02)
  # Half of random answers to 15 items look like careful ones: the rates say so beforehand.
  random <- share(x$parts$random)
  expect_gte(random[["random"]], .3)
  expect_lte(random[["careful"]], .01)
  rates <- tidy(x, "rates")
  expect_equal(rates$share[1], straight[["straight"]], tolerance = .1)
  expect_lt(abs(rates$share[2] - random[["random"]]), .25)
  expect_match(headline_of(x), "answer in straight lines")
  expect_equal(nrow(tidy(x, "effect")), 3)
  expect_identical(tidy(x), tidy(sw_answering(survey)))
})

test_that("even-odd flags two careful people of a hundred and has no vote; breaking off is no carelessness", {
  x <- sw_answering(survey)
  even <- x$parts$values$even_odd
  bound <- as.numeric(sub("[^-0-9.]*", "", tidy(x)$bound[grepl("even-odd", tidy(x)$index)]))
  expect_lt(mean(even[planted$kind == "careful"] < bound, na.rm = TRUE), .05)
  expect_false("even_odd" %in% colnames(x$parts$flags))
  off <- survey$data
  off[1:3, 9:15] <- NA
  off[4, c(2, 5, 7, 9, 11, 13)] <- NA
  broken <- sw_answering(sw_survey(off, survey$codebook))
  expect_equal(which(broken$parts$broke_off), 1:3)
  expect_equal(unname(broken$parts$flags[1:4, "unanswered"]), c(FALSE, FALSE, FALSE, TRUE))
  expect_match(headline_of(broken), "3 broke off")
})

test_that("page variance, items left at the end, slips and straight lines by hand", {
  x <- rbind(c(1, 1, 1, 3, 3), c(1, 2, 3, 5, 3), c(2, NA, NA, NA, NA))
  # Ranges of 4: variances over 16.
  expect_equal(core("core_page_variance")(x, list(1:3, 4:5), rep(4, 5)), c(0, (1 + 2) / 2 / 16, NA))
  expect_equal(core("core_left_at_end")(x), c(0, 0, 4))
  expect_equal(core("core_left_at_end")(rbind(c(NA, NA), c(NA, 1))), c(0, 0))
  draws <- core("random_draws")
  lines <- matrix(rep(1:5, 40), 200, 5)
  slipped <- core("with_seed")(2, core("core_slipped")(lines, 1, 5, .08, draws))
  expect_true(all(abs(slipped - lines) <= 1) && all(slipped %in% 1:5))
})

test_that("the model of careful people: its scores, likelihood ratios, people, tail and false discovery rate, by hand", {
  r <- matrix(c(1, .5, .5, 1), 2)
  shares <- list(c(`1` = .2, `2` = .5, `3` = .3), c(`1` = .3, `2` = .3, `3` = .4))
  model <- core("core_careful_model")(r, shares, list(1:2))
  at <- qnorm(c(.2, .7))
  expect_equal(unname(model$score[[1]]), c(-dnorm(at[1]) / .2, (dnorm(at[1]) - dnorm(at[2])) / .5, dnorm(at[2]) / .3))
  z <- c(model$score[[1]][[2]], model$score[[2]][[3]])
  v <- model$spread
  s <- matrix(c(v[1], .5 * v[1] * v[2], .5 * v[1] * v[2], v[2]), 2)
  careful <- log(.5) + log(.4) - log(det(s)) / 2 + log(prod(v)) / 2 - (z %*% solve(s) %*% z - sum(z^2)) / 2
  found <- core("core_careless_ratios")(rbind(2:3), model)
  expect_equal(found[, "random"], c(random = -2 * log(3) - c(careful)))
  expect_equal(found[, "straight"], c(straight = log((.04 * .0005 + .92 * .04 + .04 * .92) / 3) - c(careful)))
  draws <- core("random_draws")
  people <- core("with_seed")(3, core("core_careful_options")(model, 20000, draws))
  expect_equal(unname(c(prop.table(table(people[, 1])))), unname(shares[[1]]), tolerance = .03)
  expect_equal(cor(model$score[[1]][people[, 1]], model$score[[2]][people[, 2]]), .5 * sqrt(prod(v)), tolerance = .05)
  # Who is more extreme than others keeps the shares; a gap is filled near what the other answer lets expect.
  model$scale <- .3
  extreme <- core("with_seed")(4, core("core_careful_options")(model, 20000, draws))
  expect_equal(unname(c(prop.table(table(extreme[, 2])))), c(.3, .3, .4), tolerance = .03)
  gaps <- cbind(rep(c(1, 3), each = 4000), NA)
  filled <- core("with_seed")(5, core("core_filled_options")(gaps, model, draws))
  expect_gt(mean(filled[4001:8000, 2]), mean(filled[1:4000, 2]) + .3)
  drawn <- qexp((1:5000 - .5) / 5000)
  expect_equal(core("core_tail_p")(c(log(2), 8), drawn), c(.5, exp(-8)), tolerance = .05)
  expect_equal(core("core_discovery_edge")(c(.001, .02, .03, .9), .1), .075)
  expect_equal(core("core_discovery_edge")(c(.2, .5), .1), .05)
})

test_that("answers with two options, and too few people, name nobody and say why", {
  two <- withr::with_seed(1, as.data.frame(matrix(rbinom(1200, 1, .5), 120)))
  found <- sw_answering(two)
  expect_equal(sum(found$parts$straight | found$parts$random), 0)
  expect_true("careless_untold" %in% found$noted$code)
  expect_match(headline_of(found), "cannot tell who of 120 cases was careless")
  expect_equal(sw_answering(survey, at_least = 2)$about$options$at_least, 2)
  expect_gt(length(sw_answering(survey, at_least = 1)$parts$flagged_rows), length(sw_answering(survey)$parts$flagged_rows))
})
