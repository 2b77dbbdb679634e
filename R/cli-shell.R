# What a shell wants to know: completion of commands and options, and a manual page.

cli_completion <- function(options, files) {
  shell <- if (length(files) == 0) "bash" else files[1]
  if (!shell %in% c("bash", "zsh")) stop_usage("Completion is for bash or zsh: scalewort completion bash.")
  cat(completion_lines(shell), sep = "\n")
  exit_codes[["done"]]
}

completion_lines <- function(shell) {
  commands <- cli_commands()
  flags <- vapply(commands, function(one) paste(command_flags(one), collapse = " "), "")
  body <- c(
    "_scalewort() {", "  local current previous", "  current=\"${COMP_WORDS[COMP_CWORD]}\"", "  previous=\"${COMP_WORDS[COMP_CWORD-1]}\"",
    "  if [ \"$COMP_CWORD\" -eq 1 ]; then", paste0("    COMPREPLY=( $(compgen -W \"", paste(names(commands), collapse = " "),
      " --help --version\" -- \"$current\") )"),
    "    return", "  fi", "  case \"$previous\" in",
      "    --demo) COMPREPLY=( $(compgen -W \"plotholders plotholders-draft plantcare\" -- \"$current\") ); return ;;",
    "    --format) COMPREPLY=( $(compgen -W \"text csv json md\" -- \"$current\") ); return ;;", "  esac",
    "  if [[ \"$current\" != -* ]]; then", "    COMPREPLY=( $(compgen -f -- \"$current\") )", "    return", "  fi", "  case \"${COMP_WORDS[1]}\" in",
    paste0("    ", names(commands), ") COMPREPLY=( $(compgen -W \"", flags, "\" -- \"$current\") ) ;;"), "  esac", "}",
      "complete -F _scalewort scalewort"
  )
  c(
    paste0("# Completion of scalewort for ", shell, ". Put into your ", if (shell == "bash") "~/.bashrc" else "~/.zshrc", ":"),
    paste0("#   eval \"$(scalewort completion ", shell, ")\""), if (shell == "zsh") "autoload -U +X bashcompinit && bashcompinit", body
  )
}

command_flags <- function(command) vapply(c(command$options, common_options(command$data)), function(o) o@long_flag, "")

cli_man <- function(options, files) {
  cat(man_lines(), sep = "\n")
  exit_codes[["done"]]
}

# The manual page in roff, from the same table as the help.
man_lines <- function() {
  commands <- cli_commands()
  roff <- function(text) gsub("-", "\\-", gsub("\\", "\\\\", text, fixed = TRUE), fixed = TRUE)
  option_lines <- function(options) {
   unlist(lapply(options, function(o) {
      c(".TP", paste0(".B ", roff(o@long_flag), if (length(o@metavar) > 0 && nzchar(o@metavar[1])) paste0(" ", roff(o@metavar[1]))),
        roff(gsub("%default", paste(format(o@default), collapse = ""), o@help, fixed = TRUE)))
    }))
 }
  c(
    paste0(".TH SCALEWORT 1 \"\" \"scalewort ", utils::packageVersion("scalewort"), "\""), ".SH NAME",
      "scalewort \\- from questionnaire answers to subscale scores",
    ".SH SYNOPSIS", ".B scalewort", ".I COMMAND", "[FILE] [options]", ".SH DESCRIPTION",
    paste("Screens the items of a questionnaire, computes internal consistency, explores and confirms the factors,",
      "scores the subscales and writes a report."),
    ".SH COMMANDS", unlist(lapply(names(commands), function(name) {
      c(paste0(".SS ", name), paste0(roff(commands[[name]]$about), "."), ".PP", paste0("Example: scalewort ", name, " ",
        roff(commands[[name]]$example)),
        option_lines(commands[[name]]$options))
    })), ".SH OPTIONS OF ALL COMMANDS", option_lines(common_options()), ".SH EXIT STATUS",
      "0 done, 2 wrong usage, 3 bad input, 4 the computation did not converge.",
    ".SH ENVIRONMENT", "Output has no colours. Tables are as wide as the terminal, 80 columns elsewhere."
  )
}
