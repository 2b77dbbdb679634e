# Verdicts as codes with their numbers, and their words.

test_that("a figure without an interval is met, between or missed, with the bound it was held against", {
  limits <- sw_limits(alpha = c(.7, .9))
  judged <- core("judge")(c(.75, .5, .95, .7, .9, NA), limits, "alpha")
  expect_equal(judged$code, c("between", "missed", "met", "between", "met", NA))
  expect_equal(unique(judged$bound), .7)
  expect_equal(unique(judged$better), .9)
  expect_equal(unique(judged$direction), "at_least")
  # The other way, and where the bound itself is too much.
  expect_equal(core("judge_code")(c(.04, .07, .08, .09), sw_limits(rmsea = c(.08, .05)), "rmsea"), c("met", "between", "between", "missed"))
  expect_equal(core("judge_code")(c(.05, .0499), sw_limits(), "bartlett_p"), c("missed", "met"))
  # A matrix stays one.
  expect_equal(core("meets")(matrix(c(.2, .5, NA, .4), 2), sw_limits(), "loading"), matrix(c(FALSE, TRUE, NA, TRUE), 2))
  # Each value by a figure of its own.
  expect_equal(core("judge_code")(c(.25, .25), sw_limits(), c("item_rest_r", "item_rest_r_keyed")), c("missed", "between"))
})

test_that("an interval that holds the bound is near; what cannot be tested says why, whatever its value", {
  limits <- sw_limits(alpha = c(.7, .9))
  expect_equal(core("judge_code")(c(.75, .65, .75, .65, .95, .92), limits, "alpha", c(.6, .6, .72, .5, .91, .88),
    c(.8, .75, .78, .69, .97, .95)), c("near", "near", "between", "missed", "met", "between"))
  expect_equal(core("judge_code")(.07, sw_limits(), "rmsea", .05, .09), "near")
  judged <- core("judge")(c(1, NA), limits, "alpha", reason = "no_df")
  expect_equal(judged$code, c("untested", "untested"))
  expect_equal(judged$reason, c("no_df", "no_df"))
})

test_that("a value that differs from its bound in the last digits only stands at it", {
  limits <- sw_limits()
  bound <- core("limit")(limits, "contradiction")$bound
  expect_true(core("meets")(bound + 3 * .Machine$double.eps, limits, "contradiction"))
  expect_false(core("meets")(bound + 1e-6, limits, "contradiction"))
  least <- core("limit")(limits, "alpha")$bound
  expect_true(all(core("meets")(least - c(0, 1e-15), limits, "alpha")))
  expect_false(core("meets")(least - 1e-6, limits, "alpha"))
  expect_identical(core("on_good_side")(c(.1 + .2, .3, NA), .3, "below"), c(FALSE, FALSE, NA))
})

test_that("words come from codes, by the limits in force and the language", {
  words <- function(code, figure, ...) core("verdict_words")(code, figure, ...)
  limits <- sw_limits(alpha = c(.7, .9))
  expect_equal(words(c("met", "between", "near", "missed", NA), "alpha", limits = limits),
    c("meets \u2265 .90", "meets \u2265 .70", "about .70", "below .70", ""))
  expect_equal(words(c("met", "between", "missed"), "rmsea", limits = sw_limits(rmsea = c(.08, .05))),
    c("meets \u2264 .05", "meets \u2264 .08", "above .08"))
  expect_equal(words(c("met", "missed"), "bartlett_p"), c("meets < .05", "not below .05"))
  expect_equal(words("untested", "cfi", "no_df"), "cannot be tested: df 0")
  expect_equal(words("untested", "cfi", "improper"), "cannot be tested")
  expect_equal(words(c("met", "near", "missed", "untested", "untested"), "step", c("in_part", "", "", "not_usable", "before"), "x is negative"),
    c("holds in part", "open: the figures move but the test sees no difference", "does not hold", "not to be used: x is negative",
      "not tested: x is negative"))
  expect_equal(words(c("met", "between", "missed"), "alpha", limits = limits, said = core("report_words")("de")$verdicts),
    c("erf\u00fcllt \u2265 .90", "erf\u00fcllt \u2265 .70", "unter .70"))
  # Every code has words in English and German, and every language has a file.
  verdicts <- core("words_of_language")("en")$.verdicts
  expect_true(all(nzchar(unlist(verdicts))))
  expect_setequal(names(core("report_words")("de")$verdicts), names(verdicts))
  for (language in core("option_choices")("report", "language")) expect_true(length(core("report_words")(language)$sections) > 5)
})

test_that("verdicts of a result are ranked: what is missed by most comes first", {
  draft <- sw_reliability(sw_demo("plotholders", codebook = "draft"))
  verdicts <- tidy(draft, "verdicts")
  expect_equal(sort(verdicts$rank), seq_len(nrow(verdicts)))
  expect_equal(verdicts$code[verdicts$rank == 1], "missed")
  items <- tidy(draft, "items")
  expect_equal(verdicts$name[verdicts$rank == 1], items$item[which.min(items$item_rest_r)])
  missed <- verdicts[verdicts$code == "missed", ]
  expect_true(all(missed$value < missed$bound))
  expect_true(all(missed$rank <= nrow(missed)))
  # People, programs and the table that prints read the same.
  rows <- verdicts[verdicts$where == "item", ]
  expect_equal(rows$code, items$verdict[match(rows$name, items$item)])
  held <- sw_confirm(sw_demo("plotholders"))
  for (x in list(held, sw_factorability(sw_demo("plotholders")), sw_validity(held, replicates = 0), sw_explore(sw_demo("plotholders"), 3))) {
    expect_named(tidy(x, "verdicts"), c("where", "name", "figure", "value", "low", "high", "bound", "direction", "source", "code", "reason", "rank"))
    expect_true(all(tidy(x, "verdicts")$code %in% c("met", "near", "between", "missed", "untested")))
    expect_true(all(tidy(x, "verdicts")$figure %in% sw_limits()$figure))
  }
})

test_that("screening, keying, bias, options and people have verdicts that say what their flags say", {
  draft <- sw_demo("plotholders", codebook = "draft")
  quiz <- sw_demo("plantcare")
  results <- list(screen = sw_screen(draft), keying = sw_keying(draft), dif = sw_dif(draft, by = "district"), options = sw_option_curves(quiz),
    answering = sw_answering(draft), stability = sw_stability(draft, 4, halves = 5, by = "district"))
  missed <- lapply(results, function(x) {
    of <- tidy(x, "verdicts")
    expect_true(all(of$figure %in% sw_limits()$figure))
    expect_equal(sort(of$rank), seq_len(nrow(of)))
    of[of$code == "missed", ]
  })
  expect_equal(missed$keying$name, with(tidy(results$keying, "items"), item[agrees == "no"]))
  expect_lt(missed$keying$high, 0)
  expect_equal(missed$dif$name, with(tidy(results$dif), item[flagged]))
  expect_setequal(missed$options$name, with(tidy(results$options, "flags"), paste(item, option)))
  flags <- tidy(results$screen, "flags")
  expect_setequal(missed$screen$name[missed$screen$figure == "item_rest_r"], flags$item[flags$what %in% c("looks unreversed", "low item-rest r")])
  # kin3 stands the wrong way round: what the others of its subscale show waits for it.
  waiting <- subset(tidy(results$screen, "verdicts"), reason == "keying")
  expect_setequal(waiting$name, paste0("kin", c(1, 2, 4, 5)))
  cases <- tidy(results$answering, "cases")
  expect_setequal(missed$answering$name, paste(cases$id, cases$wave)[cases$counted])
  expect_equal(nrow(missed$answering), sum(cases$flagged[cases$counted]))
  groups <- subset(tidy(results$stability, "verdicts"), where == "group")
  expect_equal(groups$low, tidy(results$stability, "groups")$conf.low[match(groups$value, tidy(results$stability, "groups")$congruence)])
})

test_that("printed, a table of verdicts shows its codes; codes beside words stay out of print", {
  verdicts <- core("readable")(tidy(sw_factorability(sw_demo("plotholders")), "verdicts"))
  expect_true("code" %in% names(verdicts))
  expect_match(core("format_table")(verdicts), "verdict", all = FALSE)
  table <- tidy(sw_confirm(sw_demo("plotholders")), "modifications")
  expect_true("reading_code" %in% names(table))
  expect_false("reading_code" %in% names(core("readable")(table)))
})

test_that("a fit that may not be believed is untested, with the reason", {
  set.seed(8)
  x <- matrix(rnorm(60 * 4), 60, dimnames = list(NULL, letters[1:4]))
  fit <- suppressWarnings(sw_confirm(sw_moments(x), sw_structure(one = c("a", "b"), two = c("c", "d"))))
  skip_if(fit$about$status == "ok", "this sample has a proper solution")
  verdicts <- tidy(fit, "verdicts")
  expect_true(all(verdicts$code == "untested"))
  expect_true(all(verdicts$reason %in% c("improper", "not_converged")))
  expect_true(all(is.na(tidy(fit)$verdict)))
})
