plan_folder <- function(lines, env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  file.copy(core("demo_file")(c("plotholders.csv", "plotholders-codebook.csv")), folder)
  writeLines(c("data: plotholders.csv", "codebook: plotholders-codebook.csv", "id: id", lines), file.path(folder, "plan.yml"))
  folder
}
quick <- c("exploration: false", "structure: codebook", "validity: false", "composites: false", "answering: false", "dif: false", "split: false")

test_that("all faults of a plan are named at once, each with its line", {
  path <- withr::local_tempfile(fileext = ".yml")
  writeLines(c(
    "data: x.csv", "codebok: y.csv", "exploration:", "  factors: four", "  extracton: ml", "set_aside:", "  - items: [a]", "    reason: odd",
    "  - cases: [1]", "confirmation:", "  estimator: wls", "seed: -1", "reports: [html, odt]"
  ), path)
  message <- tryCatch(sw_run(path, check = TRUE), scalewort_error_input = conditionMessage)
  for (part in c("line 2: unknown key \"codebok\" \\(did you mean \"codebook\"", "key \"codebook\" is missing", "line 5: unknown key \"extracton\"",
    "line 4: exploration: factors: must be a whole number; this is \"four\"", "line 9: set_aside: key \"reason\" is missing",
    "line 11: confirmation: estimator: must be \"?auto", "line 12: seed: must be 0 or more", "line 13: reports: must be")) {
    expect_match(message, part)
  }
  writeLines("a: [1", path)
  expect_error(sw_run(path), "not valid YAML", class = "scalewort_error_file")
})

test_that("a schema's words mean what the standard says", {
  faults <- function(value, schema) length(core("schema_faults")(value, schema))
  expect_equal(faults(3, list(type = "integer", minimum = 3, maximum = 3)), 0)
  expect_equal(faults(2.5, list(type = "integer")), 1)
  expect_equal(faults("a", list(type = list("number", "string"))), 0)
  expect_equal(faults(list(a = 1, b = 2), list(type = "object", properties = list(a = list(type = "number")), additionalProperties = FALSE)), 1)
  expect_equal(faults(list(a = 1), list(type = "object", required = list("a", "b"))), 1)
  expect_equal(faults(c("x", "y"), list(type = "array", items = list(type = "string", enum = list("x")))), 1)
  expect_equal(faults(TRUE, list(anyOf = list(list(type = "boolean"), list(type = "number")))), 0)
  expect_equal(faults("q", list(anyOf = list(list(type = "boolean"), list(type = "number")))), 1)
})

test_that("every key of the schema is one a plan uses, and the drafted plan fits it", {
  schema <- jsonlite::fromJSON(system.file("schema", "plan.json", package = "scalewort"), simplifyVector = FALSE)
  steps <- setdiff(intersect(names(core("path_steps")()), names(schema$properties)), "structure")
  verbs <- c(screening = "screen", answering = "answering", option_curves = "option_curves", dif = "dif", reliability = "reliability",
    split = "split", factorability = "factorability", retention = "retention", exploration = "explore", stability = "stability",
    confirmation = "confirm", invariance = "invariance", validity = "validity", composites = "composites", scores = "score")
  # Keying has no options of its own: it runs or does not.
  expect_setequal(steps, c(names(verbs), "keying"))
  passed_on <- list(stability = names(formals(sw_explore)), scores = c("as", names(formals(sw_band))))
  for (name in names(verbs)) {
    known <- c(names(formals(get(paste0("sw_", verbs[[name]])))), passed_on[[name]])
    expect_true(all(names(schema$properties[[name]]$anyOf[[2]]$properties) %in% known), info = name)
  }
  lines <- core("plan_lines")("a.csv", "b.csv", list(id = "id", group = "g"))
  # Uncommented, every key of the draft is known.
  keys <- paste(c("flip", "set_aside", "careless", "repair_keying", "limits", "reports", "write", "language", "theme", "author", "wave",
    names(core("path_steps")())), collapse = "|")
  open <- sub(paste0("^# ((", keys, "):.*)"), "\\1", lines)
  open <- sub("^#(  +[^ ].*)$", " \\1", open)
  open <- sub("^(author|wave):.*", "\\1: x", open)
  path <- withr::local_tempfile(fileext = ".yml")
  writeLines(open, path)
  expect_error(core("read_plan")(path), NA)
})

test_that("a plan's options reach their steps; what did not change is kept; tables are the same twice", {
  folder <- plan_folder(c(quick, "confirmation:", "  estimator: robust", "scores:", "  method: [sum, regression]", "  form: [t]", "limits:",
    "  alpha: [0.6, 0.9]",
    "write: [xlsx, sav]", "reports: [md]", "set_aside:", "  - items: [calm6]", "    reason: asks about the time of day"))
  plan <- file.path(folder, "plan.yml")
  done <- core("run_plan")(plan)
  expect_equal(done$results$confirmation$about$options$estimator, "robust")
  expect_true(all(c("calm_sum", "calm_sum_t", "calm_regression") %in% names(augment(done$results$scores))))
  expect_false("calm6" %in% attr(augment(done$results$scores)$calm_sum, "made_of"))
  expect_equal(core("limit")(done$results$reliability$limits, "alpha")$bound, .6)
  expect_null(done$results$exploration)
  files <- list.files(file.path(folder, "results"))
  expect_true(all(c("scores.csv", "scores.xlsx", "scores.sav", "report.md", "manifest.json") %in% files))
  expect_false(any(grepl("kept|^[.]", list.files(file.path(folder, "results"), all.files = TRUE, no.. = TRUE))))
  expect_false(any(vapply(done$record, `[[`, TRUE, "kept")))
  tables <- list.files(file.path(folder, "results"), "csv$", full.names = TRUE)
  before <- tools::md5sum(tables)
  # What the last run made is replaced without asking; what was edited, or is foreign, is refused before
  # anything is computed.
  again <- core("run_plan")(plan)
  expect_true(all(vapply(again$record, `[[`, TRUE, "kept")))
  expect_identical(tools::md5sum(tables), before)
  cat("edited\n", file = file.path(folder, "results", "fit.csv"), append = TRUE)
  writeLines("mine", file.path(folder, "results", "report.html"))
  error <- expect_error(sw_run(plan), "Nothing has been computed", class = "scalewort_error_file")
  expect_equal(error$faults, "fit.csv: changed since")
  store <- core("result_store")(plan, "")$folder
  # A kept result that is not what was written is not read.
  for (file in list.files(store, "rds$", full.names = TRUE)) saveRDS(list(key = "x"), file)
  expect_false(any(vapply(core("run_plan")(plan, overwrite = TRUE)$record, `[[`, TRUE, "kept")))
  expect_equal(readLines(file.path(folder, "results", "report.html")), "mine")
  expect_identical(tools::md5sum(tables), before)
  # Another estimator: what comes before it is kept, itself and what needs it are not.
  writeLines(sub("estimator: robust", "estimator: ml", readLines(plan)), plan)
  third <- core("run_plan")(plan, overwrite = TRUE)
  kept <- stats::setNames(vapply(third$record, `[[`, TRUE, "kept"), vapply(third$record, `[[`, "", "step"))
  expect_true(all(kept[c("screening", "reliability", "structure")]))
  expect_false(any(kept[c("confirmation", "scores")]))
  # Other answers: nothing is.
  cat("X1,north,1,100,1,2,3,4,5,1,2,3,4,5,1,2,3,4,5,1,2,3,4,5,1,2\n", file = file.path(folder, "plotholders.csv"), append = TRUE)
  fourth <- core("run_plan")(plan, overwrite = TRUE)
  expect_false(any(vapply(fourth$record, `[[`, TRUE, "kept")))
  manifest <- jsonlite::fromJSON(file.path(folder, "results", "manifest.json"))
  expect_equal(manifest$inputs$hash[1], rlang::hash_file(file.path(folder, "plotholders.csv")))
  listed <- manifest$outputs$hash[manifest$outputs$file == "scores.csv"]
  expect_equal(listed, rlang::hash_file(file.path(folder, "results", "scores.csv")))
})

test_that("every step is configured or left out by its own name; stability turns factors as the exploration did", {
  target <- data.frame(item = c("calm1", "calm2", "calm4", "craft1", "craft2", "craft4"), a = c(1, 1, 1, 0, 0, 0), b = c(0, 0, 0, 1, 1, 1))
  plan <- function(lines) {
    folder <- plan_folder(c("answering: false", "dif: false", "invariance: false", "validity: false", "composites: false", "scores: false",
      "reports: [md]", lines), parent.frame())
    utils::write.csv(target, file.path(folder, "target.csv"), row.names = FALSE)
    file.path(folder, "plan.yml")
  }
  path <- plan(c("keying: false", "screening:", "  order: easiness", "split: false", "reliability:", "  items: [calm, craft1, craft2, craft4]",
    "factorability:", "  factors: 2", "retention:", "  replicates: 50", "  items: [calm, craft]", "exploration:", "  factors: 2",
    "  rotation: target", "  target: target.csv", "  items: [calm1, calm2, calm4, craft1, craft2, craft4]", "  extraction: minres",
    "  names: [one, two]", "stability:", "  halves: 5", "confirmation: false"))
  done <- core("run_plan")(path)$results
  expect_null(done$keying)
  expect_equal(done$screening$about$options$order, "easiness")
  expect_equal(done$reliability$tables$scales$items, c(6, 3))
  expect_equal(done$factorability$about$options$factors, 2)
  expect_equal(done$retention$about$options$replicates, 50)
  expect_equal(nrow(done$retention$tables$eigenvalues), 12)
  expect_equal(colnames(done$exploration$parts$pattern), c("one", "two"))
  own <- done$stability$about$options
  expect_equal(unlist(own[c("halves", "factors", "extraction", "rotation")], use.names = FALSE), c("5", "2", "minres", "target"))
  expect_equal(done$stability$parts$whole$parts$pattern, done$exploration$parts$pattern, tolerance = 1e-6, ignore_attr = TRUE)
  # Asked for by name, what serves the exploration runs without it; stability cannot.
  done <- core("run_plan")(plan(c(quick[1:2], "split: false", "reliability: false", "confirmation: false", "retention:", "  replicates: 50")))$results
  expect_s3_class(done$retention, "sw_retention")
  expect_null(done$factorability)
  expect_error(core("run_plan")(plan(c(quick[1:2], "stability: true"))), "needs exploration", class = "scalewort_error_input")
  # Names that no file has are found before anything is computed.
  faults <- expect_error(sw_run(plan(c("retention:", "  items: [clam]", "exploration:", "  target: aim.csv")), check = TRUE),
    class = "scalewort_error_input")$faults
  expect_match(faults, "retention: items: there is no item or subscale \"clam\" (did you mean \"calm\"?)", fixed = TRUE, all = FALSE)
  expect_match(faults, "exploration: target: there is no such file: aim.csv", fixed = TRUE, all = FALSE)
})

test_that("factors with their items, and options that are names with values, go through a whole plan", {
  folder <- plan_folder(c("exploration: false", "split: false", "answering: false", "dif: false", "invariance: false", "composites: false",
    "reports: [md]", "structure:", "  one: [calm1, calm2, calm4]", "  two: [craft1, craft2, craft4]", "validity:", "  replicates: 20",
    "  outside: {seconds: \"+\"}", "scores:", "  cuts: {calm_mean: [2, 4]}", "  form: {mean: 100, sd: 15}", "  norms: {district: north}"))
  done <- core("run_plan")(file.path(folder, "plan.yml"))$results
  expect_equal(done$confirmation$parts$structure$factors, list(one = c("calm1", "calm2", "calm4"), two = c("craft1", "craft2", "craft4")))
  expect_equal(tidy(done$validity, "outside")$variable, c("seconds", "seconds"))
  data <- augment(done$scores)
  expect_equal(levels(data$calm_mean_band), c("low", "middle", "high"))
  expect_equal(data$calm_mean_band == "low", data$calm_mean < 2)
  north <- data$district == "north"
  expect_equal(mean(data$calm_mean_scaled[north], na.rm = TRUE), 100)
  writeLines(sub("calm4", "clam4", readLines(file.path(folder, "plan.yml"))), file.path(folder, "plan.yml"))
  expect_error(sw_run(file.path(folder, "plan.yml"), check = TRUE), "did you mean", class = "scalewort_error_input")
})

test_that("a step these data do not allow is left out, said and kept as such; one that was asked for is an error", {
  set.seed(3)
  data <- as.data.frame(matrix(sample(1:5, 60 * 6, TRUE), 60))
  data$area <- rep(c("a", "b"), c(57, 3))
  survey <- sw_survey(data, data.frame(item = paste0("V", 1:6), scale = rep(c("x", "y"), each = 3), lowest = 1, highest = 5), group = "area")
  said <- character()
  off <- stats::setNames(rep(list(FALSE), 13), c("screening", "keying", "answering", "option_curves", "reliability", "factorability", "retention",
    "exploration", "stability", "confirmation", "validity", "composites", "scores"))
  off$split <- FALSE
  off$invariance <- FALSE
  done <- core("run_steps")(list(answers = survey), off, list(seed = 1, limits = sw_limits()), function(step) said <<- c(said, step))
  expect_equal(names(attr(done$results, "left_out")), "dif")
  expect_match(said, "^dif left out: ", all = FALSE)
  record <- Filter(function(r) r$step == "dif", done$record)[[1]]
  expect_equal(record$left_out, unname(attr(done$results, "left_out")))
  expect_null(done$results$dif)
  off$dif <- TRUE
  expect_error(core("run_steps")(list(answers = survey), off, list(seed = 1, limits = sw_limits())), class = "scalewort_error_input")
  path <- withr::local_tempfile(fileext = ".md")
  results <- structure(list(sw_reliability(survey)), left_out = attr(done$results, "left_out"))
  sw_report(results, path)
  expect_match(readLines(path), "^- DIF: ", all = FALSE)
  off$dif <- FALSE
  off$option_curves <- TRUE
  none <- core("run_steps")(list(answers = survey), off, list(seed = 1, limits = sw_limits()))
  expect_match(attr(none$results, "left_out")[["option_curves"]], "asked for")
})

test_that("a plan is checked and run from the command line", {
  folder <- plan_folder(quick)
  check <- run_cli("check", "plan.yml", folder = folder)
  expect_equal(check$status, 0)
  expect_match(check$out, "can be followed: data plotholders.csv", all = FALSE)
  writeLines(c("data: plotholders.csv", "codebook: gone.csv"), file.path(folder, "gone.yml"))
  expect_equal(run_cli("check", "gone.yml", folder = folder)$status, 3)
})

test_that("every step of a plan can be left out by false, or asked for by true", {
  steps <- setdiff(names(core("path_steps")()), c("survey", "structure", "subscales"))
  off <- core("step_options")(stats::setNames(rep(list(FALSE), length(steps)), steps), identity)
  expect_true(all(vapply(off[steps], isFALSE, TRUE)))
  ran <- core("run_steps")(list(answers = small_survey()), off, list(seed = 1, limits = sw_limits()))
  expect_equal(names(ran$results), "survey")
  on <- core("step_options")(list(scores = TRUE, invariance = TRUE), identity)
  expect_equal(names(core("run_steps")(list(answers = small_survey()), c(off[setdiff(steps, "scores")], on["scores"]),
    list(seed = 1, limits = sw_limits()))$results), c("survey", "scores"))
})

test_that("what the last run made and this one does not is removed, an edited file stays and is named", {
  folder <- plan_folder(c(quick, "write: [tsv, json]"))
  plan <- file.path(folder, "plan.yml")
  outside <- file.path(folder, "mine.txt")
  writeLines("mine", outside)
  core("run_plan")(plan)
  results <- file.path(folder, "results")
  cat("note\n", file = file.path(results, "scores.json"), append = TRUE)
  # A manifest that lists a file outside its folder moves nothing there.
  manifest <- jsonlite::fromJSON(file.path(results, "manifest.json"), simplifyVector = FALSE)
  manifest$outputs <- c(manifest$outputs, list(list(file = "../mine.txt", hash = rlang::hash_file(outside))))
  writeLines(jsonlite::toJSON(manifest, auto_unbox = TRUE), file.path(results, "manifest.json"))
  writeLines(sub("write:.*", "write: [csv]", readLines(plan)), plan)
  again <- core("run_plan")(plan)
  expect_false(file.exists(file.path(results, "scores.tsv")))
  expect_true(file.exists(file.path(results, "scores.json")))
  expect_equal(again$left, "scores.json")
  expect_true(file.exists(outside))
  expect_equal(core("run_plan")(plan, seed = 99)$record[[1]]$step, "screening")
  expect_equal(jsonlite::fromJSON(file.path(results, "manifest.json"))$seed, 99)
})

test_that("scores that are not of the confirmed structure are said so, by check and by the run; one key makes them agree", {
  folder <- withr::local_tempdir()
  plan <- function(...) {
    writeLines(c("data: a.csv", "codebook: c.csv", "repair_keying: false", "exploration: false", "answering: false", "reports: []", "structure:",
      "  up: [a1, a2, a3]", "  down: [b1, b2, b3]", ...), file.path(folder, "plan.yml"))
    file.path(folder, "plan.yml")
  }
  set.seed(5)
  latent <- matrix(rnorm(600), 300)
  answers <- round(cbind(latent[, c(1, 1, 1, 2, 2, 2)] %*% diag(c(1, 1, -1, 1, 1, 1)) + rnorm(1800, sd = .6), rnorm(300)), 1)
  colnames(answers) <- c("a1", "a2", "a3", "b1", "b2", "b3", "odd")
  utils::write.csv(answers, file.path(folder, "a.csv"), row.names = FALSE)
  utils::write.csv(data.frame(item = colnames(answers), scale = "mood", lowest = -9, highest = 9), file.path(folder, "c.csv"), row.names = FALSE)
  said <- core("check_answers")(core("check_plan")(core("read_plan")(plan()), plan()), plan())$notes
  expect_match(core("say")(said), "the scores count odd, which the structure does not have; mood joins what are several factors there")
  scores <- sw_run(plan("output: one"))$scores
  expect_equal(scores$parts$unlike, list(beyond = "odd", without = character(), mixed = "mood", against = "a3"))
  expect_match(headline_of(scores), "^Not scored as confirmed: ")
  agreed <- sw_run(plan("output: two", "scores:", "  as: confirmed"))
  expect_null(agreed$scores$parts$unlike)
  turned <- answers[, "a3"] * -1
  expect_equal(as.vector(agreed$scores$tables$scores$up_mean), rowMeans(cbind(answers[, c("a1", "a2")], turned)), tolerance = 1e-12)
  expect_equal(as.vector(agreed$scores$tables$scores$down_mean), rowMeans(answers[, c("b1", "b2", "b3")]), tolerance = 1e-12)
  expect_equal(agreed$reliability$tables$scales$scale, c("up", "down"))
  expect_match(paste(sw_log(agreed$survey)$detail, collapse = " "), "in place of the codebook's: up \\(a1 a2 a3\\)")
})

test_that("a general factor, a factor above others and reversed wording are scored as what they are", {
  own <- sw_structure(list(s = c("a", "b"), t = c("c", "d", "a")))
  as_scored <- function(structure) core("scored_as_confirmed")(structure)$factors
  expect_equal(as_scored(own), list(s = c("a", "b"), t = c("c", "d")))
  expect_equal(as_scored(sw_add_general(own, "all"))$all, c("a", "b", "c", "d"))
  expect_named(as_scored(sw_add_wording(sw_structure(list(s = c("a", "b"), t = c("c", "d"))), c("a", "c", "d"))), c("s", "t"))
  survey <- sw_survey(data.frame(a = 1:6, b = 2, c = c(3, 1, 2, 2, 1, 3), d = 4:9), data.frame(item = letters[1:4], scale = "s"))
  scores <- sw_score(survey, structure = sw_add_higher(sw_structure(list(s = c("a", "b"), t = c("c", "d"))), "above", c("s", "t")))
  expect_equal(as.vector(scores$tables$scores$above_mean), (1:6 + 2 + c(3, 1, 2, 2, 1, 3) + 4:9) / 4)
})
