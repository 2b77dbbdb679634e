# The one place where the package speaks of trouble: classed conditions.

# Raises an error of class scalewort_error_<kind>. `message` says what is wrong,
# `faults` (a character vector) lists where, `hint` says what to do. Extra
# fields ride on the condition for programs to read.
stop_for <- function(kind, message, faults = NULL, hint = NULL, ...) {
  shown <- utils::head(faults, 20)
  hint <- hint[nzchar(trimws(hint))]
  more <- length(faults) - length(shown)
  if (more > 0) shown <- c(shown, paste0("\u2026 and ", count_of(more, "more fault", "more faults")))
  text <- c(
    plain(message),
    stats::setNames(plain(shown), rep("x", length(shown))),
    stats::setNames(plain(hint), rep("i", length(hint)))
  )
  cli::cli_abort(text,
    class = c(paste0("scalewort_error_", kind), "scalewort_error"),
    call = user_call(), faults = faults, ...
  )
}

stop_input <- function(message, ...) stop_for("input", message, ...)
stop_codebook <- function(message, ...) stop_for("codebook", message, ...)
stop_structure <- function(message, ...) stop_for("structure", message, ...)
stop_numeric <- function(message, ...) stop_for("numeric", message, ...)
stop_file <- function(message, ...) stop_for("file", message, ...)

# Braces in data are text, not markup.
plain <- function(text) gsub("}", "}}", gsub("{", "{{", text, fixed = TRUE), fixed = TRUE)

# The call to an exported function that the user typed, for the error's head.
user_call <- function() {
  for (call in sys.calls()) {
    name <- call[[1]]
    if (is.symbol(name) && startsWith(as.character(name), "sw_")) {
      return(call[1])
    }
  }
  NULL
}

# What to say of a kernel's status; NULL when all is well.
status_words <- function(status) {
  switch(status,
    ok = NULL,
    not_converged = "the computation did not converge",
    not_positive_definite = "the matrix is not positive definite",
    too_few_cases = "there are too few complete cases",
    not_identified = "some parameters cannot be told apart"
  )
}
