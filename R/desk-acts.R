# What can be done at a station besides its options: each button is a decision.

station_acts <- function(step, desk, found, words) {
  make <- list(keying = keying_acts, answering = answering_acts, retention = retention_acts, exploration = exploration_acts,
    confirmation = confirmation_acts, invariance = invariance_acts, scores = scores_acts, dif = dif_acts)[[step]]
  if (is.null(make) || is.null(found$have$answers)) {
    return(NULL)
  }
  htmltools::tags$section(class = "station-acts", `aria-label` = words$acts, make(desk, found, words))
}

# Items that do not agree: turn or keep.
keying_acts <- function(desk, found, words) {
  items <- found$have$keying$tables$items
  items <- items[items$agrees != "yes", ]
  tests <- test_items(found$have$answers)
  acts <- function(item) item_acts(item, c(if (item %in% tests) "key" else "turn", "keep", "set_aside"), words)
  htmltools::tagList(lapply(items$item, acts),
    if (!is.null(found$have$screening)) htmltools::tagList(htmltools::tags$p(words$heat), heat_figure(found$have$screening,
      desk_settings(desk, found), desk)))
}

# An item with a button for each thing that can be decided of it.
item_acts <- function(item, acts, words) {
  labels <- c(turn = words$turn, keep = words$keep, set_aside = words$aside)
  htmltools::tags$p(place_link(item, paste0("item/", item)), " ", lapply(acts, function(act) {
    if (act == "key") key_link(words) else act_button(paste(labels[[act]], item), act, items = list(item))
  }))
}

# An item of a test is not turned: its key is corrected in the codebook.
key_link <- function(words) place_link(words$correct_key, "codebook", class = "act")

# People with flags: look at them, set them aside.
answering_acts <- function(desk, found, words) {
  result <- found$have$answering
  if (is.null(result)) {
    return(NULL)
  }
  cases <- result$tables$cases
  who <- utils::head(as.character(cases[[1]][cases$counted]), 20)
  if (is.null(found$have$answers$id)) who <- character()
  aside <- unlist(lapply(decided_plan(desk$raw)$set_aside, `[[`, "cases"))
  back <- if (length(aside) > 0) htmltools::tags$p(words$cases_aside, " ", lapply(as.character(aside), function(id) {
    act_button(paste(words$back, id), "put_back", cases = list(id))
  }))
  one <- function(id) {
    htmltools::tags$p(place_link(id, paste0("person/", utils::URLencode(id, reserved = TRUE))), " ", act_button(paste(words$aside, id), "set_aside",
      cases = list(id)))
  }
  htmltools::tagList(back, lapply(who, one))
}

# How many factors: a button a number, and two beside each other.
retention_acts <- function(desk, found, words) {
  fits <- found$have$retention$tables$fits
  most <- if (is.null(fits)) 8 else min(max(fits$factors), 12)
  taken <- decided_plan(desk$raw)$exploration
  now <- if (is.list(taken)) unlist(taken$factors) else NULL
  take <- function(k) {
    act_button(k, "set", step = "exploration", name = "factors", value = k, key = paste0("factors-", k),
      class = paste("act", if (identical(as.integer(now), k)) "strong"))
  }
  htmltools::tagList(htmltools::tags$p(words$take_factors, " ", lapply(seq_len(most), take)), side_by_side_choice(most, words))
}

side_by_side_choice <- function(most, words) {
  pick <- function(id, at) {
    options <- lapply(seq_len(most), function(k) htmltools::tags$option(value = k, selected = if (k == at) NA, k))
    htmltools::tags$select(id = id, `data-key` = id, `aria-label` = words$number, options)
  }
  htmltools::tags$p(words$beside, " ", pick("beside-one", min(3, most)), " ", pick("beside-two", min(4, most)), " ",
    htmltools::tags$button(type = "button", class = "act", `data-beside` = "go", `data-key` = "beside-go", words$compare))
}

# Two numbers of factors side by side, each as the report shows an exploration.
desk_beside <- function(numbers, desk, found, words) {
  settings <- desk_settings(desk, found)
  # Beside each other there is no room for wordings.
  settings$wordings <- NULL
  one <- function(k) {
    plan <- set_in(decided_plan(desk$raw), "exploration", "factors", k)
    other <- desk_alternative(desk, plan, "exploration")
    result <- other$result
    htmltools::tags$section(`aria-label` = k, htmltools::tags$h2(paste(k, words$factors)),
      if (is.null(result)) htmltools::tags$p(class = "trouble", paste(c(words$not_possible, in_report(other$why, words$all)),
        collapse = " ")) else
        # Both have a table 1: they are told apart for whoever listens.
        htmltools::HTML(gsub("aria-label=\"", paste0("aria-label=\"", k, ": "), station_blocks(result, settings, desk, "main"), fixed = TRUE)),
      act_button(paste(words$take, k), "set", step = "exploration", name = "factors", value = k))
  }
  htmltools::tagList(place_title(words$beside), htmltools::tags$div(class = "beside", lapply(numbers, one)))
}

# The structure that is confirmed: from here, or from the codebook; on everybody, or on the half that was not explored.
exploration_acts <- function(desk, found, words) {
  split <- !is.null(found$have$split)
  htmltools::tags$p(act_button(words$send_on, "set", name = "structure", value = "exploration"),
    act_button(words$send_codebook, "set", name = "structure", value = "codebook"),
    act_button(if (split) words$send_whole else words$send_halves, if (split) "leave_out" else "take_up", step = "split"))
}

# Changes of the structure: what the misfit suggests, and by hand; then the fits so far.
confirmation_acts <- function(desk, found, words) {
  result <- if ("confirmation" %in% found$pending) desk$last$confirmation else found$have$confirmation
  structure <- found$have$structure
  if (is.null(structure)) {
    return(NULL)
  }
  items <- structure_items(structure)
  factors <- names(structure$factors)
  choose <- function(id, known, label) {
    htmltools::tags$select(id = id, `data-key` = id, `aria-label` = label, `data-part` = id, htmltools::tags$option(value = "", label),
      lapply(known, function(one) htmltools::tags$option(value = one, one)))
  }
  form <- function(what, label, ...) {
    htmltools::tags$p(class = "amend", `data-amend` = what, ..., " ", htmltools::tags$button(type = "button", class = "act",
      `data-key` = paste0("amend-", what), label))
  }
  text <- function(id, label) {
    htmltools::tags$input(id = id, type = "text", `data-key` = id, `data-part` = id, `aria-label` = label, placeholder = label)
  }
  htmltools::tagList(
    free_acts(result, words), structure_sheets(structure, words),
    htmltools::tags$details(htmltools::tags$summary(words$amend),
      form("pair", words$pair, choose("pair-one", items, words$item), choose("pair-two", items, words$item)),
      form("loading", words$loading, choose("loading-item", items, words$item), choose("loading-to", factors, words$factor)),
      form("shift", words$shift, choose("shift-item", union(items, structure$left_out), words$item), choose("shift-to", factors, words$factor)),
      form("leave", words$leave, choose("leave-item", items, words$item)),
      form("higher", words$higher, text("higher-to", words$name)), form("general", words$general, text("general-to", words$name)),
      form("wording", words$wording_factor), form("rename", words$rename, choose("rename-of", factors, words$factor), text("rename-to", words$name))),
    fits_so_far(desk, words)
  )
}

# The factors as sheets: an item dropped on another one moves there or loads there, too; on another item, shares something with it.
structure_sheets <- function(structure, words) {
  chip <- function(item) htmltools::tags$li(draggable = "true", class = "chip", `data-chip` = item, item)
  sheet <- function(name, items, title = name) {
    htmltools::tags$div(class = "factor", `data-factor` = name, htmltools::tags$h3(title), htmltools::tags$ul(lapply(items, chip)))
  }
  left <- setdiff(structure$left_out, structure_items(structure))
  meaning <- c("shift", "loading", "pair")
  choice <- Map(function(value, label) htmltools::tags$option(value = value, label), meaning, unlist(words$drop[meaning]))
  htmltools::tags$details(htmltools::tags$summary(words$by_drag),
    htmltools::tags$p(htmltools::tags$label(`for` = "drop-means", words$drop_means), " ", htmltools::tags$select(id = "drop-means",
      `data-key` = "drop-means", choice)),
    htmltools::tags$div(class = "factors", Map(sheet, names(structure$factors), structure$factors), sheet("", left, words$left_of_structure)))
}

free_acts <- function(result, words) {
  rows <- utils::head(result$tables$modifications, 8)
  if (NROW(rows) == 0) {
    return(NULL)
  }
  one <- function(i) {
    pair <- rows$change_of[i] == "pair"
    label <- paste0(rows$item[i], if (pair) " \u2194 " else " \u2190 ", rows$with[i], " (", words$index, " ", decimals(rows$index[i], 1), ", ",
      rows$reading[i], ")")
    button <- if (pair) act_button(words$free, "amend", name = "pair", items = list(rows$item[i], rows$with[i])) else
      act_button(words$free, "amend", name = "loading", items = list(rows$item[i]), to = rows$with[i])
    htmltools::tags$li(label, " ", button)
  }
  htmltools::tags$details(htmltools::tags$summary(words$free_list), htmltools::tags$ul(class = "free", lapply(seq_len(nrow(rows)), one)))
}

# Each fit there was, by the decision that led to it, with a way back.
fits_so_far <- function(desk, words) {
  decisions <- desk$raw$decisions
  rows <- lapply(0:length(decisions), function(i) {
    figures <- desk$effects[[decisions_key(if (i > 0) decisions[seq_len(i)])]]
    if (is.null(figures) || is.na(figures["CFI"])) {
      return(NULL)
    }
    cell <- function(name, digits = NULL) {
      htmltools::tags$td(class = "number", if (is.null(digits)) coefficient_text(figures[[name]]) else decimals(figures[[name]], digits))
    }
    of <- if (i == 0) words$at_first else decision_words(decisions[[i]], words)
    htmltools::tags$tr(htmltools::tags$td(of), cell("chi-square", 2), cell("df", 0),
      cell("CFI"), cell("RMSEA"), cell("SRMR"), htmltools::tags$td(if (i < length(decisions)) act_button(words$back_to, "back_to", index = i)))
  })
  rows <- Filter(Negate(is.null), rows)
  if (length(rows) < 2) {
    return(NULL)
  }
  head <- htmltools::tags$tr(lapply(c(words$decision, "chi-square", "df", "CFI", "RMSEA", "SRMR", words$back_to), htmltools::tags$th, scope = "col"))
  htmltools::tags$div(class = "table", tabindex = "0", role = "region", `aria-label` = words$fits, htmltools::tags$table(
    htmltools::tags$caption(words$fits), htmltools::tags$thead(head), htmltools::tags$tbody(rows)))
}

# Which equalities differ, each to be lifted.
invariance_acts <- function(desk, found, words) {
  rows <- found$have$invariance$tables$named
  rows <- if (is.null(rows)) rows else utils::head(rows[rows$kind %in% c("intercept", "loading", "threshold"), ], 8)
  plan <- decided_plan(desk$raw)$invariance
  released <- if (is.list(plan)) plan$release
  lapply(seq_len(NROW(rows)), function(i) {
    own <- if (is.list(released)) released else list()
    own[[rows$kind[i]]] <- as.list(union(unlist(own[[rows$kind[i]]]), rows$item[i]))
    htmltools::tags$p(paste0(rows$item[i], " (", rows$kind[i], ", ", rows$occasion[i], ") "), act_button(paste(words$release, rows$item[i]), "set",
      step = "invariance", name = "release", value = own))
  })
}

scores_acts <- function(desk, found, words) {
  htmltools::tags$p(htmltools::tags$a(class = "act", href = "#write", words$write_scores))
}

dif_acts <- function(desk, found, words) {
  items <- found$have$dif$tables$items
  flagged <- items$item[items$flagged %in% TRUE]
  lapply(flagged, item_acts, acts = c("keep", "set_aside"), words = words)
}
