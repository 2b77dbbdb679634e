# The page of the desk: its frame, head and path. Everything stands in four places that are renewed on their own.

desk_file <- function(name) system.file("desk", name, package = "scalewort", mustWork = TRUE)

# The frame, once; words, style and script are local.
desk_frame <- function(words, language) {
  place <- function(id, tag = "section", label = NULL) {
    htmltools::tag(tag, list(shiny::uiOutput(id), `aria-label` = label, class = paste0("desk-", id)))
  }
  bslib::page(
    theme = bslib::bs_theme(version = 5, font_scale = NULL), lang = language, title = "Scalewort",
    htmltools::tags$head(
      htmltools::tags$link(rel = "icon", href = "data:,"),
      htmltools::tags$style(htmltools::HTML(paste(readLines(desk_file("desk.css"), warn = FALSE), collapse = "\n"))),
      lapply(c("desk.js", "paths.js"), function(name) {
        htmltools::tags$script(htmltools::HTML(paste(readLines(desk_file(name), warn = FALSE), collapse = "\n")))
      })
    ),
    htmltools::tags$a(class = "skip", href = "#place-title", `data-skip` = "place", words$skip),
    place("head", "header"), place("path", "nav", words$path),
    htmltools::tags$main(class = "desk-main", place("sheet", label = words$questionnaire), place("place", label = words$place)),
    htmltools::tags$div(id = "said", role = "status", `aria-live` = "polite", `data-gone` = words$gone, `data-drafting` = words$drafting)
  )
}

# A button or link that is an act: its data travel with it.
act_button <- function(label, act, ..., key = NULL, class = "act", title = NULL, disabled = FALSE) {
  what <- jsonlite::toJSON(c(list(act = act), list(...)), auto_unbox = TRUE, null = "null")
  htmltools::tags$button(type = "button", class = class, `data-act` = what,
    `data-key` = if (is.null(key)) paste(c(act, unlist(list(...))), collapse = "-") else key, title = title,
    disabled = if (disabled) NA, label)
}

# What the address stands for; the focus goes there.
place_title <- function(text) htmltools::tags$h1(tabindex = "-1", id = "place-title", text)

place_link <- function(label, place, ...) htmltools::tags$a(href = paste0("#", place), `data-key` = paste0("to-", place), ..., label)

# File, people, items; undo, redo, record, write.
desk_head <- function(desk, found, words, working) {
  survey <- found$have$answers
  plan <- decided_plan(desk$raw)
  n <- length(desk$raw$decisions)
  data <- if (from_database(plan)) say(data_message(plan), desk_language(desk)) else basename(unlist(plan$data)[1])
  counts <- c(data, count_of(people_count(survey), words$person, words$people),
    count_of(length(analysed_items(survey)), words$item, words$items), count_of(length(survey_scales(survey)), words$subscale, words$subscales))
  htmltools::tagList(
    htmltools::tags$h1(place_link(if (is.null(plan$title)) "Scalewort" else plan$title, "")),
    htmltools::tags$p(class = "counts", paste(counts, collapse = " \u00b7 ")),
    if (working != "done") htmltools::tags$p(class = "working", act_button(words$stop, "stop"), " ", work_share(found, words), " ",
      htmltools::tags$span(role = "status", paste0(words$working, " ", desk$doing))),
    htmltools::tags$div(class = "acts",
      act_button(words$undo, "undo", title = "Ctrl+Z", disabled = n == 0),
      act_button(words$redo, "redo", title = "Ctrl+Y", disabled = length(desk$raw$undone) == 0),
      place_link(paste0(words$record, " (", n, ")"), "record", class = "act"), place_link(words$codebook, "codebook", class = "act"),
      place_link(words$write, "write", class = "act strong"))
  )
}

# How many of the steps are done.
work_share <- function(found, words) {
  left <- length(found$pending)
  all <- left + sum(desk_stations %in% names(found$have))
  if (left > 0) htmltools::tags$progress(max = all, value = all - left, `aria-label` = paste(all - left, "/", all))
}

people_count <- function(survey) {
  people <- repeated_people(survey)$people
  if (is.null(people)) source_count(survey)$used else people
}

# Stations in the order of the work; a step each.
desk_stations <- c("screening", "keying", "answering", "option_curves", "dif", "reliability", "factorability", "retention", "exploration",
  "stability", "confirmation", "invariance", "validity", "composites", "scores")

station_classes <- c(screening = "sw_screening", keying = "sw_keying", answering = "sw_answering", option_curves = "sw_option_curves", dif = "sw_dif",
  reliability = "sw_reliability", factorability = "sw_factorability", retention = "sw_retention", exploration = "sw_exploration",
  stability = "sw_stability", confirmation = "sw_confirmation", invariance = "sw_invariance", validity = "sw_validity",
  composites = "sw_composites", scores = "sw_scores")

# "answered", "look", "stale", "waits", "off" or "none" (with the reason as its name).
station_state <- function(step, found, desk) {
  plan <- decided_plan(desk$raw)
  if (isFALSE(plan[[step]]) || (step == "composites" && is.null(plan$composites))) {
    return("off")
  }
  if (step %in% found$pending) {
    return(if (is.null(desk$last[[step]])) "waits" else "stale")
  }
  result <- found$have[[step]]
  if (is.null(result)) {
    return("none")
  }
  if (wants_a_look(result)) "look" else "answered"
}

# Something was noted that is to be known first.
wants_a_look <- function(result) any(result$noted$rank == 1)

station_glyphs <- c(answered = "\u25cf", look = "!", stale = "\u25d0", waits = "\u25cb", off = "\u2013", none = "\u2013")

desk_path <- function(desk, found, words, here) {
  entries <- lapply(desk_stations, function(step) {
    state <- station_state(step, found, desk)
    if (step == "option_curves" && length(test_items(found$have$answers)) == 0) {
      return(NULL)
    }
    if (state == "none" && !step %in% names(found$left_out)) {
      return(NULL)
    }
    htmltools::tags$li(class = paste0("state-", state), place_link(htmltools::tagList(
      htmltools::tags$span(class = "glyph", `aria-hidden` = "true", station_glyphs[[state]]), words$stations[[step]],
      htmltools::tags$span(class = "unseen", paste0(" (", words$states[[state]], ")"))), step,
      `aria-current` = if (identical(here, step)) "page"))
  })
  htmltools::tags$ol(entries)
}
