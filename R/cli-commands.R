# The commands: name -> the verbs whose options it takes, an example, and a function(options, files) that returns an exit code. Its options stand
# in the table of options, what it is about in the catalogue of words (.commands).

# verbs: by default the one of its name, where there is one; run: by default that verb on the survey.
command <- function(run = NULL, verbs = character(), example = "answers.csv --codebook codebook.csv", data = TRUE,
                    most_files = if (data) 50 else 1, folder = FALSE) {
  if (is.null(run)) run <- function(options, files) cli_give(cli_call(verbs[1], cli_survey(options, files), options), options)
  list(folder = folder, run = run, verbs = verbs, example = example, data = data, most_files = most_files)
}

cli_commands <- function() c(preparing_commands(), factor_commands(), finishing_commands())

# Bringing in, screening, reliability.
preparing_commands <- function() {
  list(
    demo = command(cli_demo, example = "--out demo-output", data = FALSE, most_files = 0, folder = TRUE),
    open = command(cli_open, example = "--demo plotholders", data = FALSE, folder = TRUE),
    start = command(cli_start, example = "answers.csv", data = FALSE, most_files = 50, folder = TRUE),
    run = command(cli_run, example = "plan.yml", data = FALSE), check = command(cli_check, example = "plan.yml", data = FALSE),
    screen = command(verbs = "screen", example = "--demo plotholders"),
    keying = command(verbs = "keying", example = "--demo plotholders-draft"),
    answering = command(verbs = "answering", example = "--demo plotholders --time seconds"),
    options = command(cli_options, "option_curves", "--demo plantcare"), dif = command(verbs = "dif", example = "--demo plantcare"),
    reliability = command(verbs = "reliability", example = "--demo plotholders")
  )
}

# Looking for factors.
factor_commands <- function() {
  list(
    factorability = command(verbs = "factorability", example = "--demo plotholders"),
    retention = command(verbs = "retention", example = "--demo plotholders"),
    explore = command(cli_explore, "explore", "--demo plotholders --factors 4"),
    stability = command(verbs = "stability", example = "--demo plotholders --factors 4"),
    split = command(cli_split, "split", "--demo plotholders --method matched --out halves", folder = TRUE)
  )
}

# Confirming, scoring, reporting.
finishing_commands <- function() {
  demo <- "--demo plotholders"
  list(
    confirm = command(cli_confirm, "confirm", demo), compare = command(cli_compare, "compare", "--demo plotholders --structures one.yml,four.yml"),
    invariance = command(cli_invariance, "invariance", "--demo plotholders --by district"),
    validity = command(cli_validity, "validity", demo),
    composites = command(cli_composites, "composites", "--demo plotholders --leads calm=craft+kinship"),
    influence = command(cli_influence, "influence", demo), bounds = command(cli_bounds, "bounds", demo),
    power = command(cli_power, "power", demo),
    score = command(cli_score, c("score", "band"), "--demo plotholders --form t --interval --out scored.csv"),
    explain = command(cli_explain, "explain", "--demo plotholders --case P277"),
    simulate = command(cli_simulate, "simulate", "--demo plotholders --n 300 --out simulated.csv"),
    report = command(cli_report, "report", "--demo plotholders --out report.html"),
    completion = command(cli_completion, example = "bash", data = FALSE),
    man = command(cli_man, example = "| man -l -", data = FALSE, most_files = 0)
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
  language <- reading_language()
  check_report_settings(list(language = language, theme = options$theme, reference = options$reference, digits = options$digits,
    checklist = options$checklist))
  results <- whole_path(cli_survey(options, files), options$seed, progress = cli_progress(options))
  sw_report(results, out, title = options$title, author = options$author, digits = options$digits, language = language,
    theme = options$theme, reference = options$reference, checklist = options$checklist, overwrite = options$overwrite)
  cli_wrote(out, options)
  cli_exit(results$confirmation)
}

cli_progress <- function(options) function(step) if (!options$quiet) cli_say("\u2026 ", step)

cli_demo <- function(options, files) {
  folder <- options$out
  if (file.exists(folder) && !dir.exists(folder)) stop_file(message_of("e_file_not_folder", folder = folder))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  written <- write_demo(folder, options$seed, options$overwrite, cli_progress(options))
  show_lines(c(worded("cli_demo_done"), worded("cli_report_first", path = file.path(folder, "report.html")), worded("cli_demo_page"), "",
    paste0("  ", written)))
  exit_codes[["done"]]
}
