# What to look at first in a codebook that was drafted: every guess as a question.

# Every guess that is in force, the most likely to be wrong first: list(weight, question: a message that names the field, on: items, fields:
# what was guessed of them, key: of the plan, where it is about one).
first_doubts <- function(rows, keyed, found = list()) {
  known <- c(unlist(found$ticked), found$checks, found$totals$column, unlist(found$design))
  asked <- c(doubt_unplaced(rows), doubt_found_orders(found$orders), doubt_orders(rows), doubt_codes(rows), doubt_directions(rows, keyed),
    doubt_turned(rows), doubt_ranges(rows), doubt_lone(rows, known), doubt_scales(rows), doubt_design(found))
  weight <- vapply(asked, `[[`, 0, "weight")
  asked[order(-weight)]
}

# Orders that no list knows.
doubt_found_orders <- function(orders) {
  unlist(lapply(orders, function(one) {
    doubt(if (one$how == "levels") .65 else .95, paste0("doubt_order_by_", one$how), items = span_of(one$items), words = one$words,
      on = one$items, fields = answer_fields)
  }), recursive = FALSE)
}

# Which items are whose.
doubt_scales <- function(rows) {
  guessed <- rows$role != "aside" & rows$scale != "" & grepl("\\bscale\\b", rows$guessed)
  spans <- lapply(split(rows$item[guessed], factor(rows$scale[guessed], unique(rows$scale[guessed]))), span_of)
  if (length(spans) > 0) doubt(.32, "doubt_scales", n = length(spans), spans = spans, on = rows$item[guessed], fields = "scale")
}

# Columns beside the items, and rows that are left out.
doubt_design <- function(found) {
  design <- found$design
  if (length(design) == 0) {
    return(NULL)
  }
  one <- function(key, weight) {
    if (length(design[[key]]) > 0) doubt(weight, paste0("doubt_", key), column = design[[key]], id = design$id, waves = design$waves, key = key)
  }
  rows <- design$doubled
  many <- length(rows) > .1 * design$rows && length(design$wave) == 0
  c(one("weight", .55), one("cluster", .5), one("stratum", .42), one("group", .4), one(if (length(design$wave) > 0) "wave" else "id", .35),
    if (many) doubt(.97, "doubt_repeated", n = length(rows), id = design$id, key = "doubled"),
    if (length(rows) > 0 && !many) doubt(.72, "doubt_doubled", n = length(rows), rows = as.character(rows), id = design$id, key = "doubled"))
}

# One question, in a list; how much it weighs against others, and what it is about.
doubt <- function(weight, code, ..., on = character(), fields = character(), key = NULL) {
  list(list(weight = unname(weight), question = message_of(code, ...), on = unname(on), fields = fields, key = key))
}

# What an order of words settles.
answer_fields <- c("labels", "lowest", "highest")

# Words that could not be placed.
doubt_unplaced <- function(rows) {
  open <- which(startsWith(rows$labels, "? = "))
  words <- gsub("? = ", "", gsub("; ", ", ", rows$labels[open[1]], fixed = TRUE), fixed = TRUE)
  if (length(open) > 0) doubt(1, "doubt_order", items = span_of(rows$item[open]), words = words, on = rows$item[open], fields = c("labels", "role"))
}

# Words of two languages, or two words on one step.
doubt_orders <- function(rows) {
  worded <- unique(rows$labels[rows$role != "aside" & grepl("\\blabels\\b", rows$guessed)])
  joined <- Filter(function(text) anyDuplicated(parse_labels(text)) > 0, worded)
  if (length(joined) == 0) {
    return(NULL)
  }
  labels <- parse_labels(joined[1])
  step <- labels[duplicated(labels)][1]
  own <- rows$item[rows$labels == joined[1]]
  doubt(.8, "doubt_same_step", words = names(labels)[labels == step], items = span_of(own), on = own, fields = answer_fields)
}

span_of <- function(items) {
  if (length(items) == 1) span_message(items) else message_of("span_counted", span = span_message(items), items = length(items))
}

# Numbers taken for no answer.
doubt_codes <- function(rows) {
  guessed <- which(rows$role != "aside" & grepl("\\bmissing\\b", rows$guessed))
  codes <- lapply(rows$missing[guessed], function(text) grep("^-?[0-9]+$", missing_codes(text)$code, value = TRUE))
  every <- unique(unlist(codes))
  if (length(every) == 0) {
    return(NULL)
  }
  items <- rows$item[guessed][vapply(codes, function(own) any(own %in% every), TRUE)]
  doubt(.7, "doubt_codes", codes = every, items = span_of(items), on = items, fields = "missing")
}

# The item of each subscale that follows the others least, whichever way it is taken.
doubt_directions <- function(rows, keyed) {
  r <- keyed[rows$item]
  weakest <- unlist(lapply(setdiff(unique(rows$scale[!is.na(r)]), ""), function(scale) {
    mine <- which(rows$scale == scale & !is.na(r))
    mine[which.min(r[mine])]
  }))
  unlist(lapply(weakest[r[weakest] < .3], function(i) {
    doubt(.9 - r[[i]], "doubt_belongs", item = rows$item[i], scale = rows$scale[i],
      direction = message_of("a_term", term = rows$direction[i]), r = r[[i]], on = rows$item[i], fields = c("scale", "direction"))
  }), recursive = FALSE)
}

# Ranges seen in the answers that questionnaires rarely have: an end may not have been used by anybody.
doubt_ranges <- function(rows) {
  open <- rows$role != "aside" & grepl("\\blowest\\b", rows$guessed) & rows$labels == ""
  kind <- unique(rows[open & rows$lowest != "", c("scale", "lowest", "highest")])
  if (nrow(kind) == 0) {
    return(NULL)
  }
  range <- paste(kind$lowest, kind$highest)
  unlist(lapply(unique(range), function(one) {
    own <- kind[range == one, ]
    usual <- one %in% c("0 1", "1 4", "1 5", "1 6", "1 7", "0 4", "0 6", "0 10", "1 10")
    doubt(if (usual) .3 else .75, "doubt_range", low = own$lowest[1], high = own$highest[1],
      scales = lapply(own$scale, function(scale) if (scale == "") message_of("items_without_scale") else scale),
      on = rows$item[open & paste(rows$lowest, rows$highest) == one], fields = c("lowest", "highest"))
  }), recursive = FALSE)
}

# What was guessed reversed changes every figure after it.
doubt_turned <- function(rows) {
  turned <- which(rows$direction == "reversed" & grepl("\\bdirection\\b", rows$guessed))
  said <- lapply(turned, function(i) {
    if (rows$wording[i] == "") rows$item[i] else message_of("item_and_wording", item = rows$item[i], wording = rows$wording[i])
  })
  if (length(turned) > 0) doubt(.6, "doubt_turned", items = said, on = rows$item[turned], fields = "direction")
}

doubt_lone <- function(rows, known = character()) {
  lone <- which(!rows$item %in% known & rows$role == "aside" & rows$lowest != "" & rows$options == "" & rows$guessed != "")
  unlist(lapply(lone, function(i) {
    doubt(.5, "doubt_lone", item = rows$item[i], low = rows$lowest[i], high = rows$highest[i], on = rows$item[i], fields = "role")
  }), recursive = FALSE)
}
