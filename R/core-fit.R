# Fit of a model from its chi-square and that of the model of unrelated items.

# Chi-square of a fit: n times the least discrepancy, which is zero where the structure fits exactly.
core_chi_square <- function(n, discrepancy) max(n * discrepancy, 0)

# Baseline: chi-square of unrelated items, n * (ln|diag S| - ln|S|).
core_baseline <- function(s, n) {
  p <- ncol(s)
  list(
    chi_square = n * (sum(log(diag(s))) - as.numeric(determinant(s)$modulus)),
    df = p * (p - 1) / 2
  )
}

# Comparative fit index (Bentler, 1990) and Tucker-Lewis index (1973).
core_cfi <- function(chi_square, df, baseline) {
  model <- max(chi_square - df, 0)
  worst <- max(baseline$chi_square - baseline$df, model)
  if (is.na(worst)) NA_real_ else if (worst == 0) 1 else 1 - model / worst
}

core_tli <- function(chi_square, df, baseline) {
  if (df == 0) {
    return(NA_real_)
  }
  ratio <- baseline$chi_square / baseline$df
  (ratio - chi_square / df) / (ratio - 1)
}

# Root mean square error of approximation (Steiger & Lind, 1980) with divisor
# n, its interval from the noncentral chi-square, and the p of the test of close
# fit, RMSEA <= .05 (Browne & Cudeck, 1993).
core_rmsea <- function(chi_square, df, n, level = 0.90, close = 0.05) {
  if (df == 0 || is.na(chi_square)) {
    return(list(estimate = NA_real_, low = NA_real_, high = NA_real_, p_close = NA_real_))
  }
  tail <- (1 - level) / 2
  size <- function(noncentrality) sqrt(noncentrality / (df * n))
  list(
    estimate = core_rmsea_estimate(chi_square, df, n),
    low = size(core_noncentrality(chi_square, df, 1 - tail)),
    high = size(core_noncentrality(chi_square, df, tail)),
    p_close = noncentral_tail(chi_square, df, close^2 * df * n, upper = TRUE)
  )
}

core_rmsea_estimate <- function(chi_square, df, n) if (df > 0) sqrt(max(chi_square - df, 0) / (df * n)) else NA_real_

# Probability of a noncentral chi-square up to q, or beyond it. R adds up as many terms as the noncentrality is large, and gives up where they are
# too many: from 10,000 on the sum of (z + sqrt(ncp))^2 and a central chi-square y is taken apart, over the square root u of y. R warns where the tail
# is so thin that its digits are lost; what is left is 0 to every digit shown.
noncentral_tail <- function(q, df, ncp, upper = FALSE) {
  if (!isTRUE(ncp >= 1e4)) {
    return(max(suppressWarnings(stats::pchisq(q, df, ncp = ncp, lower.tail = !upper)), 0))
  }
  given <- function(y) {
    root <- sqrt(pmax(q - y, 0))
    if (upper) stats::pnorm(root - sqrt(ncp), lower.tail = FALSE) + stats::pnorm(-root - sqrt(ncp)) else
      stats::pnorm(root - sqrt(ncp)) - stats::pnorm(-root - sqrt(ncp))
  }
  if (df == 1) {
    return(given(0))
  }
  rest <- df - 1
  ends <- sqrt(pmax(rest + c(-12, 12) * sqrt(2 * rest) + c(0, 60), 0))
  stats::integrate(function(u) 2 * u * stats::dchisq(u^2, rest) * given(u^2), ends[1], ends[2], rel.tol = 1e-10, abs.tol = 0, subdivisions = 1000,
    stop.on.error = FALSE)$value
}

# The noncentrality at which `chi_square` stands at probability `at`; 0 where
# even the central distribution puts it lower.
core_noncentrality <- function(chi_square, df, at) {
  if (stats::pchisq(chi_square, df) <= at) {
    return(0)
  }
  # Each look takes the longer, the larger the noncentrality. As a normal quantile the probability is nearly straight in it, so that
  # few steps of Newton's method do, from where a normal distribution would have it; the slope of the probability is the density with
  # two degrees of freedom more, less than nothing.
  spread <- sqrt(2 * (df + 2 * max(chi_square - df, 0)))
  guess <- chi_square - df - stats::qnorm(at) * spread
  ncp <- max(guess, spread / 10)
  for (step in 1:20) {
    z <- stats::qnorm(noncentral_tail(chi_square, df, ncp))
    slope <- -stats::dchisq(chi_square, df + 2, ncp = ncp) / stats::dnorm(z)
    move <- (stats::qnorm(at) - z) / slope
    if (!is.finite(move) || ncp + move <= 0) break
    ncp <- ncp + move
    if (abs(move) < 1e-7 * ncp) {
      return(ncp)
    }
  }
  excess <- function(ncp) noncentral_tail(chi_square, df, ncp) - at
  low <- max(guess - spread, 0)
  high <- max(guess, 0) + spread
  while (low > 0 && excess(low) < 0) low <- max(low - 2 * spread, 0)
  while (excess(high) > 0) high <- high + 2 * spread
  stats::uniroot(excess, c(low, high), tol = 1e-10 * max(high, 10))$root
}

# Standardised root mean square residual: residual covariances over the sample
# standard deviations, lower triangle with the diagonal.
core_srmr <- function(s, implied) {
  scale <- sqrt(diag(s))
  residual <- (s - implied) / outer(scale, scale)
  sqrt(mean(residual[lower.tri(residual, diag = TRUE)]^2))
}

# Correlation residuals: sample less implied correlations.
core_residual_r <- function(s, implied) {
  stats::cov2cor(s) - stats::cov2cor(implied)
}

# Further indices of fit: NFI (Bentler & Bonett, 1980), RFI (Bollen, 1986), IFI (Bollen,
# 1989), RNI (McDonald & Marsh, 1990), GFI and AGFI (Jöreskog & Sörbom, 1981), RMR, critical
# n at .05 (Hoelter, 1983), log-likelihood, AIC, BIC and its sample-size adjusted form
# (Sclove, 1987), ECVI (Browne & Cudeck, 1989), and the p of the test that RMSEA is at least
# .08. `free` counts every parameter, the intercepts (or means) of all items among them whether
# the structure restricts them or not, so that fits with and without statements on means
# compare; ECVI leaves out as many as there are items. The log-likelihood is the saturated one
# less half of chi_square, which holds what restricted means miss. Without `likelihood` those that
# rest on one are NULL.
core_fit_indices <- function(chi_square, df, baseline, s, implied, n, free, likelihood = TRUE, log_likelihood = NULL) {
  p <- ncol(s)
  ratio <- solve(implied, s)
  gfi <- 1 - sum((ratio - diag(p)) * t(ratio - diag(p))) / sum(ratio * t(ratio))
  if (likelihood && is.null(log_likelihood)) log_likelihood <- core_log_likelihood(s, n, chi_square)
  excess <- core_excess(baseline)
  c(list(
    ratio = if (df > 0) chi_square / df else NA_real_, nfi = 1 - chi_square / baseline$chi_square,
    rfi = if (df > 0) 1 - (chi_square / df) / (baseline$chi_square / baseline$df) else NA_real_,
    ifi = (baseline$chi_square - chi_square) / (baseline$chi_square - df), rni = (excess - (chi_square - df)) / excess,
    gfi = gfi, agfi = if (df > 0) 1 - p * (p + 1) / (2 * df) * (1 - gfi) else NA_real_,
    rmr = sqrt(mean((s - implied)[lower.tri(s, diag = TRUE)]^2)),
    critical_n = if (df > 0) stats::qchisq(.95, df) / (chi_square / n) + 1 else NA_real_,
    ecvi = (chi_square + 2 * (free - p)) / n, rmsea_p_not_close = core_p_not_close(chi_square, df, n)
  ), if (likelihood) c(list(log_likelihood = log_likelihood), core_information(log_likelihood, free, n)))
}

# p of the test that RMSEA is at least .08 (MacCallum, Browne & Sugawara, 1996).
core_p_not_close <- function(chi_square, df, n, far = .08) {
  if (df > 0) noncentral_tail(chi_square, df, far^2 * df * n) else NA_real_
}

# CFI, TLI and RMSEA that allow for answers that are not normal (Brosseau-Liard & Savalei,
# 2014; Brosseau-Liard, Savalei & Li, 2012): chi-square and its scale, those of the baseline.
# Beside them, from the scaled chi-square: the tests of close and of not close fit, chi-square
# over df and critical n.
core_robust_indices <- function(chi_square, df, scale, baseline, baseline_scale, n, level = .90) {
  if (df == 0 || is.na(scale) || is.na(baseline_scale)) {
    return(list(cfi = if (df == 0) 1 else NA_real_, tli = NA_real_, rmsea = NA_real_, rmsea.low = NA_real_, rmsea.high = NA_real_,
      rmsea_p_close = NA_real_, rmsea_p_not_close = NA_real_, ratio = NA_real_, critical_n = NA_real_))
  }
  excess <- chi_square - scale * df
  worst <- core_excess(baseline, baseline_scale)
  of_scaled <- core_rmsea(chi_square / scale, df, n, level)
  list(
    cfi = 1 - max(excess, 0) / max(worst, excess, 1e-12), tli = 1 - excess / df * baseline$df / worst,
    rmsea = sqrt(max(excess, 0) / (df * n)), rmsea.low = sqrt(scale) * of_scaled$low, rmsea.high = sqrt(scale) * of_scaled$high,
    rmsea_p_close = core_rmsea(chi_square / scale, df, n, close = .05 / sqrt(scale))$p_close,
    rmsea_p_not_close = core_p_not_close(chi_square / scale, df, n, .08 / sqrt(scale)), ratio = chi_square / scale / df,
    critical_n = stats::qchisq(.95, df) / (chi_square / scale / n) + 1
  )
}

# What chi-square is multiplied by in small samples, so that true structures are rejected at the level stated: Swain's
# factor (1975), or Bartlett's (1950) where there are fewer than three cases an item. p items, m factors, `free`
# parameters of the covariances, n cases. list(factor, name).
core_small_sample <- function(p, m, free, n) {
  if (n < 3 * p) {
    return(list(factor = max(1 - ((2 * p + 5) / 6 + 2 * m / 3) / (n - 1), .05), name = "bartlett"))
  }
  df <- p * (p + 1) / 2 - free
  if (df <= 0) {
    return(list(factor = 1, name = "none"))
  }
  q <- (sqrt(1 + 8 * free) - 1) / 2
  list(factor = 1 - (p * (2 * p^2 + 3 * p - 1) - q * (2 * q^2 + 3 * q - 1)) / (12 * df * (n - 1)), name = "swain")
}

# Is a scale of chi-square below one, which raises it, mostly chance? So it is in small samples, by gaps and skewness the more: of 58 people with
# a quarter missing scaled chi-square rejected 13 true structures in 100, of 30 people 23; where no scale below one counts, 8 and 12.
core_scale_is_chance <- function(scale, n) n < 100 && isTRUE(scale < 1)

# CFI, TLI and RMSEA of a chi-square corrected for small samples, with the intervals that its noncentrality gives (Steiger
# & Lind, 1980; for CFI that of the baseline is taken as known). chi_square: unscaled, on df; scale: the factor of a scaled
# test, by which noncentrality is multiplied, and baseline_scale that of the baseline: list(chi_square, df). A data
# frame, a row a figure: figure, value, low, high; NA where the baseline has no noncentrality.
core_fit_intervals <- function(chi_square, df, n, baseline, scale = 1, baseline_scale = scale, level = .90) {
  if (df == 0 || is.na(chi_square) || is.na(scale)) {
    none <- rep(NA_real_, 3)
    return(list2DF(list(figure = c("cfi", "tli", "rmsea"), value = none, low = none, high = none)))
  }
  tail <- (1 - level) / 2
  size <- scale * c(chi_square - df, core_noncentrality(chi_square, df, 1 - tail), core_noncentrality(chi_square, df, tail))
  excess <- core_excess(baseline, baseline_scale)
  share <- if (excess > 0) size / excess else rep(NA_real_, 3)
  cfi <- pmin(pmax(1 - share, 0), 1)
  tli <- 1 - share / df * baseline$df
  rmsea <- sqrt(pmax(size, 0) / (df * n))
  list2DF(list(
    figure = c("cfi", "tli", "rmsea"), value = c(cfi[1], tli[1], rmsea[1]), low = c(cfi[3], tli[3], rmsea[2]),
    high = c(cfi[2], max(tli[1], tli[2]), rmsea[3])
  ))
}

# SRMR without what chance adds, and its interval (Maydeu-Olivares, 2017): e standardised residuals, of which there are
# `count`; trace, square: traces of their covariance matrix and of its square; form: e' times that matrix times e.
core_srmr_unbiased <- function(e, count, trace, square, form, level = .90) {
  size <- sum(e^2)
  if (size < 1e-12) {
    return(list(value = 0, low = 0, high = 0))
  }
  # A few residuals far below what chance gives would turn the correction round.
  spread <- max(square + 2 * form, 0)
  k <- max(1 - spread / (4 * size^2), .5)
  value <- sqrt(max(size - trace, 0) / count) / k
  width <- core_normal_edge(level) * sqrt(spread / (2 * count * size)) / k
  list(value = value, low = max(value - width, 0), high = value + width)
}
