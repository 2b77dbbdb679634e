# Degrees of freedom of figures pooled over imputations by Rubin's (1987) rules.

# error: standard errors of everything; within: of what is left within imputations; m imputations; complete: degrees of freedom without gaps
# (Barnard & Rubin, 1999). Inf where nothing was pooled (`within` NULL).
core_pooled_df <- function(error, within, m, complete) {
  if (is.null(within)) {
    return(rep(Inf, length(error)))
  }
  added <- pmin(pmax(1 - (within / error)^2, 0), 1)
  seen <- (complete + 1) / (complete + 3) * complete * (1 - added)
  1 / (added^2 / (m - 1) + 1 / seen)
}

# Ends (2 x figures) of percentile intervals of figures drawn as other samples would give them: `drawn(gamma)` gives draws x figures from a matrix of
# sampling variation. Where that was pooled over imputations, each interval is stretched about its middle from the normal quantile to that of t.
core_pooled_percentiles <- function(drawn, gamma, pooled, complete, level) {
  values <- drawn(gamma)
  ends <- apply(values, 2, core_percentile_interval, level)
  if (is.null(pooled)) {
    return(list(values = values, ends = ends))
  }
  spread <- function(values) apply(values, 2, stats::sd, na.rm = TRUE)
  df <- core_pooled_df(spread(values), spread(drawn(pooled$within)), pooled$m, complete)
  middle <- apply(values, 2, stats::median, na.rm = TRUE)
  wider <- two_sided_quantile(level, df) / two_sided_quantile(level)
  list(values = values, ends = t(middle + (t(ends) - middle) * wider))
}

# How many standard errors an interval of this level reaches to either side.
two_sided_quantile <- function(level, df = Inf) stats::qt(1 - (1 - level) / 2, df)
