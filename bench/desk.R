# The desk, without its page: a turned item against the verbs that must run again, a refit against its verb, opening against shiny.

desk_folder <- tempfile("desk-")
dir.create(desk_folder)
desk_survey <- local({
  steps <- as.data.frame(apply(sample_1000, 2, function(x) findInterval(x, c(-1.5, -.5, .5, 1.5)) + 1))
  sw_survey(steps, data.frame(item = names(steps), scale = rep(paste0("s", 1:5), each = 10), lowest = 1, highest = 5))
})
desk_plan <- core("survey_plan")(desk_survey, desk_folder)
desk <- core("new_desk")(desk_plan)
core("desk_results")(desk)
desk_words <- core("report_words")("en")$desk
turned <- 0
report("a turned item at the desk, 1,000 x 50", "sw_screen() and sw_keying()", ratio(function() {
  turned <<- turned + 1
  core("do_act")(list(act = "turn", items = list(paste0("i", turned))), desk, desk_words)
  core("desk_results")(desk)
}, function() {
  own <- sw_flip(desk_survey, "i1", reason = "bench")
  sw_screen(own)
  sw_keying(own)
}, rounds = 3), 1.5)

# A pair more each time: what comes before the structure is kept.
desk_structure <- sw_structure(desk_survey)
desk_store <- core("desk_store")(core("result_store")(desk_plan, "bench"), new.env(parent = emptyenv()))
pairs <- 0
refit <- function() {
  pairs <<- pairs + 1
  structure <- sw_add_pair(desk_structure, "i1", paste0("i", 1 + pairs))
  core("run_steps")(list(answers = desk_survey), list(exploration = FALSE, split = FALSE, structure = list(from = structure)),
    list(seed = 1, limits = sw_limits()), store = desk_store, only = "confirmation")
}
invisible(refit())
report("a refit of 50 items at the desk", "sw_confirm()", ratio(refit, function() sw_confirm(desk_survey, sw_add_pair(desk_structure, "i1", "i30")),
  rounds = 3), 1.5)

in_new_process <- function(code) function() system2(file.path(R.home("bin"), "Rscript"), c("-e", shQuote(code)), stdout = FALSE, stderr = FALSE)
opened <- sprintf("p <- scalewort:::demo_plan(\"plotholders\", tempfile()); d <- scalewort:::new_desk(p); f <- scalewort:::look_again(d); %s",
  "invisible(as.character(scalewort:::desk_sheet(d, f, scalewort:::desk_words(d))))")
report("opening the demo", "library(shiny) and loading", ratio(in_new_process(paste("library(shiny);", opened)),
  in_new_process("library(shiny); library(scalewort)"), rounds = 3), 3)
unlink(desk_folder, recursive = TRUE)
