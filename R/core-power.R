# Power of tests of fit by RMSEA (MacCallum, Browne & Sugawara, 1996).

# Power of a test with df at n cases: null and alternative RMSEA. Where the alternative is
# above the null, large chi-squares reject; below it, small ones.
core_rmsea_power <- function(df, n, null, alternative, level = .05) {
  from <- df * n * null^2
  to <- df * n * alternative^2
  if (alternative > null) {
    edge <- quantile_noncentral(1 - level, df, from)
    return(noncentral_tail(edge, df, to, upper = TRUE))
  }
  edge <- quantile_noncentral(level, df, from)
  1 - noncentral_tail(edge, df, to, upper = TRUE)
}

# By Newton's method on the scale of normal quantiles, where the distribution is nearly straight; qchisq() takes many more looks.
quantile_noncentral <- function(p, df, ncp) {
  x <- df + ncp + stats::qnorm(p) * sqrt(2 * (df + 2 * ncp))
  if (ncp > 0 && x > 0) for (step in 1:20) {
    z <- stats::qnorm(noncentral_tail(x, df, ncp))
    move <- (stats::qnorm(p) - z) * stats::dnorm(z) / stats::dchisq(x, df, ncp = ncp)
    if (!is.finite(move) || x + move <= 0) break
    x <- x + move
    if (abs(move) < 1e-8 * x) {
      return(x)
    }
  }
  suppressWarnings(stats::qchisq(p, df, ncp = ncp))
}

# The smallest n with that power; NA where a million are too few.
core_rmsea_cases <- function(df, null, alternative, power = .80, level = .05) {
  enough <- function(n) core_rmsea_power(df, n, null, alternative, level) >= power
  high <- 20
  while (!enough(high)) {
    high <- 2 * high
    if (high > 1e6) {
      return(NA_real_)
    }
  }
  low <- 5
  while (high - low > 1) {
    middle <- floor((low + high) / 2)
    if (enough(middle)) high <- middle else low <- middle
  }
  high
}
