# Colour on a terminal, and there alone: the answer bold, the mark of each note yellow, where
# the rest is to be found dim. Nothing is said by colour only; NO_COLOR and pipes get plain text.

show_lines <- function(lines) cat(coloured(lines), sep = "\n")

# How many colours may be used: none where NO_COLOR is set, whatever else says; nor where a process writes into a file or pipe and
# nobody asks for them, for which nothing is loaded.
colours_of <- function(stream) {
  unasked <- is.null(getOption("cli.num_colors")) && !nzchar(Sys.getenv("R_CLI_NUM_COLORS"))
  plain <- !interactive() && !isatty(stream) && unasked
  if (nzchar(Sys.getenv("NO_COLOR")) || plain) 1L else cli::num_ansi_colors(stream)
}

# lines: as format() gives them, the answer before the first empty one, or else the first line.
coloured <- function(lines, colours = colours_of(stdout())) {
  if (colours == 1 || length(lines) == 0) {
    return(lines)
  }
  before <- options(cli.num_colors = colours)
  on.exit(options(before))
  answer <- if (any(lines == "")) cumsum(lines == "") == 0 else seq_along(lines) == 1
  note <- startsWith(lines, "! ")
  more <- !answer & rev(cumprod(rev(lines != ""))) == 1 & any(startsWith(lines, "More: "))
  lines[answer] <- cli::style_bold(lines[answer])
  lines[note] <- paste0(cli::col_yellow("!"), substring(lines[note], 2))
  lines[more] <- cli::style_dim(lines[more])
  as.character(lines)
}
