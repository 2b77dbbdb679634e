# The command line: reads arguments, runs a command, says how it ended.
# Exit codes: 0 done, 2 wrong usage, 3 bad input, 4 no convergence.

exit_codes <- c(done = 0L, usage = 2L, input = 3L, convergence = 4L)

# Runs `scalewort <args>` and returns the exit code.
cli_main <- function(args = commandArgs(trailingOnly = TRUE)) {
  if (length(args) == 0 || args[1] %in% c("--help", "-h", "help")) {
    cat(cli_overview(), sep = "\n")
    return(exit_codes[["done"]])
  }
  if (args[1] == "--version") {
    cat("scalewort", as.character(utils::packageVersion("scalewort")), "\n")
    return(exit_codes[["done"]])
  }
  in_utf8()
  if (isatty(stdout())) options(scalewort.width = max(60, min(terminal_columns(), 160)))
  commands <- cli_commands()
  if (!args[1] %in% names(commands)) {
    return(usage_error(paste0("There is no command ", quoted(args[1]), did_you_mean(args[1], names(commands)), ".")))
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
  cli_say("Error: ", message, "\nSee: scalewort --help")
  exit_codes[["usage"]]
}

# Words go to stderr; stdout is for results.
cli_say <- function(...) {
  text <- paste0(..., "\n")
  if (colours_of(stderr()) > 1) text <- sub("^(Error|Warning):", paste0("\033[1m", "\\1:", "\033[22m"), text)
  cat(text, file = stderr())
}

run_command <- function(name, command, args) {
  parser <- cli_parser(name, command)
  if (any(args %in% c("--help", "-h"))) {
    tryCatch(optparse::print_help(parser), error = reader_gone)
    return(exit_codes[["done"]])
  }
  parsed <- tryCatch(
    optparse::parse_args(parser, joined_values(args, command), positional_arguments = TRUE, convert_hyphens_to_underscores = TRUE),
    error = function(e) conditionMessage(e)
  )
  if (is.character(parsed)) {
    return(usage_error(paste0(option_complaint(parsed, args, command), " (scalewort ", name, ")")))
  }
  parsed$options$seed_given <- any(grepl("^--seed(=|$)", args))
  class(parsed$options) <- "cli_options"
  if (isTRUE(parsed$options$quiet) || nzchar(Sys.getenv("NO_COLOR"))) options(scalewort.progress = FALSE)
  if (!is.null(parsed$options$width)) options(scalewort.width = max(40, parsed$options$width))
  wrong <- number_complaint(args, c(command$options, common_options(command$data)))
  if (!is.null(wrong)) {
    return(usage_error(paste0(wrong, " (scalewort ", name, ")")))
  }
  if (length(parsed$args) > command$most_files) {
    return(usage_error(paste0("`scalewort ", name, "` takes ", count_of(command$most_files, "file"), "; there are ", length(parsed$args), ".")))
  }
  tryCatch(
    withCallingHandlers(
      {
        check_targets(parsed$options, command)
        command$run(parsed$options, parsed$args)
      },
      warning = function(w) {
        cli_say("Warning: ", cli::ansi_strip(conditionMessage(w)))
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

# A value that begins with a minus and a number belongs to the option before it.
joined_values <- function(args, command) {
  known <- c(command$options, common_options(command$data))
  takes <- vapply(Filter(function(o) o@action == "store", known), function(o) o@long_flag, "")
  values <- which(grepl("^-[0-9.]", args))
  values <- values[values > 1 & args[pmax(values - 1, 1)] %in% takes]
  args[values - 1] <- paste0(args[values - 1], "=", args[values])
  if (length(values) > 0) args[-values] else args
}

# The first option whose value is no number, or no whole number where one belongs; NULL for none.
number_complaint <- function(args, known) {
  for (option in Filter(function(o) o@type %in% c("integer", "double"), known)) {
    at <- which(args == option@long_flag)
    value <- c(args[at + 1], sub("^[^=]*=", "", args[startsWith(args, paste0(option@long_flag, "="))]))
    value <- value[!is.na(value)]
    number <- suppressWarnings(as.numeric(value))
    whole <- option@type == "integer"
    bad <- value[is.na(number) | whole & number != round(number) & !is.na(number)]
    if (length(bad) > 0) {
      return(paste0(option@long_flag, " takes ", if (whole) "a whole number" else "a number", "; this is ", quoted(bad[1]), "."))
    }
    if (option@long_flag == "--digits" && any(number < 0 | number > 10)) {
      return(paste0("--digits takes a whole number from 0 to 10; this is ", value[1], "."))
    }
  }
  NULL
}

# Files to be written are looked at before anything is computed.
check_targets <- function(options, command) {
  if (!command$folder) check_place(options$out, options$overwrite)
  for (name in c("pages", "diagram", "scores")) check_place(options[[name]], options$overwrite)
  if (!is.null(options$format) && !options$format %in% c("text", "csv", "json", "md")) {
    stop_usage(paste0("--format must be text, csv, json or md; this is ", quoted(options$format), "."))
  }
  if (!is.null(options$missing_codes) && !all(nzchar(cli_names(paste0(options$missing_codes, " "))))) {
    stop_usage(paste0("--missing-codes takes codes separated by commas; this is ", quoted(options$missing_codes), "."))
  }
}

option_complaint <- function(message, args, command) {
  given <- sub("=.*$", "", grep("^--", args, value = TRUE))
  known <- vapply(c(command$options, common_options(command$data)), function(o) o@long_flag, "")
  unknown <- setdiff(given, c(known, "--help"))
  if (length(unknown) > 0) {
    return(paste0("There is no option ", unknown[1], did_you_mean(unknown[1], known), "."))
  }
  sub("\n.*$", "", message)
}

# The condition's message without the R call it came from.
error_text <- function(e) {
  paste0("Error: ", gsub("(^|\n)(\u2716|x) ", "\\1  - ", gsub("(^|\n)(\u2139|i) ", "\\1  ", cli::ansi_strip(conditionMessage(e)))))
}

# Raised for wrong usage found while a command runs.
stop_usage <- function(message) {
  stop(structure(class = c("cli_usage", "error", "condition"), list(message = message, call = NULL)))
}

cli_overview <- function() {
  commands <- cli_commands()
  c(
    "scalewort: from questionnaire answers to subscale scores", "",
    "Usage: scalewort COMMAND [FILE] [options]", "",
    paste0("  ", pad(names(commands), FALSE), "  ", vapply(commands, `[[`, "", "about")), "",
    "Each command explains itself: scalewort COMMAND --help",
    "Try it on demo data: scalewort demo --out FOLDER",
    "Exit codes: 0 done, 2 wrong usage, 3 bad input, 4 the computation did not converge"
  )
}

cli_parser <- function(name, command) {
  optparse::OptionParser(
    usage = paste0("scalewort ", name, if (command$most_files > 0) " FILE", " [options]"),
    option_list = c(command$options, common_options(command$data)), prog = "scalewort",
    description = paste0("\n", command$about, if (!endsWith(command$about, "?")) ".", "\n"),
    epilogue = paste0("Example:\n  scalewort ", name, " ", command$example, "\n")
  )
}
