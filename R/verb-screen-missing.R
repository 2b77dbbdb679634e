# The part of screening that looks at missing answers.

# Per item: missing in all, and skipped, unseen and plainly missing apart.
missing_by_item <- function(survey, specs, table) {
  kind_counts <- lapply(seq_len(nrow(specs)), function(i) {
    codes <- missing_codes(specs$missing[i])
    if (nrow(codes) == 0) {
      return(c(skipped = 0L, unseen = 0L))
    }
    seen <- survey$data[[specs$item[i]]]
    if (!all(survey$kept)) seen <- seen[survey$kept]
    count <- function(kind) {
      code <- codes$code[codes$kind == kind]
      if (length(code) == 0) {
        return(0L)
      }
      blank <- if ("blank" %in% code) sum(is.na(seen) | trimws(as.character(seen)) == "") else 0L
      number <- suppressWarnings(as.numeric(code))
      blank + if (is.numeric(seen)) sum(seen %in% number[!is.na(number)]) else sum(same_words(as.character(seen)) %in% same_words(code))
    }
    c(skipped = count("skipped"), unseen = count("unseen"))
  })
  skipped <- vapply(kind_counts, `[[`, 0L, "skipped")
  unseen <- vapply(kind_counts, `[[`, 0L, "unseen")
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
