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
# the number of items times the sd of the gap between the halves' means. list(band, n, from_score, to_score, sem).
core_band_errors <- function(tally, items, bands = 3) {
  place <- (cumsum(tally$n) - tally$n / 2) / sum(tally$n)
  band <- pmin(bands, floor(place * bands) + 1L)
  sums <- rowsum(cbind(n = tally$n, gap = tally$gap, squares = tally$gap_squared), band)
  n <- unname(sums[, "n"])
  variance <- (sums[, "squares"] - sums[, "gap"]^2 / n) / (n - 1)
  ends <- vapply(unname(split(tally$total, band)), range, numeric(2))
  list(
    band = sort(unique(band)), n = n, from_score = ends[1, ], to_score = ends[2, ],
    sem = ifelse(n > 1, items / 2 * sqrt(pmax(unname(variance), 0)), NA_real_)
  )
}
