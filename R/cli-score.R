# Scores on the command line.

score_command <- function() {
  command("Score the subscales and write the data with the scores", cli_score, list(
    opt("--method", "mean (default), sum, share, right, weighted; with --from regression (default), bartlett, tenberge, expected",
      metavar = "NAMES"),
    opt("--at-least", "Share of a subscale's items that must be answered [default %default]", .8, "double"),
    opt("--fill", "person: unanswered items count as the person's mean; none [default %default]", "person", metavar = "RULE"),
    switch_option("--total", "Score all items together, too"), opt("--item-weights", "Weights of items: calm1=2,calm2=1", metavar = "WEIGHTS"),
    opt("--form", "z, t, percentile, stanine; or mean=100,sd=15", metavar = "NAMES"),
    opt("--norms", "What forms refer to: a group such as district=north, or a CSV with score, mean, sd", metavar = "NORMS"),
    switch_option("--interval", "Add intervals of measurement"), opt("--level", "Their level [default %default]", .95, "double"),
    opt("--groups", "Cut scores into so many bands of equal size", NULL, "integer"),
    opt("--cuts", "Cut at these values: 2,4 where there is one score, or calm_mean=2,calm_mean=4", metavar = "NUMBERS"),
    opt("--pass", "Pass mark: a number where there is one score, or calm_mean=3,craft_mean=2.5", metavar = "MARKS"),
    opt("--from", "Factor scores from an exploration or confirmation saved with --out FILE.rds; needs --trust", metavar = "FILE"),
    switch_option("--schema", "Write a table schema beside CSV"),
    switch_option("--codes", "Keep codes for missing answers as they are; else they are empty cells")
  ), "--demo plotholders --form t --interval --out scored.csv")
}

explain_command <- function() {
  command("One person's scores worked out step by step", cli_explain, list(
    opt("--case", "The person's identifier, or row number", metavar = "ID"), opt("--method", "As for score [default %default]", "mean",
      metavar = "NAMES"),
    opt("--at-least", "As for score [default %default]", .8, "double"), opt("--form", "As for score", metavar = "NAMES")
  ), "--demo plotholders --case P277")
}

simulate_command <- function() {
  command("Simulate answers from a structure", cli_simulate, list(
    structure_option(), cutoff_option(), opt("--n", "People [default %default]", 500, "integer"),
    opt("--loading", "Standardised loadings: one, or item=.7,other=.5 [default %default]", ".7", metavar = "NUMBERS"),
    opt("--correlation", "Correlation of factors [default %default]", .3, "double"),
    opt("--categories", "Number of answers; 0 for continuous ones [default %default]", 5, "integer"),
    opt("--skew", "Shift of the thresholds [default %default]", 0, "double"), opt("--share-missing", "Share of answers missing [default %default]",
      0, "double")
  ), "--demo plotholders --n 300 --out simulated.csv")
}

# With --out, the scored data; else the table of scores.
cli_score <- function(options, files) {
  if (!is.null(options$out)) check_written_form(options$out)
  from <- cli_saved(options$from, options)
  method <- if (!is.null(options$method)) cli_names(options$method) else if (is.null(from)) "mean" else "regression"
  if (is.null(from) && any(method %in% factor_methods)) {
    stop_usage("Factor scores need --from FILE.rds: save a confirmation by `scalewort confirm ... --out held.rds`, or an exploration.")
  }
  scores <- sw_score(cli_survey(options, files), method, options$at_least, fill = options$fill, total = options$total,
    weights = cli_numbers(options$item_weights, "--item-weights"), form = cli_form(options[["form"]]), norms = cli_norms(options$norms),
    interval = options$interval, level = options$level, from = from, overwrite = options$overwrite)
  cuts <- if (grepl("=", c(options$cuts, "")[1], fixed = TRUE)) cli_number_lists(options$cuts, "--cuts") else
    if (!is.null(options$cuts)) cli_plain_numbers(options$cuts, "--cuts")
  pass <- if (grepl("=", c(options$pass, "")[1], fixed = TRUE)) cli_numbers(options$pass, "--pass") else
    if (!is.null(options$pass)) cli_plain_numbers(options$pass, "--pass")
  if (!is.null(c(cuts, options$groups, pass))) scores <- sw_band(scores, cuts = cuts, groups = options$groups, pass = pass)
  if (is.null(options$out)) {
    return(cli_give(scores, options))
  }
  sw_write(scores, options$out, table = options$table, schema = options$schema, codes = options$codes, overwrite = options$overwrite)
  if (!options$quiet) {
    cli_say("Written: ", options$out)
    cli_notes(scores$notes)
  }
  exit_codes[["done"]]
}

cli_explain <- function(options, files) {
  if (is.null(options$case)) stop_usage("--case ID is needed: whose scores?")
  scores <- sw_score(cli_survey(options, files), cli_names(options$method), options$at_least, form = cli_form(options[["form"]]))
  cli_give(sw_explain(scores, options$case), options)
}

cli_simulate <- function(options, files) {
  structure <- if (is.null(options$structure)) sw_structure(cli_survey(options, files)) else cli_structure(options)
  loading <- if (grepl("=", options$loading, fixed = TRUE)) cli_numbers(options$loading, "--loading") else cli_plain_numbers(options$loading,
    "--loading")
  survey <- sw_simulate(structure, options$n, loading = loading, correlation = options$correlation,
    categories = if (options$categories > 0) options$categories, skew = options$skew, missing = options$share_missing, seed = options$seed)
  if (is.null(options$out)) {
    cat(csv_lines(tibble::as_tibble(survey$data), NULL), sep = "\n")
  } else {
    sw_write(tibble::as_tibble(survey$data), options$out, overwrite = options$overwrite)
    if (!options$quiet) cli_say("Written: ", options$out)
  }
  exit_codes[["done"]]
}

# "t,stanine" or "mean=100,sd=15".
cli_form <- function(text) if (!is.null(text) && grepl("=", text, fixed = TRUE)) cli_numbers(text, "--form") else cli_names(text)

# "district=north" or a file.
cli_norms <- function(text) {
  if (is.null(text) || !grepl("=", text, fixed = TRUE)) {
    return(text)
  }
  parts <- strsplit(cli_names(text), "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) stop_usage("--norms is a group such as district=north, or a file.")
  stats::setNames(lapply(parts, `[`, 2), vapply(parts, `[`, "", 1))
}

# "calm=2,calm=4,craft=3" as lists of numbers by name.
cli_number_lists <- function(text, option) {
  values <- cli_numbers(text, option)
  split(unname(values), factor(names(values), unique(names(values))))
}

cli_plain_numbers <- function(text, option) {
  values <- suppressWarnings(as.numeric(cli_names(text)))
  if (anyNA(values)) stop_usage(paste0(option, " takes numbers separated by commas."))
  values
}

cli_saved <- function(path, options) {
  if (is.null(path)) {
    return(NULL)
  }
  read_trusted(path, isTRUE(options$trust))
}
