# Help of a command: what people use first, then the rest in groups, each option on a line.

# all: explain the options of many commands, too, which are else only named.
help_lines <- function(name, command, entries, all = FALSE) {
  common <- vapply(entries, function(entry) !is.null(entry$common), TRUE)
  first <- vapply(entries, `[[`, TRUE, "first")
  own <- entries[!common & !first]
  headings <- vapply(own, function(entry) if (is.null(entry$group)) worded("cli_others") else word_of(entry$group, ".options_help"), "")
  about <- word_of(name, ".commands")
  c(
    worded("cli_usage", command = name, file = if (command$most_files > 0) message_of("cli_file")), "",
    strwrap(paste0(about, if (!endsWith(about, "?")) "."), output_width() - 1), "",
    option_block(worded("cli_used_most"), entries[first]),
    unlist(lapply(unique(headings), function(heading) option_block(heading, own[headings == heading]))),
    if (all) option_block(worded("cli_of_many"), entries[common & !first]) else named_block(entries[common & !first]),
    worded("cli_example"), paste0("  scalewort ", name, " ", command$example)
  )
}

# A heading, and a line or more for each option.
option_block <- function(heading, entries) {
  if (length(entries) == 0) {
    return(NULL)
  }
  left <- vapply(entries, function(entry) trimws(paste(entry$flag, entry_metavar(entry))), "")
  width <- min(max(nchar(left)), 26)
  lines <- Map(function(word, entry) {
    text <- strwrap(entry_help(entry), output_width() - width - 5)
    lead <- c(formatC(word, width = -width), rep(strrep(" ", width), length(text) - 1))
    if (nchar(word) > width) c(paste0("  ", word), paste0(strrep(" ", width + 4), text)) else paste0("  ", lead, "  ", text)
  }, left, entries)
  c(paste0(heading, ":"), unlist(lines, use.names = FALSE), "")
}

named_block <- function(entries) {
  c(paste0(worded("cli_of_many_named"), ":"),
    strwrap(paste(vapply(entries, `[[`, "", "flag"), collapse = " "), output_width() - 1, indent = 2, exdent = 2), "")
}
