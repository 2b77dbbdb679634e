# Can a correlation matrix be factored?

# Partial correlation of each pair given all other items; the diagonal is 1. Needs a
# positive definite matrix.
core_partial_r <- function(r) {
  inverse <- chol2inv(chol(r))
  scale <- sqrt(diag(inverse))
  out <- -inverse / outer(scale, scale)
  diag(out) <- 1
  dimnames(out) <- dimnames(r)
  out
}

# Sampling adequacy (Kaiser, 1970; Kaiser & Rice, 1974): squared correlations over squared
# correlations plus squared partial correlations; list(overall, items).
core_sampling_adequacy <- function(r) {
  partial <- core_partial_r(r)
  squared <- function(x) x^2 * (row(x) != col(x))
  shared <- squared(r)
  alone <- squared(partial)
  list(overall = sum(shared) / (sum(shared) + sum(alone)), items = rowSums(shared) / (rowSums(shared) + rowSums(alone)))
}

# Test of sphericity (Bartlett, 1950): -(n - 1 - (2p + 5)/6) ln|R|, chi-square with
# p(p - 1)/2 df when no two items correlate.
core_sphericity <- function(r, n) {
  p <- ncol(r)
  chi_square <- -(n - 1 - (2 * p + 5) / 6) * as.numeric(determinant(r)$modulus)
  df <- p * (p - 1) / 2
  list(chi_square = chi_square, df = df, p = core_chi_square_p(chi_square, df))
}
