# Moments of single columns.

# n, mean, sd, bias-adjusted skewness G1 and excess kurtosis G2 with the simple
# g1 and g2 (Joanes & Gill, 1998) and the standard errors of G1 and G2 under
# normality (Fisher, 1930), from distinct values and how often each stands. NA
# where the column does not vary or has too few answers: three for skewness, four
# for kurtosis.
core_describe <- function(values, counts) {
  n <- sum(counts)
  empty <- c(
    n = n, mean = NA, sd = NA, skewness = NA, kurtosis = NA, skewness_simple = NA, kurtosis_simple = NA,
    skewness_se = NA, kurtosis_se = NA
  )
  if (n == 0) {
    return(empty)
  }
  mean <- sum(values * counts) / n
  centred <- values - mean
  m2 <- sum(counts * centred^2) / n
  empty[["mean"]] <- mean
  if (n > 1) empty[["sd"]] <- sqrt(m2 * n / (n - 1))
  if (n < 3 || m2 == 0) {
    return(empty)
  }
  g1 <- sum(counts * centred^3) / n / m2^1.5
  g2 <- sum(counts * centred^4) / n / m2^2 - 3
  se1 <- sqrt(6 * n * (n - 1) / ((n - 2) * (n + 1) * (n + 3)))
  empty[c("skewness", "skewness_simple", "kurtosis_simple", "skewness_se")] <- c(g1 * sqrt(n * (n - 1)) / (n - 2), g1, g2, se1)
  if (n > 3) {
    empty[["kurtosis"]] <- (n - 1) / ((n - 2) * (n - 3)) * ((n + 1) * g2 + 6)
    empty[["kurtosis_se"]] <- 2 * se1 * sqrt((n^2 - 1) / ((n - 3) * (n + 5)))
  }
  empty
}

# The same of a tally, which brings its shape where it does not hold all counts.
core_tally_shape <- function(tally, counts = tally$counts) if (is.null(tally$shape)) core_describe(tally$values, counts) else tally$shape

# Distinct values and their counts. Whole numbers are counted over `options`, from
# lowest to highest, in one pass. keep: NULL, or a logical value per answer.
core_counts <- function(x, options, keep = NULL) {
  whole <- length(options) > 0 && all(options %% 1 == 0) && length(options) == options[length(options)] - options[1] + 1
  if (whole && (is.integer(x) || is.double(x))) {
    found <- kernel_tally(x, as.integer(options[1]), as.integer(options[length(options)]), keep)
    if (found$outside == 0) {
      return(list(values = options, counts = found$counts))
    }
  }
  if (!is.null(keep)) x <- x[keep]
  x <- x[!is.na(x)]
  if (length(options) > 0 && all(x %in% options)) {
    return(list(values = options, counts = tabulate(match(x, options), length(options))))
  }
  values <- sort(unique(x))
  list(values = values, counts = tabulate(match(x, values), length(values)))
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

# Correlation of each item with the total, the item itself counted.
core_item_total_r <- function(covariance) {
  spread <- diag(covariance) * sum(covariance)
  stats::setNames(rowSums(covariance) / sqrt(ifelse(spread > 0, spread, NA_real_)), colnames(covariance))
}

# Interval of a share of n people by the score test (Wilson, 1927).
core_share_interval <- function(share, n, level = .95) {
  z <- core_normal_edge(level)
  middle <- (share + z^2 / (2 * n)) / (1 + z^2 / n)
  width <- z / (1 + z^2 / n) * sqrt(share * (1 - share) / n + z^2 / (4 * n^2))
  list(low = middle - width, high = middle + width)
}
