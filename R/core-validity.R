# Convergent and discriminant validity of a measurement.

# Heterotrait-monotrait ratio of correlations (Henseler, Ringle & Sarstedt, 2015), of absolute
# correlations (Ringle, Sarstedt, Sinkovics & Sinkovics, 2023), so that the keying of items and
# the direction of factors do not count: mean between two blocks over the geometric mean of the
# means within them. r: correlations; blocks: list of item positions; geometric: geometric means
# in place of arithmetic ones (Roemer, Schuberth & Henseler, 2021). A matrix; NA where a block
# has one item, or a mean does not exist.
core_htmt <- function(r, blocks, geometric = FALSE) {
  size <- lengths(blocks)
  member <- matrix(0, ncol(r), length(blocks))
  member[cbind(unlist(blocks), rep(seq_along(blocks), size))] <- 1
  # Sums over blocks; a correlation of zero has no logarithm.
  values <- if (geometric) log(ifelse(r != 0, abs(r), NA)) else abs(r)
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

# Variance inflation of each variable by all the others: diagonal of the inverse correlations; NA where some are sums of others.
core_inflation <- function(r) {
  if (ncol(r) < 2 || core_definiteness(r) < 1e-12) {
    return(rep(if (ncol(r) < 2) 1 else NA_real_, ncol(r)))
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
  c(reliability = common / (common + sum(1 - loading^2)), ave = core_variance_extracted(loading))
}

# Composite reliability of a sum of items (McDonald, 1999): raw loadings on a factor of variance
# one, and the items' residual covariances.
core_sum_reliability <- function(loading, residual) {
  common <- sum(loading)^2
  common / (common + sum(residual))
}

# AVE of a factor less its squared correlation with another, and its error by the delta method.
# l: numbers of the factor's loadings, r: of the correlation among the standardised values `at`
# (core_standardised()); covariance: of the estimates. c(difference, error).
core_ave_excess <- function(at, l, r, covariance) {
  slope <- 2 * colMeans(at$value[l] * at$jacobian[l, , drop = FALSE]) - 2 * at$value[r] * at$jacobian[r, ]
  c(difference = core_variance_extracted(at$value[l]) - at$value[r]^2, error = sqrt(sum(slope * (covariance %*% slope))))
}

# The ratio over resamples of the rows of x: a matrix, replicates x k^2 (by column).
core_resample_htmt <- function(x, blocks, replicates, seed, geometric = FALSE, threads = 0L) {
  sums <- kernel_replicate_block_sums(centred(x), unname(blocks), as.integer(replicates), seed, geometric, threads)
  k <- length(blocks)
  t(apply(sums, 2, function(column) as.vector(htmt_of_sums(matrix(column, k), lengths(blocks), geometric))))
}

# The same of covariance matrices, a column each.
core_htmt_of <- function(drawn, blocks, geometric = FALSE) {
  p <- sqrt(nrow(drawn))
  t(apply(drawn, 2, function(column) as.vector(core_htmt(core_correlation(matrix(column, p)), blocks, geometric))))
}

# Average variance extracted (Fornell & Larcker, 1981): the mean of squared standardised loadings.
core_variance_extracted <- function(loadings) mean(loadings^2)
