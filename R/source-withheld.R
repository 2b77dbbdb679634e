# What a table that withholds figures of few people (`smallest`) does not say: counts below it, counts that others would give by subtraction, and
# sums over people who differ from those of an earlier sum by fewer than it.

# Which counts of a whole are hidden: those of few people, and, where these together are still few, the next larger ones as well.
hidden_counts <- function(counts, least) {
  hidden <- counts > 0 & counts < least
  while (any(hidden) && sum(counts[hidden]) < least && any(!hidden & counts > 0)) {
    open <- which(!hidden & counts > 0)
    hidden[open[which.min(counts[open])]] <- TRUE
  }
  hidden
}

# A tally without what is hidden: hidden, the answers it hides; withheld, how many gave them; missing, how many gave none, NA where that is hidden;
# shape, of everybody's answers, as core_describe() gives it, from sums.
withheld_tally <- function(survey, item, tally) {
  missing <- sums_used(survey) - sum(tally$counts)
  hide <- hidden_counts(c(tally$counts, missing), least_people(survey$source))
  few <- length(hide)
  tally$missing <- if (hide[few]) NA_real_ else missing
  hide <- hide[-few]
  if (!any(hide)) {
    return(c(tally, withheld = 0))
  }
  list(values = tally$values[!hide], counts = tally$counts[!hide], hidden = tally$values[hide], withheld = sum(tally$counts[hide]),
    missing = tally$missing, shape = core_describe(tally$values, tally$counts))
}

# Sums over those who answered all of `items`, `n` people: refused where they are few, or where what was told before of more or of fewer items differs
# by few people, of whom a subtraction would tell. Kept with the source. of_everybody: is it held against how many there are, too (a tally
# hides that)?
tell_apart <- function(survey, items, n, of_everybody = TRUE) {
  least <- least_people(survey$source)
  if (least <= 1) {
    return(invisible())
  }
  if (n < least && of_everybody) stop_database("withheld", message_of("e_fewer_people_answered", least = least))
  everyone <- if (of_everybody) list(list(items = character(), n = sums_used(survey)))
  told <- told_sets(survey)
  beside <- Filter(function(one) all(one$items %in% items) || all(items %in% one$items), c(everyone, told))
  apart <- abs(vapply(beside, `[[`, 0, "n") - n)
  if (any(apart > 0 & apart < least)) {
    other <- beside[[which(apart > 0 & apart < least)[1]]]$items
    stop_database("withheld", message_of("e_those_who_answered_differ", items = items,
      other_said = if (length(other) == 0) message_of("e_everybody") else message_of("e_those_who_answered", other = other), least = least),
        hint = message_of("e_ask_same_items"))
  }
  assign(told_key(survey), c(told, list(list(items = items, n = n))), survey$source$known)
}

# The same of each pair of items: pairs, a matrix of how many answered both.
tell_pairs_apart <- function(survey, items, pairs) {
  for (j in seq_along(items)) for (i in seq_len(j)) tell_apart(survey, unique(items[c(i, j)]), pairs[i, j])
}

# What a question gives, or `otherwise` where its answer would tell of few people.
unless_withheld <- function(work, otherwise = NULL) {
  tryCatch(work, scalewort_error_database = function(e) if (e$reason == "withheld") otherwise else stop(e))
}

told_key <- function(survey) paste0("told_", hash_of(.subset2(survey, "kept")))

told_sets <- function(survey) survey$source$known[[told_key(survey)]]
