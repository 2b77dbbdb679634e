# Catalogues of words: every code in every language with the same places, none unused, and what the code gives is what a template asks for.

catalogue <- function(language) {
  words <- core("words_of_language")(language)
  words[!startsWith(names(words), ".")]
}
places <- function(entry) {
  # Doubled braces are braces.
  text <- gsub("{{", "", unlist(entry), fixed = TRUE)
  marks <- unlist(regmatches(text, gregexpr("[{][a-z_]+", text)))
  sort(unique(c(sub("{", "", marks, fixed = TRUE), if (is.list(entry)) entry$by)))
}
languages <- core("options_table")()$plan$language$choices

test_that("every code has its words in every language, with the same places and counts", {
  english <- catalogue("en")
  expect_false(anyDuplicated(names(english)) > 0)
  for (language in setdiff(languages, "en")) {
    own <- catalogue(language)
    expect_setequal(names(own), names(english))
    for (code in names(english)) {
      expect_equal(places(own[[code]]), places(english[[code]]), info = code)
    }
    meta <- function(of) core("words_of_language")(of)[grep("^[.]", names(core("words_of_language")(of)))]
    expect_setequal(names(meta(language)), names(meta("en")))
    # What is looked up by its English (cells, columns, help, checklist) needs no English catalogue; what is counted has its own cases.
    for (part in setdiff(names(meta("en")), c(".terms", ".columns", ".options_help", ".checklist", ".counts"))) {
      keys <- function(of) as.character(names(unlist(meta(of)[[part]])))
      expect_setequal(keys(language), keys("en"))
    }
  }
  # A language is whole, or not offered; one file makes it so.
  expect_equal(languages, sub("[.]yml$", "", c("en.yml", setdiff(list.files(system.file("words", package = "scalewort")), "en.yml"))))
})

test_that("commands, and every option of the command line with its values and headings, are explained in every language", {
  table <- core("options_table")()
  of_verbs <- lapply(names(table$verbs), function(verb) core("verb_options")(verb, "cli"))
  entries <- unlist(c(of_verbs, table$commands), recursive = FALSE)
  texts <- unique(unlist(lapply(entries, function(entry) {
    c(entry[c("help", "inverse", "needed", "group", "words_of_default")], if (entry$name != "language") entry$values)
  })))
  expect_gt(length(texts), 250)
  elements <- utils::read.csv(system.file("report", "checklist.csv", package = "scalewort"), encoding = "UTF-8")$element
  for (language in setdiff(languages, "en")) {
    own <- core("words_of_language")(language)
    expect_equal(setdiff(texts, names(own$.options_help)), character())
    expect_equal(setdiff(elements, names(own$.checklist)), character())
    expect_setequal(names(own$.commands), names(core("cli_commands")()))
  }
})

test_that("the command line speaks the language that is typed, else the system's: help, results, errors, plans", {
  run <- function(..., env = character()) {
    said <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), c(shQuote(system.file("exec", "scalewort", package = "scalewort")), ...),
      stdout = TRUE, stderr = TRUE, env = c("LC_ALL=C.UTF-8", env)))
    paste(said, collapse = "\n")
  }
  german <- run("keying", "--demo", "plotholders", "--language", "de")
  expect_match(german, "^Kein Item weist erkennbar gegen das Codebuch.*niedrigstes r.*Mehr: --full")
  expect_match(german, "0,719", fixed = TRUE)
  expect_match(run("keying", "--demo", "plotholders"), "More: --full", fixed = TRUE)
  expect_match(run("split", "--help", env = "LC_ALL=de_DE.UTF-8"), "Anteil der ersten H", fixed = TRUE)
  expect_match(run("split", "--share", "x", "--language=de"), "Fehler: --share nimmt eine Zahl; dies ist \u201ex\u201c", fixed = TRUE)
  expect_match(run("keying", "--demo", "plotholders", "--language", "xx"), "must be .*de", perl = TRUE)
  # CSV and JSON are for programs.
  expect_match(run("keying", "--demo", "plotholders", "--format", "csv", "--quiet", "--language", "de"), "^scale,items,n,alpha.*0\\.719")
  folder <- withr::local_tempdir()
  answers <- file.path(folder, "answers.csv")
  file.copy(core("demo_file")("plotholders.csv"), answers)
  expect_match(run("start", shQuote(answers), "--language", "de"), "Geschrieben, zum Pr", fixed = TRUE)
  plan <- readLines(file.path(folder, "answers-plan.yml"), encoding = "UTF-8")
  expect_match(plan, "^language: de ", all = FALSE)
  expect_match(plan, "Titel des Berichts", all = FALSE, fixed = TRUE)
  expect_match(run("check", shQuote(file.path(folder, "answers-plan.yml"))), "^Der Plan l.*sst sich ausf")
})

test_that("results, surveys, codebooks, structures and moments print in the language that R is told, numbers as it writes them", {
  survey <- sw_demo("plotholders")
  things <- list(survey, survey$codebook, sw_draft_codebook(data.frame(a = rep(1:5, 8), b = rep(5:1, 8))), sw_structure(survey),
    sw_moments(survey), sw_limits(),
    sw_reliability(survey), summary(sw_keying(survey))$result)
  english <- vapply(things, function(x) paste(format(x), collapse = "\n"), "")
  withr::local_options(scalewort.language = "de")
  german <- vapply(things, function(x) paste(format(x), collapse = "\n"), "")
  expect_false(any(german == english))
  expect_match(german[1], "^Antworten von 640 F\u00e4llen auf 22 Items; 4% fehlend")
  expect_match(german[3], "Zuerst zu pr\u00fcfen", fixed = TRUE)
  expect_match(german[4], "4 Faktoren, 22 Items. 50 freie Parameter, 203 Freiheitsgrade; identifiziert.", fixed = TRUE)
  expect_match(german[7], "Alpha: calm 0,719", fixed = TRUE)
  expect_error(sw_structure(list(a = 1)), "Liste von Itemnamen")
  expect_equal(tidy(sw_reliability(survey), "sentences")$text[1], "Alpha: calm 0,719, craft 0,813, kinship 0,780 und stewardship 0,745.")
})

test_that("no code is unused, and messages give the parts that their words ask for", {
  folder <- testthat::test_path("..", "..", "R")
  skip_if_not(dir.exists(folder), "Tests run away from the sources")
  english <- catalogue("en")
  literals <- character()
  calls <- list()
  walk <- function(e) {
    if (is.character(e)) literals <<- c(literals, e)
    if (is.call(e)) {
      says <- is.name(e[[1]]) && as.character(e[[1]]) %in% c("message_of", "messages_of", "worded", "wordings")
      if (says && is.character(e[[2]])) calls <<- c(calls, list(e))
      lapply(as.list(e), walk)
    } else if (is.pairlist(e) || is.expression(e)) {
      lapply(as.list(e), walk)
    }
  }
  for (file in list.files(folder, "[.]R$", full.names = TRUE)) walk(parse(file, keep.source = FALSE))
  # Codes of one kind have what they begin with in common.
  begun <- grep("_$", literals, value = TRUE)
  unused <- Filter(function(code) !any(startsWith(code, begun)), setdiff(names(english), literals))
  expect_equal(unused, character())
  expect_gt(length(calls), 30)
  for (one in calls) {
    code <- one[[2]]
    expect_true(code %in% names(english), info = code)
    given <- as.character(setdiff(names(one), ""))
    expect_equal(sort(given), places(english[[code]]), info = code)
  }
})

test_that("words are made where they are read: numbers, lists, counts and names as the language writes them", {
  say <- core("say")
  message_of <- core("message_of")
  found <- message_of("composites_found", composites = 1, steps = message_of("composites_steps", steps = 1200))
  expect_equal(say(found), "1 composite, weights found in 1,200 steps.")
  expect_equal(say(found, "de"), "1 gewichtete Summe, Gewichte in 1.200 Schritten gefunden.")
  paths <- message_of("composites_paths", paths = list(message_of("path_and_size", from = "a{b}", to = "]c", size = -.305),
    message_of("path_and_size", from = "\u202bd", to = "e\"f", size = .5)))
  expect_equal(say(paths), "Paths away from zero: a{b} to ]c (-.30) and \u202bd to e\"f (.50).")
  expect_equal(say(paths, "de"), "Von null verschiedene Pfade: a{b} auf ]c (-0,30) und \u202bd auf e\"f (0,50).")
  many <- message_of("composites_ave_low", composites = letters[1:11])
  expect_equal(say(many), "AVE is below its bound for a, b, c, d, e, f, g and 4 more.")
  expect_equal(say(many, "de"), "Die DEV liegt unter ihrer Grenze bei a, b, c, d, e, f, g und 4 weitere.")
  expect_equal(say(list(message_of("rivals_misfit"), NULL, message_of("rivals_none"))),
    "None of them fits: the better one is not yet a good one. No comparison can be made: no structure may be believed.")
  # Nothing is lost where a code has no words.
  expect_equal(say(message_of("no_such_code", items = c("a", "b"), r = .5)), "no_such_code (items = a, b; r = 0.5)")
  expect_equal(say("A sentence."), "A sentence.")
})

test_that("all that is said of a result is a table, in the language asked for; a German report of it has no English words left", {
  survey <- sw_demo("plotholders")
  said <- tidy(sw_reliability(survey), "sentences")
  expect_equal(names(said), c("code", "place", "text"))
  expect_equal(said$text[said$place == "headline"], "Alpha: calm .719, craft .813, kinship .780 and stewardship .745.")
  expect_setequal(said$text[said$place == "note"], sw_reliability(survey)$notes)
  german <- tidy(sw_reliability(survey), "sentences", language = "de")
  expect_equal(german$code, said$code)
  expect_match(german$text[1], "Alpha: calm 0,719", fixed = TRUE)
  expect_error(tidy(sw_reliability(survey), "sentences", language = "xx"), class = "scalewort_error_input")
  held <- sw_confirm(survey, estimator = "ml", missing = "listwise")
  pair <- sw_confirm(survey, sw_add_pair(sw_structure(survey), "craft5", "craft6"), estimator = "ml", missing = "listwise")
  results <- list(sw_composites(survey, replicates = 20), sw_influence(held), sw_power(held), sw_bounds(held, replicates = 50),
    sw_compare(one = held, pair = pair), sw_band(sw_score(survey), groups = 2))
  for (result in results) {
    text <- tidy(result, "sentences", language = "de")
    own <- text$text[text$code != "recipe"]
    expect_false(any(grepl("\\b(the|of|with|without|are|cases|and|is|not|than)\\b", own)), info = paste(own, collapse = " "))
  }
})

test_that("no file below the ones that show holds an English sentence", {
  folder <- testthat::test_path("..", "..", "R")
  skip_if_not(dir.exists(folder), "Tests run away from the sources")
  # What tables hold is worded by `.terms`.
  terms <- names(core("words_of_language")("de")$.terms)
  files <- list.files(folder, "^(core|base|judge|result|read|codebook|source|survey|structure|verb)-.*[.]R$")
  found <- unlist(lapply(files, function(file) {
    texts <- character()
    walk <- function(e) {
      if (is.character(e)) texts <<- c(texts, e)
      if (is.call(e) || is.pairlist(e) || is.expression(e)) lapply(as.list(e), walk)
    }
    walk(parse(file.path(folder, file), keep.source = FALSE))
    sentences <- grep("^[A-Z].*[a-z]+ [a-z]+ [a-z]+.*[.?!]$", texts, value = TRUE)
    setdiff(sentences, terms)
  }))
  expect_equal(unname(found), character())
})

# Surveys of each kind: a test, waves, groups, weights, clusters, ordered answers, gaps, a pilot.
made_surveys <- function() {
  withr::local_seed(8)
  made <- function(n, options = 5, gaps = 0) {
    f <- matrix(rnorm(2 * n), n)
    x <- vapply(1:8, function(j) .7 * f[, 1 + (j > 4)] + rnorm(n), numeric(n))
    x[] <- if (options == 2) as.integer(x > .2) else findInterval(x, seq(-1.5, 1.5, length.out = options - 1)) + 1L
    x[matrix(runif(n * 8) < gaps, n)] <- NA
    data.frame(id = seq_len(n), `colnames<-`(x, paste0("q", 1:8)), site = sample(c("A", "B"), n, TRUE), w = runif(n, .5, 2), class = rep_len(1:24, n))
  }
  book <- function(options) {
    data.frame(item = paste0("q", 1:8), scale = rep(c("s", "t"), each = 4), lowest = if (options == 2) 0 else 1,
      highest = if (options == 2) 1 else options, direction = rep(c("forward", "reversed"), c(7, 1)))
  }
  one <- function(n, options = 5, gaps = 0, ...) sw_survey(made(n, options, gaps), book(options), id = "id", ...)
  first <- made(120, 5)
  list(test = sw_demo("plantcare"), waves = sw_survey(rbind(cbind(first, wave = 1), cbind(first, wave = 2)), book(5), id = "id", wave = "wave"),
    groups = one(200, 5, 0, group = "site"), weights = one(150, 5, 0, weight = "w"), clusters = one(240, 5, 0, cluster = "class"),
    ordered = one(200, 3), gaps = one(160, 5, .15), pilot = one(58, 2, .25))
}

test_that("what is said of eight made surveys in German has no English words, on figures and under tables either", {
  english <- "\\b(the|of|with|without|are|cases|and|is|not|than|by|from|no|each|their|its|were|for|too|factors|answers)\\b"
  in_german <- function(result) {
    said <- tidy(result, "sentences", language = "de")
    figure <- core("in_language")("de", tryCatch(autoplot(result), scalewort_error_input = function(e) NULL))
    below <- core("say")(core("table_note")(result), "de", "report")
    printed <- core("in_language")("de", core("summary_lines")(result))
    # Options are printed by the names that they are set by; code may go over two lines.
    printed <- printed[seq_len(max(grep("^Optionen: ", printed)) - 1)]
    printed <- strsplit(gsub("`[^`]*`", "", paste(printed, collapse = "\n")), "\n")[[1]]
    c(said$text, unlist(figure$labels[c("title", "subtitle", "caption", "alt")]), below, printed)
  }
  surveys <- made_surveys()
  for (kind in names(surveys)) {
    survey <- surveys[[kind]]
    one <- function(verb, ...) tryCatch(verb(survey, ...), scalewort_error = function(e) NULL)
    held <- one(sw_confirm)
    results <- list(one(sw_keying), one(sw_screen), one(sw_answering), one(sw_reliability), one(sw_factorability), one(sw_retention, replicates = 20),
      one(sw_explore, factors = 2, starts = 3), held, one(sw_option_curves), one(sw_score), if (!is.null(survey$group)) one(sw_dif),
      if (!is.null(survey$group)) one(sw_invariance), if (!is.null(survey$wave)) one(sw_invariance, across = "wave"),
      if (identical(held$about$status, "ok")) sw_validity(held, replicates = 20))
    results <- Filter(Negate(is.null), results)
    expect_gte(length(results), 8)
    for (result in results) {
      text <- gsub("`[^`]*`|\u201e[^\u201c]*\u201c", "", in_german(result))
      expect_equal(unname(text[grepl(english, text)]), character(), info = paste(kind, class(result)[1]))
    }
  }
})
