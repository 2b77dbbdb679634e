# The commands: name -> what it is about, its own options, an example, and a
# function(options, files) that returns an exit code.

command <- function(about, run, options = list(), example = "answers.csv --codebook codebook.csv", data = TRUE, most_files = 1) {
  list(about = about, run = run, options = options, example = example, data = data, most_files = most_files)
}

cli_commands <- function() {
  list(
    demo = command("Run the whole path on demo data and write it to a folder", cli_demo,
      list(opt("--out", "Folder to write to [default %default]", "demo-output", metavar = "FOLDER")),
      "--out demo-output", data = FALSE, most_files = 0
    ),
    screen = command("Screen items: who answered what, spread, item-rest correlations, flags", cli_screen,
      example = "--demo plotholders"
    ),
    reliability = command("Internal consistency of every subscale", cli_reliability,
      list(opt("--missing", "listwise or pairwise [default %default]", "listwise", metavar = "RULE")),
      "--demo plotholders"
    ),
    retention = command("How many factors", cli_retention,
      list(opt("--replicates", "Random matrices of the parallel analysis [default %default]", 1000, "integer")),
      "--demo plotholders"
    ),
    explore = command("Exploratory factor analysis", cli_explore, list(
      opt("--factors", "Number of factors", NULL, "integer"),
      opt("--rotation", "oblimin, promax, varimax or none [default %default]", "oblimin", metavar = "NAME"),
      opt("--multiplier", "n or bartlett [default %default]", "n", metavar = "NAME"),
      opt("--missing", "listwise or pairwise [default %default]", "listwise", metavar = "RULE")
    ), "--demo plotholders --factors 4"),
    confirm = command("Confirm a factor structure", cli_confirm, list(
      opt("--structure", "Structure in YAML; the codebook's subscales when not given", metavar = "FILE"),
      opt("--scaling", "variance or first [default %default]", "variance", metavar = "NAME")
    ), "--demo plotholders"),
    score = command("Score the subscales and write the data with the scores", cli_score, list(
      opt("--method", "mean, sum or mean,sum [default %default]", "mean", metavar = "NAMES"),
      opt("--at-least", "Share of a subscale's items that must be answered [default %default]", .8, "double")
    ), "--demo plotholders --out scored.csv"),
    report = command("Run the whole path and write a report", cli_report,
      list(opt("--title", "Title of the report", "From answers to scores")), "--demo plotholders --out report.html"
    )
  )
}

cli_screen <- function(options, files) cli_give(sw_screen(cli_survey(options, files)), options)

cli_reliability <- function(options, files) {
  cli_give(sw_reliability(cli_survey(options, files), missing = options$missing), options)
}

cli_retention <- function(options, files) {
  cli_give(sw_retention(cli_survey(options, files), replicates = options$replicates, seed = options$seed), options)
}

cli_explore <- function(options, files) {
  if (is.null(options$factors)) stop_usage("--factors NUMBER is needed; `scalewort retention` suggests one.")
  cli_give(sw_explore(cli_survey(options, files),
    factors = options$factors, rotation = options$rotation, multiplier = options$multiplier,
    missing = options$missing, seed = options$seed
  ), options)
}

cli_confirm <- function(options, files) {
  survey <- cli_survey(options, files)
  structure <- if (is.null(options$structure)) NULL else sw_structure(options$structure)
  cli_give(sw_confirm(survey, structure, scaling = options$scaling), options)
}

# With --out, the scored data; else the table of scores.
cli_score <- function(options, files) {
  scores <- sw_score(cli_survey(options, files), strsplit(options$method, ",")[[1]], options$at_least, options$overwrite)
  if (is.null(options$out)) {
    return(cli_give(scores, options))
  }
  sw_write(scores, options$out, table = options$table, overwrite = options$overwrite)
  if (!options$quiet) cli_say("Written: ", options$out)
  exit_codes[["done"]]
}

cli_report <- function(options, files) {
  out <- if (is.null(options$out)) "report.html" else options$out
  results <- whole_path(cli_survey(options, files), options$seed, progress = cli_progress(options))
  sw_report(results, out, title = options$title, overwrite = options$overwrite)
  if (!options$quiet) cli_say("Written: ", out)
  cli_exit(results$confirmation)
}

cli_progress <- function(options) function(step) if (!options$quiet) cli_say("\u2026 ", step)

cli_demo <- function(options, files) {
  folder <- options$out
  if (file.exists(folder) && !dir.exists(folder)) stop_file(paste0("This is a file, not a folder: ", folder))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  written <- write_demo(folder, options$seed, options$overwrite, cli_progress(options))
  cat("The whole path, from a file of answers to scores and a report:", paste0("  ", written), sep = "\n")
  cat("Open the report first:", file.path(folder, "report.html"), "\n")
  exit_codes[["done"]]
}
