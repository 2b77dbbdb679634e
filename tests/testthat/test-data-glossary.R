test_that("every judged figure has a formula and a range, and its bound is the one in force", {
  glossary <- core("figure_glossary")(sw_limits(alpha = .85))
  expect_false(anyNA(core("shipped_table")("limits")[c("figure", "direction", "bound", "words", "source", "formula", "range")]))
  expect_false(anyNA(glossary))
  expect_true(all(nzchar(glossary$formula)) && all(nzchar(glossary$range)))
  expect_equal(glossary$bound[sw_limits()$figure == "alpha"], ".85")
  expect_equal(nrow(glossary), nrow(sw_limits()))
})

test_that("every result class has a question, and every source that judges a full reference or a plain word", {
  words <- yaml::read_yaml(system.file("report", "words.yml", package = "scalewort"))$en
  classes <- unlist(core("report_sections"), use.names = FALSE)
  expect_true(all(setdiff(classes, c("sw_solutions", "sw_explanation")) %in% names(words$questions)))
  expect_setequal(names(words$sections), c(names(core("report_sections")), "other"))
})
