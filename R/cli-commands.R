# The commands: name -> what it is about, its own options, an example, and a
# function(options, files) that returns an exit code.

command <- function(about, run, options = list(), example = "answers.csv --codebook codebook.csv", data = TRUE, most_files = 1, folder = FALSE) {
  list(folder = folder, about = about, run = run, options = options, example = example, data = data, most_files = most_files)
}

cli_commands <- function() c(preparing_commands(), factor_commands(), finishing_commands())

# Bringing in, screening, reliability.
preparing_commands <- function() {
  list(
    demo = command("Run the whole path on demo data and write it to a folder", cli_demo,
      list(opt("--out", "Folder to write to [default %default]", "demo-output", metavar = "FOLDER")),
      "--out demo-output", data = FALSE, most_files = 0, folder = TRUE
    ),
    start = command("Draft a codebook and a plan for a file of answers, to be edited", cli_start,
      list(opt("--out", "Folder to write to; the file's own when not given", metavar = "FOLDER")), "answers.csv", data = FALSE, folder = TRUE
    ),
    run = command("Do what a plan file says", cli_run, list(), "plan.yml", data = FALSE),
    check = command("Check a plan file, and run nothing", cli_check, list(), "plan.yml", data = FALSE),
    screen = command("Screen items: who answered what, spread, item-rest correlations, flags", cli_screen,
      list(opt("--order", "codebook or easiness [default %default]", "codebook", metavar = "NAME")),
      example = "--demo plotholders"
    ),
    keying = command("Does each item point the way the codebook says?", cli_keying, example = "--demo plotholders-draft"),
    answering = command("How people answered: careless, straight-lined, incomplete, extreme", cli_answering, list(
      opt("--time", "Columns of seconds spent, separated by commas", metavar = "COLUMNS"),
      switch_option("--robust", "Robust Mahalanobis distances")
    ), "--demo plotholders --time seconds"),
    options = command("Who chooses which option, by score band", cli_options, list(
      opt("--bands", "Number of score bands [default %default]", 3, "integer"),
      opt("--score", "total or rest [default %default]", "total", metavar = "NAME"),
      opt("--pages", "Write a PDF with a page per item", metavar = "FILE")
    ), "--demo plantcare"),
    dif = command("Does an item work the same in every group?", cli_dif, list(
      opt("--by", "Column of groups; the survey's group when not given", metavar = "COLUMN"),
      opt("--reference", "Reference group; the largest when not given", metavar = "NAME"),
      opt("--adjust", "BH, holm or none [default %default]", "BH", metavar = "NAME")
    ), "--demo plantcare"),
    reliability = command("Internal consistency of every subscale", cli_reliability,
      list(
        opt("--missing", "listwise, pairwise or em [default %default]", "listwise", metavar = "RULE"),
        opt("--interval", "feldt, bonett, percentile or bca [default %default]", "feldt", metavar = "NAME"),
        opt("--replicates", "Resamples behind percentile and bca intervals [default %default]", 2000, "integer"),
        opt("--level", "Level of the intervals [default %default]", .95, "double"),
        opt("--scale", "Only these subscales, separated by commas", metavar = "NAMES"),
        opt("--target", "Reliability to be reached: adds tables lengthen and short_forms", NULL, "double"),
        opt("--by", "Column of groups to compare: adds table compare", metavar = "COLUMN"),
        opt("--weights", "Weights of the subscales in a sum: calm=2,craft=1", metavar = "WEIGHTS")
      ),
      "--demo plotholders"
    )
  )
}

# Looking for factors.
factor_commands <- function() {
  list(
    factorability = command("Can these items be factored?", cli_factorability, c(
      list(opt("--factors", "Number of factors in mind, for cases per parameter [default %default]", 1, "integer")), factor_data_options()
    ), "--demo plotholders"),
    retention = command("How many factors: several rules, and the fit of each number", cli_retention, c(
      list(
        opt("--replicates", "Random matrices of the parallel analysis [default %default]", 1000, "integer"),
        opt("--percentile", "Percentile of random eigenvalues to be beaten [default %default]", .95, "double"),
        opt("--against", "percentile or mean of the random eigenvalues [default %default]", "percentile", metavar = "NAME"),
        opt("--draws", "normal or shuffled [default %default]", "normal", metavar = "NAME"),
        switch_option("--comparison", "Also comparison data (takes some seconds)"),
        opt("--most", "Largest number of factors fitted", NULL, "integer"),
        switch_option("--smooth", "Smooth a matrix that is not positive definite")
      ), factor_data_options()
    ), "--demo plotholders"),
    explore = command("Exploratory factor analysis", cli_explore, explore_options(), "--demo plotholders --factors 4"),
    stability = command("Would other people give the same factors?", cli_stability, c(
      list(opt("--factors", "Number of factors", NULL, "integer"), opt("--halves", "Number of random splits [default %default]", 100, "integer"),
        opt("--by", "Column of groups to compare", metavar = "COLUMN")), rotation_options(), factor_data_options()[-2]
    ), "--demo plotholders --factors 4"),
    split = command("Split the cases in halves, one to explore and one to confirm", cli_split, list(
      opt("--share", "Share of the first half [default %default]", .5, "double"),
      opt("--method", "random, stratified or matched [default %default]", "random", metavar = "NAME"),
      opt("--by", "Column of groups kept in proportion", metavar = "COLUMN"),
      opt("--tries", "Splits looked at for matched [default %default]", 200, "integer")
    ), "--demo plotholders --method matched --out halves", folder = TRUE)
  )
}

structure_option <- function() {
  opt("--structure", "Structure in YAML, or a saved exploration (.rds, with --trust); the codebook's subscales when not given", metavar = "FILE")
}
cutoff_option <- function() opt("--cutoff", "Smallest loading that counts in a saved exploration [default %default]", .4, "double")

# Confirming, scoring, reporting.
finishing_commands <- function() {
  list(
    confirm = command("Confirm a factor structure", cli_confirm, list(
      structure_option(), cutoff_option(),
      opt("--estimator", "ml, robust, ordinal, ordinal_uls, gls or uls [default %default]", "ml", metavar = "NAME"),
      opt("--missing", "listwise, or fiml: everyone who answered anything; fiml where ml meets gaps, when not given", metavar = "RULE"),
      opt("--scaling", "variance, first or effects [default %default]", "variance", metavar = "NAME"),
      opt("--improper", "keep, bound or refuse negative variances [default %default]", "keep", metavar = "NAME"),
      opt("--weights", "Column of sampling weights (robust)", metavar = "COLUMN"),
      opt("--cluster", "Column of clusters (robust)", metavar = "COLUMN"),
      opt("--level", "Level of intervals [default %default]", .95, "double"),
      opt("--drop", "Items to drop one after the other, separated by commas", metavar = "ITEMS"),
      opt("--reason", "Why they are dropped", metavar = "TEXT"),
      opt("--diagram", "Write a figure to this PNG, SVG or PDF", metavar = "FILE"),
      opt("--figure", "Which: paths, residuals, fit, loadings or modifications [default %default]", "paths", metavar = "NAME"),
      opt("--scores", "Write the data with factor scores to this CSV", metavar = "FILE"),
      opt("--score-kind", "regression, bartlett or tenberge [default %default]", "regression", metavar = "NAME")
    ), "--demo plotholders"),
    compare = command("Compare rival structures", cli_compare, list(
      opt("--structures", "Structures in YAML, two or more, separated by commas", metavar = "FILES"),
      opt("--estimator", "ml, robust, ordinal, ordinal_uls, gls or uls [default %default]", "ml", metavar = "NAME")
    ), "--demo plotholders --structures one.yml,four.yml"),
    invariance = command("Is it the same scale for every group or wave?", cli_invariance, list(
      structure_option(), cutoff_option(), opt("--by", "Column of groups; several, separated by commas, are crossed", metavar = "COLUMNS"),
      opt("--across", "Column of waves", metavar = "COLUMN"),
      opt("--steps", "Steps, separated by commas; by default all but equal variances, covariances, means", metavar = "NAMES"),
      opt("--estimator", "ml, robust or ordinal [default %default]", "ml", metavar = "NAME"),
      switch_option("--align", "Align the means of groups where intercepts differ"),
      opt("--missing", "listwise, fiml or (ordinal) pairwise; when not given, everyone stays in", metavar = "RULE"),
      switch_option("--free", "Lift equalities one by one until a step holds"),
      opt("--free-thresholds", "Items whose thresholds may differ (ordinal)", metavar = "ITEMS"),
      opt("--free-loadings", "Items whose loadings may differ", metavar = "ITEMS"),
      opt("--free-intercepts", "Items whose intercepts may differ", metavar = "ITEMS"),
      opt("--free-residuals", "Items whose residual variances may differ", metavar = "ITEMS"),
      opt("--diagram", "Write a figure to this PNG, SVG or PDF", metavar = "FILE"),
      opt("--figure", "Which: steps, means, parameters, item or paths [default %default]", "steps", metavar = "NAME")
    ), "--demo plotholders --by district"),
    validity = command("Convergent and discriminant validity of the factors", cli_validity, list(
      structure_option(), cutoff_option(), opt("--estimator", "ml, robust, ordinal, ordinal_uls, gls or uls [default %default]", "ml",
        metavar = "NAME"),
      opt("--replicates", "Resamples behind intervals of HTMT [default %default]", 1000, "integer"),
      switch_option("--geometric", "Geometric means in HTMT"), opt("--level", "Level of its intervals [default %default]", .95, "double"),
      opt("--outside", "Outside variables with expected signs: age=+,hours=-", metavar = "LIST"),
      switch_option("--corrected", "Correct those correlations for unreliability")
    ), "--demo plotholders"),
    composites = command("The same assessment where subscales are weighted composites", cli_composites, list(
      structure_option(), cutoff_option(), opt("--mode", "A or B, or by composite: calm=A,craft=B [default %default]", "A", metavar = "MODES"),
      opt("--leads", "Which lead to which: calm=craft+kinship", metavar = "LIST"),
      opt("--scheme", "path, factor or centroid [default %default]", "path", metavar = "NAME"),
      switch_option("--consistent", "Correct for unreliability by rho_A"), opt("--replicates", "Resamples behind intervals [default %default]",
        500, "integer"),
      opt("--level", "Level of the intervals [default %default]", .95, "double"), opt("--scores", "Write the data with scores to this CSV",
        metavar = "FILE")
    ), "--demo plotholders --leads calm=craft+kinship"),
    influence = command("Which cases move a confirmation", cli_influence, list(
      structure_option(), cutoff_option(), opt("--estimator", "ml or robust [default %default]", "ml", metavar = "NAME"),
      opt("--worst", "How many of them to leave out in turn [default %default]", 10, "integer")
    ), "--demo plotholders"),
    power = command("How likely a confirmation is to see misfit, or a parameter, and the cases it needs", cli_power, list(
      structure_option(), cutoff_option(), opt("--df", "Degrees of freedom, in place of a structure", NULL, "double"),
      opt("--n", "Numbers of cases, separated by commas [default %default]", "100,200,300,500,1000", metavar = "NUMBERS"),
      opt("--power", "The power wished [default %default]", .8, "double"), opt("--level", "Level of the tests [default %default]", .05, "double"),
      opt("--parameter", "What the parameter joins, by comma: calm1,calm", metavar = "NAMES"),
      opt("--loading", "True standardised loadings [default %default]", .7, "double"),
      opt("--correlation", "True correlations of factors [default %default]", .3, "double"),
      opt("--replicates", "Simulated samples [default %default]", 500, "integer")
    ), "--demo plotholders"),
    score = score_command(), explain = explain_command(), simulate = simulate_command(),
    report = command("Run the whole path and write a report: HTML, DOCX or Markdown", cli_report, list(
      opt("--title", "Title of the report", "From answers to scores"), opt("--author", "Its author", ""),
      opt("--language", "Of headings, captions and columns: en or de [default %default]", "en", metavar = "NAME"),
      opt("--theme", "auto, light or dark [default %default]", "auto", metavar = "NAME"),
      opt("--reference", "A DOCX whose styles are taken", metavar = "FILE")
    ), "--demo plotholders --out report.html"),
    completion = command("Completion for bash or zsh", cli_completion, list(), "bash", data = FALSE),
    man = command("The manual page", cli_man, list(), "| man -l -", data = FALSE, most_files = 0)
  )
}

cli_screen <- function(options, files) cli_give(sw_screen(cli_survey(options, files), order = options$order), options)

cli_keying <- function(options, files) cli_give(sw_keying(cli_survey(options, files)), options)

cli_answering <- function(options, files) {
  cli_give(sw_answering(cli_survey(options, files), time = cli_names(options$time), robust = options$robust), options)
}

cli_options <- function(options, files) {
  curves <- sw_option_curves(cli_survey(options, files), bands = options$bands, score = options$score)
  if (!is.null(options$pages)) {
    sw_write(curves, options$pages, overwrite = options$overwrite)
    if (!options$quiet) cli_say("Written: ", options$pages)
  }
  cli_give(curves, options)
}

cli_dif <- function(options, files) {
  cli_give(sw_dif(cli_survey(options, files), by = options$by, reference = options$reference, adjust = options$adjust), options)
}

# Writes <name>-codebook.csv and <name>-plan.yml beside the file.
cli_reliability <- function(options, files) {
  survey <- cli_survey(options, files)
  if (!is.null(options$scale)) survey <- sw_keep(survey, items = cli_names(options$scale), reason = "subscales asked for")
  cli_give(sw_reliability(survey,
    missing = options$missing, interval = options$interval, level = options$level, replicates = options$replicates,
    target = options$target, by = options$by, weights = cli_numbers(options$weights, "--weights"), seed = options$seed
  ), options)
}

cli_report <- function(options, files) {
  out <- if (is.null(options$out)) "report.html" else options$out
  for (one in out) check_report_form(one)
  check_place(out, options$overwrite)
  check_report_settings(list(language = options$language, theme = options$theme, reference = options$reference, digits = options$digits))
  results <- whole_path(cli_survey(options, files), options$seed, progress = cli_progress(options))
  sw_report(results, out, title = options$title, author = options$author, digits = options$digits, language = options$language,
    theme = options$theme, reference = options$reference, overwrite = options$overwrite)
  if (!options$quiet) cli_say("Written: ", out)
  cli_exit(results$confirmation)
}

cli_progress <- function(options) function(step) if (!options$quiet) cli_say("\u2026 ", step)

cli_demo <- function(options, files) {
  folder <- options$out
  if (file.exists(folder) && !dir.exists(folder)) stop_file(paste0("This is a file, not a folder: ", folder))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  written <- write_demo(folder, options$seed, options$overwrite, cli_progress(options))
  show_lines(c("The whole path is done, from a file of answers to scores and a report.",
    paste("Open the report first:", file.path(folder, "report.html")), "", paste0("  ", written)))
  exit_codes[["done"]]
}
