# The commands that confirm structures.

cli_confirm <- function(options, files) {
  survey <- cli_survey(options, files)
  structure <- if (is.null(options$structure)) NULL else sw_structure(options$structure)
  confirmation <- sw_confirm(survey, structure, estimator = options$estimator, missing = options$missing, scaling = options$scaling,
    level = options$level)
  for (item in cli_names(options$drop)) confirmation <- sw_drop(confirmation, items = item, reason = options$reason)
  cli_beside(options$scores, options, function() augment(confirmation, method = options$score_kind))
  cli_give(confirmation, options)
}

cli_compare <- function(options, files) {
  survey <- cli_survey(options, files)
  paths <- cli_names(options$structures)
  if (length(paths) < 2) stop_usage("--structures FILE,FILE is needed: two structures or more.")
  models <- lapply(paths, function(path) sw_confirm(survey, sw_structure(path), estimator = options$estimator))
  names(models) <- tools::file_path_sans_ext(basename(paths))
  cli_give(do.call(sw_compare, models), options)
}
