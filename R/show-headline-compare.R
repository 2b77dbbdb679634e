# The answer of rival structures, and what to look at first.

#' @export
headline.sw_comparison <- function(x) {
  models <- x$tables$models
  tests <- x$tables$tests
  if (anyNA(models$bic)) {
    row <- tests[which.min(tests$p.value), ]
    if (nrow(row) == 0) row <- tests[1, ]
    return(paste0(nrow(models), " structures. ", quoted(row$stricter), " against ", quoted(row$freer), ": ", row$says,
      if (!is.na(row$p.value)) paste0(" (adjusted difference ", decimals(row$statistic, 2), " on ", row$df, " df, p ", p_words(row$p.value),
        ")"), "."))
  }
  two <- models$model[order(models$bic)[1:2]]
  row <- tests[tests$stricter %in% two & tests$freer %in% two, ]
  paste0("By BIC ", quoted(two[1]), " is best of ", nrow(models), " (weight ", coefficient_text(max(models$bic_weight), 2), "). ",
    quoted(row$stricter), " against ", quoted(row$freer), ": ", row$says,
    if (!is.na(row$p.value)) paste0(" (difference ", decimals(row$statistic, 2), " on ", row$df, " df, p ", p_words(row$p.value), ")"), ".")
}

#' @export
first_look.sw_comparison <- function(x) {
  shown <- c("model", "chi_square", "df", "p.value", "cfi", "rmsea", "srmr", if (!anyNA(x$tables$models$bic)) c("bic", "bic_weight"))
  c(list(x$tables$models[shown], x$tables$tests), if (!is.null(x$tables$vuong)) list(x$tables$vuong))
}
