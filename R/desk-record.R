# The record: what was decided, what it changed; as a plan, as R, as sentences. And what is written.

desk_record <- function(desk, found, words) {
  table <- decision_table(desk$raw, desk$effects, words)
  settings <- desk_settings(desk, found)
  results <- Filter(function(one) inherits(one, "sw_result"), found$have)
  said <- function(x) in_report(sentences(x), settings$words)
  rows <- lapply(seq_len(nrow(table)), function(i) decision_row(table[i, ], i, i == nrow(table), words))
  htmltools::tagList(
    place_title(words$record),
    if (nrow(table) == 0) htmltools::tags$p(words$nothing_decided) else htmltools::tags$ol(class = "record", rows),
    if (nrow(table) > 0) htmltools::tags$p(act_button(words$back_to_start, "back_to", index = 0L)),
    undone_trials(desk$raw$undone, words),
    as_text(words$as_plan, paste(utf8_lines(desk$path), collapse = "\n"), "as-plan"),
    as_text(words$as_r, paste(desk_code(desk, found), collapse = "\n"), "as-r"),
    as_text(words$as_sentences, paste(in_language(settings$words$language, unlist(lapply(results, said))), collapse = "\n\n"), "as-sentences")
  )
}

# What was tried and undone, folded away: the next decision forgets it.
undone_trials <- function(undone, words) {
  if (length(undone) == 0) {
    return(NULL)
  }
  htmltools::tags$details(id = "undone", htmltools::tags$summary(`data-key` = "undone", paste0(words$undone, " (", length(undone), ")")),
    htmltools::tags$ul(lapply(undone, function(d) htmltools::tags$li(decision_words(d, words)))),
    htmltools::tags$p(act_button(words$redo, "redo")))
}

# What, why (to be changed in place), what it changed, and the way back to it.
decision_row <- function(row, i, last, words) {
  htmltools::tags$li(
    htmltools::tags$span(class = "what", row$what), " ",
    htmltools::tags$input(type = "text", value = row$reason, `data-reason` = i, `data-key` = paste0("reason-", i),
      `aria-label` = paste(words$because, row$what)),
    htmltools::tags$span(class = "effect", row$effect), if (!last) act_button(words$back_to, "back_to", index = i))
}

as_text <- function(title, text, key) {
  htmltools::tags$details(id = key, htmltools::tags$summary(`data-key` = key, title), htmltools::tags$pre(tabindex = "0", text),
    htmltools::tags$p(class = "give", htmltools::tags$button(type = "button", class = "act", `data-copy` = "text", title)))
}

# R that does the same: the plan, and what was done to the answers.
desk_code <- function(desk, found) {
  log <- sw_log(found$have$answers, code = TRUE)
  code <- if (is.data.frame(log)) log$code[!is.na(log$code)] else log
  c("library(scalewort)", "# everything, with files and report", paste0("results <- sw_run(", encodeString(desk$path, quote = "\""), ")"),
    "# the answers alone", code)
}

desk_write <- function(desk, found, words) {
  plan <- decided_plan(desk$raw)
  chosen <- function(key, forms, usual) {
    own <- if (is.null(plan[[key]])) usual else unlist(plan[[key]])
    htmltools::tags$p(lapply(forms, function(form) {
      box <- htmltools::tags$input(type = "checkbox", value = form, `data-tick` = key, `data-key` = paste0(key, "-", form),
        checked = if (form %in% own) NA)
      htmltools::tags$label(class = "tick", box, form)
    }))
  }
  named <- function(path) {
    htmltools::tags$li(if (grepl("report[.]html$", path)) htmltools::tags$a(href = "#", `data-report` = "report", target = "_blank", path) else path)
  }
  table <- options_table()$plan
  htmltools::tagList(
    place_title(words$write),
    htmltools::tags$h2(words$reports), chosen("reports", table$reports$choices, "html"),
    htmltools::tags$h2(words$score_files), chosen("write", table$write$choices, "csv"),
    htmltools::tags$p(words$folder, " ", htmltools::tags$code(written_folder(desk, plan))),
    htmltools::tags$p(act_button(words$write_now, "write", class = "act strong")),
    if (!is.null(desk$written)) htmltools::tagList(htmltools::tags$h2(words$written), htmltools::tags$ul(class = "files",
      lapply(desk$written, named)))
  )
}

written_folder <- function(desk, plan) beside_plan(desk$path)(if (is.null(plan$output)) "results" else plan$output)
