# Weighted composites of blocks of items (partial least squares).

# r: correlations; blocks: list of positions; regress: mode B?; leads: k x k, leads[j, i] is 1
# when composite j leads to i. list(converged, weight: p x k, iterations).
core_block_weights <- function(r, blocks, regress, leads, scheme = "path", tolerance = 1e-9, max_iterations = 500L) {
  kernel_composites(r, described_blocks(blocks, regress, leads, scheme), list(tolerance = tolerance, max_iterations = max_iterations))
}

# Blocks as the kernels take them.
described_blocks <- function(blocks, regress, leads, scheme) {
  storage.mode(leads) <- "integer"
  list(items = unname(blocks), regress = regress, leads = leads, scheme = scheme)
}

# Figures of the composites: loadings (own block), cross: p x k correlations of items with all
# composites, correlations, rho_a (Dijkstra & Henseler, 2015; NA in mode B or for one item).
core_composite_figures <- function(r, blocks, regress, weight) {
  cross <- r %*% weight
  correlations <- t(weight) %*% cross
  rho <- mapply(function(b, k) if (regress[k] || length(b) < 2) NA_real_ else consistent_reliability(r[b, b], weight[b, k]), blocks,
    seq_along(blocks))
  list(cross = cross, correlations = correlations, rho_a = unname(rho))
}

consistent_reliability <- function(s, w) {
  square <- sum(w^2)
  off <- function(m) sum(w * ((m - diag(diag(m))) %*% w))
  square^2 * off(s) / off(tcrossprod(w))
}

# Correlations of the common factors behind reflective blocks: corrected for rho_a.
core_consistent_correlations <- function(correlations, rho) {
  rho[is.na(rho)] <- 1
  out <- correlations / sqrt(outer(rho, rho))
  diag(out) <- 1
  out
}

# Regressions of each composite on those that lead to it: k x k coefficients (column to row's
# effect on column's) and R squared.
core_composite_paths <- function(correlations, leads) {
  k <- ncol(correlations)
  paths <- matrix(0, k, k, dimnames = dimnames(correlations))
  r_squared <- rep(NA_real_, k)
  for (i in seq_len(k)) {
    before <- which(leads[, i] == 1)
    if (length(before) == 0) next
    slope <- solve(correlations[before, before, drop = FALSE], correlations[before, i])
    paths[before, i] <- slope
    r_squared[i] <- sum(slope * correlations[before, i])
  }
  list(paths = paths, r_squared = r_squared)
}

# Weights, loadings, correlations and paths over resampled cases; signs of each composite follow
# the whole sample's. A matrix, replicates x figures.
core_resample_composites <- function(x, blocks, regress, leads, scheme, consistent, reference, replicates, seed, threads = 0L) {
  chunk <- max(50, min(500, 2e7 %/% ncol(x)^2))
  do.call(rbind, lapply(seq(0, replicates - 1, by = chunk), function(first) {
    drawn <- kernel_replicate_moments(centred(x), as.integer(first), as.integer(min(chunk, replicates - first)), seed, threads)$covariances
    core_composites_of(drawn, blocks, regress, leads, scheme, consistent, reference, threads)
  }))
}

# The same of covariance matrices, a column each.
core_composites_of <- function(drawn, blocks, regress, leads, scheme, consistent, reference, threads = 0L) {
  t(kernel_replicate_composites(drawn, described_blocks(blocks, regress, leads, scheme), unname(reference), consistent,
    list(tolerance = 1e-7, max_iterations = 300L), threads))
}
