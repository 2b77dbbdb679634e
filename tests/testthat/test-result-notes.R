# Notes as records that programs find by code.

test_that("a note holds its code, rank, items and numbers; several of one code come apart", {
  one <- core("note_table")(core("note")("small_sample", "n is small.", n = 58, rank = 1L))
  expect_equal(one$code, "small_sample")
  expect_equal(one$rank, 1L)
  expect_equal(one$numbers[[1]], list(n = 58))
  expect_equal(one$items[[1]], character())
  two <- core("note_table")(core("note")("weak_item", c("a is weak.", "b is weak."), list("a", "b"), r = c(.1, .2)))
  expect_equal(two$items, list("a", "b"))
  expect_equal(two$numbers[[2]], list(r = .2))
  none <- core("note_table")(c(core("note")("x", character(), list()), NULL))
  expect_equal(nrow(none), 0)
  expect_equal(core("note_table")("A sentence.")$words, "A sentence.")
})

test_that("every note of every verb has a code of its own kind, and the words that print", {
  draft <- sw_demo("plotholders", codebook = "draft")
  survey <- sw_demo("plotholders")
  held <- sw_confirm(survey)
  results <- list(sw_screen(draft), sw_keying(draft), sw_answering(survey), sw_reliability(draft), sw_factorability(survey), sw_explore(survey, 4),
    sw_explore(survey, 2:3), sw_stability(survey, 4, halves = 5), held, sw_invariance(survey, steps = c("configural", "scalar")),
    sw_validity(held, replicates = 0), sw_composites(survey, replicates = 0), sw_score(survey, form = "t"), sw_option_curves(sw_demo("plantcare")),
    sw_band(sw_score(survey), groups = 2), sw_influence(held, worst = 1), sw_dif(survey), sw_retention(survey, replicates = 20))
  for (x in results) {
    expect_equal(x$notes, x$noted$words)
    expect_true(all(grepl("^[a-z_]+$", x$noted$code)), info = class(x)[1])
    expect_false("said" %in% x$noted$code)
    expect_true(all(x$noted$rank %in% 1:3))
    expect_false(any(grepl("^[^.!?]*$", x$notes)), info = class(x)[1])
  }
  expect_equal(results[[4]]$noted$items[[match("unreversed", results[[4]]$noted$code)]],
    strsplit(tidy(results[[4]])$looks_unreversed[tidy(results[[4]])$looks_unreversed != ""], " ")[[1]])
})

test_that("what has been explored is found by its code, in the sentences and in validity too", {
  survey <- sw_demo("plotholders")
  held <- sw_confirm(survey, sw_structure(sw_explore(survey, 4)))
  expect_length(core("notes_of")(held, "explored_cases"), 1)
  expect_true("explored_cases" %in% sw_validity(held, replicates = 0)$noted$code)
  expect_match(sentences_of(held), "no independent confirmation")
  apart <- sw_split(survey, seed = 2)
  fresh <- sw_confirm(apart$validation, sw_structure(sw_explore(apart$calibration, 4)))
  expect_length(core("notes_of")(fresh, "explored_cases"), 0)
  expect_false("explored_cases" %in% sw_validity(fresh, replicates = 0)$noted$code)
})

test_that("no code is searched for in prose", {
  folder <- source_folder()
  skip_if(is.null(folder), "the sources are not beside the tests")
  files <- list.files(folder, "^(verb|show|draw|out)-.*[.]R$", full.names = TRUE)
  for (file in files) {
    searched <- grep("(startsWith|grepl?|sub)\\([^)]*(verdict|notes|says|reading)\\b", readLines(file), value = TRUE)
    expect_equal(searched, character(), info = basename(file))
  }
})
