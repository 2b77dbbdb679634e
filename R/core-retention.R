# How many factors: eigenvalues against those of unrelated items.

core_eigenvalues <- function(r) eigen(r, symmetric = TRUE, only.values = TRUE)$values

# Parallel analysis (Horn, 1965) of components: mean and percentile of the
# eigenvalues of `replicates` correlation matrices of p unrelated normal items
# and n cases. list(mean, percentile), each of length p.
core_parallel <- function(n, p, replicates, percentile, seed) {
  values <- kernel_random_eigenvalues(n, p, replicates, seed)
  list(
    mean = colMeans(values),
    percentile = apply(values, 2, stats::quantile, probs = percentile, names = FALSE)
  )
}

# How many eigenvalues in a row, from the first, lie above their reference.
core_count_above <- function(values, reference) {
  below <- which(values <= reference)
  if (length(below) == 0) length(values) else below[1] - 1L
}
