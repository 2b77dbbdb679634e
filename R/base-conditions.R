# The one place where the package speaks of trouble: classed conditions.

# Raises an error of class scalewort_error_<kind>. `message` (a message, or text) says what is wrong,
# `faults` (messages, text, or a table of fault_rows(), which rides on the condition as `places`) lists where, `hint` says what to do. Extra
# fields ride on the condition for programs to read.
stop_for <- function(kind, message, faults = NULL, hint = NULL, ...) {
  places <- if (is.data.frame(faults)) faults
  said <- list(message = message, faults = if (is.null(places)) faults)
  faults <- fault_words(if (is.data.frame(faults)) faults else spoken(faults))
  shown <- utils::head(faults, 20)
  hint <- spoken(hint)
  hint <- hint[nzchar(trimws(hint))]
  more <- length(faults) - length(shown)
  if (more > 0) shown <- c(shown, worded("more_faults", count = more))
  text <- c(
    plain(callers_words(spoken(message))),
    stats::setNames(plain(shown), rep("x", length(shown))),
    stats::setNames(plain(callers_words(hint)), rep("i", length(hint)))
  )
  cli::cli_abort(text,
    class = c(paste0("scalewort_error_", kind), "scalewort_error"),
    call = user_call(), faults = faults, places = places, said = said, ...
  )
}

# Messages, one or several, and text among them, in the language that is read.
spoken <- function(said) {
  if (inherits(said, "sw_message")) say(said) else if (is.list(said)) vapply(Filter(Negate(is.null), said), say, "") else said
}

stop_input <- function(message, ...) stop_for("input", message, ...)
stop_codebook <- function(message, ...) stop_for("codebook", message, ...)
stop_structure <- function(message, ...) stop_for("structure", message, ...)
stop_numeric <- function(message, ...) stop_for("numeric", message, ...)
stop_file <- function(message, ...) stop_for("file", message, ...)

# Options and functions in the words of whoever called: `missing = "listwise"` in R, --missing listwise where the command line has said
# how it words them.
callers_words <- function(text) {
  words <- getOption("scalewort.words")
  if (is.null(words) || length(text) == 0) text else words(text)
}

# Braces in data are text, not markup; what steers a terminal is shown.
plain <- function(text) gsub("}", "}}", gsub("{", "{{", visible_controls(text), fixed = TRUE), fixed = TRUE)

# The call that the user made, for the error's head: the innermost frame of a public function (or of a
# method of a generic) that was not called by this package itself.
user_call <- function() {
  here <- topenv()
  for (i in rev(seq_len(sys.nframe()))) {
    f <- sys.function(i)
    if (!identical(environment(f), here) || identical(topenv(sys.frame(sys.parents()[i])), here)) next
    name <- public_name(f, here)
    if (!is.null(name)) return(call(name))
  }
  NULL
}

public_name <- function(f, here) {
  for (name in getNamespaceExports(here)) if (identical(f, get0(name, here))) return(name)
  generics <- c("print", "format", "summary", "tidy", "glance", "augment", "autoplot", "plot", "as.data.frame")
  for (name in ls(here, pattern = paste0("^(", paste(generics, collapse = "|"), ")[.]sw_"))) {
    if (identical(f, get0(name, here))) return(sub("[.]sw_.*$", "", name))
  }
  NULL
}

# What to say of a kernel's status; NULL when all is well.
status_message <- function(status) {
  switch(status,
    ok = NULL,
    not_converged = message_of("status_not_converged"),
    not_positive_definite = message_of("status_not_positive_definite"),
    too_few_cases = message_of("status_too_few_cases"),
    not_identified = message_of("status_not_identified")
  )
}

status_words <- function(status) {
  said <- status_message(status)
  if (!is.null(said)) say(said)
}

# What an error says in short, as a message: its first sentence, with its faults in brackets; text where nobody composed it here.
said_of_error <- function(e, code) {
  why <- if (is.null(e$said)) cli::ansi_strip(conditionMessage(e)) else e$said$message
  faults <- if (is.null(e$said$faults)) e$faults else e$said$faults
  message_of(code, why = why, about = if (length(faults) > 0) message_of("in_brackets", faults = faults))
}

# Says once what a former name or order is called now; it goes on working for a version.
tell_former <- function(said) rlang::inform(say(said), class = "scalewort_former", .frequency = "once", .frequency_id = say(said, "en"))
