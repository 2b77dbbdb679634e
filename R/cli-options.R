# Options of the command line, from the table of options, and what is made of their values.

# Every option of a command, in the order of its help: its own, then those of many commands, each with its
# flag, the key under which its value is found, and the heading it stands under.
command_entries <- function(name, command) {
  table <- options_table()
  own <- c(unlist(lapply(command$verbs, verb_options, place = "cli"), recursive = FALSE), table$commands[[name]])
  common <- if (command$data) c("reading", "giving", "every") else "every"
  shared <- lapply(common, function(group) lapply(table$commands[[group]], function(entry) c(entry, list(common = group))))
  out <- lapply(c(own, unlist(shared, recursive = FALSE)), typed_entry)
  unname(out[!duplicated(vapply(out, `[[`, "", "flag"))])
}

typed_entry <- function(entry) {
  word <- gsub("_", "-", if (is.null(entry[["cli"]])) entry$name else entry[["cli"]])
  entry$flag <- paste0("--", word)
  entry$key <- gsub("-", "_", word)
  if (!is.null(entry$inverse)) entry$help <- entry$inverse
  if (!is.null(entry$typed_default)) entry$default <- entry$typed_default
  entry
}

# What stands for a value in help; "" for a switch.
entry_metavar <- function(entry) {
  metavars <- c(number = "NUMBER", whole = "NUMBER", wholes = "NUMBERS", numbers = "NUMBERS", marks = "NUMBERS", cuts = "NUMBERS", choice = "NAME",
    choices = "NAMES", form = "NAMES", modes = "NAMES", names = "NAMES", column = "COLUMN", columns = "COLUMNS", file = "FILE", matrix = "FILE",
    norms = "NORMS", weights = "WEIGHTS", signs = "LIST", leads = "LIST", flag = "")
  word_of(if (entry$kind %in% names(metavars)) metavars[[entry$kind]] else "TEXT", ".metavars")
}

# One line: what it is, its values, its default.
entry_help <- function(entry) {
  values <- if (entry$kind %in% c("choice", "choices", "form", "modes")) paste0(" (", or_list(entry$choices), ")")
  default <- if (!is.null(entry$words_of_default)) word_of(entry$words_of_default, ".options_help") else entry_default(entry)
  paste0(word_of(entry$help, ".options_help"), values, if (length(default) > 0 && nzchar(default)) paste0(" [", default, "]"))
}

# As it would be typed; NULL for none, and for switches.
entry_default <- function(entry) if (entry$kind != "flag" && !is.null(entry$default)) paste(entry$default, collapse = ",")

parser_option <- function(entry) {
  if (entry$kind == "flag") {
    return(optparse::make_option(entry$flag, action = "store_true", default = if (is.null(entry$default)) NULL else FALSE))
  }
  type <- switch(entry$kind, number = "double", whole = "integer", "character")
  # Seeds go beyond whole numbers of 32 bits; they are checked for being whole.
  if (entry$key == "seed") type <- "double"
  default <- if (type == "character") entry_default(entry) else entry$default
  optparse::make_option(entry$flag, type = type, default = if (is.null(entry$words_of_default)) default)
}

# The arguments of a verb that were given as options; `...` are set here, whatever was given.
verb_arguments <- function(verb, options, ...) {
  entries <- Filter(function(entry) !identical(entry$places, "cli"), lapply(verb_options(verb, "cli"), typed_entry))
  values <- lapply(entries, function(entry) entry_value(options[[entry$key]], entry))
  arguments <- Filter(Negate(is.null), values)
  if (!is.null(verb_options(verb)$seed)) arguments$seed <- options$seed
  set <- list(...)
  arguments[names(set)] <- set
  arguments
}

cli_call <- function(verb, x, options, ...) do.call(paste0("sw_", verb), c(list(x), verb_arguments(verb, options, ...)))

# What was typed, as the verb takes it.
entry_value <- function(text, entry) {
  if (is.null(text)) {
    hint <- if (!is.null(entry$needed)) paste0("; ", entry$needed)
    if (entry$required) stop_usage(message_of("e_needed", flag = entry$flag, entry = entry_metavar(entry), hint = hint))
    return(NULL)
  }
  named <- is.character(text) && grepl("=", text, fixed = TRUE)
  switch(entry$kind,
    flag = if (is.null(entry$inverse)) text else !text,
    names = , columns = , choices = cli_names(text),
    numbers = cli_plain_numbers(text, entry$flag),
    wholes = cli_wholes(text, entry$flag),
    weights = cli_numbers(text, entry$flag),
    marks = if (named) cli_numbers(text, entry$flag) else cli_plain_numbers(text, entry$flag),
    cuts = if (named) cli_number_lists(text, entry$flag) else cli_plain_numbers(text, entry$flag),
    form = if (named) cli_numbers(text, entry$flag) else cli_names(text),
    modes = if (named) unlist(cli_pairs(text, entry$flag)) else text,
    signs = unlist(cli_pairs(text, entry$flag)),
    leads = lapply(cli_pairs(text, entry$flag), function(from) strsplit(from, "+", fixed = TRUE)[[1]]),
    norms = if (named) cli_pairs(text, entry$flag) else text,
    matrix = read_loadings(text),
    text
  )
}

# The survey a command works on.
cli_survey <- function(options, files) {
  if (!is.null(options$demo)) {
    if (length(files) > 0) stop_usage(message_of("e_give_file_demo"))
    draft <- identical(options$demo, "plotholders-draft")
    return(if (draft) sw_demo("plotholders", codebook = "draft") else sw_demo(options$demo))
  }
  if (length(files) == 0) stop_usage(message_of("e_file_answers_needed"))
  refuse_own_input(options$out, c(files, options$codebook))
  if (is.null(options$codebook)) stop_usage(message_of("e_codebook_file_needed"))
  sw_read(files, options$codebook,
    id = options$id, wide = options$wide, group = cli_names(options$group), wave = options$wave, waves = cli_names(options$waves),
      cluster = options$cluster,
      weight = options$weight,
    missing_codes = cli_names(options$missing_codes), separator = options$separator, layout = cli_layout(options$layout),
    sheet = cli_sheet(options$sheet), trust = options$trust
  )
}

# What is read is never written over.
refuse_own_input <- function(out, inputs) {
  same <- function(a, b) file.exists(a) && file.exists(b) && normalizePath(a) == normalizePath(b)
  taken <- if (!is.null(out)) Filter(function(input) same(input, out), inputs)
  if (length(taken) > 0) stop_usage(message_of("e_out_file_read", taken = taken[1]))
}

cli_layout <- function(text) {
  layout <- if (!is.null(text)) parse_layout_text(text)
  if (is.null(layout) && !is.null(text)) stop_usage(message_of("e_layout_written_id"))
  layout
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
  if (anyNA(values)) stop_usage(message_of("e_written_name_other", option = option))
  stats::setNames(values, trimws(vapply(parts, `[`, "", 1)))
}

# "calm=craft+kinship,other=B" as a named list.
cli_pairs <- function(text, option) {
  parts <- strsplit(cli_names(text), "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) stop_usage(message_of("e_list_such_name", option = option))
  stats::setNames(lapply(parts, `[`, 2), vapply(parts, `[`, "", 1))
}

# "calm=2,calm=4,craft=3" as lists of numbers by name.
cli_number_lists <- function(text, option) {
  values <- cli_numbers(text, option)
  split(unname(values), factor(names(values), unique(names(values))))
}

cli_plain_numbers <- function(text, option) {
  values <- suppressWarnings(as.numeric(cli_names(as.character(text))))
  if (anyNA(values)) stop_usage(message_of("e_takes_numbers_separated", option = option))
  values
}

cli_wholes <- function(text, option) {
  values <- suppressWarnings(as.numeric(cli_names(as.character(text))))
  if (anyNA(values) || any(values != round(values))) stop_usage(message_of("e_whole_number_several", option = option))
  values
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
    cli_wrote(options$out, options)
  }
  # Tables alone, and files, do not hold what has to be known about them: it goes beside.
  if (!options$quiet && (form %in% c("csv", "md") || !is.null(options$table) || !is.null(options$out))) {
    cli_notes(if (inherits(result, "sw_result")) said_notes(result) else result$notes)
  }
  exit
}

cli_notes <- function(notes) if (length(notes) > 0) cli_say(paste(wrap_note(notes), collapse = "\n"))

text_lines <- function(result, options) {
  if (!is.null(options$table)) {
    return(in_reading(format_table(result_table(result, options$table), options$digits)))
  }
  if (isTRUE(options$full)) {
    return(in_reading(summary_lines(result, options$digits)))
  }
  more <- said_lines(message_of("cli_more", tables = names(result$tables)))
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
  columns <- lapply(in_reading(worded_columns(table, digits)), function(x) gsub("|", "\\|", x, fixed = TRUE))
  names(columns) <- translated(column_header(names(columns)), report_words(reading_language())$columns)
  pipe_table(columns, ifelse(vapply(table, is.numeric, TRUE), "---:", ":---"))
}
