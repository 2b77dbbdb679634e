test_that("every judged figure has a formula and a range, and its bound is the one in force", {
  glossary <- core("figure_glossary")(sw_limits(alpha = .85))
  expect_false(anyNA(core("shipped_table")("limits")[c("figure", "direction", "bound", "words", "source", "formula", "range")]))
  expect_false(anyNA(glossary))
  expect_true(all(nzchar(glossary$formula)) && all(nzchar(glossary$range)))
  expect_equal(glossary$bound[sw_limits()$figure == "alpha"], ".85")
  expect_equal(nrow(glossary), nrow(sw_limits()))
})

test_that("every result class has a question, and every source that judges a full reference or a plain word", {
  words <- core("report_words")("en")
  classes <- unlist(core("report_sections"), use.names = FALSE)
  expect_true(all(setdiff(classes, c("sw_solutions", "sw_explanation")) %in% names(words$questions)))
  expect_setequal(names(words$sections), c(names(core("report_sections")), "other"))
})

test_that("every source of a bound, and every work cited in code, is in the list of references", {
  known <- utils::read.csv(system.file("report", "references.csv", package = "scalewort"), colClasses = "character", encoding = "UTF-8")
  sources <- unlist(strsplit(unique(sw_limits()$source), "; "))
  sources <- sources[grepl("[0-9]{4}", sources)]
  cites <- function(one) any(mapply(function(author, year) grepl(paste0(author, "( et al[.])?[^.;]{0,80}", year), one), known$author, known$year))
  found <- vapply(sources, cites, TRUE)
  expect_equal(sources[!found], character())
  expect_false(any(grepl("Muthen|Joreskog|Sorbom", known$reference)))
})

test_that("every bound has a formula and a range that can be read", {
  limits <- utils::read.csv(system.file("tables", "limits.csv", package = "scalewort"), encoding = "UTF-8")
  expect_true(all(grepl(" to |and up|^any$", limits$range)))
  expect_true(all(nzchar(limits$formula)) && !any(grepl("[(,]$|ln $", limits$formula)))
})
