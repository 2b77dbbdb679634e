# The commands: name -> what it is about, the verbs whose options it takes, an example, and a
# function(options, files) that returns an exit code. Its options stand in the table of options.

# verbs: by default the one of its name, where there is one; run: by default that verb on the survey.
command <- function(about, run = NULL, verbs = character(), example = "answers.csv --codebook codebook.csv", data = TRUE,
                    most_files = if (data) 50 else 1, folder = FALSE) {
  if (is.null(run)) run <- function(options, files) cli_give(cli_call(verbs[1], cli_survey(options, files), options), options)
  list(folder = folder, about = about, run = run, verbs = verbs, example = example, data = data, most_files = most_files)
}

cli_commands <- function() c(preparing_commands(), factor_commands(), finishing_commands())

# Bringing in, screening, reliability.
preparing_commands <- function() {
  list(
    demo = command("Run the whole path on demo data and write it to a folder", cli_demo, example = "--out demo-output", data = FALSE,
      most_files = 0, folder = TRUE),
    open = command("The whole job in a window of the browser, every decision a line of a plan", cli_open, example = "--demo plotholders",
      data = FALSE, folder = TRUE),
    start = command("Draft a codebook and a plan for a file of answers, to be edited", cli_start, example = "answers.csv", data = FALSE,
      most_files = 50, folder = TRUE),
    run = command("Do what a plan file says", cli_run, example = "plan.yml", data = FALSE),
    check = command("Check a plan file, and run nothing", cli_check, example = "plan.yml", data = FALSE),
    screen = command("Screen items: who answered what, spread, item-rest correlations, flags", verbs = "screen", example = "--demo plotholders"),
    keying = command("Does each item point the way the codebook says?", verbs = "keying", example = "--demo plotholders-draft"),
    answering = command("How people answered: careless, straight-lined, incomplete, extreme", verbs = "answering",
      example = "--demo plotholders --time seconds"),
    options = command("Who chooses which option, by score band", cli_options, "option_curves", "--demo plantcare"),
    dif = command("Does an item work the same in every group?", verbs = "dif", example = "--demo plantcare"),
    reliability = command("Internal consistency of every subscale", verbs = "reliability", example = "--demo plotholders")
  )
}

# Looking for factors.
factor_commands <- function() {
  list(
    factorability = command("Can these items be factored?", verbs = "factorability", example = "--demo plotholders"),
    retention = command("How many factors: several rules, and the fit of each number", verbs = "retention", example = "--demo plotholders"),
    explore = command("Exploratory factor analysis", cli_explore, "explore", "--demo plotholders --factors 4"),
    stability = command("Would other people give the same factors?", verbs = "stability", example = "--demo plotholders --factors 4"),
    split = command("Split the cases in halves, one to explore and one to confirm", cli_split, "split",
      "--demo plotholders --method matched --out halves", folder = TRUE)
  )
}

# Confirming, scoring, reporting.
finishing_commands <- function() {
  demo <- "--demo plotholders"
  list(
    confirm = command("Confirm a factor structure", cli_confirm, "confirm", demo),
    compare = command("Compare rival structures", cli_compare, "compare", "--demo plotholders --structures one.yml,four.yml"),
    invariance = command("Is it the same scale for every group or wave?", cli_invariance, "invariance",
      "--demo plotholders --by district"),
    validity = command("Convergent and discriminant validity of the factors", cli_validity, "validity", demo),
    composites = command("The same assessment where subscales are weighted composites", cli_composites, "composites",
      "--demo plotholders --leads calm=craft+kinship"),
    influence = command("Which cases move a confirmation", cli_influence, "influence", demo),
    bounds = command("What fit a true and a slightly wrong structure would have with as many cases", cli_bounds, "bounds", demo),
    power = command("How likely a confirmation is to see misfit, or a parameter, and the cases it needs", cli_power, "power", demo),
    score = command("Score the subscales and write the data with the scores", cli_score, c("score", "band"),
      "--demo plotholders --form t --interval --out scored.csv"),
    explain = command("One person's scores worked out step by step", cli_explain, "explain", "--demo plotholders --case P277"),
    simulate = command("Simulate answers from a structure", cli_simulate, "simulate", "--demo plotholders --n 300 --out simulated.csv"),
    report = command("Run the whole path and write a report: HTML, DOCX or Markdown", cli_report, "report", "--demo plotholders --out report.html"),
    completion = command("Completion for bash or zsh", cli_completion, example = "bash", data = FALSE),
    man = command("The manual page", cli_man, example = "| man -l -", data = FALSE, most_files = 0)
  )
}

cli_options <- function(options, files) {
  curves <- cli_call("option_curves", cli_survey(options, files), options)
  cli_beside(options$pages, options, function() curves)
  cli_give(curves, options)
}

cli_report <- function(options, files) {
  out <- if (is.null(options$out)) "report.html" else options$out
  for (one in out) check_report_form(one)
  check_place(out, options$overwrite)
  check_report_settings(list(language = options$language, theme = options$theme, reference = options$reference, digits = options$digits,
    checklist = options$checklist))
  results <- reading_in(options$language, whole_path(cli_survey(options, files), options$seed, progress = cli_progress(options)))
  sw_report(results, out, title = options$title, author = options$author, digits = options$digits, language = options$language,
    theme = options$theme, reference = options$reference, checklist = options$checklist, overwrite = options$overwrite)
  if (!options$quiet) cli_say("Written: ", out)
  cli_exit(results$confirmation)
}

cli_progress <- function(options) function(step) if (!options$quiet) cli_say("\u2026 ", step)

cli_demo <- function(options, files) {
  folder <- options$out
  if (file.exists(folder) && !dir.exists(folder)) stop_file(message_of("e_file_not_folder", folder = folder))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  written <- write_demo(folder, options$seed, options$overwrite, cli_progress(options))
  show_lines(c("The whole path is done, from a file of answers to scores and a report.",
    paste("Open the report first:", file.path(folder, "report.html")), "The same in a window of the browser: scalewort open --demo plotholders", "",
    paste0("  ", written)))
  exit_codes[["done"]]
}
