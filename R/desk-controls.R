# Controls of options, from the table of options: each change is a decision.

# Lists are typed with commas, values by name as name=value, several values of a name with a plus.
listed_kinds <- c("numbers", "wholes", "cuts", "marks", "names", "choices", "modes", "form", "columns", "weights", "signs", "leads", "release",
  "norms", "list", "codes")
text_kinds <- c("text", "matrix", listed_kinds)
control_kinds <- c("choice", "flag", "number", "whole", "column", text_kinds)

# Keys of a plan that say what a column is, beside those of the steps.
survey_keys <- c("title", "author", "language", "id", "group", "wave", "waves", "wide", "cluster", "weight")

# Options of a step, or keys of the plan itself.
control_entries <- function(step) {
  entries <- if (is.null(step)) options_table()$plan[survey_keys] else if (step %in% configured_steps()) step_entries(step) else list()
  Filter(function(entry) entry$kind %in% control_kinds, entries)
}

# Controls of a step, the first ones open.
station_controls <- function(step, desk, words) {
  entries <- control_entries(step)
  if (length(entries) == 0) {
    return(NULL)
  }
  own <- decided_plan(desk$raw)[[step]]
  columns <- if (!is.null(desk$read)) source_names(desk$read)
  row <- function(name) option_control(step, name, entries[[name]], if (is.list(own)) own[[name]], columns, words)
  first <- vapply(entries, function(entry) isTRUE(entry$first), TRUE)
  htmltools::tags$section(class = "controls", `aria-label` = words$options, column_names(columns),
    htmltools::tags$h2(words$options), lapply(names(entries)[first], row),
    if (any(!first)) htmltools::tags$details(htmltools::tags$summary(words$more_options), lapply(names(entries)[!first], row)),
    if (!identical(own, FALSE)) act_button(words$leave_out, "leave_out", step = step))
}

# What the columns are, and what the plan is called.
survey_controls <- function(desk, words) {
  plan <- decided_plan(desk$raw)
  entries <- control_entries(NULL)
  columns <- if (!is.null(desk$read)) source_names(desk$read)
  htmltools::tags$section(class = "controls", `aria-label` = words$survey, column_names(columns),
    htmltools::tags$h2(words$survey),
    lapply(names(entries), function(name) option_control(NULL, name, entries[[name]], plan[[name]], columns, words)))
}

# Names of columns, offered where several can be typed.
column_names <- function(columns) htmltools::tags$datalist(id = "columns", lapply(columns, function(name) htmltools::tags$option(value = name)))

option_control <- function(step, name, entry, value, columns, words) {
  of <- if (is.null(step)) "plan" else step
  id <- paste("set", of, name, sep = "-")
  now <- as.character(unlist(value))[1]
  offer <- function(one, label) htmltools::tags$option(value = one, selected = if (identical(now, one)) NA, label)
  given <- function(known, labels = known) {
    htmltools::tags$select(id = id, `data-key` = id, `data-set` = of, name = name, htmltools::tags$option(value = "", words$by_default),
      Map(offer, known, labels))
  }
  field <- if (entry$kind == "choice") given(entry$choices, paste0(entry$choices, ": ", help_in_words(unlist(entry$values), words))) else
    if (entry$kind == "flag") given(c("true", "false"), c(words$yes, words$no)) else if (entry$kind == "column") given(columns) else
      if (entry$kind %in% text_kinds) htmltools::tags$input(id = id, `data-key` = id, type = "text", `data-set` = of, name = name,
        value = typed_value(value), placeholder = paste(unlist(if (is.null(entry$default)) entry$choices else entry$default), collapse = ", "),
        list = if (entry$kind == "columns") "columns") else
        htmltools::tags$input(id = id, `data-key` = id, type = "number", `data-set` = of, name = name, min = entry$range[1], max = entry$range[2],
          step = if (entry$kind == "whole") 1 else "any", value = if (!is.null(value)) unlist(value)[1],
          placeholder = as.character(entry$default))
  htmltools::tags$p(class = "control", htmltools::tags$label(`for` = id, gsub("_", " ", name)), field,
    htmltools::tags$span(class = "help", help_in_words(c(entry$help, words$survey_help[[name]])[1], words)))
}

# Help and choices of options in the page's language.
help_in_words <- function(texts, words) {
  if (length(texts) == 0 || anyNA(texts)) texts else vapply(texts, word_of, "", ".options_help", language = words$all$language, USE.NAMES = FALSE)
}

# "3, 4" for a list, "a=2, b=3+4" for values by name.
typed_value <- function(value) {
  one <- vapply(as.list(value), function(own) paste(unlist(own), collapse = "+"), "")
  paste(if (is.null(names(value))) one else paste0(names(value), "=", one), collapse = ", ")
}

# A control's value as a plan holds it; NULL for the default.
control_value <- function(step, name, text) {
  if (is.null(text) || !nzchar(trimws(text))) {
    return(NULL)
  }
  kind <- control_entries(step)[[name]]$kind
  if (kind %in% listed_kinds) {
    return(listed_value(trimws(strsplit(text, ",", fixed = TRUE)[[1]]), kind))
  }
  switch(kind, flag = text == "true", whole = as.integer(text), number = as.numeric(text), trimws(text))
}

listed_value <- function(parts, kind) {
  parts <- parts[nzchar(parts)]
  if (length(parts) > 0 && all(grepl("^[^=]+=.", parts))) {
    values <- sub("^[^=]+=", "", parts)
    values <- if (kind == "signs") as.list(trimws(values)) else strsplit(values, "+", fixed = TRUE)
    by_name <- split(values, factor(trimws(sub("=.*$", "", parts)), unique(trimws(sub("=.*$", "", parts)))))
    return(lapply(by_name, function(own) several_values(unlist(own), kind)))
  }
  several_values(parts, kind)
}

# One value alone, several as a list; numbers where all are.
several_values <- function(values, kind) {
  values <- trimws(values)
  numbers <- suppressWarnings(as.numeric(values))
  values <- if (anyNA(numbers)) values else if (kind == "wholes") as.integer(numbers) else numbers
  if (length(values) == 1 && kind != "list") values else as.list(values)
}
