# The questionnaire: subscales as sheets, items as strips, with their numbers as of the last decision.

desk_sheet <- function(desk, found, words, chosen = character()) {
  survey <- found$have$answers
  items <- survey$codebook$items
  marks <- lapply(item_marks(found$have, desk$last), mark_words, words = words)
  scales <- survey_scales(survey)
  aside <- items$item[items$role == "aside" & !is.na(items$lowest)]
  loose <- setdiff(analysed_items(survey), unlist(scales))
  sheets <- c(scales, if (length(loose) > 0) list(loose), list(aside))
  names <- c(names(scales), if (length(loose) > 0) "", "\u2013aside")
  htmltools::tagList(
    htmltools::tags$div(class = "tools", role = "toolbar", `aria-label` = words$tools,
      htmltools::tags$label(`for` = "reason", words$because),
      htmltools::tags$input(id = "reason", type = "text", placeholder = words$reason_hint, `data-key` = "reason", autocomplete = "off"),
      tool_button(words$turn, "turn", "t"), tool_button(words$aside, "set_aside", "a"), tool_button(words$back, "put_back", "b"),
      tool_button(words$keep, "keep", "k"), move_choice(names(scales), words), tool_button(words$look, "look", "Enter")),
    Map(function(own, name) sheet_of(name, own, survey, found$have, desk, marks, words), sheets, names)
  )
}

tool_button <- function(label, act, key) {
  htmltools::tags$button(type = "button", class = "act tool", `data-tool` = act, `data-key` = paste0("tool-", act), title = key, label)
}

move_choice <- function(scales, words) {
  htmltools::tags$select(class = "tool", `data-tool` = "move", `data-key` = "tool-move", title = "m", `aria-label` = words$move,
    htmltools::tags$option(value = "", words$move), lapply(scales, function(name) htmltools::tags$option(value = name, name)))
}

sheet_of <- function(name, own, survey, have, desk, marks, words) {
  is_aside <- name == "\u2013aside"
  title <- if (is_aside) paste0(words$set_aside, " (", length(own), ")") else if (name == "") words$no_subscale else name
  id <- paste0("sheet-", gsub("[^A-Za-z0-9]", "_", name))
  htmltools::tags$section(class = paste0("sheet", if (is_aside) " aside"), `data-sheet` = if (is_aside) "aside" else name, `aria-labelledby` = id,
    htmltools::tags$h2(id = id, title, htmltools::tags$span(class = "figures", if (!is_aside) scale_figures(name, have, desk))),
    if (length(own) > 0) htmltools::tags$ul(role = "listbox", `aria-multiselectable` = "true", `aria-labelledby` = id,
      lapply(own, item_strip, survey = survey, have = have, marks = marks, words = words)))
}

# Alpha as it is, with the arrow from before the last decision; omega where it is known.
scale_figures <- function(name, have, desk) {
  scales <- have$keying$tables$scales
  alpha <- scales$alpha[match(name, scales$scale)]
  if (length(alpha) == 0 || is.na(alpha)) {
    return("")
  }
  before <- desk$before[[paste("alpha", name)]]
  moved <- !is.null(before) && !is.na(before) && coefficient_text(before) != coefficient_text(alpha)
  whole <- have$reliability$tables$scales
  whole <- whole[match(name, whole$scale), ]
  turned <- turned_by_itself(name, have)
  paste0("alpha ", if (moved) paste0(coefficient_text(before), " \u2192 "), coefficient_text(alpha),
    if (length(turned) > 0) paste0("; ", listed(turned, words_of_language(desk_language(desk))), " \u21c4: ", coefficient_text(whole$alpha)),
    if (NROW(whole) > 0 && !is.na(whole$omega)) paste0("  omega ", coefficient_text(whole$omega)))
}

# Items of a subscale that the path turned without being told.
turned_by_itself <- function(scale, have) {
  as_decided <- have$answers$codebook$items
  as_used <- have$survey$codebook$items
  if (is.null(as_used) || is.null(have$reliability)) {
    return(character())
  }
  as_decided$item[as_decided$scale %in% scale & as_decided$direction != as_used$direction[match(as_decided$item, as_used$item)]]
}

item_strip <- function(item, survey, have, marks, words) {
  spec <- item_spec(survey, item)
  r <- item_rest_of(item, have)
  turned <- spec$direction == "reversed"
  wording <- if (is.na(spec$wording)) "" else spec$wording
  own <- marks[[item]]
  htmltools::tags$li(role = "option", tabindex = "-1", draggable = "true", class = "strip", `data-item` = item, `data-key` = paste0("item-", item),
    `aria-selected` = "false", title = if (length(own) > 0) paste(own, collapse = "; "),
    htmltools::tags$span(class = "name", item), htmltools::tags$span(class = "turned", if (turned) "\u21c4", if (turned)
      htmltools::tags$span(class = "unseen", words$reversed)),
    htmltools::tags$span(class = "wording", wording), answer_bars(item, have),
    htmltools::tags$span(class = "r", if (!is.na(r)) coefficient_text(r)),
    htmltools::tags$span(class = "marks", if (length(own) > 0) htmltools::tagList("!", htmltools::tags$span(class = "unseen", paste(own,
      collapse = "; "))))
  )
}

item_rest_of <- function(item, have) {
  screened <- have$screening$tables$items
  r <- screened$item_rest_r[match(item, screened$item)]
  if (length(r) == 0) NA_real_ else r
}

# Small bars of the answers, as given; their places with a point, whatever the page's decimal mark.
answer_bars <- function(item, have) {
  rows <- have$screening$tables$options
  share <- rows$share[rows$item == item]
  if (length(share) == 0 || length(share) > 30) {
    return(htmltools::tags$span(class = "bars"))
  }
  width <- 60 / length(share)
  tall <- 18 * share / max(share, .01)
  bars <- paste(sprintf("<rect x=\"%.2f\" y=\"%.2f\" width=\"%.2f\" height=\"%.2f\"/>", (seq_along(share) - 1) * width, 18 - tall, width - 1, tall),
    collapse = "")
  htmltools::tags$span(class = "bars", `aria-hidden` = "true", htmltools::HTML(paste0("<svg viewBox=\"0 0 60 18\" width=\"60\" height=\"18\">", bars,
    "</svg>")))
}

mark_words <- function(marks, words) {
  vapply(marks, function(mark) if (is.null(words$marks[[mark]])) term_of(mark, words_of_language(words$all$language)) else words$marks[[mark]], "",
    USE.NAMES = FALSE)
}

# What was flagged of each item anywhere on the path: a list by item. Steps that wait count as they last were.
item_marks <- function(have, last) {
  of <- function(step) if (is.null(have[[step]])) last[[step]]$tables else have[[step]]$tables
  marks <- list()
  add <- function(items, what) for (i in seq_along(items)) marks[[items[i]]] <<- union(marks[[items[i]]], rep_len(what, length(items))[i])
  flags <- of("screening")$flags
  add(flags$item, flags$what)
  keyed <- of("keying")$items
  add(keyed$item[keyed$agrees != "yes"], "keying")
  different <- of("dif")$items
  add(different$item[different$flagged %in% TRUE], "DIF")
  explored <- of("exploration")$items
  add(explored$item[explored$place == "nowhere"], "loads nowhere")
  readings <- of("confirmation")$readings
  if (!is.null(readings)) add(misread_items(readings, keyed$item), "misfit")
  named <- of("invariance")$named
  if (!is.null(named)) add(unique(named$item), "not the same in groups")
  marks
}
