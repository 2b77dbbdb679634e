# The commands that confirm structures.

cli_confirm <- function(options, files) {
  confirmation <- cli_call("confirm", cli_survey(options, files), options, structure = cli_structure(options))
  for (item in cli_names(options$drop)) confirmation <- sw_drop(confirmation, items = item, reason = options$reason)
  cli_beside(options$scores, options, function() augment(confirmation, method = options$score_kind))
  cli_beside_figure(options$diagram, confirmation, options)
  cli_give(confirmation, options)
}

# The confirmation behind commands that take one.
cli_held <- function(options, files) sw_confirm(cli_survey(options, files), cli_structure(options), estimator = options$estimator)

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
    stop_structure(message_of("e_holds_no_exploration", path = path), hint = message_of("e_save_one_scalewort"))
  }
  if (inherits(saved, "sw_structure")) saved else sw_structure(saved, cutoff = options$cutoff)
}

# A figure to PNG, SVG or PDF, by the file's ending.
cli_beside_figure <- function(path, result, options) {
  if (is.null(path)) {
    return(invisible())
  }
  ending <- tolower(tools::file_ext(path))
  if (!ending %in% c("png", "svg", "pdf")) stop_usage(message_of("e_diagram_writes_png"))
  device <- switch(ending, svg = grDevices::svg, pdf = grDevices::cairo_pdf, png = "png")
  write_safely(path, options$overwrite, function(draft) save_figure(autoplot(result, options$figure), draft, device))
  cli_wrote(path, options)
}

cli_bounds <- function(options, files) cli_give(cli_call("bounds", cli_held(options, files), options), options)

cli_influence <- function(options, files) cli_give(cli_call("influence", cli_held(options, files), options), options)

cli_power <- function(options, files) {
  x <- if (!is.null(options$df)) options$df else if (!is.null(options$structure)) cli_structure(options) else sw_structure(cli_survey(options, files))
  cli_give(cli_call("power", x, options), options)
}

cli_compare <- function(options, files) {
  survey <- cli_survey(options, files)
  paths <- cli_names(options$structures)
  if (length(paths) < 2) stop_usage(message_of("e_structures_file_file"))
  models <- lapply(paths, function(path) sw_confirm(survey, sw_structure(path), estimator = options$estimator))
  names(models) <- tools::file_path_sans_ext(basename(paths))
  cli_give(do.call(sw_compare, models), options)
}

cli_invariance <- function(options, files) {
  release <- Filter(length, list(threshold = cli_names(options$free_thresholds), loading = cli_names(options$free_loadings),
    intercept = cli_names(options$free_intercepts), residual = cli_names(options$free_residuals)))
  release <- if (options$free) "auto" else if (length(release) > 0) release
  result <- cli_call("invariance", cli_survey(options, files), options, structure = cli_structure(options), release = release)
  cli_beside_figure(options$diagram, result, options)
  cli_give(result, options)
}

cli_validity <- function(options, files) cli_give(cli_call("validity", cli_held(options, files), options, structure = NULL), options)

cli_composites <- function(options, files) {
  result <- cli_call("composites", cli_survey(options, files), options, structure = cli_structure(options))
  cli_beside(options$scores, options, function() augment(result))
  cli_give(result, options)
}
