# The codebook in the page: every field of every column, what is wrong in its cell; and bringing in a file.

codebook_columns <- c("item", "wording", "scale", "direction", "lowest", "highest", "labels", "answer", "options", "role", "missing")

desk_codebook <- function(desk, words) {
  table <- codebook_cells(book_of_plan(desk))
  htmltools::tagList(place_title(words$codebook), doubts_list(open_doubts(desk, table), table, decided_plan(desk$raw), words),
    codebook_form(table, desk$codebook_faults, words), survey_controls(desk, words))
}

book_of_plan <- function(desk) beside_plan(desk$path)(desk$raw$codebook)

# The codebook, in whatever form it is kept, as text by column, "" where nothing is said.
codebook_cells <- function(path) {
  items <- as.data.frame(sw_codebook(path))
  items[] <- lapply(items, function(column) {
    text <- as.character(column)
    ifelse(is.na(text), "", text)
  })
  items
}

# Kept in its own form. What is no plain table, and may hold comments or colours, leaves a copy as it was.
write_codebook <- function(book, path) {
  copy <- sub("([.][^.]*)$", "-before\\1", path)
  if (!grepl("[.](csv|tsv)$", path, ignore.case = TRUE) && !file.exists(copy)) file.copy(path, copy)
  if (!grepl("[.]ya?ml$", path, ignore.case = TRUE)) {
    return(sw_write(book, path, overwrite = TRUE))
  }
  rows <- apply(codebook_cells(book), 1, function(row) as.list(row[nzchar(row)]), simplify = FALSE)
  write_safely(path, TRUE, function(draft) writeLines(yaml::as.yaml(list(items = unname(rows))), draft))
}

# faults: a table as fault_rows() makes, or NULL.
codebook_form <- function(table, faults, words) {
  shown <- intersect(codebook_columns, names(table))
  if (is.null(faults)) faults <- fault_rows(character(), "codebook")
  at <- rows_of_faults(faults, table)
  placed <- !is.na(at) & faults$field %in% shown
  choices <- list(direction = c("forward", "reversed"), role = c("scored", "tryout", "aside"))
  cell <- function(i, name) {
    value <- table[[name]][i]
    label <- paste(table$item[i], words$fields[[name]])
    wrong <- unique(ifelse(faults$of == "answers", fault_words(faults), faults$text)[placed & at %in% i & faults$field %in% name])
    guessed <- "guessed" %in% names(table) && name %in% strsplit(table$guessed[i], " ")[[1]]
    known <- choices[[name]]
    offered <- lapply(known, function(one) {
      htmltools::tags$option(value = one, selected = if (identical(one, value) || (value == "" && one == known[1])) NA, one)
    })
    field <- if (name == "item") htmltools::tags$span(value) else if (!is.null(known)) htmltools::tags$select(`data-cell` = name,
      `data-row` = i, `aria-label` = label, offered) else
      htmltools::tags$input(type = "text", value = value, `data-cell` = name, `data-row` = i, `aria-label` = label,
        `aria-invalid` = if (length(wrong) > 0) "true")
    htmltools::tags$td(class = paste(c(name, if (guessed) "guessed", if (length(wrong) > 0) "wrong"), collapse = " "), field,
      if (length(wrong) > 0) htmltools::tags$span(class = "fault", role = "alert", paste(wrong, collapse = "; ")))
  }
  pick <- function(i) htmltools::tags$td(htmltools::tags$input(type = "checkbox", `data-pick` = i, `aria-label` = paste(words$choose, table$item[i])))
  head <- htmltools::tags$tr(htmltools::tags$th(scope = "col", htmltools::tags$input(type = "checkbox", `data-pick` = "all",
    `aria-label` = words$choose_all)), lapply(shown, function(name) htmltools::tags$th(scope = "col", words$fields[[name]])))
  rows <- lapply(seq_len(nrow(table)), function(i) htmltools::tags$tr(pick(i), lapply(shown, function(name) cell(i, name))))
  htmltools::tagList(
    htmltools::tags$p(words$codebook_about), set_chosen(setdiff(shown, "item"), words),
    loose_faults(faults[!placed, ]), htmltools::tags$div(class = "table codebook", tabindex = "0", role = "region", `aria-label` = words$codebook,
      htmltools::tags$table(id = "codebook", htmltools::tags$thead(head), htmltools::tags$tbody(rows))),
    htmltools::tags$p(htmltools::tags$button(type = "button", class = "act strong", `data-codebook` = "save", `data-key` = "codebook-save",
      words$save_codebook))
  )
}

# One value for all rows that are ticked.
set_chosen <- function(fields, words) {
  htmltools::tags$p(class = "set-chosen", htmltools::tags$label(`for` = "chosen-field", words$in_chosen), " ",
    htmltools::tags$select(id = "chosen-field", `data-key` = "chosen-field", lapply(fields, function(name) {
      htmltools::tags$option(value = name, words$fields[[name]])
    })), " ", htmltools::tags$input(id = "chosen-value", type = "text", `data-key` = "chosen-value", `aria-label` = words$value), " ",
    htmltools::tags$button(type = "button", class = "act", `data-fill` = "chosen", `data-key` = "chosen-set", words$set))
}

# Where in the codebook each fault belongs: its own row, or that of the item whose answers do not fit; NA where it names neither.
rows_of_faults <- function(faults, table) {
  ifelse(faults$of == "codebook", faults$row, ifelse(faults$of == "answers", match(faults$item, table$item), NA))
}

loose_faults <- function(faults) {
  if (nrow(faults) > 0) htmltools::tags$ul(class = "trouble", role = "alert", lapply(fault_words(faults), htmltools::tags$li))
}

# The codebook with changed cells, written where the plan has it; what does not fit is given back, and nothing is written.
save_codebook <- function(desk, cells, table = codebook_cells(book_of_plan(desk))) {
  path <- book_of_plan(desk)
  table <- with_cells(table, cells)
  tryCatch({
    book <- sw_codebook(table)
    plan <- decided_plan(desk$raw)
    draft <- tempfile(fileext = ".csv")
    on.exit(unlink(draft))
    data.table::fwrite(table, draft)
    beside <- function(file) ifelse(file == draft, draft, beside_plan(desk$path)(file))
    decided_survey(read_planned(utils::modifyList(plan, list(codebook = draft)), beside), plan)
    write_codebook(book, path)
    desk$codebook_faults <- NULL
    NULL
  }, scalewort_error = function(e) {
    desk$codebook_faults <- if (!is.null(e$places)) e$places else fault_rows(cli::ansi_strip(if (length(e$faults) > 0) e$faults else
      conditionMessage(e)), "codebook")
    cli::ansi_strip(conditionMessage(e))
  })
}

# cells: list(list(row, field, value)). What somebody changed is no guess any more; what was left as it was still is one.
with_cells <- function(table, cells) {
  for (one in cells) {
    row <- as.integer(one$row)
    former <- table[row, one$field]
    # An empty direction or role is shown as the usual one.
    same <- identical(former, one$value) || (former == "" && identical(one$value, c(direction = "forward", role = "scored")[one$field][[1]]))
    if (same) next
    table[row, one$field] <- one$value
    table <- without_guess(table, table$item[row], one$field)
  }
  table
}

# The marks of some fields of some items taken away.
without_guess <- function(table, items, fields) {
  at <- if ("guessed" %in% names(table)) which(table$item %in% items)
  table$guessed[at] <- vapply(strsplit(table$guessed[at], " "), function(marks) paste(setdiff(marks, fields), collapse = " "), "")
  table
}

# The field that shows the file's name is named, too.
file_field <- function(label, button) {
  field <- shiny::fileInput("file", label, buttonLabel = button, placeholder = "")
  htmltools::tagQuery(field)$find("input.form-control")$addAttrs(`aria-label` = label)$allTags()
}

# The first page where there is nothing yet: a file, or the demo.
desk_bring <- function(words, most) {
  last <- opened_last()
  htmltools::tagList(
    place_title(words$bring), htmltools::tags$p(words$bring_about),
    file_field(paste0(words$file, " ", most, " MB"), words$choose),
    htmltools::tags$p(words$or_demo, " ", lapply(c("plotholders", "plantcare"), function(name) act_button(name, "demo", name = name))),
    if (length(last) > 0) htmltools::tagList(htmltools::tags$p(words$opened_last), htmltools::tags$ul(lapply(last, function(path) {
      htmltools::tags$li(act_button(basename(path), "open", name = path), " ", htmltools::tags$span(class = "help", dirname(path)))
    })))
  )
}
