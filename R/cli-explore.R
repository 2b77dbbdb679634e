# The commands that look for factors.

cli_explore <- function(options, files) {
  factors <- verb_arguments("explore", options)$factors
  if (length(factors) > 1 && !(is.null(options$structure) && is.null(options$scores))) {
    stop_usage(message_of("e_structure_scores_go"))
  }
  check_place(options$structure, options$overwrite)
  exploration <- cli_call("explore", cli_survey(options, files), options)
  for (item in cli_names(options$drop)) exploration <- sw_drop(exploration, items = item, reason = options$reason)
  cli_beside(options$structure, options, function() sw_structure(exploration))
  cli_beside(options$scores, options, function() augment(exploration, method = options$score_kind))
  cli_give(exploration, options)
}

# Writes something beside the result, where a file is named.
cli_beside <- function(path, options, make) {
  if (!is.null(path)) {
    sw_write(make(), path, overwrite = options$overwrite)
    cli_wrote(path, options)
  }
}

# Writes <out>/calibration.csv and validation.csv, or shows how alike the halves are.
cli_split <- function(options, files) {
  halves <- cli_call("split", cli_survey(options, files), options)
  table <- attr(halves, "halves")
  lines <- switch(options$format,
    text = format_table(table, options$digits), csv = csv_lines(table, NULL), md = markdown_lines(table, options$digits),
    json = as.character(jsonlite::toJSON(table, digits = NA, na = "null"))
  )
  cat(lines, sep = "\n")
  if (!is.null(options$out)) write_halves(halves, options)
  exit_codes[["done"]]
}

# A CSV file holds both halves, each person's named in a column; a folder a file each.
write_halves <- function(halves, options) {
  frames <- lapply(halves, half_data)
  if (grepl("[.]csv$", options$out, ignore.case = TRUE)) {
    column <- utils::tail(make.unique(c(names(frames[[1]]), "half"), sep = "_"), 1)
    both <- data.table::rbindlist(unname(frames))
    both[[column]] <- rep(names(frames), vapply(frames, function(half) length(half[[1]]), 1L))
    frames <- stats::setNames(list(both), options$out)
  } else {
    dir.create(options$out, recursive = TRUE, showWarnings = FALSE)
    names(frames) <- file.path(options$out, paste0(names(frames), ".csv"))
  }
  for (path in names(frames)) {
    write_safely(path, options$overwrite, function(draft) data.table::fwrite(frames[[path]], draft))
    cli_wrote(path, options)
  }
}

half_data <- function(survey) disarmed(source_columns(survey, source_names(survey)))
