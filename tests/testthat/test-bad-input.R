# For each verb: an empty table, one column, one row, a constant item, all
# missing, text, unknown items, another codebook. Every answer is defined.

book_for <- function(items, scale = "s") data.frame(item = items, scale = scale, lowest = 1, highest = 5)
survey_of <- function(data, ...) sw_survey(data, book_for(names(data), ...))
five <- function(n = 40, seed = 3) {
  set.seed(seed)
  as.data.frame(matrix(sample(5, 5 * n, TRUE), n, dimnames = list(NULL, letters[1:5])))
}
everywhere <- list(
  sw_screen = sw_screen, sw_reliability = sw_reliability, sw_retention = sw_retention,
  sw_explore = function(x) sw_explore(x, factors = 1), sw_confirm = sw_confirm, sw_score = sw_score, sw_split = sw_split
)

test_that("an empty table is refused at the door", {
  expect_error(sw_survey(data.frame(), book_for("a")), "no rows", class = "scalewort_error_input")
  expect_error(sw_survey(data.frame(a = numeric()), book_for("a")), "no rows", class = "scalewort_error_input")
  expect_error(sw_survey(five()[, 0], book_for("a")), class = "scalewort_error_input")
  expect_error(sw_survey("a", book_for("a")), class = "scalewort_error_input")
  expect_error(sw_codebook(data.frame()), class = "scalewort_error_codebook")
  expect_error(sw_codebook(data.frame(name = "a")), "no column `item`", class = "scalewort_error_codebook")
})

test_that("what is no survey is refused with its kind named", {
  for (verb in everywhere) {
    expect_error(verb(letters), "character of length 26", class = "scalewort_error_input")
    expect_error(verb(NULL), class = "scalewort_error_input")
  }
  expect_error(sw_log(five()), class = "scalewort_error_input")
})

test_that("one column gives no alpha and no factors, but a screening and a score", {
  one <- survey_of(five()["a"])
  expect_true(is.na(tidy(sw_reliability(one))$alpha))
  expect_match(sw_reliability(one)$notes, "No alpha for a single item", all = FALSE)
  expect_error(sw_retention(one), "1 item", class = "scalewort_error_input")
  expect_error(sw_explore(one, 1), class = "scalewort_error_input")
  expect_error(sw_confirm(one), class = "scalewort_error_structure")
  expect_equal(nrow(tidy(sw_screen(one))), 1)
  expect_match(sw_score(one)$notes, "single item", all = FALSE)
})

test_that("one row gives no coefficient", {
  row <- survey_of(five()[1, ])
  expect_true(is.na(tidy(sw_reliability(row))$alpha))
  expect_true(is.na(tidy(sw_screen(row))$sd[1]))
  expect_error(sw_retention(row), class = "scalewort_error_numeric")
  expect_error(sw_confirm(row), class = "scalewort_error_numeric")
  expect_error(sw_split(row), class = "scalewort_error_input")
  expect_equal(tidy(sw_score(row))$n, 1)
})

test_that("a constant item is named", {
  data <- five()
  data$c <- 3
  survey <- survey_of(data)
  expect_match(tidy(sw_screen(survey), "flags")$what, "everyone answers the same", all = FALSE)
  expect_match(sw_reliability(survey)$notes, "Everyone answers the same: c", all = FALSE)
  expect_false(is.na(tidy(sw_reliability(survey))$alpha))
  for (verb in everywhere[c("sw_retention", "sw_explore", "sw_confirm")]) {
    expect_error(verb(survey), "c: every case used gives the same answer", class = "scalewort_error_numeric")
  }
})

test_that("an item that nobody answered is named", {
  data <- five()
  data$d <- NA
  survey <- survey_of(data)
  expect_match(tidy(sw_screen(survey), "flags")$what, "no answers", all = FALSE)
  expect_true(is.na(tidy(sw_reliability(survey))$alpha))
  expect_error(sw_retention(survey), "no answers at all: d", class = "scalewort_error_numeric")
  expect_equal(tidy(sw_score(survey))$n, 40)
  everything <- survey_of(replace(data, TRUE, NA))
  expect_true(is.na(tidy(sw_reliability(everything))$alpha))
  expect_equal(tidy(sw_score(everything))$n, 0)
  expect_equal(nrow(tidy(sw_screen(everything))), 5)
})

test_that("duplicated items and fewer cases than items make no factors", {
  data <- five()
  data$e <- data$a
  survey <- survey_of(data)
  expect_error(sw_explore(survey, 1), "a and e correlate perfectly", class = "scalewort_error_numeric")
  expect_error(sw_confirm(survey), "a and e correlate perfectly", class = "scalewort_error_numeric")
  expect_false(is.na(tidy(sw_reliability(survey))$alpha))
  few <- survey_of(five()[1:4, ])
  expect_error(sw_retention(few), "only 4 cases for 5 items", class = "scalewort_error_numeric")
})

test_that("codebooks without subscales score nothing", {
  none <- survey_of(five(), scale = "")
  expect_error(sw_reliability(none), "subscale", class = "scalewort_error_input")
  expect_error(sw_score(none), "subscale", class = "scalewort_error_input")
  expect_error(sw_confirm(none), class = "scalewort_error_structure")
  expect_equal(nrow(tidy(sw_screen(none))), 5)
})

test_that("wrong arguments are named with what they may be", {
  survey <- survey_of(five())
  expect_error(sw_explore(survey), "`factors`", class = "scalewort_error_input")
  expect_error(sw_explore(survey, factors = 3), "from 1 to 2", class = "scalewort_error_input")
  expect_error(sw_score(survey, method = c("mean", "regression")), "need the factors", class = "scalewort_error_input")
  # No empty hints.
  nobody <- tryCatch(sw_explain(sw_score(sw_demo("plotholders")), "nobody"), error = conditionMessage)
  expect_false(grepl("\u2139", nobody))
  hint <- core("did_you_mean")
  expect_equal(hint("--rotate", c("--rotation", "--factors")), " (did you mean \"--rotation\"?)")
  expect_equal(hint("--rot", c("--rotation", "--factors")), "")
  expect_equal(hint("composition", c("composites", "compare")), " (did you mean \"composites\"?)")
  expect_equal(hint("interval", c("intervals_low", "intervals_high")), "")
  expect_error(sw_explore(survey, 1, rotation = "promx"), "did you mean \"promax\"", class = "scalewort_error_input")
  expect_error(sw_explore(survey, 2, names = "one"), "2 different names", class = "scalewort_error_input")
  expect_error(sw_retention(survey, items = "z"), class = "scalewort_error_input")
  expect_error(sw_retention(survey, seed = -1), class = "scalewort_error_input")
  expect_error(sw_reliability(survey, level = 95), "from 0.5 to 0.999", class = "scalewort_error_input")
  expect_error(sw_reliability(survey, limits = list()), class = "scalewort_error_input")
  expect_error(sw_score(survey, "median"), class = "scalewort_error_input")
  expect_error(sw_score(survey, at_least = 2), class = "scalewort_error_input")
  expect_error(sw_demo("gardens"), class = "scalewort_error_input")
  expect_error(tidy(sw_screen(survey), "rows"), class = "scalewort_error_input")
})

test_that("structures that cannot be fitted say why", {
  survey <- survey_of(five(200))
  expect_error(sw_structure(), class = "scalewort_error_structure")
  expect_error(sw_structure(c("a", "b")), class = "scalewort_error_structure")
  expect_error(sw_structure(f = c("a", "a")), "names an item twice", class = "scalewort_error_structure")
  expect_error(sw_confirm(survey, sw_structure(f = c("a", "b", "zz"))), "\"zz\"", class = "scalewort_error_structure")
  expect_error(sw_confirm(survey, sw_structure(f = c("a", "b"))), "not identified", class = "scalewort_error_structure")
  two <- sw_structure(f = c("a", "b", "c"), g = c("d", "e"))
  expect_error(sw_confirm(survey, sw_unlink(two, "f", "g")), "not identified", class = "scalewort_error_structure")
  expect_error(sw_add_pair(two, "a", "zz"), class = "scalewort_error_structure")
  expect_error(sw_add_pair(two, "a", "a"), class = "scalewort_error_structure")
  expect_error(sw_add_pair(sw_add_pair(two, "a", "b"), "b", "a"), "already", class = "scalewort_error_structure")
  expect_error(sw_add_loading(two, "a", "f"), "already", class = "scalewort_error_structure")
  expect_error(sw_unlink(two, "f", "h"), class = "scalewort_error_structure")
  path <- withr::local_tempfile(fileext = ".yml")
  writeLines(c("factor:", "  f: [a, b]"), path)
  expect_error(sw_structure(path), "did you mean \"factors\"", class = "scalewort_error_structure")
  writeLines(c("factors:", "  f: [a, b, c]", "pairs:", "  - [a, b]"), path)
  expect_length(sw_structure(path)$pairs, 1)
})

test_that("every error is spoken by the package, never from the depths", {
  survey <- survey_of(five())
  caught <- tryCatch(sw_explore(survey, factors = "two"), error = identity)
  expect_s3_class(caught, "scalewort_error")
  expect_match(conditionMessage(caught), "`factors` must be a whole number")
  expect_equal(as.character(caught$call[[1]]), "sw_explore")
  braces <- tryCatch(sw_survey(data.frame(a = "{x}"), book_for("a")), error = identity)
  expect_match(conditionMessage(braces), "\"{x}\" is not a number", fixed = TRUE)
})
