# Sentences ready for a methods or results section.

sentences <- function(x) UseMethod("sentences")
#' @export
sentences.default <- function(x) character()

# What the intervals of alpha are: one for all subscales, or "auto" where some are free of distribution and others are not.
alpha_interval_kind <- function(x) {
  asked <- x$about$options$interval
  found <- x$tables$scales$interval[!is.na(x$tables$scales$alpha)]
  if (!asked %in% c("auto", "free")) asked else if (length(unique(found)) == 1) found[1] else if (any(found == "free")) "auto" else "feldt"
}

#' @export
sentences.sw_reliability <- function(x) {
  scales <- x$tables$scales[!is.na(x$tables$scales$alpha), ]
  if (nrow(scales) == 0) {
    return(character())
  }
  options <- x$about$options
  test <- scales$coefficient == "KR-20"
  level <- paste0(format(100 * options$level), "%")
  free <- scales$scale[scales$interval == "free"]
  kind <- alpha_interval_kind(x)
  source <- c(
    free = "that are free of distribution (Yuan, Guarnaccia & Hayslip, 2003)",
    auto = paste0("after Feldt (1965), free of distribution (Yuan, Guarnaccia & Hayslip, 2003) for ", and_list(free), ", whose answers are skewed"),
    delta = "from the covariance matrix of the moments by the delta method (Yuan & Bentler, 2000)", feldt = "after Feldt (1965)",
      bonett = "after Bonett (2002)",
    percentile = paste0("from the percentiles of ", options$replicates, " bootstrap samples (Efron, 1979)"),
    bca = paste0("from ", options$replicates, " bootstrap samples, bias-corrected and accelerated (Efron, 1987)")
  )[[kind]]
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
    paste0(each, "."),
    missing_sentence(x)
  )
}

missing_sentence <- function(x) {
  how <- sub(" within each subscale$", "", x$about$missing)
  switch(how,
    listwise = paste0(if (nrow(x$tables$scales) == 1) "The" else "Each", " subscale used the cases that answered all of its items."),
    pairwise = "Covariances were computed from all cases that answered both items of a pair.",
    fiml = paste0("Means and covariances were estimated by maximum likelihood from everyone who answered anything (n = ", x$tables$scales$n[1],
      "; Dempster, Laird & Rubin, 1977)."),
    imputed = "Missing answers were imputed several times, and means and covariances pooled (Rubin, 1987; Lee & Cai, 2012).",
    paste0("Missing answers: ", how, ".")
  )
}

# What was done about missing answers; of a published matrix nothing is known.
missing_clause <- function(x) {
  left_out <- x$about$n_left_out
  if (x$about$options$missing == "imputed") {
    "; missing answers were imputed several times and the moments pooled (Rubin, 1987; Lee & Cai, 2012)"
  } else if (length(x$about$options$also) > 0) {
    paste0("; the structure was fitted in two stages to moments by maximum likelihood from everyone who answered anything, with ",
      and_list(x$about$options$also), " beside the items (Savalei & Bentler, 2009)")
  } else if (x$about$options$missing == "fiml") {
    "; missing answers were handled by full information maximum likelihood"
  } else if (x$about$options$missing == "pairwise") {
    "; each correlation came from everyone who had answered both of its items"
  } else if (isTRUE(left_out > 0)) {
    paste0("; ", count_of(left_out, "case"), " with missing answers ", if (left_out == 1) "was" else "were", " left out")
  }
}

#' @export
sentences.sw_confirmation <- function(x) {
  f <- x$parts$figures
  if (x$about$status != "ok") {
    return("This fit did not converge or is improper, and no result should be reported from it.")
  }
  options <- x$about$options
  how <- c(
    ml = "maximum likelihood", robust = "maximum likelihood with robust standard errors and a mean-adjusted test (Satorra & Bentler, 1994)",
    ordinal = paste("diagonally weighted least squares from polychoric correlations with robust standard errors and a test adjusted for mean and",
      "variance (Muth\u00e9n, 1993; Asparouhov & Muth\u00e9n, 2010)"),
    ordinal_uls = "unweighted least squares from polychoric correlations with robust standard errors and a test adjusted for mean and variance",
    gls = "generalised least squares", uls = "unweighted least squares (Browne, 1984)"
  )[[options$estimator]]
  staged <- options$estimator == "ml" && !is.null(f$scale)
  if (staged) how <- "maximum likelihood in two stages, with standard errors and a mean-adjusted test that allow for the gaps (Yuan & Bentler, 2000)"
  if (options$estimator == "robust" && options$missing == "fiml") how <- sub("Satorra & Bentler, 1994", "Yuan & Bentler, 2000", how, fixed = TRUE)
  scaled <- !is.null(f$scale) && !is.na(f$scale)
  loadings <- x$tables$loadings[x$tables$loadings$item %in% rownames(x$parts$observed), ]
  range <- range(loadings$standardised)
  r <- x$tables$factor_correlations
  missed <- x$tables$residual_correlations
  large <- sum(missed$verdict %in% "missed")
  explored <- unlist(lapply(x$noted$numbers[x$noted$code == "explored_cases"], `[[`, "cases"))
  c(
    paste0("A structure of ", count_of(options$factors, "factor"), " and ", count_of(options$items, "item"), " was fitted by ", how, " to n = ",
      x$about$n, " cases", if (!is.null(options$weights)) " with sampling weights", missing_clause(x), "."),
    paste0(if (scaled) "Adjusted chi-square" else "Chi-square", "(", f$df, ") = ", decimals(if (scaled) f$chi_square_scaled else f$chi_square, 2),
      ", p ",
      p_words(if (scaled) f$p_scaled else f$p.value), if (f$df > 0) known_figures(CFI = f$cfi, TLI = f$tli, RMSEA = f$rmsea, low = f$rmsea.low,
        high = f$rmsea.high, close = f$rmsea_p_close, SRMR = f$srmr), "."),
    corrected_fit_sentence(x$tables$fit), power_sentence(x),
    paste0("Standardised loadings were ", between_words(range),
      if (nrow(r) > 1) paste0(", correlations of factors ", between_words(r$correlation))
      else if (nrow(r) == 1) paste0(", the factors correlated ", coefficient_text(r$correlation, 2)), "."),
    paste0("Of ", nrow(missed), " residual correlations ", if (large == 0) "none was" else count_of(large, "was", "were"),
      " shown to be larger than ",
      bound_text(limit(x$limits, "residual_r")$bound), " in size",
      if (large > 0) paste0(", the largest that of ", missed$item[1], " and ", missed$with[1], " (", coefficient_text(missed$residual[1], 2),
        ")"), "."),
    if (length(explored) > 0) paste0("Of these cases ", explored[1],
      " had been explored to find this structure, so that this is no independent confirmation.")
  )
}

# "; CFI = .97; RMSEA = .03, 90% CI [.02, .04], p of close fit = .99": what is known of figures of fit; low, high, close: those of RMSEA.
known_figures <- function(..., low = NA_real_, high = NA_real_, close = NA_real_) {
  value <- c(...)
  beside <- ifelse(names(value) == "RMSEA", paste0(
    if (!is.na(low)) paste0(", 90% CI [", coefficient_text(low), ", ", coefficient_text(high), "]"),
    if (!is.na(close)) paste0(", p of close fit ", p_words(close))
  ), "")
  paste0(paste0("; ", names(value), " = ", coefficient_text(value), beside)[!is.na(value)], collapse = "")
}

# The figures that the verdict rests on, where they are not those above.
corrected_fit_sentence <- function(fit) {
  own <- function(figure) fit$corrected[match(figure, fit$figure)]
  judged <- judged_chi_square(fit)
  unscaled <- judged$figure == "chi_square" && "chi_square_scaled" %in% fit$figure
  p <- judged$corrected_p
  if (!any(differs_corrected(fit[fit$figure %in% c("cfi", "rmsea", "srmr"), ])) && !unscaled && identical(p_words(p), p_words(judged$p.value))) {
    return(NULL)
  }
  rmsea <- fit[fit$figure == "rmsea", ]
  paste0("The verdict on fit rests on figures corrected for n", if (unscaled) ", from the unscaled chi-square", ": ",
    sub("^; ", "", paste0(if (!is.na(p)) paste0("; chi-square = ", decimals(judged$corrected, 2), ", p ", p_words(p)),
      known_figures(CFI = own("cfi"), RMSEA = own("rmsea"), low = rmsea$conf.low, high = rmsea$conf.high, `unbiased SRMR` = own("srmr")))), ".")
}

# How likely the test of close fit was to see a bad structure, with this many people.
power_sentence <- function(x) {
  power <- x$tables$power
  row <- power[power$test == "close fit", ]
  if (NROW(row) == 0 || is.na(row$power)) {
    return(NULL)
  }
  paste0("With n = ", row$n, " the test of close fit (RMSEA of ", bound_text(row$null), " at most) would reject a structure whose RMSEA is ",
    bound_text(row$alternative), " with a probability of ", coefficient_text(row$power, 2), " (MacCallum, Browne & Sugawara, 1996).")
}
