# Scores on the command line.

# With --out, the scored data; else the table of scores.
cli_score <- function(options, files) {
  if (!is.null(options$out)) check_written_form(options$out)
  from <- cli_saved(options$from, options)
  if (is.null(from) && any(cli_names(options$method) %in% factor_methods)) {
    stop_usage(message_of("e_factor_scores_need"))
  }
  scores <- cli_call("score", cli_survey(options, files), options, from = from, overwrite = options$overwrite)
  bands <- verb_arguments("band", options)
  if (length(bands) > 0) scores <- do.call(sw_band, c(list(scores), bands))
  if (is.null(options$out)) {
    return(cli_give(scores, options))
  }
  sw_write(scores, options$out, table = options$table, schema = options$schema, codes = options$codes, codebook = options$describe,
    overwrite = options$overwrite)
  cli_wrote(options$out, options)
  if (!options$quiet) cli_notes(said_notes(scores))
  exit_codes[["done"]]
}

cli_explain <- function(options, files) {
  if (is.null(options$case)) stop_usage(message_of("e_case_id_needed"))
  typed <- lapply(verb_options("explain", "cli"), typed_entry)
  value <- function(name) entry_value(options[[typed[[name]]$key]], typed[[name]])
  scores <- sw_score(cli_survey(options, files), value("method"), value("at_least"), form = value("form"))
  cli_give(sw_explain(scores, options$case, wave = value("wave")), options)
}

cli_simulate <- function(options, files) {
  structure <- if (is.null(options$structure)) sw_structure(cli_survey(options, files)) else cli_structure(options)
  survey <- cli_call("simulate", structure, options, categories = if (options$categories > 0) options$categories)
  if (is.null(options$out)) {
    cat(csv_lines(source_everyone(survey), NULL), sep = "\n")
  } else {
    sw_write(source_everyone(survey), options$out, overwrite = options$overwrite)
    cli_wrote(options$out, options)
  }
  exit_codes[["done"]]
}

cli_saved <- function(path, options) {
  if (is.null(path)) {
    return(NULL)
  }
  read_trusted(path, isTRUE(options$trust))
}
