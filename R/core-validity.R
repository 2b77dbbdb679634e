# Convergent and discriminant validity of a measurement.

# Heterotrait-monotrait ratio of correlations (Henseler, Ringle & Sarstedt, 2015): mean
# correlation between two blocks over the geometric mean of the mean correlations within
# them. r: correlations; blocks: list of item positions; geometric: geometric means of the
# correlations in place of arithmetic ones (Roemer, Schuberth & Henseler, 2021). A matrix;
# NA where a block has one item, or a mean does not exist.
core_htmt <- function(r, blocks, geometric = FALSE) {
  size <- lengths(blocks)
  member <- matrix(0, ncol(r), length(blocks))
  member[cbind(unlist(blocks), rep(seq_along(blocks), size))] <- 1
  # Sums over blocks; a correlation that is not positive has no logarithm.
  values <- if (geometric) log(ifelse(r > 0, r, NA)) else r
  total <- if (anyNA(values)) block_sums(values, blocks) else crossprod(member, values %*% member)
  out <- htmt_of_sums(total, size, geometric)
  dimnames(out) <- list(names(blocks), names(blocks))
  out
}

# The ratio from sums of correlations (or of their logarithms) over blocks of `size` items.
htmt_of_sums <- function(total, size, geometric = FALSE) {
  within <- (diag(total) - if (geometric) 0 else size) / (size * (size - 1))
  between <- total / outer(size, size)
  if (geometric) {
    within <- exp(within)
    between <- exp(between)
  }
  within[size < 2 | within <= 0] <- NA
  out <- between / sqrt(outer(within, within))
  diag(out) <- NA
  out
}

# The same sums where single values are missing.
block_sums <- function(values, blocks) {
  vapply(blocks, function(b) vapply(blocks, function(a) sum(values[a, b]), 0), numeric(length(blocks)))
}

# Variance inflation of each variable by all the others: diagonal of the inverse correlations.
core_inflation <- function(r) {
  if (ncol(r) < 2 || core_definiteness(r) < 1e-12) {
    return(rep(if (ncol(r) < 2) 1 else Inf, ncol(r)))
  }
  diag(solve(r))
}

# Maximal reliability (coefficient H; Hancock & Mueller, 2001) from standardised loadings.
core_maximal_reliability <- function(loading) {
  share <- sum(loading^2 / (1 - loading^2))
  share / (1 + share)
}

# Congeneric composite reliability and AVE from standardised loadings with uncorrelated
# residuals.
core_loading_reliability <- function(loading) {
  common <- sum(loading)^2
  c(reliability = common / (common + sum(1 - loading^2)), ave = mean(loading^2))
}

# AVE of a factor less its squared correlation with another, and its error by the delta method.
# l: numbers of the factor's loadings, r: of the correlation among the standardised values `at`
# (core_standardised()); covariance: of the estimates. c(difference, error).
core_ave_excess <- function(at, l, r, covariance) {
  slope <- 2 * colMeans(at$value[l] * at$jacobian[l, , drop = FALSE]) - 2 * at$value[r] * at$jacobian[r, ]
  c(difference = mean(at$value[l]^2) - at$value[r]^2, error = sqrt(sum(slope * (covariance %*% slope))))
}

# The ratio over resamples of the rows of x: a matrix, replicates x k^2 (by column).
core_resample_htmt <- function(x, blocks, replicates, seed, geometric = FALSE, threads = 2L) {
  if (geometric) {
    return(resample_geometric(x, blocks, replicates, seed, threads))
  }
  sums <- kernel_replicate_block_sums(centred(x), unname(blocks), as.integer(replicates), seed, threads)
  k <- length(blocks)
  t(apply(sums, 2, function(column) as.vector(htmt_of_sums(matrix(column, k), lengths(blocks)))))
}

# Geometric means need every correlation.
resample_geometric <- function(x, blocks, replicates, seed, threads) {
  p <- ncol(x)
  chunk <- max(50, min(500, 2e7 %/% p^2))
  do.call(rbind, lapply(seq(0, replicates - 1, by = chunk), function(first) {
    drawn <- kernel_replicate_moments(centred(x), as.integer(first), as.integer(min(chunk, replicates - first)), seed, threads)$covariances
    t(apply(drawn, 2, function(column) as.vector(core_htmt(core_correlation(matrix(column, p)), blocks, TRUE))))
  }))
}
