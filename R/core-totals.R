# The distribution of a subscale's sum, from a tally of its totals: list(total, n,
# gap, gap_squared), totals ascending; gap is odd-half mean less even-half mean.

core_tally_totals <- function(columns, shift, sign, keep = NULL) {
  kernel_tally_totals(unclass(as_numeric_columns(columns)), shift, sign, keep)
}

# list(n, mean, sd, lowest, highest).
core_total_shape <- function(tally) {
  n <- sum(tally$n)
  if (n == 0) {
    return(list(n = 0, mean = NA_real_, sd = NA_real_, lowest = NA_real_, highest = NA_real_))
  }
  mean <- sum(tally$n * tally$total) / n
  list(
    n = n, mean = mean, sd = if (n > 1) sqrt(sum(tally$n * (tally$total - mean)^2) / (n - 1)) else NA_real_,
    lowest = min(tally$total), highest = max(tally$total)
  )
}

# Standard error of measurement in `bands` bands of the total (Thorndike, 1951): half
# the number of items times the sd of the gap between the halves' means.
core_band_errors <- function(tally, items, bands = 3) {
  place <- (cumsum(tally$n) - tally$n / 2) / sum(tally$n)
  band <- pmin(bands, floor(place * bands) + 1L)
  do.call(rbind, lapply(sort(unique(band)), function(b) {
    mine <- band == b
    n <- sum(tally$n[mine])
    variance <- (sum(tally$gap_squared[mine]) - sum(tally$gap[mine])^2 / n) / (n - 1)
    data.frame(
      band = b, n = n, from_score = min(tally$total[mine]), to_score = max(tally$total[mine]),
      sem = if (n > 1) items / 2 * sqrt(max(variance, 0)) else NA_real_
    )
  }))
}
