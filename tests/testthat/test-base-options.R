# The table of options against what is made from it: verbs, command line, plans, and what the core knows.

table <- core("options_table")()

test_that("every option of a verb stands in its formals with the same default, and every formal in the table", {
  # What a verb works on is no option.
  material <- c("x", "y", "survey", "scores", "exploration", "structure", "id", "...", "path", "cases")
  for (verb in names(table$verbs)) {
    formals <- formals(core(paste0("sw_", verb)))
    options <- core("verb_options")(verb, "r")
    expect_setequal(setdiff(names(formals), c(material, names(options))), character())
    for (entry in Filter(function(entry) !entry$kind %in% c("limits", "other"), options)) {
      formal <- formals[[entry$name]]
      expect_true(entry$name %in% names(formals), label = paste(verb, entry$name))
      given <- if (entry$required) NULL else eval(formal, list(from = NULL, structure = NULL), asNamespace("scalewort"))
      expect_equal(given, entry$default, label = paste(verb, entry$name, "by its formals"))
    }
  }
})

test_that("every verb with choices of its own is in the table", {
  verbs <- grep("^sw_", getNamespaceExports("scalewort"), value = TRUE)
  judged <- Filter(function(name) "limits" %in% names(formals(core(name))), verbs)
  expect_gt(length(judged), 12)
  expect_setequal(setdiff(judged, paste0("sw_", names(table$verbs))), character())
})

test_that("choices are what the computations know, in words", {
  choices <- core("option_choices")
  # Every kind that is offered is known to the core, and no other.
  r <- stats::cov2cor(sw_moments(sw_demo("plotholders"))$covariance[1:9, 1:9])
  for (extraction in choices("explore", "extraction")) expect_equal(dim(core("core_extract")(r, 2L, extraction)$loadings), c(9, 2), info = extraction)
  expect_error(core("core_extract")(r, 2L, "image"), "no kind is named image")
  expect_setequal(choices("score", "method"), c("auto", core("raw_methods"), core("factor_methods")))
  for (verb in table$verbs) for (entry in verb$options) {
    expect_true(entry$kind == "limits" || nzchar(entry$help))
    expect_true(all(nzchar(unlist(entry$values))))
    # Several defaults have several numbers; a choice's default is one of its values.
    if (entry$kind == "choice" && !is.null(entry$default)) expect_true(entry$default %in% entry$choices)
    expect_false(endsWith(entry$help, "."))
  }
})

test_that("the schema of plans is the one made from the table", {
  shipped <- paste(readLines(system.file("schema/plan.json", package = "scalewort")), collapse = "\n")
  expect_identical(shipped, core("schema_text")())
  steps <- names(Filter(function(entry) entry$kind %in% c("step", "structure"), table$plan))
  expect_setequal(steps, setdiff(names(core("path_steps")()), c("survey", "subscales")))
})

test_that("help names at most five options of its own first, and each option once", {
  commands <- core("cli_commands")()
  for (name in names(commands)) {
    entries <- core("command_entries")(name, commands[[name]])
    own_first <- Filter(function(entry) is.null(entry$common) && entry$first, entries)
    expect_lte(length(own_first), 5, label = name)
    lines <- core("help_lines")(name, commands[[name]], entries, all = TRUE)
    for (entry in entries) expect_equal(sum(grepl(paste0("^  ", entry$flag, "( |$)"), lines)), 1, label = paste(name, entry$flag))
    expect_true(all(nchar(lines) <= 80))
  }
})

test_that("an unknown value, option or key is answered with the nearest", {
  survey <- sw_demo("plotholders")
  expect_error(sw_retention(survey, draws = "norml"), "did you mean \"normal\"", class = "scalewort_error_input")
  expect_error(sw_reliability(survey, replicates = 10), "whole number from 100 to", class = "scalewort_error_input")
  run <- run_cli("retention", "--demo", "plotholders", "--draws", "norml")
  expect_equal(run$status, 2)
  expect_match(gsub("\n", " ", run$err), "--draws must be normal or shuffled; this is \"norml\" (did you mean \"normal\"?)", fixed = TRUE)
  expect_match(run_cli("retention", "--replicatse", "5")$err, "did you mean \"--replicates\"", fixed = TRUE)
})

test_that("completion in bash knows the values of an option", {
  script <- withr::local_tempfile(lines = c(
    run_cli("completion", "bash")$out, "COMP_WORDS=(scalewort explore --rotation ge)", "COMP_CWORD=3", "_scalewort", "echo \"${COMPREPLY[@]}\"",
    "COMP_WORDS=(scalewort power --format j)", "_scalewort", "echo \"${COMPREPLY[@]}\"",
    "COMP_WORDS=(scalewort explore --kap)", "COMP_CWORD=2", "_scalewort", "echo \"${COMPREPLY[@]}\""
  ))
  expect_equal(system2("bash", script, stdout = TRUE), c("geomin", "json", "--kappa"))
})

test_that("reliability of some items is that of a codebook with these alone", {
  survey <- sw_demo("plotholders")
  some <- c("calm1", "calm2", "calm4")
  answers <- as.matrix(sw_explore(survey, 1, items = some)$parts$moments$covariance)
  by_hand <- 3 / 2 * (1 - sum(diag(answers)) / sum(answers))
  found <- sw_reliability(survey, items = some)
  expect_equal(found$tables$scales$scale, "calm")
  expect_equal(found$tables$scales$alpha, by_hand)
  expect_equal(found$tables$scales$items, 3)
  # A whole subscale by its name; what belongs to none makes one.
  expect_equal(sw_reliability(survey, items = "craft")$tables$scales$alpha, sw_reliability(survey)$tables$scales$alpha[2])
  bare <- survey
  bare$codebook$items$scale <- NA_character_
  expect_equal(sw_reliability(bare, items = some)$tables$scales[c("scale", "alpha")], tibble::tibble(scale = "items", alpha = by_hand),
    ignore_attr = TRUE)
  expect_error(sw_reliability(survey, items = "clam1"), class = "scalewort_error_input")
  run <- run_cli("reliability", "--demo", "plotholders", "--items", paste(some, collapse = ","), "--format", "csv")
  expect_match(run$out[2], substr(formatC(by_hand, digits = 10, format = "f"), 1, 8), fixed = TRUE)
})

test_that("what a verb cannot do without is asked for by its name", {
  expect_error(sw_stability(sw_demo("plotholders")), "`factors` is needed", class = "scalewort_error_input")
  expect_error(sw_simulate(sw_structure(sw_demo("plotholders"))), "is needed", class = "scalewort_error_input")
})
