# The table of options, inst/options.yml: one entry an option of a verb. What checks arguments, what the
# command line and plans know, is made from it.

options_table <- local({
  kept <- NULL
  function() {
    if (is.null(kept)) {
      raw <- yaml::read_yaml(system.file("options.yml", package = "scalewort", mustWork = TRUE))
      whole <- function(options) Map(function(entry, name) whole_entry(entry, name, raw$shared), options, names(options))
      kept <<- list(
        verbs = lapply(raw$verbs, function(verb) c(verb["step"], list(options = whole(verb$options)))),
        commands = lapply(raw$commands, whole), plan = whole(raw$plan), sizes = raw$sizes
      )
    }
    kept
  }
})

# An entry with what it takes from a shared one, and every key that others ask for.
whole_entry <- function(entry, name, shared) {
  if (!is.null(entry$like)) {
    base <- shared[[entry$like]]
    base[names(entry)] <- entry
    entry <- base
  }
  entry$name <- name
  # YAML's whole and other numbers together are a list.
  if (!is.null(entry$range)) entry$range <- as.numeric(unlist(entry$range))
  if (identical(entry$kind, "language")) entry[c("kind", "values")] <- list("choice", as.list(offered_languages()))
  entry$choices <- names(entry$values)
  entry$places <- if (is.null(entry[["in"]])) c("r", "cli", "plan") else unlist(entry[["in"]])
  entry$required <- isTRUE(entry$required)
  entry$first <- isTRUE(entry$first)
  entry
}

# The options of a verb that can be set in `place`: r, cli or plan.
verb_options <- function(verb, place = "r") {
  options <- options_table()$verbs[[verb]]$options
  Filter(function(entry) place %in% entry$places, options)
}

# The values that an option knows.
option_choices <- function(verb, name) options_table()$verbs[[verb]]$options[[name]]$choices

# Holds what a verb was given against the table: kind, values, range. `given` is the verb's own frame, or a
# list. What depends on the data (columns, names, the largest number of factors) the verb checks itself.
check_options <- function(verb, given = parent.frame()) {
  for (entry in verb_options(verb)) {
    # An argument without a default that was not given.
    if (is.symbol(given[[entry$name]]) && as.character(given[[entry$name]]) == "") {
      stop_input(message_of("e_needed_two", name = entry$name), hint = entry$help)
    }
    value <- given[[entry$name]]
    if (!is.null(value) || !(is.null(entry$default) || isTRUE(entry$optional))) check_option(value, entry)
  }
}

check_option <- function(value, entry) {
  range <- if (is.null(entry$range)) c(-Inf, Inf) else entry$range
  switch(entry$kind,
    choice = check_choice(value, entry$choices, entry$name),
    choices = check_choices(value, entry$choices, entry$name),
    number = check_number(value, entry$name, range[1], range[2]),
    whole = check_number(value, entry$name, range[1], range[2], whole = TRUE),
    flag = check_flag(value, entry$name),
    seed = check_seed(value),
    limits = check_limits(value)
  )
}
