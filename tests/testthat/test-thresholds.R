# Rules and thresholds, looked at on either side of their bounds.

says <- function(notes, code) code %in% core("note_table")(notes)$code
of_five <- function(n, items = 6, loading = .6, seed = 1) {
  structure <- sw_structure(s = paste0("q", seq_len(items)))
  sw_simulate(structure, n, loading = loading, seed = seed)
}

test_that("what too few items or people forbid begins where it should", {
  survey <- of_five(60, 3)
  expect_error(sw_answering(sw_drop(survey, "q3", reason = "few")), "three items or more", class = "scalewort_error_input")
  expect_null(sw_answering(of_five(49))$tables$rates)
  expect_false(is.null(sw_answering(of_five(50))$tables$rates))
  # A subscale of three items, a group of twenty: enough; of nineteen: not.
  data <- cbind(survey$data, g = rep(c("a", "b", "c"), c(21, 20, 19)))
  found <- sw_dif(sw_survey(data, survey$codebook, group = "g"))
  expect_equal(nrow(found$tables$items), 3)
  expect_equal(found$tables$groups$compared_as[match(c("a", "b", "c"), found$tables$groups$group)] %in% c("reference", "compared"),
    c(TRUE, TRUE, FALSE))
  expect_error(sw_resample(of_five(12), function(m) c(mean = mean(m$mean)), items = "q1", replicates = 5), class = "scalewort_error")
  draws <- matrix(c(rep(1, 4), rep(NA, 6)), 10)
  expect_error(core("known_draws")(draws), "cannot be known", class = "scalewort_error_numeric")
  expect_equal(nrow(core("known_draws")(draws[1:8, , drop = FALSE])), 4)
  expect_error(core("check_occasion_structure")(sw_structure(a = c("a1", "a2", "a3"), b = c("b1", "b2", "b3")) |> sw_add_higher("h", c("a", "b")),
    NULL, "ml"), "needs three below", class = "scalewort_error_structure")
  halves <- function(n) core("halves_can_carry")(of_five(n, 4))
  expect_equal(c(halves(299), halves(300)), c(FALSE, TRUE))
})

test_that("notes on what a solution lacks come from the bounds on", {
  limits <- sw_limits()
  pattern <- cbind(f = c(.7, .7, .1, .1, .1), g = c(.1, .1, .7, .7, .7))
  rownames(pattern) <- letters[1:5]
  expect_equal(core("note_table")(core("loading_notes")(pattern, limits))$items[[1]], "f")
  expect_false(says(core("loading_notes")(pattern[c(1, 2, 2:5), ], limits), "thin_factor"))
  # The pair that score tests name stands first, where one is beyond chance.
  residuals <- data.frame(item = c("a", "c"), with = c("b", "d"), residual = c(.2, .3), verdict = "missed")
  at <- function(words, pair) regexpr(pair, words, fixed = TRUE)[1]
  told <- core("residual_note")(rbind(residuals[2, ], residuals[1, ]), data.frame(item = "a", with = "b", p_holm = .04))[[1]]$words
  plain <- core("residual_note")(rbind(residuals[2, ], residuals[1, ]), data.frame(item = "a", with = "b", p_holm = .06))[[1]]$words
  expect_lt(at(told, "a and b"), at(told, "c and d"))
  expect_gt(at(plain, "a and b"), at(plain, "c and d"))
  curves <- function(n) core("curve_notes")(data.frame(item = "q", n = n), data.frame(item = character(), what_code = character()), 3)
  expect_equal(c(says(curves(19), "thin_bands"), says(curves(20), "thin_bands")), c(TRUE, FALSE))
  items <- data.frame(item = letters[1:4], scale = "s", verdict = "missed", looks_unreversed = FALSE, item_rest_r = .1, alpha_without = .7)
  whole <- data.frame(scale = "s", items = 9, alpha = .7)
  weak <- function(k) core("note_table")(core("weak_item_notes")(items[seq_len(k), ], character(), limits, whole))
  expect_equal(weak(3)$code, rep("weak_item", 3))
  expect_equal(weak(4)$code, "weak_items")
  expect_equal(c(core("near_normal_powers")(rbind(n = 10, second = 10, third = c(4, 5.9), fourth = 30)),
    core("near_normal_powers")(rbind(n = 10, second = 10, third = c(4, 6.2), fourth = 30))), c(TRUE, FALSE))
})

test_that("what kind answers are of is told by counts on either side", {
  reason <- function(options, skewness) !is.null(core("ordered_reason")(list(options = options, skewness = skewness)))
  expect_equal(c(reason(4, 0), reason(5, 0), reason(5, 1.1), reason(5, .9), reason(11, 3)), c(TRUE, FALSE, TRUE, FALSE, FALSE))
  against <- function(missing) core("against_polychoric")(of_five(60), paste0("q", 1:6), list(missing = missing), "auto")
  expect_equal(c(is.null(against(.09)), is.null(against(.11))), c(TRUE, FALSE))
  # Words without an order that three columns share are kept, of two they are none.
  rows <- data.frame(item = letters[1:3], labels = "? = elm; ? = oak", guessed = "", role = "scored", missing = "")
  trees <- as.data.frame(lapply(stats::setNames(nm = letters[1:3]), function(x) c("elm", "oak")))
  expect_equal(core("settle_orders")(rows, trees, list())$rows$labels[1], "? = elm; ? = oak")
  expect_equal(core("settle_orders")(rows[1:2, ], trees, list())$rows$labels, c("", ""))
  doubtful <- function(r) core("doubt_directions")(data.frame(item = c("a", "b"), scale = "s", direction = "forward"), c(a = r, b = .6))
  expect_equal(c(is.null(doubtful(.29)), is.null(doubtful(.31))), c(FALSE, TRUE))
  totals <- function(n) {
    values <- cbind(a = rep_len(1:5, n), b = rep_len(c(2, 1, 4), n))
    core("total_of")("t", c("a", "b"), rowSums(values), values, values)$what
  }
  expect_equal(list(totals(9), totals(10)), list(NULL, "sum"))
  same <- cbind(a = c(rep(3, 6), 1:4), b = c(rep(3, 6), 4:1))
  expect_null(core("total_of")("t", c("a", "b"), rowSums(same), same, same))
  # Columns up to twenty apart are on one scale; a sampling of few clusters is said.
  range_of <- function(top) unique(core("frame_survey")(data.frame(a = c(0, 5, top), b = c(1, 7, top - 1), c = c(2, 8, top)))$codebook$items$highest)
  expect_equal(list(range_of(20), range_of(21)), list(20, c(21, 20)))
  clustered <- function(k) {
    survey <- of_five(60)
    core("design_note")(sw_survey(cbind(survey$data, school = rep_len(seq_len(k), 60)), survey$codebook, cluster = "school"))[[1]]$words
  }
  expect_match(clustered(19), "too few to be sure")
  expect_no_match(clustered(20), "too few to be sure")
})

test_that("notes of scores, groups and checks come from the bounds on", {
  groups <- function(n) {
    survey <- of_five(sum(n), 4, .7)
    sw_invariance(sw_survey(cbind(survey$data, g = rep(c("a", "b"), n)), survey$codebook, group = "g"), estimator = "ml")$noted$code
  }
  expect_true("unequal_groups" %in% groups(c(310, 100)))
  expect_false("unequal_groups" %in% groups(c(290, 100)))
  low <- function(loading) {
    from <- sw_confirm(of_five(400, 4, loading), estimator = "ml")
    "low_reliability" %in% sw_score(of_five(400, 4, loading), method = "regression", from = from)$noted$code
  }
  expect_equal(c(low(.5), low(.8)), c(TRUE, FALSE))
  for (loading in c(.45, .8)) {
    bounds <- sw_bounds(sw_confirm(of_five(50, 6, loading), estimator = "ml"), replicates = 100)
    expect_equal("few_converged" %in% bounds$noted$code, any(bounds$tables$samples$samples < 95))
    expect_equal("few_converged" %in% bounds$noted$code, loading < .8)
  }
  # Most of the people must say a plausible age.
  survey <- of_five(60)
  age <- function(k) core("described_people")(sw_survey(cbind(survey$data, age = c(rep(30, k), rep(NA, 60 - k))), survey$codebook))$age
  expect_equal(c(is.null(age(30)), is.null(age(29))), c(FALSE, TRUE))
  pairs <- function(p) {
    core("validity_failures")(data.frame(factor = c("f", "g"), verdict_reliability = "met", verdict_ave = "met",
      told_apart = "no", composite_reliability = .8), data.frame(factor = "f", with = "g", verdict = "met", verdict_r = "met", ave_excess = -.1,
      ave_excess_p = p), data.frame(), sw_limits())
  }
  expect_gt(NROW(pairs(.04)), NROW(pairs(.06)))
})

test_that("groups, matching scores and flags of bias and of careful people keep their rules", {
  survey <- of_five(400, 4, .7)
  answers <- survey$data
  group <- rep(c("a", "b"), 200)
  for (item in c("q1", "q2")) answers[[item]] <- pmin(pmax(answers[[item]] + ifelse(group == "a", 1, -1), 1), 5)
  # With two of four items out no three are left to match by: the search stops, and says so.
  biased <- sw_dif(sw_survey(cbind(answers, g = group), survey$codebook, group = "g"))
  expect_gt(sum(biased$tables$items$flagged), 1)
  expect_true("not_purified" %in% biased$noted$code)
  data <- cbind(of_five(60)$data, g = rep(c("a", "b", "c"), c(21, 20, 19)))
  expect_match(paste(sw_dif(sw_survey(data, of_five(60)$codebook, group = "g"))$notes, collapse = " "), "c \\(19\\)|\"c\"")
  # A question of a test with a right answer is flagged below .20, not below .30.
  flags <- function(high) {
    table <- data.frame(item = "q", n = 300, missing = 0, item_rest_r = .1, rest_high = high, looks_unreversed = FALSE, beside_unreversed = FALSE,
      half_against_half = FALSE, at_lowest = .4, at_highest = .6, sd = .5, mean = .6, difficulty = .6, unused = "", skewness = 0, kurtosis = 0)
    spec <- data.frame(item = "q", answer = "A", lowest = 0, highest = 1, options = "A B")
    core("flag_items")(table, spec, sw_limits())$what
  }
  expect_true(any(grepl("low item-rest r", flags(.19))))
  expect_false(any(grepl("low item-rest r", flags(.25))))
})
