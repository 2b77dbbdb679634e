# The tables of a confirmation.

confirmation_tables <- function(structure, items, cells, fit, basis, figures, options, limits, believed) {
  factors <- structure_factor_names(structure)
  estimates <- estimate_table(factors, items, cells, fit, basis, options)
  out <- list(
    fit = fit_table(figures, limits, believed), loadings = loading_table(estimates, fit, items, factors),
    factor_correlations = factor_correlation_table(estimates, options$level), factors = factor_table(estimates),
    residuals = residual_table(estimates), intercepts = intercept_table(estimates, fit, basis, options$level), estimates = estimates,
    r_squared = r_squared_table(fit, items, factors), reliability = factor_reliability(structure, fit, items, limits, believed),
    modifications = modification_table(cells, fit, basis, items, factors, options, limits),
    residual_correlations = missed_correlations(cells, fit, basis, options, limits), indices = further_indices(figures),
    convergence = convergence_table(fit, options, items, factors)
  )
  if (basis$kind == "ordinal") {
    out$intercepts <- NULL
    out$thresholds <- threshold_table(basis, options$level)
  }
  out
}

confirmation_figures <- function(fit, basis) {
  n <- basis$n
  df <- fit$df
  chi_square <- fit$chi_square
  baseline <- fit$baseline
  tail <- function(q) if (df > 0) stats::pchisq(q, df, lower.tail = FALSE) else NA_real_
  # The chi-square that indices of fit come from.
  adjusted <- !is.null(fit$adjusted)
  tested <- if (adjusted) fit$adjusted$chi_square else chi_square
  against <- list(chi_square = if (adjusted) baseline$adjusted else baseline$chi_square, df = baseline$df)
  out <- c(
    list(
      chi_square = chi_square, df = df, p.value = if (adjusted) NA_real_ else tail(chi_square),
      baseline_chi_square = against$chi_square, baseline_df = against$df,
      cfi = core_cfi(tested, df, against), tli = core_tli(tested, df, against),
      srmr = core_srmr(basis$s, fit$implied)
    ),
    stats::setNames(core_rmsea(tested, df, n), c("rmsea", "rmsea.low", "rmsea.high", "rmsea_p_close")),
    core_fit_indices(tested, df, against, basis$s, fit$implied, n, fit$counted, has_likelihood(fit), fit$log_likelihood)
  )
  if (adjusted) {
    return(c(out, list(scale = 1 / fit$adjusted$scale, shift = fit$adjusted$shift, chi_square_scaled = tested, p_scaled = tail(tested))))
  }
  if (is.null(fit$scale)) {
    return(out)
  }
  allowed <- core_robust_indices(chi_square, df, fit$scale, baseline, baseline$scale, n)
  out[c("cfi", "tli", "rmsea", "rmsea.low", "rmsea.high", "rmsea_p_close", "rmsea_p_not_close", "ratio", "critical_n")] <- allowed
  c(out, list(scale = fit$scale, chi_square_scaled = chi_square / fit$scale, p_scaled = tail(chi_square / fit$scale)))
}

# Least squares have no likelihood.
has_likelihood <- function(fit) is.null(fit$adjusted) && !isTRUE(fit$squares)

fit_table <- function(figures, limits, believed) {
  scaled <- !is.null(figures$scale)
  name <- c("chi_square", if (scaled) "chi_square_scaled", "cfi", "tli", "rmsea", "srmr")
  value <- unlist(figures[name])
  judged <- name %in% limits$figure
  verdict <- bound <- rep(NA_character_, length(name))
  reason <- if (figures$df == 0) "no_df" else ""
  if (believed) verdict[judged] <- judge_code(value[judged], limits, name[judged], reason = reason)
  bound[judged] <- vapply(name[judged], function(f) bound_only(limits, f), "")
  put <- function(...) {
    given <- c(...)
    unname(given[name])
  }
  judged_table(by = "figure", verdict = stats::setNames(name, name), reason = stats::setNames(rep(reason, length(name)), name), table = plain_table(
    figure = name, value = unname(value), df = put(chi_square = figures$df, chi_square_scaled = figures$df),
    p.value = put(chi_square = figures$p.value, chi_square_scaled = figures$p_scaled, rmsea = figures$rmsea_p_close),
    conf.low = put(rmsea = figures$rmsea.low), conf.high = put(rmsea = figures$rmsea.high),
    bound = bound, verdict = verdict, source = limits$source[match(name, limits$figure)]
  ))
}

# Further indices, each with its source.
further_indices <- function(figures) {
  source <- c(
    ratio = "Joreskog (1969)", baseline_chi_square = "unrelated items", nfi = "Bentler & Bonett (1980)", rfi = "Bollen (1986)",
    ifi = "Bollen (1989)", rni = "McDonald & Marsh (1990)", gfi = "Joreskog & Sorbom (1981)", agfi = "Joreskog & Sorbom (1981)",
    rmr = "Joreskog & Sorbom (1981)", critical_n = "Hoelter (1983)", rmsea_p_not_close = "MacCallum et al. (1996): RMSEA at least .08",
    log_likelihood = "means counted", aic = "Akaike (1974), means counted", bic = "Schwarz (1978), means counted", bic_adjusted = "Sclove (1987)",
    ecvi = "Browne & Cudeck (1989)", scale = "chi-square is divided by it",
    shift = "and then raised by this: Asparouhov & Muthen (2010)"
  )
  there <- intersect(names(source), names(figures)[!vapply(figures, is.null, TRUE)])
  label <- ifelse(there == "scale", "scaling factor", column_header(there))
  plain_table(index = label, value = unlist(figures[there], use.names = FALSE), source = unname(source[there]))
}


# Composite reliability, average variance extracted and determinacy of each factor of items.
factor_reliability <- function(structure, fit, items, limits, believed) {
  place <- standard_places(fit, structure)
  if (is.null(place)) {
    return(plain_table(factor = character(), items = numeric(), composite_reliability = numeric(), ave = numeric()))
  }
  implied <- fit$implied
  sd <- sqrt(diag(implied))
  determinacy <- core_determinacy(stats::cov2cor(implied), place$pattern, place$correlations)
  names <- names(structure$factors)
  mine <- lapply(structure$factors, match, items)
  loading <- lapply(names, function(name) place$pattern[mine[[name]], name])
  reliability <- unname(mapply(function(l, at) core_sum_reliability(l * sd[at], fit$matrices$residual[at, at]), loading, mine))
  shared <- vapply(loading, core_variance_extracted, 0)
  verdict <- function(value, figure) if (believed) judge_code(value, limits, figure) else NA_character_
  judged_table(verdict_reliability = "composite_reliability", verdict_ave = "ave", table = plain_table(
    factor = names, items = lengths(mine, use.names = FALSE), composite_reliability = reliability,
    verdict_reliability = verdict(reliability, "composite_reliability"), ave = shared, verdict_ave = verdict(shared, "ave"),
    determinacy = unname(determinacy)
  ))
}

# Verdicts on fit, on each factor's reliability and variance extracted, and on correlations that are missed.
confirmation_verdicts <- function(tables, figures, fit, believed, limits) {
  judged <- tables$fit[tables$fit$figure %in% limits$figure, ]
  reason <- if (fit$status != "ok") fit$status else if (!believed) "improper" else ""
  factors <- tables$reliability
  missed <- tables$residual_correlations[tables$residual_correlations$verdict %in% "missed", ]
  ranked_verdicts(
    verdict_rows("whole", "", judge(judged$value, limits, judged$figure, reason = if (reason == "" && figures$df == 0) "no_df" else reason)),
    verdict_rows("factor", factors$factor, judge(factors$composite_reliability, limits, "composite_reliability", reason = reason)),
    verdict_rows("factor", factors$factor, judge(factors$ave, limits, "ave", reason = reason)),
    verdict_rows("pair", paste(missed$item, "and", missed$with, recycle0 = TRUE), judge(abs(missed$residual), limits, "residual_r", reason = reason))
  )
}
