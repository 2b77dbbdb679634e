# Sentences ready for a methods or results section.

sentences <- function(x) UseMethod("sentences")
#' @export
sentences.default <- function(x) character()

#' @export
sentences.sw_reliability <- function(x) {
  scales <- x$tables$scales[!is.na(x$tables$scales$alpha), ]
  if (nrow(scales) == 0) {
    return(character())
  }
  options <- x$about$options
  test <- scales$coefficient == "KR-20"
  level <- paste0(format(100 * options$level), "%")
  source <- c(
    feldt = "after Feldt (1965)", bonett = "after Bonett (2002)",
    percentile = paste0("from the percentiles of ", options$replicates, " bootstrap samples (Efron, 1979)"),
    bca = paste0("from ", options$replicates, " bootstrap samples, bias-corrected and accelerated (Efron, 1987)")
  )[[options$interval]]
  coefficient <- if (all(test)) {
    "the Kuder-Richardson coefficient (KR-20)"
  } else if (any(test)) {
    "coefficient alpha (Cronbach, 1951; KR-20 for subscales of right and wrong answers)"
  } else {
    "coefficient alpha (Cronbach, 1951)"
  }
  omega <- ifelse(is.na(scales$omega), "", paste0("; omega = ", coefficient_text(scales$omega, 2)))
  each <- paste0(
    scales$scale, " (", vapply(scales$items, count_of, "", one = "item"), ", n = ", scales$n, "): ",
    ifelse(test, "KR-20", "alpha"), " = ", coefficient_text(scales$alpha, 2), ", ", level, " CI [",
    coefficient_text(scales$conf.low, 2), ", ", coefficient_text(scales$conf.high, 2), "]", omega
  )
  c(
    paste0("Internal consistency was estimated by ", coefficient, " with ", level, " confidence intervals ", source,
      if (any(!is.na(scales$omega))) ", and by omega from a one-factor maximum likelihood solution (McDonald, 1999)", "."),
    paste0(paste(each, collapse = ". "), "."),
    missing_sentence(x)
  )
}

missing_sentence <- function(x) {
  how <- sub(" within each subscale$", "", x$about$missing)
  switch(how,
    listwise = "Each subscale used the cases that answered all of its items.",
    pairwise = "Covariances were computed from all cases that answered both items of a pair.",
    em = "Covariances were estimated by maximum likelihood (EM) from all cases with any answer.",
    paste0("Missing answers: ", how, ".")
  )
}
