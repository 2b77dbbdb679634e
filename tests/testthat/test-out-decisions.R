# Decisions: a plan with them is the plan that they lead to, in every order of doing, undoing and writing down.

decide <- core("decide")
decided <- core("decided_plan")

test_that("each kind of decision is a function of the plan, and the last taken back leaves the one before", {
  plan <- list(data = "d.csv", codebook = "c.csv", exploration = list(rotation = "varimax"))
  steps <- list(
    list("turn", items = list("a", "b")), list("turn", items = list("b")), list("set_aside", items = list("c")),
    list("set_aside", cases = list("P1", "P2")), list("put_back", cases = list("P2")), list("move", items = list("d"), to = "calm"),
    list("keep", items = list("e")), list("set", step = "exploration", name = "factors", value = 3),
    list("set", name = "group", value = "district"), list("leave_out", step = "validity"),
    list("amend", name = "pair", items = list("a", "c"))
  )
  history <- list(plan)
  for (one in steps) history <- c(history, list(do.call(decide, c(list(history[[length(history)]]), one, reason = "so"))))
  last <- history[[length(history)]]
  found <- decided(last)
  expect_null(found$decisions)
  expect_equal(found$flip, list(list(items = list("a"), reason = "so")))
  expect_equal(found$set_aside, list(list(items = list("c"), reason = "so"), list(cases = list("P1"), reason = "so")))
  expect_equal(found$move, list(list(items = list("d"), to = "calm", reason = "so")))
  expect_equal(found$exploration, list(rotation = "varimax", factors = 3))
  expect_equal(found[c("group", "validity")], list(group = "district", validity = FALSE))
  expect_equal(found$amend, list(list(what = "pair", items = list("a", "c"), reason = "so")))
  for (i in rev(seq_along(steps))) {
    last <- core("undo_decision")(last)
    expect_equal(decided(last), decided(history[[i]]))
  }
  expect_equal(core("undo_decision")(last), last)
  for (i in seq_along(steps)) last <- core("redo_decision")(last)
  expect_equal(decided(last), found)
  expect_null(decide(core("undo_decision")(last), "keep", items = list("z"), reason = "so")$undone)
  expect_error(decide(plan, "turn", items = list("a")), "needs a reason", class = "scalewort_error_input")
  expect_error(decide(plan, "move", items = list("a"), reason = "so"), "lacks to", class = "scalewort_error_input")
})

test_that("written down, a plan keeps its comments, and is run as decided", {
  folder <- withr::local_tempdir()
  file.copy(system.file("extdata", c("plotholders.csv", "plotholders-draft-codebook.csv"), package = "scalewort"), folder)
  path <- file.path(folder, "plan.yml")
  head <- c("# mine", "data: plotholders.csv", "codebook: plotholders-draft-codebook.csv", "id: id", "repair_keying: false", "dif: false",
    "exploration: false", "confirmation: false", "invariance: false", "answering: false  # later")
  writeLines(head, path)
  plan <- core("read_plan")(path, decided = FALSE)
  plan <- decide(plan, "turn", items = list("kin3"), reason = "worded \"against\" the others: so")
  plan <- decide(plan, "set_aside", cases = list("P901", "P902"), reason = "in a straight line")
  plan <- core("undo_decision")(decide(plan, "move", items = list("calm6"), to = "craft", reason = "n\u00e4her"))
  core("write_decisions")(path, plan)
  expect_equal(readLines(path)[seq_along(head)], head)
  again <- core("read_plan")(path, decided = FALSE)
  expect_equal(again[c("decisions", "undone")], plan[c("decisions", "undone")])
  core("write_decisions")(path, again)
  expect_equal(core("read_plan")(path, decided = FALSE), again)
  core("write_decisions")(path, again[setdiff(names(again), c("decisions", "undone"))])
  expect_equal(readLines(path), head)
  core("write_decisions")(path, again)
  results <- sw_run(path)
  by_hand <- sw_read(file.path(folder, "plotholders.csv"), file.path(folder, "plotholders-draft-codebook.csv"), id = "id") |>
    sw_flip("kin3", reason = "r") |>
    sw_drop(cases = c("P901", "P902"), reason = "r")
  expect_equal(results$reliability$tables$scales$alpha, sw_reliability(by_hand)$tables$scales$alpha)
  moved <- decide(again, "move", items = list("calm6"), to = "craft", reason = "so")
  core("write_decisions")(path, moved)
  expect_equal(sw_run(path)$reliability$tables$scales$items, c(5, 7, 5, 5))
  core("write_decisions")(path, decide(again, "set", step = "reliability", name = "interval", value = "wide", reason = "so"))
  expect_error(sw_run(path), "interval", class = "scalewort_error_input")
  core("write_decisions")(path, decide(again, "turn", items = list("kin9"), reason = "so"))
  expect_error(sw_run(path), "kin9", class = "scalewort_error_input")
})

test_that("a structure is amended in order, and what it cannot have is refused", {
  amend <- core("amended_structure")
  base <- sw_structure(list(f = c("a", "b", "c"), g = c("d", "e", "h"), k = c("m", "n", "o")))
  out <- amend(base, list(list(what = "pair", items = c("a", "b")), list(what = "loading", items = "a", to = "g"),
    list(what = "shift", items = "c", to = "g"), list(what = "leave", items = "m"), list(what = "rename", of = "k", to = "kin"),
    list(what = "higher", to = "all")))
  expect_equal(out$factors, list(f = c("a", "b"), g = c("d", "e", "h", "a", "c"), kin = c("n", "o")))
  expect_equal(out$pairs, list(c("a", "b")))
  expect_equal(out$higher, list(all = c("f", "g", "kin")))
  expect_equal(out$left_out, "m")
  expect_equal(names(amend(base, list(list(what = "general", to = "whole")))$factors), c("f", "g", "k", "whole"))
  expect_equal(amend(out, list(list(what = "leave", items = "b")))$factors$f, NULL)
  expect_error(amend(base, list(list(what = "pair", items = c("a", "z")))), class = "scalewort_error_structure")
  expect_error(amend(base, list(list(what = "rename", of = "f", to = "g"))), class = "scalewort_error")
})

test_that("steps can be run alone with what they need, or looked up without computing", {
  survey <- sw_demo("plotholders")
  kept <- new.env()
  store <- list(key = "k", get = function(name, key) kept[[paste(name, key)]],
    put = function(name, key, result) assign(paste(name, key), list(result = result), kept))
  common <- list(seed = 1, limits = sw_limits())
  run <- function(...) core("run_steps")(list(answers = survey), list(), common, store = store, ...)
  expect_equal(run(only = "reliability", compute = FALSE)$pending[1], "survey")
  some <- run(only = "factorability")
  expect_setequal(names(some$results), c("survey", "factorability"))
  looked <- run(compute = FALSE)
  expect_true("factorability" %in% names(looked$results) && all(c("reliability", "retention", "scores") %in% looked$pending))
  expect_false("composites" %in% looked$pending)
})

test_that("a decision is written into any way of writing a plan, and loses neither the plan nor itself", {
  folder <- withr::local_tempdir()
  path <- file.path(folder, "plan.yml")
  ways <- list(
    flow = "{data: a.csv, codebook: b.csv, seed: 4}", indented = c("  data: a.csv", "  codebook: b.csv # mine", "  seed: 4"),
    ended = c("data: a.csv", "codebook: b.csv", "seed: 4", "..."),
    margin = c("data: a.csv", "codebook: b.csv", "decisions: [", "{do: turn, items: [x], reason: r}", "]", "seed: 4"),
    second = c("data: a.csv", "codebook: b.csv", "seed: 4", "---", "other: document"),
    plain = c("data: a.csv  # mine", "codebook: b.csv", "seed: 4")
  )
  for (way in names(ways)) {
    writeLines(ways[[way]], path)
    plan <- core("decide")(core("read_plan")(path, decided = FALSE), "turn", items = list("kin3"), reason = "worded against")
    copy <- core("write_decisions")(path, plan)
    said <- core("read_plan")(path, decided = FALSE)
    expect_equal(said[sort(names(said))], plan[sort(names(plan))], info = way)
    expect_equal(is.null(copy), way %in% c("plain", "margin"), info = way)
    if (!is.null(copy)) expect_equal(readLines(copy), ways[[way]], info = way)
  }
  expect_match(readLines(path)[1], "# mine")
})

test_that("names that somebody gave to factors stay through structure and scores; names nobody gave follow the codebook", {
  survey <- sw_demo("plotholders")
  limits <- list(limits = sw_limits())
  have <- list(answers = survey, survey = survey, exploration = sw_explore(survey, 4, errors = "none", names = c("doing", "people", "F3", "rest")))
  structure <- core("planned_structure")(have, list(from = "exploration"), limits)
  expect_equal(names(structure$factors), c("doing", "people", "F3", "rest"))
  scored <- sw_score(core("adopted_survey")(c(have, list(structure = structure)), list(), limits))
  expect_setequal(scored$tables$scales$scale, c("doing", "people", "F3", "rest"))
  have$exploration <- sw_explore(survey, 4, errors = "none")
  have$structure <- core("planned_structure")(have, list(from = "exploration", amend = list(list(what = "rename", of = "calm", to = "rest"))), limits)
  expect_setequal(names(have$structure$factors), c("craft", "kinship", "stewardship", "rest"))
  named <- core("adopted_survey")(have, list(), limits)
  expect_setequal(names(core("survey_scales")(named)), c("craft", "kinship", "stewardship", "rest"))
  expect_match(paste(sw_log(named)$detail, collapse = " "), "calm is called rest")
  # What a plan says by the codebook's name goes on meaning the same; a structure stays one.
  expect_identical(core("as_called")(list(structure = structure), named), list(structure = structure))
  expect_equal(core("as_called")(list(items = c("calm", "calm1"), cuts = list(calm_mean = 2:3)), named), list(items = c("rest", "calm1"),
    cuts = list(rest_mean = 2:3)))
})
