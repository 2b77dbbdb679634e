# The part of screening that looks at missing answers.

# Per item: missing in all, and skipped, unseen and plainly missing apart.
missing_by_item <- function(survey, specs, table) {
  # Only what the codebook tells apart.
  kinds <- lapply(seq_len(nrow(specs)), function(i) {
    if (any(missing_codes(specs$missing[i])$kind != "missing")) {
      cells <- source_cells(survey, specs$item[i])
      list(kind = missing_kind(cells$values, specs[i, ], silent = NA), n = cells$n)
    }
  })
  of_kind <- function(which) vapply(kinds, function(one) as.integer(sum(one$n[one$kind %in% which])), 0L)
  skipped <- of_kind("skipped")
  unseen <- of_kind("unseen")
  plain_table(
    item = specs$item, n = table$n, missing = table$missing, skipped = skipped, unseen = unseen,
    share_missing = table$missing / pmax(table$missing + table$n, 1)
  )
}

# list(missing_cases, patterns, missing_test, test): tables and Little's test.
missing_tables <- function(survey, items, answers) {
  found <- if (is.null(answers)) source_patterns(survey, items)
  patterns <- if (is.null(answers)) missing_patterns(found, length(items), source_count(survey)$used) else core_patterns(answers)
  rare <- isTRUE(attr(found, "withheld") > 0)
  lost <- rowSums(patterns$missing)
  per_case <- tapply(patterns$n, lost, sum)
  shown <- utils::head(seq_along(patterns$n), 30)
  varies <- vapply(items, function(item) length(seen_answers(survey, item)) > 1, TRUE)
  possible <- !rare && all(varies) && any(lost > 0) && length(patterns$n) <= 5000
  test <- if (possible) if (is.null(answers)) core_little_patterns(found, items) else core_little(answers)
  list(
    missing_cases = plain_table(
      missing = as.integer(names(per_case)), cases = as.integer(per_case), share = as.numeric(per_case) / sum(per_case)
    )[if (rare) 0 else TRUE, ],
    patterns = plain_table(
      pattern = vapply(shown, function(k) if (lost[k] == 0) "complete" else and_list(items[patterns$missing[k, ]], 12), ""),
      missing = as.integer(lost[shown]), cases = patterns$n[shown]
    ),
    missing_test = plain_table(
      figure = "Little's test", statistic = if (is.null(test)) NA_real_ else test$statistic,
      df = if (is.null(test)) NA_real_ else test$df, p.value = if (is.null(test)) NA_real_ else test$p,
      patterns = length(patterns$n)
    ),
    test = test
  )
}

# Patterns with sums as core_patterns() gives them, those who answered nothing among them.
missing_patterns <- function(found, p, used) {
  n <- vapply(found, `[[`, 0, "n")
  missing <- t(vapply(found, function(one) !seq_len(p) %in% one$seen, logical(p)))
  nothing <- used - sum(n) - (if (is.null(attr(found, "withheld"))) 0 else attr(found, "withheld"))
  if (nothing > 0) {
    n <- c(n, nothing)
    missing <- rbind(missing, rep(TRUE, p))
  }
  order <- pattern_order(n, missing)
  list(missing = missing[order, , drop = FALSE], n = n[order])
}
