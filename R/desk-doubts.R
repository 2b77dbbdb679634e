# What to check first in a drafted codebook, above its table: each guess as a question, right or to be changed; words in an order by dragging.

# Guesses nobody has settled yet. What concerns the plan, or rows, is known from the draft alone: it is asked while the desk that drafted is open.
open_doubts <- function(desk, table) {
  if (!"guessed" %in% names(table)) {
    return(list())
  }
  open <- function(one) if (is.null(one$key)) any(still_guessed(table, one$on, one$fields)) else !one$key %in% desk$settled
  Filter(open, first_doubts(table, rest_r(desk, table), desk$drafted))
}

# How each item goes with the rest of its subscale, by item; NA where a decision has turned or moved it since, and the codebook says otherwise.
rest_r <- function(desk, table) {
  items <- desk$last$screening$tables$items
  plan <- decided_plan(desk$raw)
  items <- items[!items$item %in% unlist(lapply(c(plan$flip, plan$move), `[[`, "items")), ]
  stats::setNames(as.numeric(items$item_rest_r)[match(table$item, items$item)], table$item)
}

still_guessed <- function(table, items, fields) {
  vapply(strsplit(table$guessed[match(items, table$item)], " "), function(marks) any(fields %in% marks), TRUE)
}

doubts_list <- function(doubts, table, plan, words) {
  if (length(doubts) == 0) {
    return(NULL)
  }
  shown <- utils::head(doubts, 12)
  more <- length(doubts) - length(shown)
  htmltools::tags$section(class = "doubts", `aria-label` = words$check_first, htmltools::tags$h2(words$check_first),
    htmltools::tags$ol(lapply(shown, one_doubt, table = table, plan = plan, words = words)),
    if (more > 0) htmltools::tags$p(class = "note", worded("and_more_in_codebook", n = more)))
}

one_doubt <- function(one, table, plan, words) {
  first <- if (length(one$on) > 0) paste0(match(one$on[1], table$item), "-", utils::head(intersect(one$fields, codebook_columns), 1)) else
    if (one$key %in% survey_keys) one$key
  htmltools::tags$li(say(one$question), " ",
    act_button(if ("role" %in% one$fields) words$no_items else words$doubt_yes, "settle", items = as.list(one$on),
      fields = as.list(one$fields), name = one$key,
      key = paste(c("settle", one$fields, one$key, utils::head(one$on, 1)), collapse = "-")),
    if (!is.null(first)) htmltools::tags$button(type = "button", class = "act", `data-goto` = first, `data-key` = paste0("goto-", first),
      words$change),
    if ("labels" %in% one$fields) word_orders(one$on, table, unlist(plan[c("id", "group", "wave", "cluster", "weight")]), words))
}

# The words of each set of items, to be put in order from low to high; words on one step stay together.
word_orders <- function(items, table, apart, words) {
  rows <- which(table$item %in% setdiff(items, apart))
  lapply(unname(split(rows, factor(table$labels[rows], unique(table$labels[rows])))), function(own) {
    parts <- trimws(strsplit(table$labels[own[1]], ";", fixed = TRUE)[[1]])
    step <- trimws(sub("=.*$", "", parts))
    step <- ifelse(step == "?", paste("?", seq_along(parts)), step)
    said <- tapply(trimws(sub("^[^=]*=", "", parts)), factor(step, unique(step)), paste, collapse = "; ")
    line <- function(word) {
      htmltools::tags$li(draggable = "true", class = "chip", `data-word` = word, word, " ",
        htmltools::tags$button(type = "button", class = "up", `data-up` = "", `aria-label` = paste(words$up, word), "\u2191"))
    }
    htmltools::tags$details(class = "order", `data-items` = jsonlite::toJSON(table$item[own]),
      htmltools::tags$summary(paste0(words$put_in_order, " ", say(span_of(table$item[own])))),
      htmltools::tags$ol(`aria-label` = words$put_in_order, lapply(unname(said), line)),
      htmltools::tags$button(type = "button", class = "act", `data-order` = "", `data-key` = paste0("order-", table$item[own[1]]), words$take_order))
  })
}

# A guess that somebody says is right, or an order of words: NULL, or why not.
change_codebook <- function(desk, act) {
  items <- as.character(unlist(act$items))
  if (act$act == "settle") {
    return(settle_guess(desk, items, as.character(unlist(act$fields)), act$name))
  }
  table <- codebook_cells(book_of_plan(desk))
  steps <- strsplit(as.character(unlist(act$words)), "; ", fixed = TRUE)
  labels <- numbered_words(unlist(steps), rep(seq_along(steps), lengths(steps)))
  value <- c(labels = labels, lowest = "1", highest = as.character(length(steps)), role = "scored")
  cells <- lapply(which(table$item %in% items), function(row) {
    lapply(names(value), function(field) list(row = row, field = field, value = value[[field]]))
  })
  save_codebook(desk, unlist(cells, recursive = FALSE), without_guess(table, items, answer_fields))
}

settle_guess <- function(desk, items, fields, key) {
  if (!is.null(key)) {
    desk$settled <- c(desk$settled, key)
    return(NULL)
  }
  path <- book_of_plan(desk)
  write_codebook(sw_codebook(without_guess(codebook_cells(path), items, fields)), path)
  NULL
}
