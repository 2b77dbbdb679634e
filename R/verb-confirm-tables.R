# The tables of a confirmation. They are plain data frames, much quicker to make; the result
# turns them into tibbles.

plain_table <- function(...) {
  columns <- lapply(list(...), unname)
  size <- if (any(lengths(columns) == 0)) 0L else max(lengths(columns))
  list2DF(lapply(columns, rep_len, length.out = size), size)
}

confirmation_tables <- function(structure, items, cells, fit, s, n, covariance, figures, level, limits, believed) {
  factors <- structure_factor_names(structure)
  estimates <- estimate_table(factors, items, cells, fit, fit$matrices, covariance, level)
  list(
    fit = fit_table(figures, limits, believed), loadings = loading_table(estimates, fit, items, factors),
    factor_correlations = factor_correlation_table(estimates), residuals = residual_table(estimates), estimates = estimates,
    reliability = factor_reliability(structure, fit, items, limits, believed),
    modifications = modification_table(cells, fit, s, n, items, factors),
    residual_correlations = missed_correlations(cells, fit, s, n, covariance, limits), indices = further_indices(figures)
  )
}

confirmation_figures <- function(fit, cells, s, n, robust) {
  p <- ncol(s)
  free <- max(cells$free)
  df <- p * (p + 1) / 2 - free
  chi_square <- max(n * fit$discrepancy, 0)
  baseline <- if (is.null(fit$baseline)) core_baseline(s, n) else fit$baseline
  tail <- function(q) if (df > 0) stats::pchisq(q, df, lower.tail = FALSE) else NA_real_
  out <- c(
    list(
      chi_square = chi_square, df = df, p.value = tail(chi_square),
      baseline_chi_square = baseline$chi_square, baseline_df = baseline$df,
      cfi = core_cfi(chi_square, df, baseline), tli = core_tli(chi_square, df, baseline),
      srmr = core_srmr(s, fit$implied)
    ),
    stats::setNames(core_rmsea(chi_square, df, n), c("rmsea", "rmsea.low", "rmsea.high", "rmsea_p_close")),
    core_fit_indices(chi_square, df, baseline, s, fit$implied, n, free, fit$log_likelihood)
  )
  if (is.null(robust)) {
    return(out)
  }
  allowed <- core_robust_indices(chi_square, df, robust$scale, baseline, robust$baseline_scale, n)
  out[c("cfi", "tli", "rmsea", "rmsea.low", "rmsea.high", "rmsea_p_close")] <- allowed
  c(out, list(scale = robust$scale, chi_square_scaled = chi_square / robust$scale, p_scaled = tail(chi_square / robust$scale)))
}

fit_table <- function(figures, limits, believed) {
  scaled <- !is.null(figures$scale)
  name <- c("chi_square", if (scaled) "chi_square_scaled", "cfi", "tli", "rmsea", "srmr")
  value <- unlist(figures[name])
  judged <- name %in% limits$figure
  verdict <- bound <- rep(NA_character_, length(name))
  if (believed) verdict[judged] <- mapply(judge, value[judged], figure = name[judged], MoreArgs = list(limits = limits))
  bound[judged] <- vapply(name[judged], function(f) bound_only(limits, f), "")
  put <- function(...) {
    given <- c(...)
    unname(given[name])
  }
  plain_table(
    figure = name, value = unname(value), df = put(chi_square = figures$df, chi_square_scaled = figures$df),
    p.value = put(chi_square = figures$p.value, chi_square_scaled = figures$p_scaled, rmsea = figures$rmsea_p_close),
    conf.low = put(rmsea = figures$rmsea.low), conf.high = put(rmsea = figures$rmsea.high),
    bound = bound, verdict = verdict, source = limits$source[match(name, limits$figure)]
  )
}

# Further indices, each with its source.
further_indices <- function(figures) {
  source <- c(
    ratio = "Joreskog (1969)", baseline_chi_square = "unrelated items", nfi = "Bentler & Bonett (1980)", rfi = "Bollen (1986)",
    ifi = "Bollen (1989)", rni = "McDonald & Marsh (1990)", gfi = "Joreskog & Sorbom (1981)", agfi = "Joreskog & Sorbom (1981)",
    rmr = "Joreskog & Sorbom (1981)", critical_n = "Hoelter (1983)", rmsea_p_not_close = "MacCallum et al. (1996): RMSEA at least .08",
    log_likelihood = "at the sample means", aic = "Akaike (1974)", bic = "Schwarz (1978)", bic_adjusted = "Sclove (1987)",
    ecvi = "Browne & Cudeck (1989)", scale = "Satorra & Bentler (1994)"
  )
  there <- intersect(names(source), names(figures))
  plain_table(index = column_header(there), value = unlist(figures[there], use.names = FALSE), source = unname(source[there]))
}

# Every parameter, free or fixed.
estimate_table <- function(factors, items, cells, fit, matrices, covariance, level) {
  part <- names(core_parts)[cells$part + 1L]
  free <- cells$free > 0
  value <- cells$value
  value[free] <- fit$theta[cells$free[free]]
  error <- rep(NA_real_, nrow(cells))
  if (!is.null(covariance)) error[free] <- sqrt(diag(covariance))[cells$free[free]]
  width <- stats::qnorm(1 - (1 - level) / 2) * error
  own <- cells$row == cells$column
  plain_table(
    kind = ifelse(part %in% c("loading", "path"), part, paste(part, ifelse(own, "variance", "covariance"))),
    first = ifelse(part == "residual", items[cells$column], factors[cells$column]),
    second = ifelse(part %in% c("loading", "residual"), items[cells$row], factors[cells$row]),
    estimate = value, std.error = error, statistic = value / error,
    p.value = 2 * stats::pnorm(-abs(value / error)), conf.low = value - width, conf.high = value + width,
    standardised = core_standardise(cells, value, matrices, fit$implied), free = free
  )
}

loading_table <- function(estimates, fit, items, factors) {
  rows <- estimates[estimates$kind %in% c("loading", "path"), ]
  of_items <- 1 - diag(fit$matrices$residual) / diag(fit$implied)
  of_factors <- 1 - diag(fit$matrices$factor) / diag(core_factor_covariance(fit$matrices))
  out <- rows[c("first", "second", "estimate", "std.error", "statistic", "p.value", "conf.low", "conf.high", "standardised")]
  names(out)[1:2] <- c("factor", "item")
  out$r_squared <- unname(ifelse(rows$kind == "path", of_factors[match(out$item, factors)], of_items[match(out$item, items)]))
  out
}

factor_correlation_table <- function(estimates) {
  rows <- estimates[estimates$kind == "factor covariance", ]
  out <- rows[c("first", "second", "standardised", "estimate", "std.error", "p.value", "conf.low", "conf.high")]
  names(out)[1:3] <- c("factor", "with", "correlation")
  out
}

residual_table <- function(estimates) {
  rows <- estimates[startsWith(estimates$kind, "residual"), ]
  out <- rows[c("first", "second", "estimate", "std.error", "p.value", "standardised")]
  names(out)[1:2] <- c("item", "with")
  out
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
  common <- mapply(function(l, at) sum(l * sd[at])^2, loading, mine)
  error <- vapply(mine, function(at) sum(fit$matrices$residual[at, at]), 0)
  reliability <- unname(common / (common + error))
  shared <- vapply(loading, function(l) mean(l^2), 0)
  verdict <- function(value, figure) if (believed) judge(value, limits, figure) else NA_character_
  plain_table(
    factor = names, items = lengths(mine, use.names = FALSE), composite_reliability = reliability,
    verdict_reliability = verdict(reliability, "composite_reliability"), ave = shared, verdict_ave = verdict(shared, "ave"),
    determinacy = unname(determinacy)
  )
}

# What freeing one more loading or residual pair would change, largest index first.
modification_table <- function(cells, fit, s, n, items, factors) {
  candidates <- core_candidates(cells, length(items), length(factors))
  if (nrow(candidates) == 0 || fit$status != "ok") {
    return(plain_table(what = character(), item = character(), with = character(), index = numeric()))
  }
  found <- core_modifications(cells, fit$theta, s, length(items), length(factors), n, candidates, fit$matrices, fit$implied,
    fit$patterns)
  found <- found[!is.na(found$index), ]
  loading <- found$part == core_parts[["loading"]]
  matters <- ifelse(loading, .20, .10)
  power <- core_change_power(found$index, found$standard_change, matters)
  large <- found$p < .01
  reading <- ifelse(large & abs(found$standard_change) >= matters, "large, and it matters",
    ifelse(large, "large, yet trivial", ifelse(power < .75, "too few cases to tell", "nothing")))
  out <- plain_table(
    what = ifelse(loading, "item wants another factor", "two items share something"),
    item = ifelse(loading, items[found$row], items[found$column]), with = ifelse(loading, factors[found$column], items[found$row]),
    index = found$index, p.value = found$p, change = found$change, standard_change = found$standard_change, power = power, reading = reading
  )
  out[order(-out$index), ]
}

# Sample less implied correlations, largest in size first.
missed_correlations <- function(cells, fit, s, n, covariance, limits) {
  r <- stats::cov2cor(s)
  left <- core_residual_r(s, fit$implied)
  z <- if (is.null(covariance) || !is.null(fit$baseline)) left * NA else core_standardised_residuals(s, fit$implied, core_structure_jacobian(cells,
    fit$theta, ncol(s), ncol(fit$matrices$factor)),
    covariance, n)
  at <- which(lower.tri(r), arr.ind = TRUE)
  out <- plain_table(
    item = colnames(r)[at[, 2]], with = rownames(r)[at[, 1]], correlation = r[at], implied = r[at] - left[at], residual = left[at],
    statistic = z[at], verdict = judge(abs(left[at]), limits, "residual_r")
  )
  out[order(-abs(out$residual)), ]
}
