# Sentences for a paper about the items, how people answered, and bias.

#' @export
sentences.sw_screening <- function(x) {
  items <- x$tables$items
  flagged <- unique(x$tables$flags$item)
  gaps <- items$missing / pmax(items$n + items$missing, 1)
  little <- x$tables$missing_test
  c(
    paste0(count_of(nrow(items), "item"), " answered by n = ", x$about$n,
      " were screened for missing answers, spread, skewness and item-rest correlation",
      " (bound ", bound_text(limit(x$limits, "item_rest_r")$bound), ")."),
    if (any(items$missing > 0)) paste0("Between ", format_number(min(gaps), "percent"), " and ", format_number(max(gaps), "percent"),
      " of the answers to an item were missing."),
    if (NROW(little) > 0 && !is.na(little$p.value[1])) paste0("Little's (1988) test of missing completely at random gave chi-square(", little$df[1],
      ") = ", decimals(little$statistic[1], 2), ", p ", p_words(little$p.value[1]), "."),
    if (length(flagged) == 0) "No item was flagged." else paste0("Flagged: ", and_list(flagged, 12), ".")
  )
}

#' @export
sentences.sw_keying <- function(x) {
  wrong <- x$tables$items$item[x$tables$items$agrees == "no"]
  c("The keying of each item was held against its correlation with the rest of its subscale.",
    if (length(wrong) == 0) "No item was shown to point against the codebook." else paste0("Against the codebook: ", and_list(wrong, 12), "."))
}

#' @export
sentences.sw_answering <- function(x) {
  indices <- x$tables$indices
  c(
    paste0("Careless answering was looked for by ", and_list(indices$index, 12), " (Curran, 2016)."),
    paste0("Of ", nrow(x$parts$flags), " cases ", length(x$parts$flagged_rows), " answered in a straight line or had ", x$about$options$at_least,
      " flags or more, and ", sum(x$parts$broke_off), " broke off."),
    "None was left out for it unless the record says so."
  )
}

#' @export
sentences.sw_option_curves <- function(x) {
  paste0("The options of ", count_of(length(unique(x$tables$curves$item)), "item"), " were looked at in ", x$about$options$bands,
    " bands of the score; ", if (nrow(x$tables$flags) == 0) "none was flagged." else paste0("flagged were options of ",
      and_list(unique(x$tables$flags$item), 12), "."))
}

#' @export
sentences.sw_dif <- function(x) {
  items <- x$tables$items
  flagged <- items$item[items$flagged %in% TRUE]
  groups <- x$tables$groups
  power <- stats::median(items$power, na.rm = TRUE)
  c(
    paste0("Differential item functioning by ", x$about$options$by, " (", paste0(groups$group, " n = ", groups$n, collapse = ", "), "; reference ",
      x$about$options$reference, ") was examined by ", and_list(paste0(unique(items$test), "'s test")), " at equal scores, adjusted for ",
      2 * nrow(items), " tests (", c(holm = "Holm, 1979", BH = "Benjamini & Hochberg, 1995", none = "not adjusted")[[x$about$options$adjust]], ")."),
    if (!is.na(power)) paste0("A large difference in one item would have been seen with a probability of ", coefficient_text(power, 2), "."),
    if (length(flagged) == 0) "No item was flagged." else
      paste0("Flagged: ", and_list(paste0(flagged, " (", bias_words(items[items$flagged %in% TRUE, ]), ")"), 12), ".")
  )
}

#' @export
sentences.sw_factorability <- function(x) {
  overall <- x$tables$overall
  paste0("Sampling adequacy (Kaiser, 1974) was ", coefficient_text(overall$value[1], 2), "; Bartlett's (1950) test of sphericity gave chi-square(",
    overall$df[2], ") = ", decimals(overall$value[2], 2), ", p ", p_words(overall$p.value[2]), " (n = ", x$about$n, ").")
}

#' @export
sentences.sw_stability <- function(x) {
  table <- x$tables$factors
  if (any(table$verdict_reason %in% "few_solutions")) {
    return(paste0("Explored again in random halves of ", x$about$n %/% 2, ", most gave no solution."))
  }
  paste0("Explored again in ", x$about$options$halves, " random halves of ", x$about$n %/% 2, ", the factors had mean congruences (Tucker, 1951) ",
    between_words(table$congruence), if (!anyNA(table$congruence_expected)) paste0(", where ", between_words(table$congruence_expected),
      " would be expected of a true solution"), ".")
}
