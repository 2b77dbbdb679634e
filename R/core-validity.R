# Convergent and discriminant validity of a measurement.

# Heterotrait-monotrait ratio of correlations (Henseler, Ringle & Sarstedt, 2015): mean
# correlation between two blocks over the geometric mean of the mean correlations within
# them. r: correlations; blocks: list of item positions; geometric: geometric means of the
# correlations in place of arithmetic ones (Roemer, Schuberth & Henseler, 2021). A matrix;
# NA where a block has one item, or a mean does not exist.
core_htmt <- function(r, blocks, geometric = FALSE) {
  average <- if (geometric) function(x) if (any(x <= 0)) NA_real_ else exp(mean(log(x))) else function(x) mean(x)
  within <- vapply(blocks, function(b) if (length(b) > 1) average(r[b, b][lower.tri(diag(length(b)))]) else NA_real_, 0)
  k <- length(blocks)
  out <- matrix(NA_real_, k, k, dimnames = list(names(blocks), names(blocks)))
  for (i in seq_len(k)) {
    for (j in seq_len(i - 1)) {
      product <- within[i] * within[j]
      if (is.na(product) || within[i] <= 0 || within[j] <= 0) next
      out[i, j] <- out[j, i] <- average(r[blocks[[i]], blocks[[j]]]) / sqrt(product)
    }
  }
  out
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

# The ratio over resamples of the rows of x: a matrix, replicates x k^2 (by column).
core_resample_htmt <- function(x, blocks, replicates, seed, geometric = FALSE, threads = 2L) {
  p <- ncol(x)
  chunk <- max(50, min(500, 2e7 %/% p^2))
  do.call(rbind, lapply(seq(0, replicates - 1, by = chunk), function(first) {
    drawn <- kernel_replicate_moments(centred(x), as.integer(first), as.integer(min(chunk, replicates - first)), seed, threads)$covariances
    t(apply(drawn, 2, function(column) {
      s <- matrix(column, p)
      scale <- 1 / sqrt(diag(s))
      as.vector(core_htmt(s * outer(scale, scale), blocks, geometric))
    }))
  }))
}
