# The tables of a confirmation.

confirmation_tables <- function(structure, items, cells, fit, basis, figures, options, limits, believed) {
  factors <- structure_factor_names(structure)
  estimates <- estimate_table(factors, items, cells, fit, basis, options)
  left <- core_residual_inference(cells, fit, basis, options)
  out <- list(
    fit = fit_table(figures, corrected_figures(figures, fit, basis, cells, length(factors), left$spread), limits, believed),
    loadings = loading_table(estimates, fit, items, factors, options$level, limits, believed),
    factor_correlations = factor_correlation_table(estimates, options$level, limits, believed), factors = factor_table(estimates),
    residuals = residual_table(estimates), intercepts = intercept_table(estimates, fit, basis, options$level), estimates = estimates,
    r_squared = r_squared_table(fit, items, factors), reliability = factor_reliability(structure, items, cells, fit, basis, options, limits,
      believed),
    modifications = modification_table(cells, fit, basis, items, factors, options, limits),
    residual_correlations = missed_correlations(fit, basis, left$statistic, limits), indices = further_indices(figures),
    convergence = convergence_table(fit, options, items, factors)
  )
  if (figures$df > 0) out$power <- fit_power(figures$df, basis$n)
  if (basis$kind == "ordinal") {
    out$intercepts <- NULL
    out$thresholds <- threshold_table(basis, options$level)
  }
  out
}

# Power of the tests of fit with as many people as there were.
fit_power <- function(df, n) {
  null <- vapply(fit_tests, `[`, 0, 1)
  alternative <- vapply(fit_tests, `[`, 0, 2)
  plain_table(test = names(fit_tests), null = unname(null), alternative = unname(alternative), n = n,
    power = mapply(core_rmsea_power, n = n, null = null, alternative = alternative, MoreArgs = list(df = df, level = .05), USE.NAMES = FALSE))
}

# Figures of fit without what a small sample adds (with gaps, as if from as many complete cases as answered both of two items), each
# with its interval at 90%: figure, value, low, high; chi-square with p in place of an interval. A test that is adjusted for ordered
# answers is not corrected once more.
corrected_figures <- function(figures, fit, basis, cells, factors, spread) {
  adjusted <- !is.null(fit$adjusted)
  free <- length(unique(cells$free[cells$free > 0 & cells$part <= core_parts[["path"]]]))
  worth <- if (is.null(basis$patterns)) basis$n else pairs_of_patterns(basis$patterns, ncol(basis$s))
  small <- if (adjusted) list(factor = 1, name = "none") else core_small_sample(ncol(basis$s), factors, free, worth)
  scaled <- !adjusted && !is.null(fit$scale) && !core_scale_is_chance(fit$scale, basis$n)
  scale <- if (scaled) fit$scale else 1
  tested <- small$factor * if (adjusted) figures$chi_square_scaled else figures$chi_square / scale
  baseline_scale <- if (scaled) fit$baseline$scale else 1
  baseline <- list(chi_square = figures$baseline_chi_square, df = figures$baseline_df)
  srmr <- list(value = NA_real_, low = NA_real_, high = NA_real_)
  if (!is.null(spread)) srmr <- core_srmr_unbiased(spread$e, ncol(basis$s) * (ncol(basis$s) + 1) / 2, spread$trace, spread$square, spread$form)
  intervals <- core_fit_intervals(tested, figures$df, basis$n, baseline, scale, baseline_scale)
  list(
    chi_square = if (figures$df > 0) tested else NA_real_, p = core_chi_square_p(tested, figures$df), scaled = adjusted || scaled,
    correction = c(small, list(worth = worth)),
    baseline = core_excess(baseline, baseline_scale) > 0,
    figures = rbind(intervals, list2DF(c(list(figure = "srmr"), srmr)))
  )
}

fit_table <- function(figures, corrected, limits, believed) {
  scaled <- !is.null(figures$scale)
  name <- c("chi_square", if (scaled) "chi_square_scaled", "cfi", "tli", "rmsea", "srmr")
  value <- unlist(figures[name])
  last <- if (scaled && corrected$scaled) "chi_square_scaled" else "chi_square"
  row <- match(name, corrected$figures$figure)
  put <- function(...) {
    given <- c(...)
    unname(given[name])
  }
  out <- plain_table(
    figure = name, value = unname(value), df = put(chi_square = figures$df, chi_square_scaled = figures$df),
    p.value = put(chi_square = figures$p.value, chi_square_scaled = figures$p_scaled, rmsea = figures$rmsea_p_close),
    corrected = ifelse(name == last, corrected$chi_square, corrected$figures$value[row]), corrected_p = ifelse(name == last, corrected$p, NA),
    conf.low = corrected$figures$low[row], conf.high = corrected$figures$high[row],
    bound = unname(bound_only_or_none(limits, name)), verdict = NA_character_, verdict_reason = "",
    source = limits$source[match(name, limits$figure)]
  )
  figure <- ifelse(name == last, "exact_fit_p", name)
  reason <- ifelse(rep(figures$df == 0, length(name)), "no_df", ifelse(name %in% c("cfi", "tli") & !corrected$baseline, "no_baseline", ""))
  judged <- figure %in% limits$figure & believed
  held <- ifelse(name == last, out$corrected_p, ifelse(is.na(out$corrected), out$value, out$corrected))
  out$verdict[judged] <- judge_code(held[judged], limits, figure[judged], out$conf.low[judged], out$conf.high[judged], reason[judged])
  out$verdict_reason <- reason
  attr(out, "correction") <- corrected$correction
  judged_table(out, by = "figure", verdict = stats::setNames(figure, name), reason = "verdict_reason")
}

# The chi-square that is judged: a row of the table of fit.
judged_chi_square <- function(fit) {
  tests <- fit[fit$figure %in% c("chi_square", "chi_square_scaled"), ]
  judged <- which(!is.na(tests$corrected))
  tests[if (length(judged) == 1) judged else nrow(tests), ]
}

bound_only_or_none <- function(limits, figure) vapply(figure, function(f) if (f %in% limits$figure) bound_only(limits, f) else NA_character_, "")

# Further indices, each with its source.
further_indices <- function(figures) {
  source <- c(
    ratio = "J\u00f6reskog (1969)", baseline_chi_square = "unrelated items", nfi = "Bentler & Bonett (1980)", rfi = "Bollen (1986)",
    ifi = "Bollen (1989)", rni = "McDonald & Marsh (1990)", gfi = "J\u00f6reskog & S\u00f6rbom (1981)", agfi = "J\u00f6reskog & S\u00f6rbom (1981)",
    rmr = "J\u00f6reskog & S\u00f6rbom (1981)", critical_n = "Hoelter (1983)", rmsea_p_not_close = "MacCallum et al. (1996): RMSEA at least .08",
    log_likelihood = "means counted", aic = "Akaike (1974), means counted", bic = "Schwarz (1978), means counted", bic_adjusted = "Sclove (1987)",
    pooled_ratio = "F over imputations: Meng & Rubin (1992)", pooled_ratio_p = "its p", pooled_rise = "variance added by what is missing",
    ecvi = "Browne & Cudeck (1989)", scale = "chi-square is divided by it",
    shift = "and then raised by this: Asparouhov & Muth\u00e9n (2010)"
  )
  there <- intersect(names(source), names(figures)[!vapply(figures, is.null, TRUE)])
  label <- ifelse(there == "scale", "scaling factor", column_header(there))
  plain_table(index = label, value = unlist(figures[there], use.names = FALSE), source = unname(source[there]))
}


# Composite reliability, average variance extracted and determinacy of each factor of items; the first two with intervals
# by the delta method (Raykov, 2002).
factor_reliability <- function(structure, items, cells, fit, basis, options, limits, believed) {
  place <- standard_places(fit, structure)
  if (is.null(place)) {
    return(plain_table(factor = character(), items = numeric(), composite_reliability = numeric(), ave = numeric()))
  }
  factors <- length(structure_factor_names(structure))
  at <- function(theta) {
    matrices <- core_sample_matrices(basis, cells, list(theta = theta), factors)
    spread <- core_factor_covariance(matrices)
    core_shared_and_reliable(structure, items, matrices, spread, core_implied(matrices))
  }
  value <- at(fit$theta)
  slopes <- core_reliability_slopes(structure, items, cells, fit, basis)
  error <- if (is.null(slopes)) core_delta_errors(at, fit$theta, fit$covariance) else core_slope_errors(value, slopes, fit$covariance)
  width <- core_normal_edge(options$level) * error
  verdict <- function(figure, part) {
    if (believed) judge_code(value[, part], limits, figure, value[, part] - width[, part], value[, part] + width[, part],
      if (figure == "ave") two_answer_reason(structure, basis$keying) else "") else NA_character_
  }
  judged_table(verdict_reliability = "composite_reliability", verdict_ave = "ave", table = plain_table(
    factor = names(structure$factors), items = lengths(structure$factors, use.names = FALSE), composite_reliability = value[, 1],
    reliability_low = value[, 1] - width[, 1], reliability_high = value[, 1] + width[, 1],
    verdict_reliability = verdict("composite_reliability", 1), ave = value[, 2], ave_low = value[, 2] - width[, 2],
    ave_high = value[, 2] + width[, 2], verdict_ave = verdict("ave", 2),
    determinacy = unname(core_determinacy(stats::cov2cor(fit$implied), place$pattern, place$correlations))
  ))
}

# Two answers share too little variance for a bound of one half to mean anything: "two_answers" for each factor of such items, else "".
two_answer_reason <- function(structure, keying) {
  two <- keying$item[!is.na(keying$answer) | (keying$highest - keying$lowest) %in% 1]
  vapply(structure$factors, function(items) if (all(items %in% two)) "two_answers" else "", "", USE.NAMES = FALSE)
}

# Verdicts on four things: fit as a whole, each item, each pair of factors, and where it misses; and on what each
# factor's items share.
confirmation_verdicts <- function(tables, figures, fit, believed, limits) {
  reason <- if (fit$status != "ok") fit$status else if (!believed) "improper" else ""
  shared <- tables$reliability
  whole <- tables$fit[!is.na(tables$fit$verdict) | tables$fit$figure %in% limits$figure, ]
  rules <- attr(tables$fit, "judged")
  judged <- judge(ifelse(is.na(whole$corrected_p), ifelse(is.na(whole$corrected), whole$value, whole$corrected), whole$corrected_p), limits,
    unname(rules$columns$verdict[whole$figure]), whole$conf.low, whole$conf.high, if (reason == "") whole$verdict_reason else reason)
  loadings <- tables$loadings
  links <- tables$factor_correlations
  missed <- tables$modifications[tables$modifications$reading_code %in% "matters", ]
  pairs <- missed$change_of == "pair"
  ranked_verdicts(
    verdict_rows("whole", "", judged),
    verdict_rows("item", paste(loadings$item, "on", loadings$factor, recycle0 = TRUE), loading_verdicts(loadings, limits, reason)),
    verdict_rows("pair", paste(links$factor, "and", links$with, recycle0 = TRUE), correlation_verdicts(links, limits, reason)),
    verdict_rows("pair", paste(missed$item, "and", missed$with, recycle0 = TRUE),
      judge(abs(missed$standard_change), limits, ifelse(pairs, "residual_change", "loading_change"), reason = reason)),
    verdict_rows("factor", shared$factor, judge(shared$composite_reliability, limits, "composite_reliability", shared$reliability_low,
      shared$reliability_high, reason)),
    verdict_rows("factor", shared$factor, judge(shared$ave, limits, "ave", shared$ave_low, shared$ave_high,
      if (reason == "") ifelse(shared$verdict_ave %in% "untested", "two_answers", "") else reason))
  )
}

# Standardised loadings by their intervals, in the direction in which they point.
loading_verdicts <- function(loadings, limits, reason = "") {
  turn <- ifelse(loadings$standardised < 0, -1, 1)
  ends <- cbind(turn * loadings$standard_low, turn * loadings$standard_high)
  judge(abs(loadings$standardised), limits, "loading", pmin(ends[, 1], ends[, 2]), pmax(ends[, 1], ends[, 2]), reason)
}

# Correlations of factors by their intervals, in size.
correlation_verdicts <- function(links, limits, reason = "") {
  turn <- ifelse(links$correlation < 0, -1, 1)
  ends <- cbind(turn * links$conf.low, turn * links$conf.high)
  judge(abs(links$correlation), limits, "factor_r", pmin(ends[, 1], ends[, 2]), pmax(ends[, 1], ends[, 2]), reason)
}
