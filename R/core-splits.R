# Split-half reliability from a covariance matrix of items.

# Rulon's (1939) coefficient of one split: 4 cov(A, B) / variance of the total.
core_rulon <- function(s, first) 4 * sum(s[first, !first]) / sum(s)

# The correlation of the halves stepped up to the whole: Spearman-Brown for equal
# halves, Horst's (1951) formula for unequal ones.
core_stepped_up <- function(s, first) {
  a <- sum(s[first, first])
  b <- sum(s[!first, !first])
  r <- sum(s[first, !first]) / sqrt(a * b)
  k <- length(first)
  p <- sum(first) / k
  q <- 1 - p
  if (p == .5) {
    return(2 * r / (1 + r))
  }
  r * (sqrt(r^2 + 4 * p * q * (1 - r^2)) - r) / (2 * p * q * (1 - r^2))
}

# All splits into halves that differ by one item at most: a logical matrix, splits
# x items, the first item always in the first half when the halves are equal. Above
# 16 items `sampled` random ones, which `random` draws.
core_split_sets <- function(k, sampled = 2000, random = NULL) {
  half <- k %/% 2
  if (k <= 16) {
    chosen <- utils::combn(k, half)
    if (k %% 2 == 0) chosen <- chosen[, chosen[1, ] == 1, drop = FALSE]
    sets <- matrix(FALSE, ncol(chosen), k)
    sets[cbind(as.vector(col(chosen)), as.vector(chosen))] <- TRUE
    return(sets)
  }
  t(vapply(seq_len(sampled), function(i) seq_len(k) %in% random$sample(k, half), logical(k)))
}

# What Rulon's coefficient is divided by when the halves are unequal (Raju, 1970):
# 4 p q, for an odd number of items 1 - 1 / k^2.
core_split_balance <- function(k) if (k %% 2 == 0) 1 else 1 - 1 / k^2

# Rulon's coefficient of every split in `sets`.
core_split_coefficients <- function(s, sets) {
  inside <- rowSums((sets %*% s) * sets)
  with_total <- as.vector(sets %*% rowSums(s))
  4 * (with_total - inside) / sum(s)
}
