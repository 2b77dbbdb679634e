# What errors and notes say in R's words, in those of the command line.

# `missing = "listwise"` is `--missing listwise`, `trust = TRUE` is `--trust`, `factors` is `--factors`, and `sw_retention()` is `scalewort
# retention`, where this command, or any, has such; where a plan is followed, `missing: listwise`.
command_words <- function(text, entries, plan = FALSE) {
  flags <- stats::setNames(vapply(entries, `[[`, "", "flag"), vapply(entries, `[[`, "", "name"))
  text <- each_match(text, "`([a-z_]+) = \\\\?\"([^\"`\\\\]*)\\\\?\"`", function(part) {
    if (part[2] %in% names(flags)) paste0("`", flags[[part[2]]], " ", part[3], "`") else if (plan) paste0("`", part[2], ": ", part[3], "`") else
      part[1]
  })
  text <- each_match(text, "`([a-z_]+) = (TRUE|FALSE)`", function(part) {
    if (part[2] %in% names(flags)) paste0("`", flags[[part[2]]], "`") else part[1]
  })
  text <- each_match(text, "`sw_survey\\([^`)]*?([a-z]+) = \\)`", function(part) paste0("`--", part[2], "`"))
  text <- each_match(text, "`(sw_[a-z_]+)\\([^`]*\\)`", function(part) command_of(part[2], part[1]))
  each_match(text, "`([a-z_]+)`", function(part) if (part[2] %in% names(flags)) paste0("`", flags[[part[2]]], "`") else part[1])
}

# What stands for a function: a command, or what does the same in a plan.
command_of <- function(name, otherwise) {
  known <- c(sw_draft_codebook = "`scalewort start FILE`", sw_read = "`scalewort COMMAND FILE --codebook FILE`", sw_drop = "`set_aside` in a plan",
    sw_keep = "`set_aside` in a plan", sw_flip = "`flip` in a plan", sw_run = "`scalewort run`", sw_dif = "`scalewort dif`",
    sw_structure = "a structure in a YAML file")
  if (name %in% names(known)) {
    return(known[[name]])
  }
  commands <- cli_commands()
  by_verb <- names(commands)[vapply(commands, function(one) sub("^sw_", "", name) %in% one$verbs, TRUE)]
  if (length(by_verb) > 0) paste0("`scalewort ", by_verb[1], "`") else otherwise
}

# Replaces every match of a pattern by what `with` makes of its parts.
each_match <- function(text, pattern, with) {
  where <- gregexpr(pattern, text, perl = TRUE)
  regmatches(text, where) <- lapply(regmatches(text, where), function(found) {
    vapply(found, function(one) with(regmatches(one, regexec(pattern, one, perl = TRUE))[[1]]), "", USE.NAMES = FALSE)
  })
  text
}
