# Long series that show how far they are.

# Like lapply(); on a terminal a series of more than two seconds shows how far it is, unless the
# option scalewort.progress is FALSE. It can be stopped at any turn.
over_series <- function(x, words, run) {
  if (!isTRUE(getOption("scalewort.progress", isatty(stderr()) && cli::is_dynamic_tty()))) {
    return(lapply(x, run))
  }
  places <- cli::cli_progress_along(x, format = paste0(words, " {cli::pb_current} of {cli::pb_total} {cli::pb_bar} {cli::pb_eta_str}"))
  lapply(places, function(i) run(x[[i]]))
}
