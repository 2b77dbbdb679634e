# Every method on every class: what it takes it gives, what it does not know it refuses.

survey <- sw_demo("plotholders")
four <- sw_structure(survey)
held <- sw_confirm(survey, four)
quiz <- sw_demo("plantcare")
short <- sw_keep(survey, cases = seq_along(survey$kept) <= 300, reason = "short")

objects <- list(
  survey, survey$codebook, sw_limits(), sw_moments(survey, items = "calm"), four, sw_screen(survey), sw_keying(survey), sw_answering(survey),
  sw_option_curves(quiz), sw_dif(quiz), sw_reliability(survey), sw_factorability(survey), sw_retention(survey, replicates = 50),
  sw_explore(survey, 4), sw_explore(survey, 3:4), sw_stability(survey, 4, halves = 20), held, sw_compare(a = held, b = sw_confirm(survey,
    sw_add_pair(four, "craft5", "craft6"))), sw_influence(sw_confirm(short, sw_structure(calm = paste0("calm", 1:4), craft = paste0("craft", 1:4))),
    worst = 1),
  sw_bounds(held, replicates = 50), sw_power(20, n = c(100, 200)), sw_invariance(survey, sw_structure(calm = paste0("calm", 1:4),
    craft = paste0("craft", 1:4)), by = "district"),
  sw_validity(held, replicates = 0), sw_composites(survey, replicates = 0), sw_score(survey), sw_explain(sw_score(survey), "P277"),
    sw_impute(short, m = 2,
    iterations = 1)
)
if (requireNamespace("RSQLite", quietly = TRUE)) {
  panel <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(panel), testthat::teardown_env())
  DBI::dbWriteTable(panel, "answers", data.frame(a = 1:5, b = 5:1))
  objects <- c(objects, list(sw_table(panel, "answers")))
}
names(objects) <- vapply(objects, function(x) class(x)[1], "")

test_that("no class of the package is left out here", {
  methods <- grep("^(print|format|headline)[.]sw_", ls(asNamespace("scalewort")), value = TRUE)
  classes <- setdiff(sub("^[a-z]+[.]", "", methods), c("sw_result", "sw_summary"))
  expect_setequal(union(classes, names(objects)), names(objects))
})

test_that("methods give what they promise, or say in a sentence that they have nothing to give", {
  said <- function(code) tryCatch(code, scalewort_error = function(e) NULL)
  for (name in names(objects)) {
    x <- objects[[name]]
    expect_type(format(x), "character")
    expect_output(print(x), info = name)
    if (inherits(x, "sw_result")) {
      expect_output(print(summary(x)), info = name)
      expect_s3_class(tidy(x), "tbl_df")
      strange <- function(v) is.double(v) && any(is.nan(v))
      for (table in names(x$tables)) expect_false(any(vapply(tidy(x, table), strange, TRUE)), info = paste(name, table))
      expect_equal(nrow(glance(x)), 1, info = name)
      expect_s3_class(as.data.frame(x), "data.frame")
    }
    if (inherits(x, "sw_table")) next
    figure <- said(autoplot(x))
    if (!is.null(figure)) expect_s3_class(figure, "ggplot")
    if (inherits(x, c("sw_survey", "sw_limits"))) next
    path <- withr::local_tempfile(fileext = if (name == "sw_structure") ".yml" else ".csv")
    sw_write(x, path)
    expect_gt(file.size(path), 10)
  }
  expect_equal(tidy(objects$sw_moments, "covariance")[[2]], unname(objects$sw_moments$covariance[, 1]))
  for (estimator in c("ordinal", "ordinal_uls", "uls", "gls", "robust")) {
    expect_equal(nrow(glance(sw_confirm(sw_keep(survey, items = c("calm", "craft"), reason = "fewer"), estimator = estimator))), 1, info = estimator)
  }
})

test_that("what a method or a verb does not know is refused, with the nearest name", {
  refused <- function(code, word) expect_error(code, word, class = "scalewort_error_input")
  for (name in names(objects)) {
    x <- objects[[name]]
    refused(print(x, digitz = 2), "digitz")
    refused(format(x, digitz = 2), "digitz")
    if (inherits(x, "sw_result")) {
      refused(tidy(x, tbl = "flags"), "tbl")
      refused(glance(x, digitz = 2), "digitz")
      refused(summary(x, digitz = 2), "digitz")
    }
  }
  refused(autoplot(objects$sw_screening, figuer = "options"), "figuer.*figure")
  refused(autoplot(objects$sw_stability, figure = "a"), "figure")
  refused(sw_stability(survey, 4, errors = "none"), "errors")
  exported <- grep("^sw_", getNamespaceExports("scalewort"), value = TRUE)
  open <- c("sw_compare", "sw_equate", "sw_limits", "sw_read", "sw_stability", "sw_structure", "sw_add_higher")
  for (name in setdiff(exported, open)) expect_error(do.call(name, list(nothing_so_called = 1)), "unused argument", info = name)
})

test_that("errors name the call that the user made", {
  head_of <- function(code) tryCatch(code, scalewort_error = function(e) as.character(conditionCall(e)[[1]]))
  mine <- function(x) sw_explore(x, 99)
  sw_of_mine <- function(x) sw_explore(x, 99)
  expect_equal(head_of(mine(survey)), "sw_explore")
  expect_equal(head_of(sw_of_mine(survey)), "sw_explore")
  expect_equal(head_of(sw_explore(sw_moments(survey, items = "nix"), 2)), "sw_moments")
  expect_equal(head_of(do.call(sw_explore, list(survey, 99))), "sw_explore")
  expect_equal(head_of(sw_validity(survey, structure = sw_structure(a = c("calm1", "x")))), "sw_validity")
  expect_equal(head_of(tidy(sw_score(survey), "nix")), "tidy")
})

test_that("a higher factor is given either way", {
  expect_equal(sw_add_higher(four, "plot", c("calm", "craft", "kinship")), sw_add_higher(four, plot = c("calm", "craft", "kinship")))
  expect_error(sw_add_higher(four, c("calm", "craft")), class = "scalewort_error")
  expect_error(sw_add_higher(four, plot = c("calm", "craft"), other = "kinship"), class = "scalewort_error_input")
})
