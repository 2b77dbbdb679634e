# What a shell wants to know: completion of commands and options, and a manual page.

cli_completion <- function(options, files) {
  shell <- if (length(files) == 0) "bash" else files[1]
  if (!shell %in% c("bash", "zsh")) stop_usage(message_of("e_completion_bash_zsh"))
  cat(completion_lines(shell), sep = "\n")
  exit_codes[["done"]]
}

completion_lines <- function(shell) {
  commands <- cli_commands()
  entries <- Map(command_entries, names(commands), commands)
  words <- function(x) paste0("COMPREPLY=( $(compgen -W \"", paste(x, collapse = " "), "\" -- \"$current\") )")
  body <- c(
    "_scalewort() {", "  local current previous", "  current=\"${COMP_WORDS[COMP_CWORD]}\"", "  previous=\"${COMP_WORDS[COMP_CWORD-1]}\"",
    "  if [ \"$COMP_CWORD\" -eq 1 ]; then", paste0("    ", words(c(names(commands), "help", "--help", "--version"))),
    "    return", "  fi", "  case \"${COMP_WORDS[1]} $previous\" in", value_completions(entries, words), "  esac",
    "  if [[ \"$current\" != -* ]]; then", "    COMPREPLY=( $(compgen -f -- \"$current\") )", "    return", "  fi", "  case \"${COMP_WORDS[1]}\" in",
    paste0("    ", names(commands), ") ", vapply(entries, function(own) words(vapply(own, `[[`, "", "flag")), ""), " ;;"),
    "    help) [ \"$COMP_CWORD\" -eq 2 ] &&", paste0("      ", words(names(commands)), " ;;"), "  esac", "}",
    "complete -F _scalewort scalewort"
  )
  c(
    paste("#", worded("completion_where", shell = shell, file = if (shell == "bash") "~/.bashrc" else "~/.zshrc")),
    paste0("#   eval \"$(scalewort completion ", shell, ")\""), if (shell == "zsh") "autoload -U +X bashcompinit && bashcompinit", body
  )
}

# A line for each option that knows its values: those of many commands once, others by command.
value_completions <- function(entries, words) {
  lines <- unlist(Map(function(name, own) {
    vapply(Filter(function(entry) length(entry$choices) > 0, own), function(entry) {
      paste0("    \"", if (is.null(entry$common)) paste0(name, " ") else "\"*\" ", entry$flag, "\") ", words(entry$choices), "; return ;;")
    }, "")
  }, names(entries), entries), use.names = FALSE)
  unique(lines)
}

# On a terminal a page, where there is a program that shows it; else its source, for whoever keeps it.
cli_man <- function(options, files) {
  if (isatty(stdout()) && nzchar(Sys.which("man"))) {
    page <- tempfile(fileext = ".1")
    on.exit(unlink(page))
    writeLines(man_lines(), page)
    system2("man", c("-l", shQuote(page)))
    return(exit_codes[["done"]])
  }
  cat(man_lines(), sep = "\n")
  exit_codes[["done"]]
}

# The manual page in roff, from the same table as the help.
man_lines <- function() {
  commands <- cli_commands()
  roff <- function(text) gsub("-", "\\-", gsub("\\", "\\\\", text, fixed = TRUE), fixed = TRUE)
  heading <- function(code) paste(".SH", toupper(worded(code)))
  option_lines <- function(entries) {
    unlist(lapply(entries, function(entry) {
      said <- vapply(unlist(entry$values), word_of, "", ".options_help")
      values <- if (length(entry$values) > 0) paste0(entry$choices, ": ", said, ".")
      c(".TP", trimws(paste(paste0(".B ", roff(entry$flag)), entry_metavar(entry))), roff(sub("[.]?$", ".", entry_help(entry))),
        if (length(values) > 0) c(".br", roff(paste(values, collapse = " "))))
    }))
  }
  own <- function(name) Filter(function(entry) is.null(entry$common), command_entries(name, commands[[name]]))
  many <- Filter(function(entry) !is.null(entry$common), command_entries("screen", commands$screen))
  c(
    paste0(".TH SCALEWORT 1 \"\" \"scalewort ", utils::packageVersion("scalewort"), "\""), heading("man_name"),
    sub(":", " \\-", worded("cli_what_it_is"), fixed = TRUE), heading("man_synopsis"), roff(sub("^[^:]*: ", "", worded("cli_overview_usage"))),
    heading("man_description"), roff(worded("man_what_it_does")), heading("man_commands"), unlist(lapply(names(commands), function(name) {
      c(paste(".SS", name), paste0(roff(sub("[?]$", "", word_of(name, ".commands"))), "."), ".PP", paste(worded("cli_example"), "scalewort", name,
        roff(commands[[name]]$example)),
        option_lines(own(name)))
    })), heading("man_options"), option_lines(many), heading("man_exit"), roff(worded("cli_overview_codes")),
    heading("man_environment"), roff(worded("man_language_and_width"))
  )
}
