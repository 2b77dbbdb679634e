# Bootstrap: intervals from what a figure does in resampled cases.

# Figures of internal consistency over `replicates` resamples of the rows of x
# (complete answers): a matrix, replicates x figures.
core_resample_reliability <- function(x, replicates, seed, threads = 0L) {
  name_figures(kernel_replicate_reliability(centred(x), as.integer(replicates), seed, threads), x)
}

# The same figures with each of `rows` left out.
core_jackknife_reliability <- function(x, rows = seq_len(nrow(x)), threads = 0L) {
  name_figures(kernel_jackknife_reliability(centred(x), as.integer(rows), threads), x)
}

# The same figures of the cases as they are: one row.
core_reliability_figures <- function(x) name_figures(kernel_reliability_figures(centred(x)), x)

name_figures <- function(values, x) {
  colnames(values) <- c("alpha", "alpha_standardised", "omega", "omega_observed", paste0("without_", seq_len(ncol(x))))
  values
}

# From covariances of n people.
core_moments_figures <- function(covariance, n) {
  omega <- core_omega(covariance, n)
  name_figures(t(c(core_alpha(covariance), core_standardised_alpha(covariance), omega$omega, omega$omega_observed, core_alpha_without(covariance))),
    covariance)
}

centred <- function(x) {
  x <- sweep(x, 2, colMeans(x))
  storage.mode(x) <- "double"
  x
}

# Moments of replicates first + 1, ..., first + count: a list of list(n, mean,
# covariance).
core_replicate_moments <- function(x, first, count, seed, threads = 0L) {
  middle <- colMeans(x)
  p <- ncol(x)
  out <- kernel_replicate_moments(centred(x), as.integer(first), as.integer(count), seed, threads)
  lapply(seq_len(count), function(i) {
    list(
      n = nrow(x), mean = stats::setNames(out$means[, i] + middle, colnames(x)),
      covariance = matrix(out$covariances[, i], p, p, dimnames = list(colnames(x), colnames(x)))
    )
  })
}

# How often each of n cases is drawn in replicate `index`, counted from 0.
core_draw_counts <- function(n, seed, index) kernel_draw_counts(as.integer(n), seed, as.integer(index), 1L)[, 1]

# Interval from the quantiles of the replicates (Efron, 1979).
core_percentile_interval <- function(values, level = 0.95) {
  tail <- (1 - level) / 2
  values <- values[is.finite(values)]
  if (length(values) < 20) {
    return(c(NA_real_, NA_real_))
  }
  stats::quantile(values, c(tail, 1 - tail), names = FALSE)
}

# Bias-corrected and accelerated interval (Efron, 1987). `left_out`: the figure with
# each case (or group of cases) left out, for the acceleration.
core_bca_interval <- function(estimate, values, left_out, level = 0.95) {
  values <- values[is.finite(values)]
  left_out <- left_out[is.finite(left_out)]
  if (length(values) < 20 || length(left_out) < 3 || !is.finite(estimate)) {
    return(c(NA_real_, NA_real_))
  }
  share <- mean(values < estimate) + mean(values == estimate) / 2
  if (share <= 0 || share >= 1) {
    return(c(NA_real_, NA_real_))
  }
  shift <- stats::qnorm(share)
  apart <- mean(left_out) - left_out
  spread <- sum(apart^2)
  acceleration <- if (spread > 0) sum(apart^3) / (6 * spread^1.5) else 0
  z <- shift + stats::qnorm(c((1 - level) / 2, (1 + level) / 2))
  stats::quantile(values, stats::pnorm(shift + z / (1 - acceleration * z)), names = FALSE)
}

# Resamples of people who are too many at once. sums: what kernel_add_person_resamples() made of people less `centre`, over `replicates`
# replicates and `groups` groups. list(replicates, left_out: without each group), lists of list(n, mean, covariance with divisor n - 1).
core_person_resamples <- function(sums, centre, replicates) {
  p <- length(centre)
  moments <- function(column) {
    n <- column[1]
    of <- column[1 + seq_len(p)]
    products <- core_symmetric(column[-seq_len(p + 1)], p)
    list(n = n, mean = centre + of / n, covariance = `dimnames<-`((products - tcrossprod(of) / n) / (n - 1), list(names(centre), names(centre))))
  }
  groups <- sums[, -seq_len(replicates), drop = FALSE]
  whole <- rowSums(groups)
  filled <- which(groups[1, ] > 0)
  list(replicates = lapply(seq_len(replicates), function(b) moments(sums[, b])), left_out = lapply(filled, function(g) moments(whole - groups[, g])))
}
