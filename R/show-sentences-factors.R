# Sentences for a paper about the number of factors, an exploration, and scores.

#' @export
sentences.sw_retention <- function(x) {
  found <- x$parts$agreement
  of <- function(rule) x$tables$rules$suggestion[match(rule, x$tables$rules$rule)]
  options <- x$about$options
  suspects <- x$tables$suspects
  c(
    paste0("The number of factors was judged by parallel analysis of common factors against the ", if (options$against == "mean") "mean" else
      paste(ordinal_word(100 * options$percentile), "percentile"), " of ", options$replicates,
    " random matrices (Humphreys & Montanelli, 1975; Glorfeld, 1995), which gave ", of("parallel analysis, common"),
    ", and by the empirical Kaiser criterion (Braeken & van Assen, 2017), which gave ", of("empirical Kaiser"), " (n = ", x$about$n, ")."),
    if (NROW(suspects) > 0) paste0("A last factor was not counted where it held ", and_list(unique(ifelse(suspects$why == "pair",
      paste("only the pair", sub(" ", " and ", suspects$items)), "no item, or one only"))), "."),
    paste0(if (is.na(found$second)) "Both pointed to " else "Of the two, parallel analysis of components (Horn, 1965) supported ",
      count_of(found$first, "factor"), ".")
  )
}

#' @export
sentences.sw_exploration <- function(x) {
  if (x$about$status != "ok") {
    return("This exploration did not converge or is improper, and no result should be reported from it.")
  }
  c(explored_sentence(x), explained_sentence(x), loadings_sentence(x), factor_link_sentence(x))
}

two_stage_words <- function(missing) {
  paste0(" Correlations came ", if (missing == "fiml") "by maximum likelihood from everyone who answered anything" else "from imputations, pooled",
    ", with errors and test that allow for the gaps (", if (missing == "fiml") "Yuan & Bentler, 2000; Savalei & Bentler, 2009" else
      "Rubin, 1987; Lee & Cai, 2012", ").")
}

explored_sentence <- function(x) {
  options <- x$about$options
  items <- nrow(x$parts$pattern)
  staged <- x$about$missing %in% c("fiml", "imputed")
  left <- if (staged) "" else if (identical(x$about$missing, "pairwise")) "; each correlation from everyone who answered both items" else
    if (isTRUE(x$about$n_left_out > 0)) paste0("; ", count_of(x$about$n_left_out, "case"), " with missing answers left out")
  paste0(
    "The ", count_of(items, "item"), " were explored by ", extraction_words(options$extraction),
    if (options$extraction == "ml") " factor analysis", " of their ", c(pearson = "Pearson", spearman = "Spearman",
      polychoric = "polychoric")[[options$correlation]], " correlations",
    if (options$rotation != "none") paste0(", with ", rotation_words(options), " rotation"), " (n = ", x$about$n, left, ").",
      if (staged) two_stage_words(x$about$missing)
  )
}

explained_sentence <- function(x) {
  fit <- x$tables$fit
  factors <- x$about$options$factors
  paste0(
    number_word(factors), " ", factor_word(x), if (factors > 1) "s", " explained ",
    format_number(sum(x$tables$variance$share_of_total), "percent"), " of the items' variance",
    if (!is.na(fit$chi_square)) paste0("; chi-square(", fit$df, ") = ", decimals(fit$chi_square, 2), ", p ", p_words(fit$p.value),
      corrected_words(fit$corrected, fit$chi_square, fit$corrected_p), "; RMSEA = ",
      coefficient_text(fit$rmsea), "; CFI = ", coefficient_text(fit$cfi), "; TLI = ", coefficient_text(fit$tli)),
    if (!is.na(fit$srmr)) paste0("; SRMR = ", coefficient_text(fit$srmr)), "."
  )
}

# What the verdict rests on, where that is another chi-square.
corrected_words <- function(corrected, value, p) {
  if (isTRUE(abs(corrected / value - 1) > 1e-9)) paste0(" (corrected for n: ", decimals(corrected, 2), ", p ", p_words(p), ")")
}

loadings_sentence <- function(x) {
  items <- x$tables$items
  bound <- limit(x$limits, "loading")$bound
  clear <- abs(items$loading) >= bound
  crossing <- clear & !is.na(items$gap) & items$gap < limit(x$limits, "loading_gap")$bound
  if (!any(clear)) {
    return(paste0("No item loaded ", bound_text(bound), " or more on a ", factor_word(x), "."))
  }
  c(
    paste0("Of ", count_of(nrow(items), "item"), " ", sum(clear), " loaded ", bound_text(bound), " or more on a ", factor_word(x),
      ", their largest loadings in size ", between_words(abs(items$loading[clear])), "."),
    if (any(!clear)) paste0(and_list(items$item[!clear]), " did not."),
    if (any(crossing)) paste0(and_list(items$item[crossing]), " loaded nearly as much on a second ", factor_word(x), " (gap below ",
      bound_text(limit(x$limits, "loading_gap")$bound), ").")
  )
}

factor_link_sentence <- function(x) {
  r <- x$parts$factor_correlations
  below <- r[lower.tri(r)]
  if (length(below) == 0 || all(abs(below) < 1e-12)) {
    return(NULL)
  }
  paste0(if (length(below) == 1) "The factors correlated " else "Correlations of factors were ", between_words(below), ".")
}

#' @export
sentences.sw_scores <- function(x) {
  about <- x$tables$scales[x$tables$scales$score %in% x$parts$found$about$base, ]
  how <- c(mean = "the mean of the items", sum = "the sum of the items", share = "the share of the highest possible score",
    right = "the number of right answers", weighted = "the weighted mean of the items", regression = "a regression factor score",
    bartlett = "a Bartlett factor score", tenberge = "a ten Berge factor score", expected = "an expected factor score")
  known <- about[!is.na(about$reliability), ]
  c(
    paste0(number_word(nrow(about)), if (nrow(about) == 1) " score was" else " scores were", " computed, ", if (nrow(about) > 1) "each ", "as ",
      and_list(how[unique(about$method)]), " (", x$about$missing, "); n = ", count_words(about$n), " of ", x$about$n, "."),
    if (nrow(known) > 0) paste0("Reliability was ", between_words(known$reliability), ", the standard error of measurement ",
      count_words(decimals(range(known$sem), 2)), ".")
  )
}

factor_word <- function(x) if (x$about$options$extraction == "pca") "component" else "factor"

# A number that begins a sentence: "Four", but "12".
number_word <- function(n) {
  words <- c("One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten")
  if (n %in% seq_along(words)) words[n] else as.character(n)
}

# "612", or "597 to 624".
count_words <- function(values) paste(unique(c(min(values), max(values))), collapse = " to ")
