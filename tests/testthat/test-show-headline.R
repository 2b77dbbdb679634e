# Each state of each headline, from codes alone: made-up results that hold just what the headline reads.

made <- function(class, tables, options = list(), parts = list(), status = "ok", n = 100) {
  structure(list(tables = lapply(tables, tibble::as_tibble), about = list(n = n, status = status, options = options), parts = parts,
    limits = sw_limits()), class = c(class, "sw_result"))
}
changed <- function(table, ...) {
  new <- list(...)
  for (name in names(new)) table[[name]] <- rep_len(new[[name]], nrow(table))
  table
}
says <- function(x) paste(headline_of(x), collapse = "")

test_that("screening: nothing flagged, something flagged, keying first", {
  flags <- data.frame(item = c("a", "a", "b"), what = c("hard", "missing often", "hard"))
  items <- data.frame(item = letters[1:5])
  of <- function(flags, notes = character()) {
    x <- made("sw_screening", list(flags = flags, items = items))
    x$noted <- core("note_table")(notes)
    says(x)
  }
  expect_equal(of(flags[0, ]), "5 items screened, none flagged.")
  expect_equal(of(flags), "5 items screened, 2 flagged: a (hard and missing often) and b (hard).")
  expect_match(of(changed(flags, what = c("hard", "skewed", "looks unreversed"))), "^Check the keying first: b looks unreversed. 5 items")
  expect_match(of(flags[0, ], core("note")("half", "w", "s")),
    "^Check the keying first: half of s points against the other half. 5 items screened, none")
})

test_that("keying: nothing shown, against the codebook, half against half, too few people, unclear", {
  items <- data.frame(item = letters[1:3], scale = "s", agrees = c("yes", "yes", "yes"))
  of <- function(agrees) says(made("sw_keying", list(items = changed(items, agrees = agrees))))
  expect_equal(of("yes"), "No item is shown to point against the codebook.")
  expect_equal(of(c("yes", "no", "yes")), "1 item points against the codebook: b in s.")
  expect_equal(of(c("no", "no", "unclear")), "2 items point against the codebook: a in s and b in s. 1 points nowhere (c).")
  expect_equal(of(c("half", "half", "yes")),
    "Half of s points one way and half the other: which half is turned cannot be said from the answers.")
  expect_equal(of(c("suspect", "yes", "yes")), "No item is shown to point against the codebook. 1 looks turned, with too few people to say.")
})

test_that("option curves: key wrong, drawing, nothing, nothing to judge", {
  curves <- data.frame(item = c("a", "b"), right = TRUE)
  of <- function(code, right = TRUE) {
    flags <- data.frame(item = rep("a", length(code)), what_code = code)
    says(made("sw_option_curves", list(flags = flags, curves = changed(curves, right = right)), list(bands = 3)))
  }
  expect_equal(of("key_looks_wrong"), "The key looks wrong: a. 2 items in 3 score bands.")
  expect_equal(of("draws_strongest"), "A wrong option draws the strongest: a. 2 items in 3 score bands.")
  expect_equal(of(character()), "No option is flagged. 2 items in 3 score bands.")
  expect_match(of(character(), NA), "shown, not judged: no item has a right answer")
})

test_that("groups: none, one, several items that work differently; careless cases: none, some", {
  of <- function(flagged, power = .9, kind = "uniform") {
    says(made("sw_dif", list(items = data.frame(item = letters[1:3], flagged = flagged, class = "C", power = power, bias_kind = kind,
      less_in = "south")), list(by = "area")))
  }
  expect_equal(of(FALSE), "None of 3 items works differently by area.")
  expect_match(of(FALSE, .4), "^None of 3 items is seen to work differently by area, but a large difference would be seen with a .* of .40 only")
  expect_equal(of(c(TRUE, FALSE, NA)), "1 of 3 items works differently by area: a (class C).")
  expect_equal(of(c(TRUE, TRUE, FALSE), kind = c("nonuniform", "both", "")),
    "2 of 3 items work differently by area: a (separates people less in \"south\") and b (class C, and separates people less in \"south\").")
  of <- function(straight = 0, rows = straight, off = 0) {
    says(made("sw_answering", list(), list(at_least = 2), list(flags = matrix(FALSE, 10, 2), flagged_rows = seq_len(rows),
      straight = seq_len(10) <= straight, broke_off = seq_len(10) <= off)))
  }
  expect_equal(of(), "None of 10 cases looks careless.")
  expect_equal(of(2), "Of 10 cases, 2 answer in straight lines.")
  expect_equal(of(1, 3, 1), "Of 10 cases, 1 answers in straight lines, 2 have 2 flags or more and 1 broke off.")
})

test_that("reliability: known, unreversed, half against half, cancelling, a core, not to be had", {
  scales <- data.frame(scale = c("s", "t"), alpha = c(.8, .7), coefficient = "alpha", looks_unreversed = c("", ""))
  of <- function(..., notes = character()) {
    x <- made("sw_reliability", list(scales = changed(scales, ...)))
    x$noted <- core("note_table")(notes)
    says(x)
  }
  note <- core("note")
  expect_equal(of(notes = note("half", "w", "s")), "Check the keying first: half of s points against the other half. Alpha of the others: t .700.")
  expect_equal(of(alpha = c(-.2, .7)), "Items of s cancel each other: there is no alpha to report. Alpha of the others: t .700.")
  expect_equal(of(notes = note("core", "w", c("a", "b", "c"), alpha = .75, scale = "s", items_of = 5L)),
    "Only 3 of 5 items of s hang together (alpha .750). Alpha: s .800 and t .700.")
  expect_equal(of(), "Alpha: s .800 and t .700.")
  expect_equal(of(looks_unreversed = c("a", "")), "Check the keying first: a in s looks unreversed. Alpha of the others: t .700.")
  expect_match(of(looks_unreversed = c("a b", "")), "^Check the keying first: a and b in s look unreversed.")
  expect_equal(of(alpha = NA_real_), "Alpha could not be computed for any subscale.")
  expect_match(of(coefficient = "KR-20"), "^KR-20: ")
})

test_that("factorability and the number of factors", {
  overall <- data.frame(figure = c("sampling_adequacy", "sphericity", "condition"), value = c(.85, 300, 20), df = c(NA, 10, NA),
    p.value = c(NA, .0001, NA), verdict = c("met", "met", "met"))
  of <- function(verdict) {
    table <- core("judged_table")(changed(overall, verdict = verdict), verdict = core("factorability_rules"), by = "figure")
    attr(table, "limits") <- sw_limits()
    says(made("sw_factorability", list(overall = table)))
  }
  expect_equal(of("met"), "The items can be factored. Sampling adequacy .850 (meets \u2265 .80); sphericity chi-square 300.00 on 10 df, p < .001.")
  expect_match(of(c("missed", "met", "missed")), "^Look first at sampling adequacy and condition. Sampling adequacy .850 \\(below .60\\)")
  of <- function(first, second = NA, known = NA, said = rep(first, 2)) {
    says(made("sw_retention", list(rules = data.frame()), parts = list(agreement = list(first = first, second = second, known = known, said = said,
      after = rep(first, 2)))))
  }
  expect_equal(of(3), "3 factors: the two rules that decide agree.")
  expect_equal(of(4, known = 4, said = c(5, 4)), paste("4 factors: the two rules that decide say 5 and 4, of which 4 stand (a pair of items or a",
    "single one is no factor), as many as the codebook has subscales."))
  expect_equal(of(3, known = 3), "3 factors: the two rules that decide agree, as many as the codebook has subscales.")
  expect_equal(of(3, known = 4), "3 factors: the two rules that decide agree; it is 4 in the codebook.")
  expect_equal(of(1, 2), "1 factor, or 2: the two rules that decide differ. Look at both solutions before choosing.")
  expect_match(of(0), "share nothing that chance would not")
})

test_that("explorations: how much, what is worst, the test; not usable; solutions; stability", {
  items <- data.frame(item = c("i1", "i2"), place = "clear", loading = c(.7, .3), width = .05)
  of <- function(factors = 3, chi = 50, status = "ok", extraction = "ml", place = "clear", width = .05, notes = character()) {
    fit <- data.frame(chi_square = chi, df = 30, p.value = .02, corrected = chi - 2, corrected_p = .03, rmsea = .04, srmr = .05)
    x <- made("sw_exploration", list(fit = fit, variance = data.frame(share_of_total = c(.3, .1)), items = changed(items, place = place,
      width = width)),
      list(factors = factors, extraction = extraction, rotation = "oblimin"), status = status)
    x$noted <- core("note_table")(notes)
    says(x)
  }
  expect_equal(of(), paste("3 factors (maximum likelihood, oblimin rotation) explain 40% of the items' variance. Chi-square 48.00 on 30 df,",
    "p = .030, both corrected for n, RMSEA .040."))
  expect_match(of(1), "^1 factor .* explains 40%")
  expect_match(of(chi = NA, extraction = "pca"), "^3 components .* SRMR .050.$")
  expect_equal(of(status = "not_converged"), "These loadings may not be used: the computation did not converge.")
  expect_match(of(place = c("clear", "nowhere")), "variance; i2 loads nowhere. Chi")
  # An interval that reaches the bound is no finding.
  expect_match(of(place = c("clear", "nowhere"), width = .2), "variance. Chi")
  expect_match(of(place = c("crosses", "clear")), "; i1 loads on two factors. Chi")
  note <- core("note")
  expect_match(of(notes = note("thin_factor", "w", "F3")), "; fewer than three items load on F3. Chi")
  expect_match(of(place = "crosses", notes = c(note("uniqueness_at_bound", "w", "i1"), note("thin_factor", "w", "F3"))),
    "; i1 has no variance of its own: an improper solution and fewer than three items load on F3. Chi")
  expect_match(says(made("sw_solutions", list(comparison = data.frame(factors = 2:4)))), "^Explorations with 2, 3 and 4 factors.")
  of <- function(verdict, congruence = .9) {
    says(made("sw_stability", list(factors = data.frame(factor = paste0("F", seq_along(verdict)), congruence = congruence, congruence_expected = .95,
      verdict = verdict, verdict_reason = ""))))
  }
  expect_equal(of("met"), "F1 comes back in halves of 50 people (lowest mean congruence .90; .95 to be expected).")
  expect_match(of(c("met", "between")), "^Both factors come back in halves of 50")
  expect_match(of(c("met", "near", "missed")), "^F1 comes back, F2 comes back in some halves and not in others and F3 does not come back in halves")
  expect_match(says(made("sw_stability", list(factors = data.frame(factor = "F1", congruence = .9, congruence_expected = .95, verdict = "untested",
    verdict_reason = "few_solutions")))), "^Nothing can be said: most halves of 50 people gave no solution.$")
  expect_match(of(c("untested", "untested")), "^Of F1 and F2 nothing can be said in halves of 50")
})

test_that("a confirmation says whether it fits, then the worst item, pair of factors or reading", {
  fit <- data.frame(figure = c("chi_square", "cfi", "tli", "rmsea", "srmr"), value = c(20, .95, .94, .06, .04), p.value = c(.01, NA, NA, NA, NA),
    corrected = c(19, .95, .94, .06, .03), corrected_p = c(.02, NA, NA, NA, NA), conf.low = c(NA, .90, .88, .02, .01),
    conf.high = c(NA, .99, .98, .10, .05), verdict = "met", verdict_reason = "")
  figures <- list(chi_square = 20, df = 8, cfi = .95, rmsea = .06, srmr = .04)
  loadings <- data.frame(factor = "s", item = c("s1", "s2"), standardised = c(.7, .02), verdict = "met")
  links <- data.frame(factor = "s", with = "t", correlation = .94, conf.low = .88, conf.high = 1, verdict = "met")
  of <- function(verdict = "met", more = list(), status = "ok", reason = "", item = "met", pair = "met", readings = NULL) {
    says(made("sw_confirmation", c(list(fit = changed(fit, verdict = verdict, verdict_reason = reason), loadings = changed(loadings, verdict = item),
      factor_correlations = changed(links, verdict = pair)), if (!is.null(readings)) list(readings = readings)),
    parts = list(figures = utils::modifyList(figures, more)), status = status))
  }
  expect_equal(of(), "The structure fits. Chi-square 19.00 on 8 df, p = .020, both corrected for n; CFI .950, RMSEA .060, SRMR .040.")
  exact <- function(...) c("missed", ...)
  expect_match(of(exact("met", "met", "met", "met")), "^The structure fits by the usual bounds, though not exactly. Chi")
  expect_match(of(c("met", "near", "met", "met", "met")),
    "^Nothing speaks against the structure, but 100 cases cannot show that it fits: CFI is .90 to .99. Chi")
  expect_match(of(exact("near", "met", "met", "met")), "^The structure does not fit exactly, and whether it fits well enough stays open: CFI is .90")
  expect_match(of(exact("met", "missed", "missed", "met")), "^The structure does not fit: RMSEA is .02 to .10, too high. Chi")
  expect_match(of("untested", list(df = 0)), "^Its fit cannot be tested: .* Chi-square 20.00 on 0 df.$")
  expect_match(of(c("met", "untested", "untested", "met", "met"), reason = "no_baseline"), "^Its fit cannot be judged: the items hardly correlate.")
  expect_equal(of(NA, status = "improper"), "This solution is improper: no data could have these estimates, so its fit is not judged.")
  expect_equal(of(NA, status = "not_converged"), "This fit may not be used: the computation did not converge.")
  # What is worst.
  expect_match(of(item = c("met", "missed")), "^The structure fits, but s2 does not belong to s \\(loading .02\\). Chi")
  expect_match(of(pair = "missed", item = c("met", "missed")),
    "^The structure fits, but s and t can hardly be told apart \\(r .94 \\[.88, 1.00\\]\\) and s2 does not belong to s")
  expect_match(of(item = "missed"), "but 2 items do not belong where they stand: s2 in s \\(loading .02\\) and s1 in s")
  reading <- function(reading, name, gain = 20) {
    of(exact("met", "met", "met", "met"), readings = data.frame(reading = reading, name = name, gain = gain))
  }
  expect_match(reading("pair", "s1 and s2"), "not exactly; s1 and s2 share something besides their factors. Chi")
  expect_match(reading("apart", "s1 and s2"), "s1 and s2 have less in common than the structure says")
  expect_match(reading("loading", "s1 and t"), "s1 belongs to t too")
  expect_match(reading("scales", "s, t"), "the codebook's subscales s and t do not make one factor")
  expect_match(reading("split", "s: s1 s2 | s3 s4"), "s holds two factors \\(s1 s2 / s3 s4\\)")
  expect_match(reading("wording", "s1 s2"), "the reversed items share their wording")
  expect_match(reading("move", "s1 and t"), "s1 belongs to t. Chi")
  expect_match(reading("merge", "s and t"), "s and t cannot be told apart")
  # Two that BIC cannot tell apart are both named; a far one is not.
  expect_match(reading(c("pair", "loading"), c("s1 and s2", "s1 and t"), c(20, 17)), "their factors, or s1 belongs to t too. Chi")
  expect_false(grepl("belongs", reading(c("pair", "loading"), c("s1 and s2", "s1 and t"), c(20, 15))))
  scaled <- rbind(fit, changed(fit[1, ], figure = "chi_square_scaled", value = 16.67))
  x <- made("sw_confirmation", list(fit = scaled, loadings = loadings, factor_correlations = links),
    parts = list(figures = c(figures, scale = 1.2, chi_square_scaled = 16.67)))
  expect_match(says(x), "Scaled chi-square 19.00 on 8 df, p = .020, both corrected for n")
  x$parts$figures$shift <- .5
  expect_match(says(x), "Adjusted chi-square 19.00")
})

test_that("what cannot be tested says why in print, too", {
  one <- format(sw_confirm(sw_demo("plotholders"), sw_structure(a = c("kin1", "kin2", "kin4"))))
  expect_equal(sum(grepl("cannot be tested: df 0$", one)), 5)
})

test_that("bounds: what is told apart, and how this fit stands", {
  bounds <- data.frame(level = 1, left_out = "one pair left out", figure = c("cfi", "rmsea"), bound_here = c(.97, .04), value = c(.98, .05),
    verdict = c("met", "missed"))
  sure <- data.frame(with_confidence = c(.08, .9))
  of <- function(...) says(made("sw_bounds", list(bounds = changed(bounds, ...), equivalence = sure)))
  expect_equal(of(), paste("For this structure and 100 cases the bounds against one pair left out are CFI above .970 and RMSEA below .040; here CFI",
    ".980 and RMSEA .050: RMSEA is as where it is wrong. With 95% confidence RMSEA is at most .080 and CFI at least .900."))
  expect_match(of(verdict = "met"), "here CFI .980 and RMSEA .050: as where it is true.")
  expect_match(of(verdict = "untested"), "^With 100 cases no figure tells a true structure from one with one pair left out: fit indices say little")
})

test_that("invariance: does it fit at all, what holds, stays open, fails, is not tested; means by group", {
  of <- function(verdict, why = "", ground = "met", means = NULL, more = NULL, by = "area") {
    steps <- data.frame(step = c("configural", "metric", "scalar"), verdict = c(ground, verdict), why = c("ground", rep_len(why, 2)), cfi = .9,
      rmsea = .1)
    groups <- data.frame(group = c("north", "south"), n = c(60, 40))
    says(made("sw_invariance", c(list(steps = steps, groups = groups), if (!is.null(means)) list(means = means), more), list(by = by, occasions = 2)))
  }
  expect_equal(of(c("met", "met")), "Equal loadings and equal intercepts hold over 2 groups.")
  expect_equal(of(c("met", "met"), c("", "in_part")), "Equal loadings and equal intercepts in part hold over 2 groups.")
  expect_equal(of(c("met", "missed")), "Equal loadings hold over 2 groups; equal intercepts do not hold.")
  expect_equal(of(c("met", "near")), "Equal loadings hold over 2 groups; equal intercepts stay open.")
  expect_equal(of(c("missed", "untested"), c("", "before")),
    "Nothing is shown to be equal over 2 groups; equal loadings do not hold (not tested then: equal intercepts).")
  expect_match(of(c("met", "met"), ground = "near"), "^Whether the structure fits is open; if it does, equal loadings")
  expect_match(of(c("untested", "untested"), "before", "missed"),
    "^The structure does not fit over 2 groups even with nothing equal .* no step is judged")
  culprit <- data.frame(item = "s1", kind = "intercept", occasion = "south", difference = .5, p_adjusted = .001)
  expect_match(of(c("met", "missed"), more = list(named = culprit)), "The first to look at is s1 \\(intercept, \"south\"\\).$")
  expect_false(grepl("first to look", of(c("met", "missed"))))
  means <- data.frame(factor = "s", occasion = "south", against = "north", effect = c(-.5), p.value = .001)
  expect_match(of(c("met", "met"), means = means), "Latent means against \"north\" \\(n = 60\\): s of \"south\" \\(n = 40\\) lower by .50 sd.$")
  expect_match(of(c("met", "met"), means = changed(means, p.value = .4)), "No latent mean is seen to differ from that of \"north\"")
  unusable <- made("sw_invariance", list(steps = data.frame(step = "configural", verdict = "untested", why = "not_usable")))
  expect_equal(says(unusable), "The structure could not be fitted to all occasions: nothing can be compared.")
})

test_that("validity: told apart or not first, then whether items belong together", {
  pair <- data.frame(factor = "s", with = "t", correlation = .5, htmt = .52, verdict = "met", verdict_r = "met")
  factors <- data.frame(factor = c("s", "t"), verdict_reliability = "met", verdict_ave = "met")
  of <- function(htmt = "met", r = "met", ave = "met", reliability = "met", pairs = pair) {
    says(made("sw_validity", list(pairs = changed(pairs, verdict = htmt, verdict_r = r), factors = changed(factors, verdict_ave = ave,
      verdict_reliability = reliability))))
  }
  expect_equal(of(), "All factors can be told apart (largest HTMT .52, s and t). Every factor's items belong together, by the usual bounds.")
  expect_match(of("missed"), "^Not told apart: s and t \\(r .50, HTMT .52\\).")
  expect_match(of(r = "missed"), "^Not told apart: s and t")
  expect_match(of("near"), "^Whether these can be told apart stays open: s and t")
  expect_match(of(ave = c("missed", "met")), "Items of s hold more error than they share \\(AVE below .50\\).$")
  expect_match(of(ave = c("near", "met")), "Whether the items of s share enough stays open.$")
  expect_match(of(reliability = c("met", "missed")), "Composite reliability is too low for t.$")
  expect_match(says(made("sw_validity", list(pairs = pair[0, ], factors = factors[1, ]))), "^The items of the one factor belong together")
})

test_that("composites: every bound met, some missed", {
  of <- function(ave, htmt) {
    pairs <- data.frame(composite = "s", with = "t", verdict = htmt)
    says(made("sw_composites", list(composites = data.frame(composite = c("s", "t"), verdict_ave = ave), correlations = pairs), list(iterations = 4)))
  }
  expect_equal(of("met", "met"), "Every composite reaches the bound of AVE. All can be told apart by HTMT. 2 composites, weights found in 4 steps.")
  expect_match(of(c("missed", "met"), "missed"), "^AVE is below its bound for s. Hard to tell apart: s and t.")
  expect_match(of(c(NA, "met"), "met"), "^All can be told apart by HTMT.")
})

test_that("rivals, influence, power, scores", {
  models <- data.frame(model = c("one", "two"), bic = c(120, 100))
  of <- function(code, misfit = FALSE, bic = models$bic, best = "two", rival = "one") {
    says(made("sw_comparison", list(models = changed(models, bic = bic)), parts = list(decision = list(best = best, rival = rival, code = code,
      misfit = misfit))))
  }
  expect_equal(of("better"), "\"two\" describes the answers better than \"one\" (BIC 100.0 against 120.0).")
  expect_match(of("better", TRUE), "None of them fits: the better one is not yet a good one.$")
  expect_match(of("open"), "^The answers do not decide between \"two\" and \"one\": BIC leans to \"two\" .* the test does not follow.$")
  expect_match(of("open", bic = NA), ": the test does not tell them apart.$")
  # Where the two have no test, none is said to disagree.
  expect_match(of("no_test"), "^BIC is lower for \"two\" than for \"one\" .*the test of their difference does not exist here[.]$")
  expect_match(of("no_test", bic = NA), "cannot be tested here[.]$")
  expect_match(of("untested", best = NA_character_, rival = NA_character_), "^No comparison can be made: no structure may be believed.$")
  without <- data.frame(without = c(0, 2), cfi = c(.9, .95), rmsea = c(.08, .05), largest_change = c(0, .1))
  expect_match(says(made("sw_influence", list(cases = data.frame(case = "P1", cook = .5), without = without))),
    "^Case P1 moves the estimates most .* CFI goes from .900 to .950, RMSEA from .080 to .050, and no loading changes by more than .10.$")
  needed <- data.frame(test = c("close fit", "exact fit"), needed = c(200, NA))
  expect_match(says(made("sw_power", list(needed = needed), list(df = 20, power = .8))),
    "200 cases for the test of close fit and more than a million")
  parameter <- data.frame(n = c(100, 200), power = c(.5, .9))
  of <- function(power) says(made("sw_power", list(parameter = parameter), list(parameter = "a on s", true = .3, power = power)))
  expect_match(of(.8), "is seen with power .80 from n = 200 on.$")
  expect_match(of(.95), "by none of these numbers of cases; with n = 200 it is .90.$")
  scales <- data.frame(score = c("s_mean", "t_mean"), reliability = NA_real_)
  expect_equal(says(made("sw_scores", list(scales = scales))), "2 scores for 100 cases, of unknown reliability.")
  known <- replace(scales, "reliability", list(c(.75, .82)))
  of <- function(codes, ...) says(made("sw_scores", list(scales = known, verdicts = data.frame(name = known$score, code = codes)), ...))
  expect_match(of(c("met", "met")), "reliability .750 \\(s_mean\\) to .820 \\(t_mean\\): enough to say something of one person, too")
  expect_match(of(c("met", "between")), "enough to compare groups \\(.70\\), of one person only with its interval")
  expect_match(of(c("near", "between")), "whether s_mean reaches .70, enough to compare groups, stays open.$")
  expect_match(of(c("near", "missed")), "t_mean stays below .70, too little")
  expect_match(of("met", parts = list(unlike = list(beyond = "x1", against = c("a", "b"), mixed = "s"))),
    "^Not scored as confirmed: the scores count x1, .*; a and b count the other way .*; s joins .*`scores: \\{as: confirmed\\}` .* 2 scores for")
  expect_match(says(made("sw_scores", list(scales = scales), parts = list(people = list(people = 60)))), "for 60 people in 100 rows")
  rates <- data.frame(score = "s_mean", wave = "2", n = 100, beyond = c(7, 30), by_error = 5, p.value = c(.2, 0), more = c("no", "yes"))
  of <- function(rows) says(made("sw_scores", list(scales = scales, rates = rates[rows, ])))
  expect_match(of(1), "7 of 100 changes lie beyond error, no more than error alone may give \\(about 5\\).$")
  expect_match(of(1:2), "in 1 of 2, first in s_mean, wave 2: 30 of 100 \\(error alone: about 5\\).$")
})
