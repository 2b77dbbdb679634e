# What the columns beside the items are: who answered, when, with whom together, in which group, with which weight.

# list(id, wave, waves, group, cluster, stratum, weight: names of columns, doubled: rows of the data that a row before stands for, already).
find_design <- function(data, rows, foreign, apart = character()) {
  beside <- setdiff(intersect(rows$item[rows$role == "aside" & rows$options == ""], names(data)), apart)
  wording <- stats::setNames(rows$wording, rows$item)[beside]
  facts <- lapply(stats::setNames(beside, beside), function(name) column_facts(data[[name]], foreign[[name]]))
  speaks <- function(kind) beside[vapply(beside, function(name) speaks_of(kind, name, wording[[name]]), TRUE)]
  platform <- beside[is_metadata(beside) | is_metadata(wording)]
  out <- list(rows = nrow(data))
  out$weight <- utils::head(Filter(function(name) is_weight(data[[name]], wording[[name]]), speaks("weight")), 1)
  left <- setdiff(beside, out$weight)
  out[c("id", "wave", "doubled")] <- find_people(facts[left], intersect(speaks("id"), left), intersect(speaks("wave"), left))
  if (length(out$wave) > 0) out$waves <- wave_order(data[[out$wave]])$order
  left <- setdiff(left, c(out$id, out$wave))
  out$stratum <- utils::head(intersect(speaks("stratum"), left), 1)
  left <- setdiff(left, out$stratum)
  out$cluster <- find_cluster(facts[left], intersect(speaks("cluster"), left))
  # Many steps from low to high are an answer of its own.
  steps <- rows$item[rows$lowest != "" & suppressWarnings(as.numeric(rows$highest) - as.numeric(rows$lowest)) > 4]
  left <- setdiff(left, c(out$cluster, platform, steps))
  out$group <- find_group(facts[left], intersect(speaks("group"), left))
  out
}

# Different values and how often each stands, of cells that hold something.
column_facts <- function(column, about) {
  seen <- unique(column)
  text <- as.character(seen)
  if (!is.numeric(column)) {
    text <- trimws(text)
    text[text %in% empty_cells] <- NA
  }
  if (is.character(column) && length(seen) <= 1000) text <- one_spelling(text, tabulate(match(column, seen), length(seen)))
  text <- text[match(column, seen)]
  values <- unique(text[!is.na(text)])
  counts <- stats::setNames(tabulate(match(text, values), length(values)), values)
  list(n = length(text), filled = mean(!is.na(text)), counts = counts, worded = !is.numeric(column), labelled = length(about$labels) > 0,
    logical = is.logical(column), dated = inherits(column, c("Date", "POSIXct")), text = text,
    whole = !is.numeric(column) || all(column == round(column), na.rm = TRUE))
}

# Does a column's name, or a short wording, use a word of the table inst/tables/column-words.csv?
speaks_of <- function(kind, name, wording = "") {
  table <- shipped_table("column-words")
  words <- unique(table$word[table$kind == kind])
  told <- function(text) {
    plain <- plain_name(text)
    parts <- strsplit(plain, " ", fixed = TRUE)[[1]]
    long <- parts[nchar(parts) >= 7]
    ends <- words[nchar(words) >= 5 | words %in% c("nr", "id")]
    any(vapply(words, function(word) grepl(paste0(" ", word, " "), paste0(" ", plain, " "), fixed = TRUE), TRUE)) ||
      any(vapply(long, function(part) any(startsWith(part, ends[nchar(ends) >= 5])) || any(endsWith(part, ends)), TRUE))
  }
  told(name) || (nzchar(wording) && lengths(strsplit(wording, "[[:space:]]+")) <= 5 && told(wording))
}

plain_name <- function(x) trimws(gsub("[^a-z]+", " ", same_words(gsub("([a-z])([A-Z])", "\\1 \\2", x))))

# Positive numbers, not all whole, of mean one; where the wording says for what, of any mean.
is_weight <- function(column, wording) {
  if (!is.numeric(column)) {
    return(FALSE)
  }
  x <- column[!is.na(column)]
  fine <- length(x) > 0 && all(x >= 0) && length(unique(x)) > 2 && mean(is.na(column)) < .05
  fine && any(x != round(x)) && (says("weighting", wording) || abs(mean(x) - 1) < .3)
}

# Whoever answered, and in which wave, where rows of one person stand below each other: list(id, wave, doubled: rows that say again what one
# before says).
find_people <- function(facts, named_id, named_wave) {
  repeats <- vapply(facts, function(one) 1 - length(one$counts) / max(1, sum(one$counts)), 0)
  long <- people_in_waves(facts, repeats, named_id, named_wave)
  if (!is.null(long)) {
    return(long)
  }
  filled <- vapply(facts, `[[`, 0, "filled")
  single <- names(facts)[repeats == 0 & filled == 1]
  # A name with some repeats is better than none, and than numbers that measure something.
  known <- names(facts)[filled > .95 & lengths(lapply(facts, `[[`, "counts")) >= 10]
  nearly <- intersect(names(sort(repeats[known])), named_id)
  measured <- vapply(facts[single], function(one) !one$whole || one$dated, TRUE)
  id <- utils::head(c(intersect(single, named_id), nearly, single[!measured]), 1)
  # More than a few are no doubles: somebody must say what they are.
  again <- if (length(id) > 0) which(duplicated(facts[[id]]$text) & !is.na(facts[[id]]$text))
  list(id = id, wave = character(), doubled = again)
}

# A column of few values and one of people who repeat, but hardly ever in the same wave; NULL where there are none.
people_in_waves <- function(facts, repeats, named_id, named_wave) {
  values <- lengths(lapply(facts, `[[`, "counts"))
  filled <- vapply(facts, `[[`, 0, "filled")
  worded <- vapply(facts, `[[`, TRUE, "worded")
  waves <- names(facts)[values %in% 2:12 & filled == 1 & !vapply(facts, `[[`, TRUE, "logical")]
  many <- names(facts)[repeats > .1 & values >= pmax(10, vapply(facts, `[[`, 0, "n") / 15) & filled > .95]
  people <- intersect(c(named_id, setdiff(names(facts)[worded], named_id)), many)
  for (wave in c(intersect(named_wave, waves), setdiff(waves, named_wave))) {
    for (id in people) {
      again <- duplicated(paste(facts[[id]]$text, facts[[wave]]$text, sep = "\r"))
      known <- wave %in% named_wave || looks_like_waves(names(facts[[wave]]$counts))
      fits <- if (known) mean(again) < .05 else !any(again) && id %in% named_id
      if (fits) return(list(id = id, wave = wave, doubled = which(again)))
    }
  }
  NULL
}

looks_like_waves <- function(values) {
  usual <- paste0("^(baseline|pre|post|follow ?up|fu|before|after|vorher|nachher|avant|apres|antes|despues|prima|dopo)\\b|",
    "^(t|w|wave|welle|month|monat|week|woche|time|visit) ?[0-9]{1,2}$")
  mean(grepl(usual, same_words(values))) >= .5
}

# Units with several people each, eight units at least: fewer tell too little of how units differ, and are groups.
find_cluster <- function(facts, named) {
  units <- Filter(function(name) {
    one <- facts[[name]]
    length(one$counts) >= 8 && length(one$counts) <= one$n / 2 && one$filled > .9 && one$whole && !one$dated
  }, named)
  utils::head(units[order(lengths(lapply(facts[units], `[[`, "counts")))], 1)
}

# Few values, each of some people, in words, with labels, or named as groups are; no free text.
find_group <- function(facts, named) {
  few <- Filter(function(name) {
    one <- facts[[name]]
    length(one$counts) %in% 2:12 && one$filled > .5 && !one$dated && (one$worded || one$labelled || name %in% named) &&
      mean(nchar(names(one$counts))) <= 40
  }, names(facts))
  if (length(few) == 0) {
    return(character())
  }
  smallest <- vapply(facts[few], function(one) min(one$counts), 0)
  several <- vapply(facts[few], function(one) sum(one$counts >= 20) >= 2, TRUE)
  plain <- vapply(facts[few], `[[`, TRUE, "logical")
  utils::head(few[order(smallest < 20, !several, !few %in% named, plain)], 1)
}
