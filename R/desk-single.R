# One item, one person: everything about it in one place.

desk_item <- function(item, desk, found, words) {
  survey <- found$have$answers
  spec <- item_spec(survey, item)
  if (is.na(spec$item)) {
    return(htmltools::tags$p(class = "trouble", words$no_such_item))
  }
  settings <- desk_settings(desk, found)
  marks <- mark_words(item_marks(found$have, desk$last)[[item]], words)
  decisions <- Filter(function(d) item %in% unlist(d$items), desk$raw$decisions)
  known <- found$have
  for (step in found$pending) known[[step]] <- desk$last[[step]]
  htmltools::tagList(
    place_title(item), htmltools::tags$p(class = "answer", if (is.na(spec$wording)) "" else spec$wording),
    htmltools::tags$p(paste(c(if (is.na(spec$scale)) words$no_subscale else spec$scale, if (spec$direction == "reversed") words$reversed,
      spec$role), collapse = " \u00b7 ")),
    if (length(marks) > 0) htmltools::tags$p(class = "trouble", paste0("! ", paste(marks, collapse = "; "))),
    htmltools::tags$p(if (item %in% test_items(survey)) key_link(words) else act_button(words$turn, "turn", items = list(item)),
      act_button(words$aside, "set_aside", items = list(item)),
      act_button(words$back, "put_back", items = list(item)), act_button(words$keep, "keep", items = list(item))),
    neighbours_of(item, known, words),
    htmltools::HTML(paste(item_tables(item, known, settings, desk), collapse = "\n")),
    if (length(decisions) > 0) htmltools::tagList(htmltools::tags$h2(words$record), htmltools::tags$ul(lapply(decisions, decision_line,
      words = words)))
  )
}

decision_line <- function(d, words) htmltools::tags$li(paste0(decision_words(d, words), ": ", d$reason))

# The five items it goes with most.
neighbours_of <- function(item, known, words) {
  r <- known$screening$tables$correlations
  at <- match(item, r$item)
  if (is.na(at)) {
    return(NULL)
  }
  own <- unlist(r[at, setdiff(names(r), c("item", item))])
  near <- utils::head(own[order(-abs(own))], 5)
  one <- function(name) htmltools::tagList(place_link(name, paste0("item/", name)), paste0(" (", coefficient_text(near[[name]]), ") "))
  htmltools::tags$p(words$neighbours, " ", lapply(names(near), one))
}

# Every row about the item, from every table of every step.
item_tables <- function(item, known, settings, desk) {
  numbers <- new.env()
  numbers$table <- 0
  in_language(settings$words$language, unlist(lapply(intersect(desk_stations, names(known)), function(step) {
    tables <- report_tables(known[[step]])
    if (step == "dif") tables <- c(tables, list(`Mean answers by score band` = known$dif$tables$curves))
    if (step == "screening") tables <- c(list(`Answers` = known$screening$tables$options), tables)
    tables <- Filter(function(table) is.data.frame(table) && "item" %in% names(table) && any(table$item == item), tables)
    lapply(names(tables), function(caption) {
      rows <- tables[[caption]][tables[[caption]]$item == item, setdiff(names(tables[[caption]]), "item")]
      rows <- rows[!vapply(rows, function(column) all(is.na(column) | column == ""), TRUE)]
      for (name in c("judged", "limits")) attr(rows, name) <- attr(tables[[caption]], name)
      block_html(table_block(rows, caption, "", settings, numbers)[[1]], settings, desk)
    })
  })))
}

# Answers, flags, scores worked out step by step.
desk_person <- function(id, desk, found, words) {
  settings <- desk_settings(desk, found)
  survey <- found$have$answers
  if (!gives_people(survey)) {
    return(htmltools::tags$p(words$people_stay))
  }
  cases <- found$have$answering$tables$cases
  flags <- if (!is.null(cases)) cases$by[as.character(cases[[1]]) == id]
  worked <- if (!is.null(found$have$scores)) tryCatch(sw_explain(found$have$scores, id), scalewort_error = function(e) NULL)
  htmltools::tagList(
    place_title(paste(words$case, id)),
    if (length(flags) > 0 && any(nzchar(flags))) htmltools::tags$p(class = "trouble", paste0("! ", paste(flags[nzchar(flags)], collapse = "; "))),
    htmltools::tags$p(act_button(words$aside, "set_aside", cases = list(id)), act_button(words$back, "put_back", cases = list(id))),
    if (is.null(worked)) htmltools::tags$p(words$no_scores_yet) else station_blocks(worked, settings, desk, "main"),
    if (!is.null(worked)) station_blocks(worked, settings, desk, "long"),
    person_answers(id, survey, words)
  )
}

person_answers <- function(id, survey, words) {
  items <- analysed_items(survey)
  rows <- as.data.frame(source_rows(survey, items, keyed = FALSE))
  mine <- which(case_names(survey) == id)
  if (length(mine) == 0) {
    return(htmltools::tags$p(words$no_such_case))
  }
  answered <- function(item) {
    given <- lapply(mine, function(row) htmltools::tags$td(class = "number", format_plain(rows[row, item])))
    htmltools::tags$tr(htmltools::tags$th(scope = "row", item), htmltools::tags$td(item_spec(survey, item)$wording), given)
  }
  htmltools::tags$div(class = "table", tabindex = "0", role = "region", `aria-label` = words$answers, htmltools::tags$table(
    htmltools::tags$caption(words$answers), htmltools::tags$tbody(lapply(items, answered))))
}
