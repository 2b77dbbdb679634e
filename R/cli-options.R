# Options of the command line, and what they make of a file.

opt <- function(flag, help, default = NULL, type = "character", metavar = NULL) {
  if (is.null(metavar)) metavar <- toupper(if (type == "character") "text" else "number")
  optparse::make_option(flag, type = type, default = default, help = help, metavar = metavar)
}

switch_option <- function(name, help) optparse::make_option(name, action = "store_true", default = FALSE, help = help)

common_options <- function(data = TRUE) {
  c(
    if (data) list(
      opt("--codebook", "The codebook: CSV, XLSX or YAML", metavar = "FILE"),
      opt("--demo", "Demo data in place of a file: plotholders, plotholders-draft (one item not yet reversed) or plantcare", metavar = "NAME"),
      opt("--id", "Column with the case's identifier", metavar = "COLUMN"),
      opt("--group", "Column with the case's group", metavar = "COLUMN"),
      opt("--wave", "Column with the wave of each row", metavar = "COLUMN"),
      opt("--waves", "The waves in their order, separated by commas", metavar = "WAVES"),
      opt("--missing-codes", "Codes that mean missing, separated by commas", metavar = "CODES"),
      opt("--layout", "Fixed-width text: id=1-4,district=5,answers=6-27", metavar = "PLACES"),
      opt("--sheet", "Sheet of an XLSX file [default 1]", metavar = "NAME"),
      opt("--separator", "Character between cells; found when not given", metavar = "CHARACTER"),
      opt("--format", "text, csv, json or md [default %default]", "text", metavar = "FORM"),
      opt("--table", "Which table; text shows the main ones", metavar = "NAME"),
      switch_option("--full", "Show every table and, where there are any, sentences for a paper"),
      opt("--digits", "Decimals of coefficients [default %default]", 3, "integer"),
      opt("--out", "Write to this file in place of the terminal; one ending in .rds keeps the whole result", metavar = "FILE")
    ),
    list(
      opt("--seed", "Seed of all random draws [default %default]", 1, "double"),
      switch_option("--overwrite", "Replace files that are there already"),
      switch_option("--trust", "Read RDS files, which can run code, too: only from where you know"),
      opt("--width", "Columns of text [default: the terminal's, else 80]", NULL, "integer"),
      switch_option("--quiet", "Say nothing besides the result")
    )
  )
}

# The survey a command works on.
cli_survey <- function(options, files) {
  if (!is.null(options$demo)) {
    if (length(files) > 0) stop_usage("Give a file or --demo, not both.")
    draft <- identical(options$demo, "plotholders-draft")
    return(if (draft) sw_demo("plotholders", codebook = "draft") else sw_demo(options$demo))
  }
  if (length(files) == 0) stop_usage("A file of answers is needed (or --demo plotholders).")
  refuse_own_input(options$out, c(files, options$codebook))
  if (is.null(options$codebook)) stop_usage("--codebook FILE is needed: it says what each column of answers is.")
  codes <- if (is.null(options$missing_codes)) NULL else strsplit(options$missing_codes, ",")[[1]]
  sw_read(files[1], options$codebook,
    id = options$id, group = cli_names(options$group), wave = options$wave, waves = cli_names(options$waves), missing_codes = codes,
    separator = options$separator, layout = cli_layout(options$layout),
    sheet = cli_sheet(options$sheet), trust = options$trust
  )
}

# What is read is never written over.
refuse_own_input <- function(out, inputs) {
  same <- function(a, b) file.exists(a) && file.exists(b) && normalizePath(a) == normalizePath(b)
  taken <- if (!is.null(out)) Filter(function(input) same(input, out), inputs)
  if (length(taken) > 0) stop_usage(paste0("--out is a file that is read here: ", taken[1], ". Give another name."))
}

# "id=1-4,answers=6-27" as a named vector.
cli_layout <- function(text) {
  if (is.null(text)) {
    return(NULL)
  }
  parts <- strsplit(strsplit(text, ",", fixed = TRUE)[[1]], "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) stop_usage("--layout is written as id=1-4,district=5,answers=6-27.")
  stats::setNames(trimws(vapply(parts, `[`, "", 2)), trimws(vapply(parts, `[`, "", 1)))
}

cli_sheet <- function(text) {
  if (is.null(text)) 1 else if (grepl("^[0-9]+$", text)) as.integer(text) else text
}

# Comma-separated names, or NULL.
cli_names <- function(text) if (is.null(text)) NULL else trimws(strsplit(text, ",", fixed = TRUE)[[1]])

# "calm=2,craft=1" as named numbers, or NULL.
cli_numbers <- function(text, option) {
  if (is.null(text)) {
    return(NULL)
  }
  parts <- strsplit(cli_names(text), "=", fixed = TRUE)
  values <- if (all(lengths(parts) == 2)) suppressWarnings(as.numeric(vapply(parts, `[`, "", 2))) else NA
  if (anyNA(values)) stop_usage(paste0(option, " is written as name=2,other=1."))
  stats::setNames(values, trimws(vapply(parts, `[`, "", 1)))
}

# Prints or writes a result in the form asked for; returns the exit code.
cli_give <- function(result, options, exit = cli_exit(result)) {
  form <- options$format
  lines <- switch(form,
    text = text_lines(result, options),
    csv = csv_lines(result, options$table),
    json = as.character(result_json(result, options$table)),
    md = markdown_lines(result_table(result, options$table), options$digits)
  )
  if (is.null(options$out)) {
    if (form == "text" && is.null(options$table)) show_lines(lines) else cat(lines, sep = "\n")
  } else {
    # A name that ends in .rds saves the whole result, for later commands.
    whole <- grepl("\\.rds$", options$out, ignore.case = TRUE)
    write_safely(options$out, options$overwrite, function(draft) if (whole) saveRDS(result, draft) else writeLines(lines, draft, useBytes = TRUE))
    if (!options$quiet) cli_say("Written: ", options$out)
  }
  # Tables alone, and files, do not hold what has to be known about them: it goes beside.
  if (!options$quiet && (form %in% c("csv", "md") || !is.null(options$table) || !is.null(options$out))) cli_notes(result$notes)
  exit
}

cli_notes <- function(notes) if (length(notes) > 0) cli_say(paste(wrap_note(notes), collapse = "\n"))

text_lines <- function(result, options) {
  if (!is.null(options$table)) {
    return(format_table(result_table(result, options$table), options$digits))
  }
  if (isTRUE(options$full)) {
    return(summary_lines(result, options$digits))
  }
  more <- strwrap(paste0("More: --full; --table ", paste(names(result$tables), collapse = ", ")), output_width() - 1)
  format(result, digits = options$digits, more = more)
}

cli_exit <- function(result) {
  status <- result$about$status
  if (identical(status, "not_converged")) exit_codes[["convergence"]] else exit_codes[["done"]]
}

csv_lines <- function(result, table) {
  utils::capture.output(data.table::fwrite(disarmed(main_data(result, table)), quote = "auto", na = ""))
}

markdown_lines <- function(table, digits) {
  columns <- lapply(format_columns(table, digits), function(x) gsub("|", "\\|", x, fixed = TRUE))
  names(columns) <- column_header(names(columns))
  pipe_table(columns, ifelse(vapply(table, is.numeric, TRUE), "---:", ":---"))
}
