# Extraction of common factors from a correlation matrix.

# Degrees of freedom of an unrestricted model with m factors for p items.
core_exploration_df <- function(p, m) ((p - m)^2 - (p + m)) / 2

# The most factors that leave no negative degrees of freedom.
core_most_factors <- function(p) {
  m <- seq_len(p) - 1L
  max(m[core_exploration_df(p, m) >= 0])
}

# Maximum likelihood: list(status, discrepancy, uniqueness, loadings,
# iterations, largest_gradient). Discrepancy ln|Sigma| - ln|R| + tr(R
# Sigma^-1) - p (Joreskog, 1967).
core_extract_ml <- function(r, m, lower_bound = 0.005, tolerance = 1e-9, max_iterations = 200L) {
  out <- kernel_extract_ml(r, m, lower_bound, tolerance, max_iterations)
  out$status <- status_word(out$status)
  rownames(out$loadings) <- names(out$uniqueness) <- colnames(r)
  out
}
