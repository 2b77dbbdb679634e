# The command line: reads arguments, runs a command, says how it ended.
# Exit codes: 0 done, 2 wrong usage, 3 bad input, 4 no convergence, 5 output lost.

exit_codes <- c(done = 0L, usage = 2L, input = 3L, convergence = 4L, output = 5L)

# Runs `scalewort <args>` and returns the exit code. Output to a file or pipe is written in one go at the end, so that it is known whether it arrived:
# R does not say where a disk is full. On a terminal, and at the desk, it is shown as it comes.
cli_main <- function(args = commandArgs(trailingOnly = TRUE)) {
  # Before anything is opened to be written to.
  in_utf8()
  # What options of the command line set holds for this run alone.
  former <- options(scalewort.width = getOption("scalewort.width"), scalewort.progress = getOption("scalewort.progress"))
  on.exit(options(former))
  as_it_comes <- isatty(stdout()) || sink.number() > 0 || identical(args[1], "open") || !nzchar(Sys.which("cat"))
  reading_in(typed_language(args), if (as_it_comes) run_arguments(args) else arrived_output(function() run_arguments(args)))
}

arrived_output <- function(run) {
  draft <- tempfile("output-")
  on.exit(unlink(draft))
  out <- file(draft, open = "w", encoding = "UTF-8")
  sink(out)
  code <- tryCatch(run(), finally = {
    sink()
    close(out)
  })
  if (file.size(draft) == 0) {
    return(code)
  }
  if (write_to_stdout(draft)) {
    return(code)
  }
  cli_say(worded("cli_error", text = message_of("cli_no_room")))
  exit_codes[["output"]]
}

# TRUE where all of it arrived, or whoever read it (head, less) had enough. A program of the system writes it, which says how that ended.
write_to_stdout <- function(path) {
  trouble <- tempfile("trouble-")
  on.exit(unlink(trouble))
  status <- suppressWarnings(system2("cat", shQuote(path), stdout = "", stderr = trouble))
  status == 0 || any(grepl("pipe", readLines(trouble, warn = FALSE), ignore.case = TRUE))
}

# The language that is typed, else that of the system.
typed_language <- function(args) {
  at <- which(args == "--language")
  typed <- c(args[at + 1], sub("^--language=", "", grep("^--language=", args, value = TRUE)))
  set <- Sys.getenv(c("LC_ALL", "LC_MESSAGES", "LANG"))
  known_language(if (length(typed) > 0) typed[1] else tolower(substr(set[nzchar(set)], 1, 2)))
}

run_arguments <- function(args) {
  # In front of a command the language is that of the overview.
  if (length(args) > 0 && startsWith(args[1], "--language")) args <- args[-seq_len(if (args[1] == "--language") 2 else 1)]
  if (length(args) > 1 && args[1] == "help") args <- c(args[2], "--help", args[-(1:2)])
  if (length(args) == 0 || args[1] %in% c("--help", "-h", "help")) {
    cat(cli_overview(), sep = "\n")
    return(exit_codes[["done"]])
  }
  if (args[1] == "--version") {
    cat("scalewort", as.character(utils::packageVersion("scalewort")), "\n")
    return(exit_codes[["done"]])
  }
  if (isatty(stdout())) options(scalewort.width = max(60, min(terminal_columns(), 160)))
  commands <- cli_commands()
  if (!args[1] %in% names(commands)) {
    return(usage_error(worded("cli_no_command", command = args[1], near = did_you_mean(args[1], names(commands)))))
  }
  run_command(args[1], commands[[args[1]]], args[-1])
}

# Columns of the terminal: what the shell says, else what the terminal itself says, else 80.
terminal_columns <- function() {
  told <- suppressWarnings(as.integer(Sys.getenv("COLUMNS")))
  if (is.na(told)) {
    size <- suppressWarnings(tryCatch(system("stty size 2>/dev/null < /dev/tty", intern = TRUE, ignore.stderr = TRUE), error = function(e) ""))
    told <- suppressWarnings(as.integer(sub("^[0-9]+ ", "", c(size, "")[1])))
  }
  if (is.na(told) || told < 1) 80L else told
}

usage_error <- function(message) {
  cli_say(worded("cli_error", text = message), "\n", worded("cli_see"))
  exit_codes[["usage"]]
}

# Words go to stderr; stdout is for results.
cli_say <- function(...) {
  text <- paste0(..., "\n")
  # The first word of an error or warning.
  heads <- sub(":.*$", "", c(worded("cli_error", text = ""), worded("cli_warning", text = "")))
  if (colours_of(stderr()) > 1) text <- sub(paste0("^(", paste(heads, collapse = "|"), "):"), paste0("\033[1m", "\\1:", "\033[22m"), text)
  cat(text, file = stderr())
}

cli_wrote <- function(path, options) if (!options$quiet) cli_say(worded("cli_written", path = path))

run_command <- function(name, command, args) {
  entries <- command_entries(name, command)
  args <- present_names(args, entries)
  if (any(args %in% c("--help", "-h"))) {
    tryCatch(cat(help_lines(name, command, entries, all = "--full" %in% args), sep = "\n"), error = reader_gone)
    return(exit_codes[["done"]])
  }
  parser <- optparse::OptionParser(option_list = lapply(entries, parser_option), prog = "scalewort")
  parsed <- tryCatch(
    suppressWarnings(optparse::parse_args(parser, joined_values(args, entries), positional_arguments = TRUE, convert_hyphens_to_underscores = TRUE)),
    error = function(e) conditionMessage(e)
  )
  if (is.character(parsed)) {
    return(usage_error(worded("cli_in_command", text = option_complaint(parsed, args, entries), command = name)))
  }
  parsed$options$seed_given <- any(grepl("^--seed(=|$)", args))
  class(parsed$options) <- "cli_options"
  if (isTRUE(parsed$options$quiet) || nzchar(Sys.getenv("NO_COLOR"))) options(scalewort.progress = FALSE)
  if (!is.null(parsed$options$width)) options(scalewort.width = max(40, parsed$options$width))
  wrong <- number_complaint(args, entries)
  if (!is.null(wrong)) {
    return(usage_error(worded("cli_in_command", text = wrong, command = name)))
  }
  former <- options(scalewort.words = function(text) command_words(text, entries, plan = name %in% c("run", "check", "demo")))
  on.exit(options(former))
  if (length(parsed$args) > command$most_files) {
    return(usage_error(worded("cli_too_many_files", command = name, most = command$most_files, files = length(parsed$args))))
  }
  tryCatch(
    withCallingHandlers(
      {
        check_targets(parsed$options, command)
        check_typed_choices(parsed$options, entries)
        command$run(parsed$options, parsed$args)
      },
      warning = function(w) {
        cli_say(worded("cli_warning", text = cli::ansi_strip(conditionMessage(w))))
        invokeRestart("muffleWarning")
      }
    ),
    cli_usage = function(e) usage_error(conditionMessage(e)),
    scalewort_error = function(e) {
      cli_say(error_text(e))
      exit_codes[["input"]]
    },
    error = function(e) {
      reader_gone(e)
      exit_codes[["done"]]
    }
  )
}

# Where the reader of our output (head, less) closed it, nothing is wrong; any other error goes on.
reader_gone <- function(e) if (!grepl("SIGPIPE", conditionMessage(e), fixed = TRUE)) stop(e)

# `options$out` is --out alone: `$` of a plain list would take --outside for it.
#' @export
`$.cli_options` <- function(x, name) x[[name, exact = TRUE]]

# Former names of options as they are called now.
present_names <- function(args, entries) {
  for (entry in Filter(function(entry) !is.null(entry$formerly), entries)) {
    args <- sub(paste0("^--", entry$formerly, "(=|$)"), paste0(entry$flag, "\\1"), args)
  }
  args
}

# A value that begins with a minus and a number belongs to the option before it.
joined_values <- function(args, entries) {
  takes <- vapply(Filter(function(entry) entry$kind != "flag", entries), `[[`, "", "flag")
  values <- which(grepl("^-[0-9.]", args))
  values <- values[values > 1 & args[pmax(values - 1, 1)] %in% takes]
  args[values - 1] <- paste0(args[values - 1], "=", args[values])
  if (length(values) > 0) args[-values] else args
}

# The first option whose value is no number, or no whole number where one belongs; NULL for none.
number_complaint <- function(args, entries) {
  for (entry in Filter(function(entry) entry$kind %in% c("number", "whole"), entries)) {
    at <- which(args == entry$flag)
    value <- c(args[at + 1], sub("^[^=]*=", "", args[startsWith(args, paste0(entry$flag, "="))]))
    value <- value[!is.na(value)]
    number <- suppressWarnings(as.numeric(value))
    whole <- entry$kind == "whole"
    what <- message_of(if (whole) "a_whole_number" else "a_number")
    bad <- value[is.na(number) | whole & number != round(number) & !is.na(number)]
    if (length(bad) > 0) {
      return(worded("cli_takes_number", flag = entry$flag, what = what, value = bad[1]))
    }
    # What may be left out altogether is left out by 0.
    none <- isTRUE(entry$optional) & number == 0
    outside <- value[(number < entry$range[1] | number > entry$range[2]) & !none]
    if (length(outside) > 0) {
      return(worded("cli_takes_range", flag = entry$flag, what = what, low = entry$range[1], high = format(entry$range[2], scientific = FALSE),
        value = outside[1]))
    }
  }
  NULL
}

# Options that know their values are looked at before anything is read.
check_typed_choices <- function(options, entries) {
  for (entry in Filter(function(entry) entry$kind %in% c("choice", "choices"), entries)) {
    given <- if (entry$kind == "choices") cli_names(options[[entry$key]]) else options[[entry$key]]
    unknown <- setdiff(given, entry$choices)
    if (length(unknown) > 0) {
      stop_usage(message_of("cli_must_be", flag = entry$flag, choices = entry$choices, value = unknown[1],
        near = did_you_mean(unknown[1], entry$choices)))
    }
  }
}

# Files to be written are looked at before anything is computed.
check_targets <- function(options, command) {
  if (!command$folder) check_place(options$out, options$overwrite)
  for (name in c("pages", "diagram", "scores")) check_place(options[[name]], options$overwrite)
  if (!is.null(options$missing_codes) && !all(nzchar(cli_names(paste0(options$missing_codes, " "))))) {
    stop_usage(message_of("e_missing_codes_takes", missing_codes = options$missing_codes))
  }
}

option_complaint <- function(message, args, entries) {
  given <- sub("=.*$", "", grep("^--", args, value = TRUE))
  known <- vapply(entries, `[[`, "", "flag")
  unknown <- setdiff(given, c(known, "--help"))
  if (length(unknown) > 0) {
    return(worded("cli_no_option", option = unknown[1], near = did_you_mean(unknown[1], known)))
  }
  sub("\n.*$", "", message)
}

# The condition's message without the R call it came from.
error_text <- function(e) {
  worded("cli_error", text = gsub("(^|\n)(\u2716|x) ", "\\1  - ", gsub("(^|\n)(\u2139|i) ", "\\1  ", cli::ansi_strip(conditionMessage(e)))))
}

# Raised for wrong usage found while a command runs.
stop_usage <- function(message) {
  stop(structure(class = c("cli_usage", "error", "condition"), list(message = spoken(message), call = NULL)))
}

cli_overview <- function() {
  commands <- cli_commands()
  c(
    worded("cli_what_it_is"), "",
    worded("cli_overview_usage"), "",
    paste0("  ", pad(names(commands), FALSE), "  ", vapply(names(commands), word_of, "", ".commands")), "",
    worded("cli_overview_help"), worded("cli_overview_demo"), worded("cli_overview_codes")
  )
}
