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
  own <- if (!is.null(desk$raw)) decided_plan(desk$raw)$language
  if (is.null(own)) reading_language() else own
}

desk_station <- function(step, desk, found, words) {
  state <- station_state(step, found, desk)
  result <- if (step %in% found$pending) desk$last[[step]] else found$have[[step]]
  settings <- desk_settings(desk, found)
  question <- settings$words$questions[[station_classes[[step]]]]
  why <- as.list(found$left_out)[[step]]
  htmltools::tagList(
    place_title(question),
    if (state == "stale") htmltools::tags$p(class = "stale-note", words$stale),
    if (state == "waits") htmltools::tags$p(class = "stale-note", words$waiting),
    if (state == "off") htmltools::tags$p(if (step == "composites") words$composites_off else words$left_out, " ", act_button(words$take_up,
      "take_up", step = step)),
    if (state == "none" && !is.null(why)) htmltools::tags$p(class = "trouble", role = "alert", paste(words$not_possible,
      in_report(why, settings$words))),
    if (!is.null(result)) htmltools::tags$div(class = if (state == "stale") "stale", station_blocks(result, settings, desk, "main")),
    station_acts(step, desk, found, words),
    station_controls(step, desk, words),
    if (!is.null(result)) htmltools::tags$details(htmltools::tags$summary(words$more), station_blocks(result, settings, desk, "long"))
  )
}

# Blocks of a result as the report draws them; drawn once for a result and language.
station_blocks <- function(result, settings, desk, part) {
  place <- paste("blocks", part, settings$language, is.null(settings$wordings), hash_of(list(result$tables, result$about, result$noted)))
  if (is.null(desk$memory[[place]])) assign(place, drawn_blocks(result, settings, desk, part), desk$memory)
  desk$memory[[place]]
}

drawn_blocks <- function(result, settings, desk, part) {
  if (part == "main") settings$clickable <- clickable_kind(result, settings$words$desk)
  numbers <- new.env()
  numbers$table <- numbers$figure <- 0
  in_language(settings$words$language, {
    blocks <- if (part == "main") analysis_blocks(result, settings, numbers, "main")[-1] else long_blocks(list(result), settings, numbers)
    if (part == "long") blocks <- c(Filter(function(b) b$kind != "heading", blocks), report_block("paragraph", class = "sentences",
      text = in_report(sentences(result), settings$words)))
    folder <- tempfile("desk-")
    on.exit(unlink(folder, recursive = TRUE))
    document <- draw_document(list(blocks = blocks), folder)
    htmltools::HTML(paste(vapply(document$blocks, block_html, "", settings = settings, desk = desk), collapse = "\n"))
  })
}

# What a click on the first figure of a station means.
clickable_kind <- function(result, words) {
  if (inherits(result, "sw_retention")) {
    return(list(kind = "scree", most = max(result$tables$fits$factors)))
  }
  if (!inherits(result, "sw_confirmation") || result$about$status != "ok") {
    return(NULL)
  }
  list(kind = "paths", hint = words$draw, words = words[c("pair", "loading", "shift", "leave", "above", "general", "rename", "name")])
}

# A figure can be saved as PNG and SVG, a table copied.
block_html <- function(b, settings, desk) {
  html <- html_block(b, settings)
  words <- settings$words$desk
  if (b$kind == "figure") {
    key <- hash_of(list(b$name, b$caption, b$alt, b$number))
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
