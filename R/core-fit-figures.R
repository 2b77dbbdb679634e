# The fit of a structure from its chi-square, put together once for every verb.

# chi_square on df of n cases (of several groups their mean size). baseline: list(chi_square, df), with the `scale` of its own test where the
# structure's test has one. scale: of a test that allows for answers that are not normal; the indices then allow for them, too. adjusted:
# list(chi_square, scale, shift) of a test that stands in place of chi_square, which then has no p (the baseline is one of such a test).
# A list: chi_square, df, p.value, baseline_chi_square, baseline_df, cfi, tli, rmsea, rmsea.low, rmsea.high (at 90%), rmsea_p_close; with
# `scale` or `adjusted` scale, chi_square_scaled and p_scaled; with `scale` rmsea_p_not_close, ratio and critical_n of the scaled test.
core_fit_figures <- function(chi_square, df, n, baseline, scale = NULL, adjusted = NULL) {
  tested <- if (is.null(adjusted)) chi_square else adjusted$chi_square
  figures <- c(
    list(chi_square = chi_square, df = df, p.value = if (is.null(adjusted)) core_chi_square_p(chi_square, df) else NA_real_,
      baseline_chi_square = baseline$chi_square, baseline_df = baseline$df),
    if (is.null(scale)) plain_indices(tested, df, n, baseline) else
      core_robust_indices(chi_square, df, scale, baseline, baseline$scale, n)
  )
  if (!is.null(adjusted)) {
    return(c(figures, list(scale = 1 / adjusted$scale, shift = adjusted$shift, chi_square_scaled = tested,
      p_scaled = core_chi_square_p(tested, df))))
  }
  if (is.null(scale)) {
    return(figures)
  }
  c(figures, list(scale = scale, chi_square_scaled = chi_square / scale, p_scaled = core_chi_square_p(chi_square / scale, df)))
}

plain_indices <- function(chi_square, df, n, baseline) {
  rmsea <- core_rmsea(chi_square, df, n)
  list(
    cfi = core_cfi(chi_square, df, baseline), tli = core_tli(chi_square, df, baseline), rmsea = rmsea$estimate, rmsea.low = rmsea$low,
    rmsea.high = rmsea$high, rmsea_p_close = rmsea$p_close
  )
}

# Noncentrality of the baseline: what CFI and TLI are shares of.
core_excess <- function(baseline, scale = 1) baseline$chi_square - scale * baseline$df

# Log-likelihood of normal answers with covariances s: the saturated one less half of chi_square.
core_log_likelihood <- function(s, n, chi_square) {
  p <- ncol(s)
  -n / 2 * (p * log(2 * pi) + as.numeric(determinant(s)$modulus) + p) - chi_square / 2
}

# Akaike's (1974), Schwarz's (1978) and Sclove's (1987) criterion of a fit with so many free parameters.
core_information <- function(log_likelihood, free, n) {
  list(aic = -2 * log_likelihood + 2 * free, bic = -2 * log_likelihood + log(n) * free, bic_adjusted = -2 * log_likelihood + log((n + 2) / 24) * free)
}

# SRMR over samples: the root of the mean square, each sample with its share of the people.
core_srmr_of_samples <- function(samples, implied) {
  n <- vapply(samples, `[[`, 0, "n")
  sqrt(sum(n / sum(n) * mapply(function(one, implied) core_srmr(one$s, implied)^2, samples, implied)))
}
