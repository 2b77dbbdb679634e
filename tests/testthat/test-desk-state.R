# The desk without a browser: its state, its engine, what an act does to the plan, what the server's parts show.

demo_desk <- function(..., folder = withr::local_tempdir(.local_envir = parent.frame())) {
  file.copy(system.file("extdata", c("plotholders.csv", "plotholders-draft-codebook.csv"), package = "scalewort"), folder)
  path <- file.path(folder, "plan.yml")
  writeLines(c("data: plotholders.csv", "codebook: plotholders-draft-codebook.csv", "id: id", "group: district", "answering: false", "dif: false",
    "stability: false", "retention: {replicates: 20}", "validity: {replicates: 20}", ...), path)
  core("new_desk")(path)
}

words_en <- core("desk_words")(list(raw = list()))
words_de <- core("desk_words")(list(raw = list(language = "de")))

test_that("an act is a decision in the plan's file; undo, redo and going back walk them; what is refused changes nothing", {
  desk <- demo_desk()
  act <- function(...) core("do_act")(list(...), desk, words_en)
  expect_equal(act(act = "undo"), list(said = NULL, changed = FALSE, stopped = FALSE))
  expect_equal(act(act = "turn", items = list("kin3"))$said, "kin3 turned. No reason was given: the record has a place for one.")
  expect_equal(desk$before[["alpha kinship"]], .329, tolerance = .01)
  expect_equal(desk$raw$decisions[[1]]$reason, "no reason given")
  act(act = "move", items = list("calm6"), to = "craft", reason = "it is about mornings")
  act(act = "control", step = "exploration", name = "rotation", value = "varimax")
  act(act = "control", step = "scores", name = "cuts", value = "2, 4")
  act(act = "control", step = "exploration", name = "factors", value = "3")
  expect_equal(core("decided_plan")(desk$raw)$exploration, list(rotation = "varimax", factors = 3L))
  expect_equal(unlist(core("decided_plan")(desk$raw)$scores$cuts), c(2, 4))
  again <- core("new_desk")(desk$path)
  expect_equal(core("decided_plan")(again$raw), core("decided_plan")(desk$raw))
  expect_equal(act(act = "control", step = "exploration", name = "rotation", value = "spin")$changed, FALSE)
  expect_match(act(act = "turn", items = list("nobody"))$said, "nobody")
  expect_match(act(act = "set", step = "exploration", name = "factors", value = "many")$said, "number")
  expect_equal(length(desk$raw$decisions), 5)
  act(act = "undo")
  act(act = "undo")
  expect_equal(length(core("read_plan")(desk$path, decided = FALSE)$undone), 2)
  folded <- as.character(core("undone_trials")(desk$raw$undone, words_en))
  expect_holds(folded, "<details id=\"undone\">")
  expect_holds(folded, core("decision_words")(desk$raw$undone[[2]], words_en))
  act(act = "redo")
  expect_equal(length(desk$raw$decisions), 4)
  act(act = "reason", index = 2, value = "read again")
  expect_equal(desk$raw$decisions[[2]]$reason, "read again")
  act(act = "back_to", index = 1)
  expect_equal(vapply(desk$raw$decisions, core("decision_words"), "", words = words_en), "kin3 turned")
  expect_equal(utils::read.csv(file.path(dirname(desk$path), "plotholders.csv")), utils::read.csv(system.file("extdata", "plotholders.csv",
    package = "scalewort")))
})

test_that("what is typed in a control is what a plan holds, and is shown as it was typed; in German each control has its help", {
  value <- core("control_value")
  expect_equal(value("scores", "norms", "district=north"), list(district = "north"))
  expect_equal(value("scores", "cuts", "calm_mean=2, calm_mean=4"), list(calm_mean = list(2, 4)))
  expect_equal(value("validity", "outside", "age=+,hours=-"), list(age = "+", hours = "-"))
  expect_equal(value("composites", "leads", "calm=craft+kinship"), list(calm = list("craft", "kinship")))
  expect_equal(value(NULL, "waves", "1"), list(1))
  expect_null(value("scores", "norms", " "))
  typed <- core("typed_value")
  expect_equal(typed(list(calm_mean = list(2, 4), craft_mean = 3)), "calm_mean=2+4, craft_mean=3")
  expect_equal(typed(list("z", "t")), "z, t")
  known <- names(core("words_of_language")("de")$.options_help)
  for (step in c(list(NULL), as.list(core("configured_steps")()))) {
    own <- unlist(lapply(core("control_entries")(step), function(entry) {
      c(entry$help, if (entry$kind == "choice" && entry$name != "language") unlist(entry$values))
    }))
    expect_length(setdiff(own, known), 0)
  }
})

test_that("quick steps come at once, the rest from the process behind; a run finds the same results and gives the same tables", {
  desk <- demo_desk()
  core("do_act")(list(act = "turn", items = list("kin3")), desk, words_en)
  found <- core("desk_results")(desk)
  expect_true(all(c("screening", "keying") %in% names(found$have)) && "confirmation" %in% found$pending)
  expect_equal(core("station_state")("confirmation", found, desk), "waits")
  core("start_work")(desk)
  withr::defer(core("stop_work")(desk))
  while (core("work_state")(desk) == "running") Sys.sleep(.2)
  found <- core("look_again")(desk)
  expect_equal(found$pending, character())
  expect_equal(core("station_state")("confirmation", found, desk), "answered")
  results <- sw_run(desk$path)
  manifest <- jsonlite::read_json(file.path(dirname(desk$path), "results", "manifest.json"))
  expect_setequal(vapply(Filter(function(one) !one$kept, manifest$steps), `[[`, "", "step"), core("light_steps"))
  for (step in c("keying", "reliability", "exploration", "confirmation", "scores")) {
    expect_identical(found$have[[step]]$tables, results[[step]]$tables, info = step)
  }
  core("do_act")(list(act = "amend", name = "loading", items = list("kin5"), to = "craft"), desk, words_en)
  stale <- core("look_again")(desk)
  expect_equal(core("station_state")("confirmation", stale, desk), "stale")
  utils::capture.output(core("desk_work")(desk$path))
  core("look_again")(desk)
  table <- core("decision_table")(desk$raw, desk$effects, words_en)
  expect_equal(table$what, c("kin3 turned", "kin5 on craft, too"))
  expect_match(table$effect[2], "CFI .970 \u2192 .986", fixed = TRUE)
  core("do_act")(list(act = "reason", index = 1, value = "read again"), desk, words_en)
  expect_equal(core("decision_table")(desk$raw, desk$effects, words_en)$effect, table$effect)
  # Two decisions at once: what the first of them changed is told, too.
  core("do_act")(list(act = "amend", name = "pair", items = list("craft5", "craft6")), desk, words_en)
  core("do_act")(list(act = "control", step = "exploration", name = "rotation", value = "varimax"), desk, words_en)
  utils::capture.output(core("desk_work")(desk$path))
  kept <- core("look_again")(desk)
  expect_equal(kept$pending, character())
  expect_match(core("decision_table")(desk$raw, desk$effects, words_en)$effect[3], "CFI .986 \u2192", fixed = TRUE)
})

test_that("the work behind can be stopped; what was finished stays, what is written is told, what fails is said", {
  desk <- demo_desk()
  core("start_work")(desk)
  expect_equal(core("work_state")(desk), "running")
  process <- desk$job
  core("stop_work")(desk)
  expect_false(process$is_alive())
  expect_equal(core("work_state")(desk), "done")
  expect_true("keying" %in% names(core("desk_results")(desk)$have))
  finish <- function() {
    core("start_work")(desk, write = TRUE)
    while ((state <- core("work_state")(desk)) == "running") Sys.sleep(.2)
    state
  }
  expect_equal(finish(), "done")
  expect_true(all(file.exists(desk$written)) && any(grepl("report.html$", desk$written)))
  writeLines("mine", grep("scores.csv$", desk$written, value = TRUE))
  expect_equal(finish(), "failed")
  expect_match(desk$trouble, "scores.csv")
})

test_that("the panel of a figure is where the picture has it", {
  data <- data.frame(x = 1:3, y = 1:3)
  plain <- ggplot2::ggplot(data, ggplot2::aes(x, y)) + ggplot2::geom_point(size = 6, colour = "red") + ggplot2::labs(y = "up\nand up")
  withr::local_dir(withr::local_tempdir())
  for (figure in list(plain, plain + ggplot2::coord_fixed())) {
    path <- core("save_figure")(figure, withr::local_tempfile(fileext = ".svg"), grDevices::svg)
    place <- core("panel_places")(figure)[[1]]
    svg <- readLines(path)
    size <- as.numeric(strsplit(sub('.*viewBox="0 0 ([0-9.]+ [0-9.]+)".*', "\\1", grep("viewBox", svg, value = TRUE)[1]), " ")[[1]])
    dots <- sub('.* d="([^"]*)".*', "\\1", grep("<path .*fill:rgb[(]100%,0%,0%[)]", svg, value = TRUE))
    middle <- t(vapply(regmatches(dots, gregexpr("[0-9.]+", dots)), function(numbers) {
      place <- matrix(as.numeric(numbers), 2)
      c(mean(range(place[1, ])), mean(range(place[2, ])))
    }, numeric(2)))
    expect_equal(nrow(middle), 3)
    expect_equal(unname(middle[, 1]) / size[1], place$left + (1:3 - place$low) / (place$high - place$low) * (place$right - place$left),
      tolerance = .01)
    expect_equal(unname(middle[, 2]) / size[2], place$top + (place$above - 1:3) / (place$above - place$below) * (place$bottom - place$top),
      tolerance = .01)
  }
  expect_false(file.exists("Rplots.pdf"))
})

test_that("a step that cannot be done says so in its place, and the others stand", {
  desk <- demo_desk("confirmation: {estimator: ordinal, missing: fiml}")
  utils::capture.output(core("desk_work")(desk$path))
  found <- core("desk_results")(desk)
  expect_match(core("say")(found$left_out[["confirmation"]]), "fiml")
  expect_s3_class(found$have$reliability, "sw_reliability")
  html <- as.character(core("desk_station")("confirmation", desk, found, words_en))
  expect_holds(html, "role=\"alert\"")
  for (step in core("desk_stations")) expect_holds(core("desk_station")(step, desk, found, words_en), "place-title")
  expect_error(sw_run(desk$path), "fiml", class = "scalewort_error_input")
})

test_that("stations, an item, a person, the record and the codebook show what results hold; words of the data are text only", {
  desk <- demo_desk()
  book <- file.path(dirname(desk$path), "plotholders-draft-codebook.csv")
  text <- sub("I keep to myself on the site.", "<img src=x onerror=alert(1)>", readLines(book), fixed = TRUE)
  writeLines(text, book)
  core("do_act")(list(act = "keep", items = list("calm6"), reason = "<b>so</b>"), desk, words_en)
  utils::capture.output(core("desk_work")(desk$path))
  found <- core("look_again")(desk)
  show <- function(place) as.character(core("desk_place")(place, desk, found, words_en))
  for (step in setdiff(names(found$have), c("answers", "survey", "split", "structure", "subscales"))) {
    expect_holds(show(step), core("escape_html")(core("report_words")("en")$questions[[class(found$have[[step]])[1]]]))
  }
  places <- c("keying", "item/kin3", "record", "codebook", "person/P902", "write")
  for (place in places) expect_false(grepl("<img src=x|<b>so", show(place)), info = place)
  expect_holds(show("keying"), "Turn kin3")
  expect_holds(show("item/kin5"), "Goes most with")
  expect_holds(show("item/none"), words_en$no_such_item)
  expect_match(show("person/P902"), "calm_mean", fixed = TRUE)
  expect_holds(show("record"), "calm6 kept")
  sheet <- as.character(core("desk_sheet")(desk, found, words_en))
  expect_false(grepl("<img src=x", sheet))
  expect_equal(lengths(regmatches(sheet, gregexpr("role=\"option\"", sheet))), 22)
  german <- core("in_language")("de", as.character(core("desk_sheet")(desk, found, words_de)))
  expect_match(german, "<rect x=\"12[.]00\" y=\"[0-9.]+\" width=\"11[.]00\" height=\"[0-9.]+\"/>")
  expect_match(german, "Umpolen")
  expect_match(german, "niedrige Item-Rest-Korrelation; Polung", fixed = TRUE)
  expect_equal(core("decision_words")(list(do = "move", items = list("a", "b"), to = "craft"), words_de), "a und b nach craft verschoben")
})

test_that("a codebook with faults is not written, and each fault stands in its cell", {
  desk <- demo_desk()
  path <- file.path(dirname(desk$path), "plotholders-draft-codebook.csv")
  before <- readLines(path)
  said <- core("save_codebook")(desk, list(list(row = 2, field = "lowest", value = "9"), list(row = 3, field = "direction", value = "sideways")))
  expect_match(said, "fault")
  expect_equal(readLines(path), before)
  html <- as.character(core("desk_codebook")(desk, words_en))
  expect_holds(html, "<td class=\"lowest wrong\">")
  expect_holds(html, "sideways")
  expect_null(core("save_codebook")(desk, list(list(row = 1, field = "wording", value = "After an hour I feel calm."))))
  expect_equal(sw_codebook(path)$items$wording[1], "After an hour I feel calm.")
})

test_that("a fault carries its place, and an answer that does not fit stands with its item, whatever row of the data it is in", {
  wrong <- tryCatch(sw_codebook(data.frame(item = c("a", "b"), lowest = c(1, 5), highest = c(5, 1))), scalewort_error = identity)
  expect_equal(wrong$places[c("of", "row", "field")], data.frame(of = "codebook", row = 2L, field = "lowest"))
  expect_equal(wrong$faults, "row 2: lowest 5 is not below highest 1")
  survey <- sw_demo("plotholders")
  data <- as.data.frame(survey$data)
  data$craft1[3] <- 7
  wrong <- tryCatch(sw_survey(data, survey$codebook, find_codes = FALSE), scalewort_error = identity)
  expect_equal(wrong$places[c("of", "row", "item", "field")], data.frame(of = "answers", row = 3L, item = "craft1", field = "highest"))
  table <- core("codebook_cells")(survey$codebook)
  html <- as.character(core("codebook_form")(table, wrong$places, words_en))
  expect_equal(lengths(regmatches(html, gregexpr("class=\"fault\"", html, fixed = TRUE))), 1)
  expect_holds(html, "row 3, craft1: 7 is outside 1 to 5")
  plan <- withr::local_tempfile(lines = c("data: a.csv", "codebook: b.csv", "seed: x"), fileext = ".yml")
  expect_equal(tryCatch(core("read_plan")(plan), scalewort_error = identity)$places$line, 3L)
})

test_that("guesses are asked above the codebook; yes takes the mark away and makes no new work, an order is written, the rest stays a guess", {
  folder <- withr::local_tempdir()
  set.seed(7)
  feeling <- rnorm(140)
  five <- function(sign) pmin(5, pmax(1, round(3 + sign * .8 * feeling + rnorm(140, 0, .7))))
  light <- function() c("murky", "dim", "bright", "blazing")[pmin(4, pmax(1, round(2.5 + .9 * feeling + rnorm(140, 0, .6))))]
  file <- file.path(folder, "lamp.csv")
  utils::write.csv(data.frame(code = sprintf("P%03d", 1:140), site = rep(c("north", "south"), 70), calm1 = five(1), calm2 = five(1), calm3 = five(-1),
    calm4 = five(1), sky1 = light(), sky2 = light(), sky3 = light()), file, row.names = FALSE)
  desk <- core("desk_app")(core("plan_to_open")(file, folder), folder)$desk
  expect_true(normalizePath(desk$path) %in% core("opened_last")())
  page <- function() as.character(core("desk_codebook")(desk, words_en))
  cells <- function() core("codebook_cells")(core("book_of_plan")(desk))
  marks <- function() stats::setNames(cells()$guessed, cells()$item)
  asked <- c("Is calm3 worded against the others", "Is site what groups are compared by", "Do the answers of sky1 to sky3 .* from low to high")
  for (text in asked) expect_match(page(), text)
  key <- core("desk_ready")(desk)$store$key

  act <- function(...) core("do_act")(list(...), desk, words_en)
  expect_false(act(act = "settle", items = list("calm3"), fields = list("direction"))$changed)
  expect_no_match(page(), asked[1])
  expect_no_match(marks()[["calm3"]], "direction")
  expect_match(marks()[["calm4"]], "direction")
  expect_equal(core("desk_ready")(desk)$store$key, key)
  act(act = "settle", items = list(), fields = list(), name = "group")
  expect_no_match(page(), asked[2])
  expect_true(act(act = "order", items = list("sky1", "sky2", "sky3"), words = list("murky", "dim; bright", "blazing"))$changed)
  expect_equal(unique(cells()$labels[7:9]), "1 = murky; 2 = bright; 2 = dim; 3 = blazing")
  expect_equal(unique(cells()$highest[7:9]), "3")
  expect_no_match(page(), asked[3])
  expect_false(identical(core("desk_ready")(desk)$store$key, key))

  # What is saved without a change is as much of a guess as before.
  expect_null(core("save_codebook")(desk, list(list(row = 3, field = "direction", value = "forward"), list(row = 3, field = "highest", value = "6"))))
  expect_match(marks()[["calm1"]], "lowest.*direction")
  expect_no_match(marks()[["calm1"]], "highest")
  expect_error(act(act = "open", name = "/etc/passwd"), class = "scalewort_error_input")
})

test_that("a codebook in any form is shown and saved in that form, and what a person made by hand leaves a copy", {
  table <- utils::read.csv(system.file("extdata", "plotholders-draft-codebook.csv", package = "scalewort"), colClasses = "character")
  for (form in c("yml", "xlsx", "csv")) {
    desk <- demo_desk()
    path <- file.path(dirname(desk$path), paste0("book.", form))
    if (form == "yml") writeLines(yaml::as.yaml(list(items = lapply(seq_len(nrow(table)), function(i) Filter(nzchar, as.list(table[i, ]))))), path)
    if (form == "xlsx") openxlsx::write.xlsx(table, path)
    if (form == "csv") utils::write.csv2(table, path, row.names = FALSE)
    plan <- readLines(desk$path)
    writeLines(sub("plotholders-draft-codebook.csv", basename(path), plan), desk$path)
    desk <- core("new_desk")(desk$path)
    before <- sw_codebook(path)$items
    expect_holds(as.character(core("desk_codebook")(desk, words_en)), "I keep to myself on the site")
    expect_null(core("save_codebook")(desk, list(list(row = 1, field = "wording", value = "After an hour \u2026"))), info = form)
    after <- sw_codebook(path)$items
    expect_equal(after$wording[1], "After an hour \u2026")
    expect_equal(after[-1, setdiff(names(after), "guessed")], before[-1, setdiff(names(before), "guessed")], info = form)
    expect_equal(file.exists(sub("[.]", "-before.", path)), form != "csv")
  }
})

test_that("only who has the token gets the page; a second window is told so", {
  desk <- demo_desk()
  app <- core("desk_app")(desk$path, token = "secret")
  ask <- function(query) app$app$httpHandler(list(PATH_INFO = "/", REQUEST_METHOD = "GET", QUERY_STRING = query, HTTP_HOST = "127.0.0.1"))
  expect_equal(ask("")$status, 403L)
  expect_equal(ask("?token=secreT")$status, 403L)
  expect_equal(ask("?token=secret")$status, 200L)
  expect_equal(nchar(core("new_token")()), 32)
  expect_false(core("new_token")() == core("new_token")())
  withr::with_seed(1, one <- core("new_token")())
  withr::with_seed(1, expect_false(core("new_token")() == one))
  server <- core("desk_server")(app$desk, "secret")
  shiny::testServer(server, {
    expect_null(app$desk$session)
  })
  app$desk$session <- "another"
  shiny::testServer(function(input, output, session) core("second_window")(input, output, session, app$desk, words_en), {
    expect_holds(output$head$html, words_en$open_elsewhere)
  })
})

test_that("the server's parts follow an act: sheet, head and place", {
  desk <- demo_desk("exploration: false", "confirmation: false", "invariance: false")
  shiny::testServer(function(input, output, session) core("serve_desk")(input, output, session, desk, 50), {
    session$setInputs(place = "keying")
    session$flushReact()
    expect_holds(output$sheet$html, "alpha .329")
    session$setInputs(act = list(act = "turn", items = list("kin3")))
    session$elapse(100)
    expect_holds(output$sheet$html, "alpha .329 \u2192 .780")
    expect_holds(output$head$html, "Record (1)")
    expect_holds(output$place$html, "Does each item point the way the codebook says?")
    session$setInputs(place = "beside/none")
    session$elapse(100)
    expect_holds(output$place$html, "role=\"alert\"")
    session$setInputs(place = "record")
    session$elapse(100)
    expect_holds(output$place$html, "kin3 turned")
    # Each station by its question, whatever state it is in.
    for (step in core("desk_stations")) {
      session$setInputs(place = step)
      session$elapse(100)
      question <- words_en$all$questions[[core("station_classes")[[step]]]]
      expect_holds(output$place$html, htmltools::htmlEscape(question))
    }
    core("stop_work")(desk)
  })
})

test_that("a survey, a file and the demo are opened by a plan beside them; one that is there is taken", {
  folder <- withr::local_tempdir()
  plan <- core("plan_to_open")(sw_demo("plotholders"), file.path(folder, "mine"))
  read <- core("new_desk")(plan)
  expect_equal(core("desk_figures")(core("desk_results")(read)$have)[["alpha craft"]], sw_reliability(sw_demo("plotholders"))$tables$scales$alpha[2])
  file.copy(system.file("extdata", "plotholders.csv", package = "scalewort"), folder)
  drafted <- core("plan_to_open")(file.path(folder, "plotholders.csv"), folder)
  expect_equal(basename(drafted), "plotholders-plan.yml")
  before <- readLines(drafted)
  expect_equal(core("plan_to_open")(file.path(folder, "plotholders.csv"), folder), drafted, ignore_attr = TRUE)
  expect_equal(readLines(drafted), before)
  expect_equal(core("demo_plan")("plantcare", folder), file.path(folder, "plantcare-plan.yml"))
  expect_equal(core("plan_to_open")(sw_demo("plotholders"), file.path(folder, "mine")), plan)
  expect_error(core("plan_to_open")(sw_demo("plantcare"), file.path(folder, "mine")), "other answers", class = "scalewort_error_file")
  expect_error(core("plan_to_open")(file.path(folder, "none.csv"), folder), class = "scalewort_error_file")
  expect_error(sw_open(file.path(folder, "none.yml")), class = "scalewort_error_file")
})

test_that("two desks on one plan lose nothing of each other, and what is refused is not left behind", {
  desk <- demo_desk()
  other <- core("new_desk")(desk$path)
  act <- function(desk, ...) core("do_act")(list(...), desk, words_en)
  act(desk, act = "turn", items = list("kin3"), reason = "a")
  said <- act(other, act = "set_aside", items = list("calm6"), reason = "b")
  expect_match(said$said, "changed elsewhere, and was read again")
  kept <- core("read_plan")(desk$path, decided = FALSE)
  expect_equal(vapply(kept$decisions, `[[`, "", "do"), c("turn", "set_aside"))
  # An editor's change of another key is kept, and a step back waits for a look.
  writeLines(c(readLines(desk$path), "seed: 77"), desk$path)
  undone <- act(other, act = "undo")
  expect_match(undone$said, "look, then do this once more")
  expect_equal(other$raw$seed, 77)
  expect_length(core("read_plan")(desk$path, decided = FALSE)$decisions, 2)
  act(other, act = "back_to", index = -3)
  expect_length(other$raw$decisions, 0)
  act(other, act = "control", step = "plan", name = "language", value = "de")
  expect_equal(core("desk_language")(other), "de")
  folder <- withr::local_tempdir()
  bare <- new.env()
  bare$folder <- folder
  broken <- withr::local_tempfile(lines = "")
  expect_type(core("bring_in")(bare, broken, "x.csv"), "character")
  expect_equal(list.files(folder), character())
})

test_that("only the page with the token is answered, whatever is asked", {
  expect_true(core("has_token")("?token=abc", "abc"))
  for (query in list(NULL, "", "?token=abd", "?token=%00", "?token=%ff")) expect_false(core("has_token")(query, "abc"))
  own <- function(origin) core("is_own_page")(list(HTTP_ORIGIN = origin, HTTP_HOST = "127.0.0.1:4000"))
  expect_true(own("http://127.0.0.1:4000"))
  expect_true(own(NULL))
  for (origin in c("http://evil.example", "http://127.0.0.1:4001", "null")) expect_false(own(origin))
  expect_equal(core("visible_directions")("a\u202eb\u2066"), "a\\u202eb\\u2066")
})

test_that("two numbers of factors are compared after naming, and what is not possible says why", {
  desk <- demo_desk()
  act <- function(...) core("do_act")(list(...), desk, words_en)
  act(act = "set", step = "exploration", name = "factors", value = 4)
  act(act = "control", step = "exploration", name = "names", value = "a, b, c, d")
  found <- core("look_again")(desk)
  page <- function(numbers) as.character(core("desk_beside")(numbers, desk, found, words_en))
  expect_false(grepl("Not possible", page(3:4)))
  expect_match(page(c(3L, 19L)), "Not possible: `factors` must be a whole number from 1 to")
  act(act = "set", step = "exploration", name = "factors", value = 3)
  expect_null(core("decided_plan")(desk$raw)$exploration$names)
})
