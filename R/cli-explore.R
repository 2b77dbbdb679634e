# The commands that look for factors.

# Which items, and what correlations.
factor_data_options <- function() {
  list(
    opt("--items", "Items or subscales to take, separated by commas", metavar = "NAMES"),
    opt("--missing", "listwise or pairwise [default %default]", "listwise", metavar = "RULE"),
    opt("--correlation", "pearson, spearman or polychoric [default %default]", "pearson", metavar = "KIND")
  )
}

rotation_options <- function() {
  list(
    opt("--extraction", "ml, minres, gls, paf, alpha or pca [default %default]", "ml", metavar = "NAME"),
    opt("--rotation", paste0(paste(setdiff(rotation_names, "none"), collapse = ", "), " or none [default %default]"), "oblimin", metavar = "NAME"),
    opt("--normalise", "kaiser or none [default %default]", "kaiser", metavar = "NAME"),
    opt("--gamma", "Obliqueness of oblimin [default %default]", 0, "double"),
    opt("--epsilon", "Constant of geomin and bigeomin [default %default]", .01, "double"),
    opt("--kappa", "Weight of crawford_ferguson [default %default]", 0, "double"),
    opt("--power", "Power of promax [default %default]", 4, "double"),
    opt("--target", "CSV of loadings aimed at: item, then a column per factor; empty where free", metavar = "FILE"),
    switch_option("--orthogonal", "Uncorrelated factors, where a criterion allows both"),
    opt("--starts", "Random starts of the rotation [default %default]", 30, "integer")
  )
}

explore_options <- function() {
  c(
    list(opt("--factors", "Number of factors, or several: 2,3,4", metavar = "NUMBERS")), rotation_options(),
    list(
      opt("--errors", "analytic, bootstrap or none; analytic where there is a formula when not given", metavar = "NAME"),
      opt("--replicates", "Resamples for --errors bootstrap [default %default]", 500, "integer"),
      opt("--level", "Level of intervals [default %default]", .95, "double"),
      opt("--multiplier", "n or bartlett [default %default]", "n", metavar = "NAME"),
      opt("--hide", "Loadings below this are left blank in text [default %default]", .30, "double"),
      opt("--names", "Names for the factors, separated by commas", metavar = "NAMES"),
      opt("--drop", "Items to drop one after the other, separated by commas", metavar = "ITEMS"),
      opt("--reason", "Why they are dropped", metavar = "TEXT"),
      opt("--scores", "Write the data with factor scores to this CSV", metavar = "FILE"),
      opt("--score-kind", "regression, bartlett or tenberge [default %default]", "regression", metavar = "NAME"),
      opt("--structure", "Write the structure drafted from the loadings to this YAML file", metavar = "FILE"),
      switch_option("--smooth", "Smooth a matrix that is not positive definite")
    ),
    factor_data_options()
  )
}

cli_factorability <- function(options, files) {
  cli_give(sw_factorability(cli_survey(options, files),
    items = cli_names(options$items), factors = options$factors, missing = options$missing, correlation = options$correlation
  ), options)
}

cli_retention <- function(options, files) {
  cli_give(sw_retention(cli_survey(options, files),
    items = cli_names(options$items), replicates = options$replicates, percentile = options$percentile, against = options$against,
    draws = options$draws,
    comparison = options$comparison, most = options$most, missing = options$missing, correlation = options$correlation,
    smooth = options$smooth, seed = options$seed
  ), options)
}

# What --extraction to --starts say, as arguments.
rotation_arguments <- function(options) {
  c(
    options[c("extraction", "rotation", "normalise", "gamma", "epsilon", "kappa", "power", "starts", "correlation")],
    list(items = cli_names(options$items), oblique = !options$orthogonal, target = cli_target(options$target))
  )
}

cli_target <- function(path) {
  if (is.null(path)) {
    return(NULL)
  }
  table <- read_table(path)$data
  target <- suppressWarnings(data.matrix(table[-1]))
  rownames(target) <- as.character(table[[1]])
  target
}

cli_factors <- function(text) {
  if (is.null(text)) stop_usage("--factors NUMBER is needed; `scalewort retention` suggests one.")
  numbers <- suppressWarnings(as.numeric(cli_names(as.character(text))))
  if (anyNA(numbers) || any(numbers != round(numbers))) stop_usage("--factors is a whole number, or several separated by commas.")
  numbers
}

cli_explore <- function(options, files) {
  factors <- cli_factors(options$factors)
  check_place(options$structure, options$overwrite)
  exploration <- do.call(sw_explore, c(
    list(cli_survey(options, files), factors = factors, missing = options$missing), rotation_arguments(options),
    options[c("replicates", "level", "multiplier", "hide", "smooth", "seed")], list(errors = options$errors, names = cli_names(options$names))
  ))
  for (item in cli_names(options$drop)) exploration <- sw_drop(exploration, items = item, reason = options$reason)
  if (length(factors) > 1 && !(is.null(options$structure) && is.null(options$scores))) {
    stop_usage("--structure and --scores go with one number of factors.")
  }
  cli_beside(options$structure, options, function() sw_structure(exploration))
  cli_beside(options$scores, options, function() augment(exploration, method = options$score_kind))
  cli_give(exploration, options)
}

# Writes something beside the result, where a file is named.
cli_beside <- function(path, options, make) {
  if (!is.null(path)) {
    sw_write(make(), path, overwrite = options$overwrite)
    if (!options$quiet) cli_say("Written: ", path)
  }
}

cli_stability <- function(options, files) {
  factors <- cli_factors(options$factors)
  cli_give(do.call(sw_stability, c(
    list(cli_survey(options, files), factors = factors, halves = options$halves, by = options$by, seed = options$seed), rotation_arguments(options)
  )), options)
}

# Writes <out>/calibration.csv and validation.csv, or shows how alike the halves are.
cli_split <- function(options, files) {
  halves <- sw_split(cli_survey(options, files), options$share, options$method, options$by, options$tries, options$seed)
  table <- attr(halves, "halves")
  lines <- switch(options$format,
    text = format_table(table, options$digits), csv = csv_lines(table, NULL), md = markdown_lines(table, options$digits),
    json = as.character(jsonlite::toJSON(table, digits = NA, na = "null"))
  )
  if (is.null(lines)) stop_usage(paste0("--format must be text, csv, json or md; this is ", quoted(options$format), "."))
  cat(lines, sep = "\n")
  if (!is.null(options$out)) {
    dir.create(options$out, recursive = TRUE, showWarnings = FALSE)
    for (name in names(halves)) {
      path <- file.path(options$out, paste0(name, ".csv"))
      write_safely(path, options$overwrite, function(draft) data.table::fwrite(half_data(halves[[name]]), draft))
      if (!options$quiet) cli_say("Written: ", path)
    }
  }
  exit_codes[["done"]]
}

half_data <- function(survey) disarmed(survey$data[survey$kept, , drop = FALSE])
