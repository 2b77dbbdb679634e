# What screening flags, and what it says besides.

# A row per flag: each rule looks at one figure of the items table.
flag_items <- function(table, specs, limits) {
  test <- !is.na(specs$answer)
  rest <- table$item_rest_r
  flat <- table$n > 0 & table$sd %in% 0
  share_missing <- table$missing / (table$missing + table$n)
  fails <- function(value, figure) !is.na(value) & !meets(value, limits, figure)
  # Surely below: by the upper end of the interval, and not only beside items that are unreversed.
  low <- function(figure) fails(table$rest_high, figure) & !table$beside_unreversed
  # Of two answers one always has half of the people. At an end are surely more than the bound: by the lower end of the interval.
  ends <- ifelse(specs$highest - specs$lowest == 1, "end_share_two", "end_share")
  at_end <- function(value) {
    out <- rep(FALSE, length(value))
    sure <- core_share_interval(value, table$n)$low
    for (figure in unique(ends)) out[ends == figure] <- fails(sure[ends == figure], figure)
    out
  }
  two <- ends == "end_share_two"
  rules <- list(
    list(table$n == 0, "no answers", share_missing, "missing_share", "Set the item aside."),
    list(flat, "everyone answers the same", pmax(table$at_lowest, table$at_highest), "end_share", "Set the item aside: it tells nobody apart."),
    list(table$n > 0 & fails(share_missing, "missing_share"), "often unanswered", share_missing, "missing_share", "Ask why people pass it over."),
    list(!test & table$looks_unreversed, "looks unreversed", rest, "item_rest_r", "Check the keying: see `sw_keying()`."),
    list(!test & !table$looks_unreversed & low("item_rest_r"), "low item-rest r", rest, "item_rest_r",
      "Read the wording: does it belong to the subscale?"),
    list(test & rest < 0, "negative item-rest r", rest, "item_rest_r_keyed", "Check the key: another option may be right."),
    list(test & rest >= 0 & low("item_rest_r_keyed"), "low item-rest r", rest, "item_rest_r_keyed",
      "Read the question: is one option plainly right?"),
    list(!test & !flat & !two & at_end(table$at_lowest), "floor", table$at_lowest, "end_share",
      "Most answer at the lowest option: expect little spread."),
    list(!test & !flat & !two & at_end(table$at_highest), "ceiling", table$at_highest, "end_share",
      "Most answer at the highest option: expect little spread."),
    list(!test & !flat & two & at_end(table$at_lowest), "nearly all one answer", table$at_lowest, "end_share_two", "It tells few people apart."),
    list(!test & !flat & two & at_end(table$at_highest), "nearly all one answer", table$at_highest, "end_share_two", "It tells few people apart."),
    list(!test & fails(abs(table$skewness), "skewness"), "skewed", table$skewness, "skewness", "Use methods for ordered answers."),
    list(!test & fails(abs(table$kurtosis), "kurtosis"), "heavy tails", table$kurtosis, "kurtosis", "Use methods for ordered answers."),
    list(test & fails(table$difficulty, "difficulty_low"), "hard", table$difficulty, "difficulty_low", "Check the key, then the question."),
    list(test & fails(table$difficulty, "difficulty_high"), "easy", table$difficulty, "difficulty_high", "It tells few people apart.")
  )
  flags <- do.call(rbind, lapply(rules, function(rule) do.call(flag_rows, c(list(table$item, limits), rule))))
  flags[order(match(flags$item, table$item)), ]
}

# Every figure that the flags look at. Low item-rest correlations beside items that are unreversed wait for the keying.
screening_verdicts <- function(table, specs, limits) {
  test <- !is.na(specs$answer)
  ends <- ifelse(specs$highest - specs$lowest == 1, "end_share_two", "end_share")
  waits <- ifelse(table$beside_unreversed & !table$looks_unreversed, "keying", "")
  of <- function(which, value, figure, ...) verdict_rows("item", table$item[which], judge(value[which], limits, figure[which], ...))
  same <- function(figure) rep(figure, nrow(table))
  most <- pmax(table$at_lowest, table$at_highest)
  at_ends <- core_share_interval(most, table$n)
  ranked_verdicts(
    verdict_rows("item", table$item, judge(table$item_rest_r, limits, ifelse(test, "item_rest_r_keyed", "item_rest_r"), table$rest_low,
      table$rest_high, waits)),
    of(table$missing + table$n > 0, table$missing / (table$missing + table$n), same("missing_share")),
    of(!test, most, ends, at_ends$low[!test], at_ends$high[!test]), of(!test, abs(table$skewness), same("skewness")),
    of(!test, abs(table$kurtosis), same("kurtosis")),
    of(test, table$difficulty, same("difficulty_low")), of(test, table$difficulty, same("difficulty_high"))
  )
}

flag_rows <- function(items, limits, which, what, value, figure, advice) {
  at <- which(which %in% TRUE)
  rule <- limit(limits, figure)
  allowed <- bound_only(limits, figure)
  same <- function(x) rep(x, length(at))
  plain_table(
    item = items[at], what = same(what), value = value[at], figure = same(rule$words), bound = same(allowed),
    source = same(rule$source), advice = same(advice)
  )
}

screening_notes <- function(table, specs, moments, test, patterns, limits) {
  likert <- is.na(specs$answer)
  negative <- table$item[which(likert & table$looks_unreversed)]
  unused <- table$item[table$unused != ""]
  halves <- unique(table$scale[table$half_against_half])
  c(
    note("half", messages_of("screening_half", scale = halves), as.list(halves), rank = 1L),
    if (length(negative) > 0) note("against_keying", message_of("against_keying", items = negative), negative, rank = 1L),
    if (length(unused) > 0) note("unused_options", message_of("unused_options", options = messages_of("name_aside", name = unused,
      aside = table$unused[table$unused != ""])), unused),
    little_note(test, limits),
    if (moments$missing == "pairwise") note("pairwise", message_of("pairwise")),
    if (!patterns) note("no_patterns", message_of("no_patterns"), rank = 3L)
  )
}

# With fewer people in a pattern of gaps Little's test finds gaps that follow an answer in less than half of samples (15 items, 150 and 400 people).
crowded_pattern <- 2.5

little_note <- function(test, limits) {
  if (is.null(test)) {
    return(NULL)
  }
  if (is.na(test$p)) {
    return(note("no_little_test", message_of("no_little_test", why = status_message(test$status)), rank = 3L))
  }
  against <- meets(test$p, limits, "test_p")
  code <- if (against) "not_random" else if (isTRUE(test$crowd < crowded_pattern)) "hardly_seen_random" else "perhaps_random"
  note(code, message_of(code, chi_square = test$statistic, df = test$df, p = test$p, crowd = test$crowd), p = test$p, rank = if (against) 1L else 3L)
}
