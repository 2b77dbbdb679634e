# The part of screening that looks at missing answers.

# Per item: missing in all, and skipped, unseen and plainly missing apart.
missing_by_item <- function(survey, specs, table) {
  # Only what the codebook tells apart.
  kinds <- lapply(seq_len(nrow(specs)), function(i) {
    if (any(missing_codes(specs$missing[i])$kind != "missing")) missing_kind(source_column(survey, specs$item[i]), specs[i, ], silent = NA)
  })
  skipped <- vapply(kinds, function(kind) sum(kind %in% "skipped"), 0L)
  unseen <- vapply(kinds, function(kind) sum(kind %in% "unseen"), 0L)
  tibble::tibble(
    item = specs$item, n = table$n, missing = table$missing, skipped = skipped, unseen = unseen,
    share_missing = table$missing / pmax(table$missing + table$n, 1)
  )
}

# list(missing_cases, patterns, missing_test, test): tables and Little's test.
missing_tables <- function(answers) {
  patterns <- core_patterns(answers)
  lost <- rowSums(patterns$missing)
  per_case <- tapply(patterns$n, lost, sum)
  items <- colnames(answers)
  shown <- utils::head(seq_along(patterns$n), 30)
  varies <- apply(answers, 2, function(x) stats::var(x, na.rm = TRUE) > 0) %in% TRUE
  test <- if (all(varies) && any(lost > 0) && length(patterns$n) <= 5000) core_little(answers)
  list(
    missing_cases = tibble::tibble(
      missing = as.integer(names(per_case)), cases = as.integer(per_case), share = as.numeric(per_case) / nrow(answers)
    ),
    patterns = tibble::tibble(
      pattern = vapply(shown, function(k) if (lost[k] == 0) "complete" else and_list(items[patterns$missing[k, ]], 12), ""),
      missing = as.integer(lost[shown]), cases = patterns$n[shown]
    ),
    missing_test = tibble::tibble(
      figure = "Little's test", statistic = if (is.null(test)) NA_real_ else test$statistic,
      df = if (is.null(test)) NA_real_ else test$df, p.value = if (is.null(test)) NA_real_ else test$p,
      patterns = length(patterns$n)
    ),
    test = test
  )
}
