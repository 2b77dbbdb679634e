# A station: a question of the path with its answer, figure, table, notes, and the few controls that matter.

# Settings for blocks as the report has them.
desk_settings <- function(desk, found) {
  language <- desk_language(desk)
  settings <- list(title = "", author = "", digits = 3, language = language, theme = "auto", words = report_words(language))
  results <- Filter(function(one) inherits(one, "sw_result"), found$have)
  settings$wordings <- known_wordings(found$have$answers)
  settings$halves <- if (length(results) > 0) half_sizes(results)
  settings
}

desk_language <- function(desk) {
  own <- desk$raw$language
  if (is.null(own)) "en" else own
}

desk_station <- function(step, desk, found, words) {
  state <- station_state(step, found, desk)
  result <- if (step %in% found$pending) desk$last[[step]] else found$have[[step]]
  settings <- desk_settings(desk, found)
  question <- settings$words$questions[[station_classes[[step]]]]
  why <- found$left_out[[step]]
  htmltools::tagList(
    place_title(question),
    if (state == "stale") htmltools::tags$p(class = "stale-note", words$stale),
    if (state == "waits") htmltools::tags$p(class = "stale-note", words$waiting),
    if (state == "off") htmltools::tags$p(words$left_out, " ", act_button(words$take_up, "take_up", step = step)),
    if (state == "none" && step == "composites") htmltools::tags$p(words$composites_off, " ", act_button(words$take_up, "take_up", step = step)),
    if (state == "none" && !is.null(why)) htmltools::tags$p(class = "trouble", role = "alert", paste(words$not_possible, said_in(unname(why),
      settings$words))),
    if (!is.null(result)) htmltools::tags$div(class = if (state == "stale") "stale", station_blocks(result, settings, desk, "main")),
    station_acts(step, desk, found, words),
    station_controls(step, desk, words),
    if (!is.null(result)) htmltools::tags$details(htmltools::tags$summary(words$more), station_blocks(result, settings, desk, "long"))
  )
}

# Blocks of a result as the report draws them; drawn once for a result and language.
station_blocks <- function(result, settings, desk, part) {
  place <- paste("blocks", part, settings$language, is.null(settings$wordings), rlang::hash(list(result$tables, result$about, result$noted)))
  if (is.null(desk$memory[[place]])) assign(place, drawn_blocks(result, settings, desk, part), desk$memory)
  desk$memory[[place]]
}

drawn_blocks <- function(result, settings, desk, part) {
  if (inherits(result, "sw_retention") && part == "main") settings$clickable <- list(kind = "scree", most = max(result$tables$fits$factors))
  numbers <- new.env()
  numbers$table <- numbers$figure <- 0
  with_language(settings, {
    blocks <- if (part == "main") analysis_blocks(result, settings, numbers, "main")[-1] else long_blocks(list(result), settings, numbers)
    if (part == "long") blocks <- c(Filter(function(b) b$kind != "heading", blocks), report_block("paragraph", class = "sentences",
      text = paste(said_in(without_code(sentences(result)), settings$words), collapse = " ")))
    folder <- tempfile("desk-")
    on.exit(unlink(folder, recursive = TRUE))
    document <- draw_document(list(blocks = blocks), folder)
    htmltools::HTML(paste(vapply(document$blocks, block_html, "", settings = settings, desk = desk), collapse = "\n"))
  })
}

# A figure can be saved as PNG and SVG, a table copied.
block_html <- function(b, settings, desk) {
  html <- html_block(b, settings)
  words <- settings$words$desk
  if (b$kind == "figure") {
    key <- rlang::hash(list(b$name, b$caption, b$alt, b$number))
    assign(paste("figure", key), b$figure, desk$memory)
    if (b$number == 1 && !is.null(settings$clickable)) html <- clickable_html(html, b$figure, settings$clickable)
    return(sub("</figure>", paste0("<p class=\"give\"><button type=\"button\" class=\"act\" data-save=\"png\" data-name=\"", b$name, "\">",
      words$save_png, "</button> <a class=\"act\" data-svg=\"", key, "\" download=\"", b$name, ".svg\">", words$save_svg, "</a></p></figure>"), html,
      fixed = TRUE))
  }
  if (b$kind != "table") {
    return(html)
  }
  paste0(html, "<p class=\"give\"><button type=\"button\" class=\"act\" data-copy=\"table\">", words$copy, "</button></p>")
}

# Kinds of options that have a control; lists are typed with commas.
listed_kinds <- c("numbers", "wholes", "cuts", "marks", "names", "choices", "modes", "form")
control_kinds <- c("choice", "flag", "number", "whole", "column", "columns", listed_kinds)

# Controls of a step from the table of options, the first ones open.
station_controls <- function(step, desk, words) {
  entries <- if (step %in% configured_steps()) step_entries(step) else list()
  entries <- Filter(function(entry) entry$kind %in% control_kinds, entries)
  if (length(entries) == 0) {
    return(NULL)
  }
  own <- decided_plan(desk$raw)[[step]]
  columns <- names(desk$read$data)
  row <- function(name) option_control(step, name, entries[[name]], if (is.list(own)) own[[name]], columns, words)
  first <- vapply(entries, function(entry) isTRUE(entry$first), TRUE)
  htmltools::tags$section(class = "controls", `aria-label` = words$options,
    htmltools::tags$h2(words$options), lapply(names(entries)[first], row),
    if (any(!first)) htmltools::tags$details(htmltools::tags$summary(words$more_options), lapply(names(entries)[!first], row)),
    if (!identical(own, FALSE)) act_button(words$leave_out, "leave_out", step = step))
}

option_control <- function(step, name, entry, value, columns, words) {
  id <- paste("set", step, name, sep = "-")
  now <- as.character(unlist(value))[1]
  offer <- function(one, label) htmltools::tags$option(value = one, selected = if (identical(now, one)) NA, label)
  given <- function(known, labels = known) {
    htmltools::tags$select(id = id, `data-key` = id, `data-set` = step, name = name, htmltools::tags$option(value = "", words$by_default),
      Map(offer, known, labels))
  }
  field <- switch(entry$kind,
    choice = given(entry$choices, paste0(entry$choices, ": ", unlist(entry$values))), flag = given(c("true", "false"), c(words$yes, words$no)),
    column = , columns = given(columns), numbers = , wholes = , cuts = , marks = , names = , choices = , modes = , form = htmltools::tags$input(
      id = id, `data-key` = id, type = "text", `data-set` = step, name = name, value = paste(unlist(value), collapse = ", "),
      placeholder = paste(unlist(if (is.null(entry$default)) entry$choices else entry$default), collapse = ", ")),
    htmltools::tags$input(id = id, `data-key` = id, type = "number", `data-set` = step, name = name, min = entry$range[1], max = entry$range[2],
      step = if (entry$kind == "whole") 1 else "any", value = if (!is.null(value)) unlist(value)[1], placeholder = as.character(entry$default)))
  htmltools::tags$p(class = "control", htmltools::tags$label(`for` = id, gsub("_", " ", name)), field,
    htmltools::tags$span(class = "help", entry$help))
}

# A control's value as a plan holds it; NULL for the default.
control_value <- function(step, name, text) {
  if (is.null(text) || !nzchar(text)) {
    return(NULL)
  }
  entry <- step_entries(step)[[name]]
  if (entry$kind %in% listed_kinds) {
    values <- trimws(strsplit(text, ",", fixed = TRUE)[[1]])
    numbers <- suppressWarnings(as.numeric(values))
    values <- if (entry$kind == "wholes" && !anyNA(numbers)) as.integer(numbers) else if (!anyNA(numbers)) numbers else values
    return(if (length(values) == 1) values else as.list(values))
  }
  switch(entry$kind, flag = text == "true", whole = as.integer(text), number = as.numeric(text), text)
}
