# How alike two sets of loadings are.

# Congruence of each column of a with each of b (Burt, 1948; Tucker, 1951).
core_congruence <- function(a, b) {
  out <- crossprod(a, b) / sqrt(outer(colSums(a^2), colSums(b^2)))
  dimnames(out) <- list(colnames(a), colnames(b))
  out
}

# Columns of `loadings` in the order, and with the signs, most congruent with those of
# `reference`: list(order, sign). The best assignment by exchanging pairs until nothing is
# gained, from the greedy one.
core_match_factors <- function(reference, loadings) {
  alike <- abs(core_congruence(reference, loadings))
  alike[!is.finite(alike)] <- 0
  m <- ncol(alike)
  order <- integer(m)
  left <- alike
  for (k in seq_len(m)) {
    at <- arrayInd(which.max(left), dim(left))
    order[at[1]] <- at[2]
    left[at[1], ] <- -1
    left[, at[2]] <- -1
  }
  repeat {
    gain <- 0
    for (i in seq_len(m - 1)) {
      for (j in seq(i + 1, length.out = m - i)) {
        change <- alike[i, order[j]] + alike[j, order[i]] - alike[i, order[i]] - alike[j, order[j]]
        if (change > 1e-12) {
          order[c(i, j)] <- order[c(j, i)]
          gain <- gain + change
        }
      }
    }
    if (gain == 0) break
  }
  sign <- ifelse(colSums(reference * loadings[, order, drop = FALSE]) < 0, -1, 1)
  list(order = order, sign = sign)
}

# A solution with its factors matched to a reference: list(loadings, correlations).
core_matched <- function(reference, loadings, correlations) {
  to <- core_match_factors(reference, loadings)
  list(
    loadings = sweep(loadings[, to$order, drop = FALSE], 2, to$sign, "*"),
    correlations = correlations[to$order, to$order, drop = FALSE] * outer(to$sign, to$sign)
  )
}

# Loadings turned, rigidly, as near as possible to a reference (Schönemann, 1966).
core_procrustes <- function(loadings, reference) {
  s <- svd(crossprod(loadings, reference))
  loadings %*% tcrossprod(s$u, s$v)
}
