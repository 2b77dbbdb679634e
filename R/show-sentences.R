# Sentences ready for a methods or results section: a list of messages.

sentences <- function(x) UseMethod("sentences")
#' @export
sentences.default <- function(x) list()

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
    return(list())
  }
  options <- x$about$options
  level <- 100 * options$level
  test <- scales$coefficient == "KR-20"
  free <- scales$scale[scales$interval == "free"]
  interval <- switch(alpha_interval_kind(x), free = message_of("alpha_interval_free"), auto = message_of("alpha_interval_auto", scales = free),
    delta = message_of("alpha_interval_delta"), feldt = message_of("alpha_interval_feldt"), bonett = message_of("alpha_interval_bonett"),
    percentile = message_of("alpha_interval_percentile", replicates = options$replicates),
    bca = message_of("alpha_interval_bca", replicates = options$replicates))
  coefficient <- message_of(if (all(test)) "coefficient_kr" else if (any(test)) "coefficient_both" else "coefficient_alpha")
  each <- lapply(seq_len(nrow(scales)), function(i) {
    one <- scales[i, ]
    message_of("alpha_of_scale", scale = one$scale, items = one$items, n = one$n, coefficient = if (test[i]) "KR-20" else message_of("word_alpha"),
      alpha = one$alpha, level = level, low = one$conf.low, high = one$conf.high,
      omega = if (!is.na(one$omega)) message_of("and_omega", omega = one$omega))
  })
  c(list(message_of(if (any(!is.na(scales$omega))) "alpha_and_omega_by" else "alpha_by", coefficient = coefficient, level = level,
    interval = interval)), each, list(missing_sentence(x)))
}

missing_sentence <- function(x) {
  how <- sub(" within each subscale$", "", x$about$missing)
  switch(how,
    listwise = message_of(if (nrow(x$tables$scales) == 1) "scale_complete" else "scales_complete"),
    pairwise = message_of("covariances_pairwise"),
    fiml = message_of("moments_by_likelihood", n = x$tables$scales$n[1]),
    imputed = message_of("moments_imputed"),
    message_of("missing_answers", how = missing_message(x))
  )
}

# What was done about missing answers; of a published matrix nothing is known.
missing_clause <- function(x) {
  left_out <- x$about$n_left_out
  if (x$about$options$missing == "imputed") {
    message_of("clause_imputed")
  } else if (length(x$about$options$also) > 0) {
    message_of("clause_also", columns = x$about$options$also)
  } else if (x$about$options$missing == "fiml") {
    message_of("clause_fiml")
  } else if (x$about$options$missing == "pairwise") {
    message_of("clause_pairwise")
  } else if (isTRUE(left_out > 0)) {
    message_of("clause_left_out", cases = left_out)
  }
}

# How a structure was estimated.
estimator_message <- function(x) {
  options <- x$about$options
  if (options$estimator == "ml" && !is.null(x$parts$figures$scale)) {
    return(message_of("by_stages"))
  }
  switch(options$estimator, ml = message_of("by_ml"),
    robust = message_of(if (options$missing == "fiml") "by_robust_gaps" else "by_robust"), ordinal = message_of("by_ordinal"),
    ordinal_uls = message_of("by_ordinal_uls"), gls = message_of("by_gls"), uls = message_of("by_uls"))
}

#' @export
sentences.sw_confirmation <- function(x) {
  f <- x$parts$figures
  if (x$about$status != "ok") {
    return(list(message_of("fit_not_to_report")))
  }
  options <- x$about$options
  loadings <- x$tables$loadings[x$tables$loadings$item %in% rownames(x$parts$observed), ]
  explored <- unlist(lapply(x$noted$numbers[x$noted$code == "explored_cases"], `[[`, "cases"))
  Filter(Negate(is.null), list(
    message_of("structure_fitted", factors = options$factors, items = options$items, how = estimator_message(x), n = x$about$n,
      weights = if (!is.null(options$weights)) message_of("with_sampling_weights"), missing = missing_clause(x)),
    fit_sentence(f), corrected_fit_sentence(x$tables$fit), power_sentence(x),
    standardised_sentence(range(loadings$standardised), x$tables$factor_correlations$correlation),
    residual_sentence(x$tables$residual_correlations, limit(x$limits, "residual_r")$bound),
    if (length(explored) > 0) message_of("explored_before", cases = explored[1])
  ))
}

fit_sentence <- function(f) {
  scaled <- !is.null(f$scale) && !is.na(f$scale)
  message_of("fit_reported", kind = message_of(if (scaled) "chi_square_is_adjusted" else "chi_square_plain"), df = f$df,
    chi_square = if (scaled) f$chi_square_scaled else f$chi_square, p = if (scaled) f$p_scaled else f$p.value,
    figures = if (f$df > 0) message_of("and_figures", figures = known_figures(CFI = f$cfi, TLI = f$tli, RMSEA = f$rmsea, low = f$rmsea.low,
      high = f$rmsea.high,
      close = f$rmsea_p_close, SRMR = f$srmr)))
}

standardised_sentence <- function(loadings, r) {
  if (length(r) == 0) message_of("loadings_were", loadings = loadings) else
    message_of(if (length(r) > 1) "loadings_and_correlations" else "loadings_and_correlation", loadings = loadings, r = r)
}

residual_sentence <- function(missed, bound) {
  large <- sum(missed$verdict %in% "missed")
  if (large == 0) message_of("no_residual_larger", all = nrow(missed), bound = bound) else
    message_of("residuals_larger", all = nrow(missed), count = large, bound = bound, first = missed$item[1], second = missed$with[1],
      r = missed$residual[1])
}

# "; CFI = .97; RMSEA = .03, 90% CI [.02, .04], p of close fit = .99": what is known of figures of fit; low, high, close: those of RMSEA.
known_figures <- function(..., low = NA_real_, high = NA_real_, close = NA_real_) {
  value <- c(...)
  lapply(names(value)[!is.na(value)], function(name) {
    figure <- if (name == "srmr_unbiased") message_of("word_unbiased_srmr") else name
    if (name != "RMSEA") return(message_of("figure_equals", figure = figure, value = value[[name]]))
    message_of("rmsea_equals", value = value[[name]], interval = if (!is.na(low)) message_of("rmsea_interval", low = low, high = high),
      close = if (!is.na(close)) message_of("p_of_close_fit", p = close))
  })
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
  figures <- known_figures(CFI = own("cfi"), RMSEA = own("rmsea"), low = rmsea$conf.low, high = rmsea$conf.high, srmr_unbiased = own("srmr"))
  message_of(if (unscaled) "verdict_rests_unscaled" else "verdict_rests", figures = c(
    if (!is.na(p)) list(message_of("chi_square_and_p", chi_square = judged$corrected, p = p)), figures))
}

# How likely the test of close fit was to see a bad structure, with this many people.
power_sentence <- function(x) {
  row <- x$tables$power[x$tables$power$test == "close fit", ]
  if (NROW(row) == 0 || is.na(row$power)) {
    return(NULL)
  }
  message_of("power_of_close_fit", n = row$n, null = row$null, alternative = row$alternative, power = row$power)
}
