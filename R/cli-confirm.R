# The commands that confirm structures.

cli_confirm <- function(options, files) {
  survey <- cli_survey(options, files)
  confirmation <- sw_confirm(survey, cli_structure(options), estimator = options$estimator, missing = options$missing, scaling = options$scaling,
    improper = options$improper, weights = options$weights, cluster = options$cluster, level = options$level)
  for (item in cli_names(options$drop)) confirmation <- sw_drop(confirmation, items = item, reason = options$reason)
  cli_beside(options$scores, options, function() augment(confirmation, method = options$score_kind))
  cli_beside_figure(options$diagram, confirmation, options)
  cli_give(confirmation, options)
}

# A structure from YAML, or from an exploration that was saved as RDS.
cli_structure <- function(options) {
  path <- options$structure
  if (is.null(path)) {
    return(NULL)
  }
  if (!grepl("\\.rds$", path, ignore.case = TRUE)) {
    return(sw_structure(path))
  }
  saved <- read_trusted(path, isTRUE(options$trust))
  if (inherits(saved, "sw_confirmation")) {
    return(saved$parts$structure)
  }
  if (!inherits(saved, c("sw_exploration", "sw_structure"))) {
    stop_structure(paste0(path, " holds no exploration, confirmation or structure."), hint = "Save one with `scalewort explore --out FILE.rds`.")
  }
  if (inherits(saved, "sw_structure")) saved else sw_structure(saved, cutoff = options$cutoff)
}

# A figure to PNG, SVG or PDF, by the file's ending.
cli_beside_figure <- function(path, result, options) {
  if (is.null(path)) {
    return(invisible())
  }
  ending <- tolower(tools::file_ext(path))
  if (!ending %in% c("png", "svg", "pdf")) stop_usage("--diagram writes .png, .svg or .pdf.")
  device <- switch(ending, svg = grDevices::svg, pdf = grDevices::cairo_pdf, png = "png")
  write_safely(path, options$overwrite, function(draft) save_figure(autoplot(result, options$figure), draft, device))
  if (!options$quiet) cli_say("Written: ", path)
}

cli_influence <- function(options, files) {
  survey <- cli_survey(options, files)
  cli_give(sw_influence(sw_confirm(survey, cli_structure(options), estimator = options$estimator), worst = options$worst), options)
}

cli_power <- function(options, files) {
  x <- if (!is.null(options$df)) options$df else if (!is.null(options$structure)) cli_structure(options) else sw_structure(cli_survey(options, files))
  n <- suppressWarnings(as.numeric(cli_names(options$n)))
  if (anyNA(n)) stop_usage("--n is a number of cases, or several separated by commas.")
  cli_give(sw_power(x, n = n, power = options$power, level = options$level, parameter = cli_names(options$parameter), loading = options$loading,
    correlation = options$correlation, replicates = options$replicates, seed = options$seed), options)
}

cli_compare <- function(options, files) {
  survey <- cli_survey(options, files)
  paths <- cli_names(options$structures)
  if (length(paths) < 2) stop_usage("--structures FILE,FILE is needed: two structures or more.")
  models <- lapply(paths, function(path) sw_confirm(survey, sw_structure(path), estimator = options$estimator))
  names(models) <- tools::file_path_sans_ext(basename(paths))
  cli_give(do.call(sw_compare, models), options)
}

cli_invariance <- function(options, files) {
  survey <- cli_survey(options, files)
  release <- list(threshold = cli_names(options$free_thresholds), loading = cli_names(options$free_loadings),
    intercept = cli_names(options$free_intercepts),
    residual = cli_names(options$free_residuals))
  release <- if (options$free) "auto" else if (length(unlist(release)) > 0) Filter(length, release)
  result <- sw_invariance(survey, cli_structure(options), by = cli_names(options$by), across = options$across, steps = cli_names(options$steps),
    estimator = options$estimator, missing = options$missing, release = release, align = options$align)
  cli_beside_figure(options$diagram, result, options)
  cli_give(result, options)
}

cli_validity <- function(options, files) {
  confirmation <- sw_confirm(cli_survey(options, files), cli_structure(options), estimator = options$estimator)
  cli_give(sw_validity(confirmation, replicates = options$replicates, geometric = options$geometric, level = options$level, seed = options$seed,
    outside = cli_signs(options$outside), corrected = options$corrected), options)
}

# "age=+,hours=-" as a named vector.
cli_signs <- function(text) {
  if (is.null(text)) {
    return(NULL)
  }
  parts <- strsplit(cli_names(text), "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) stop_usage("--outside is a list such as age=+,hours=-.")
  stats::setNames(vapply(parts, `[`, "", 2), vapply(parts, `[`, "", 1))
}

cli_composites <- function(options, files) {
  survey <- cli_survey(options, files)
  leads <- if (!is.null(options$leads)) lapply(cli_pairs(options$leads, "--leads"), function(from) strsplit(from, "+", fixed = TRUE)[[1]])
  mode <- if (grepl("=", options$mode, fixed = TRUE)) unlist(cli_pairs(options$mode, "--mode")) else options$mode
  result <- sw_composites(survey, cli_structure(options), mode = mode, leads = leads, scheme = options$scheme, consistent = options$consistent,
    replicates = options$replicates, level = options$level, seed = options$seed)
  cli_beside(options$scores, options, function() augment(result))
  cli_give(result, options)
}

# "calm=craft+kinship,other=B" as a named list.
cli_pairs <- function(text, option) {
  parts <- strsplit(cli_names(text), "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) stop_usage(paste0(option, " is a list such as calm=..., separated by commas."))
  stats::setNames(lapply(parts, `[`, 2), vapply(parts, `[`, "", 1))
}
