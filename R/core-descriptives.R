# Moments of single columns, column by column over a matrix.

# Bias-adjusted skewness G1 and excess kurtosis G2 with the simple g1 and g2
# (Joanes & Gill, 1998). NA where the column does not vary or has too few
# answers: three for skewness, four for kurtosis.
core_shape <- function(x) {
  n <- sum(!is.na(x))
  centred <- x[!is.na(x)] - mean(x, na.rm = TRUE)
  m2 <- mean(centred^2)
  if (n < 3 || m2 == 0) {
    return(c(skewness = NA, kurtosis = NA, skewness_simple = NA, kurtosis_simple = NA))
  }
  g1 <- mean(centred^3) / m2^1.5
  g2 <- mean(centred^4) / m2^2 - 3
  c(
    skewness = g1 * sqrt(n * (n - 1)) / (n - 2),
    kurtosis = if (n > 3) (n - 1) / ((n - 2) * (n - 3)) * ((n + 1) * g2 + 6) else NA,
    skewness_simple = g1, kurtosis_simple = g2
  )
}

# How many of each option in each column: a matrix options x columns.
core_option_counts <- function(x, options) {
  counts <- vapply(
    seq_len(ncol(x)),
    function(j) tabulate(match(x[, j], options), length(options)),
    integer(length(options))
  )
  matrix(counts, length(options), ncol(x), dimnames = list(options, colnames(x)))
}

# Correlation of each item with the sum of the others, from a covariance matrix:
# (c_i - v_i) / sqrt(v_i (V - 2 c_i + v_i)), with c_i the item's covariance with
# the total and V the total's variance. NA for a single or constant item.
core_item_rest_r <- function(covariance) {
  with_total <- rowSums(covariance)
  variance <- diag(covariance)
  rest_variance <- sum(covariance) - 2 * with_total + variance
  spread <- variance * rest_variance
  r <- (with_total - variance) / sqrt(ifelse(spread > 0, spread, NA_real_))
  stats::setNames(r, colnames(covariance))
}
