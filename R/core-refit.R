# A structure fitted again: to resampled cases, and to samples from a known structure.

# covariances: p^2 x count, divisor n. list(theta, error: q x count; value; status words).
core_refit <- function(cells, items, factors, covariances, start, n, errors = TRUE, tolerance = 1e-10, max_iterations = 200L, threads = 0L) {
  kernel_refit(cells, items, factors, covariances, start, n, core_search(cells, tolerance, max_iterations), errors, threads)
}

# Resampled cases: estimates and chi-squares over `replicates` draws of the rows of x.
core_resample_structure <- function(x, cells, factors, start, replicates, seed, threads = 0L) {
  n <- nrow(x)
  chunk <- max(50, min(500, 2e7 %/% ncol(x)^2))
  parts <- lapply(seq(0, replicates - 1, by = chunk), function(first) {
    drawn <- kernel_replicate_moments(centred(x), as.integer(first), as.integer(min(chunk, replicates - first)), seed, threads)
    core_refit(cells, ncol(x), factors, drawn$covariances * (n - 1) / n, start, n, FALSE, threads = threads)
  })
  refits(parts, n)
}

# The same of moments of resamples of n people (see core_person_resamples()); turn: a matrix through which the answers are taken.
core_refit_resamples <- function(drawn, cells, factors, start, n, turn = diag(ncol(drawn[[1]]$covariance))) {
  covariances <- vapply(drawn, function(one) as.vector(t(turn) %*% one$covariance %*% turn) * (one$n - 1) / one$n, numeric(length(turn)))
  refits(list(core_refit(cells, ncol(turn), factors, covariances, start, n, FALSE)), n)
}

refits <- function(parts, n) {
  list(
    theta = do.call(cbind, lapply(parts, `[[`, "theta")), chi_square = n * unlist(lapply(parts, `[[`, "value")),
    status = unlist(lapply(parts, `[[`, "status"))
  )
}

# Answers turned so that the structure holds in them exactly (Bollen & Stine, 1992).
core_turned_answers <- function(x, s, implied) {
  d <- sweep(x, 2, colMeans(x))
  d %*% core_turn_to(s, implied)
}

# What turns answers with covariances s into those with the implied ones.
core_turn_to <- function(s, implied) solve(chol(s)) %*% chol(implied)

# Covariance matrices (divisor n) of `replicates` normal samples of n cases from sigma, as
# columns. draw: makes normal deviates, n of them.
core_sampled_covariances <- function(sigma, n, replicates, draw) {
  p <- ncol(sigma)
  root <- chol(sigma)
  vapply(seq_len(replicates), function(i) {
    # Bartlett's decomposition of the Wishart distribution with n - 1 degrees of freedom.
    lower <- matrix(0, p, p)
    lower[lower.tri(lower)] <- draw$normal(p * (p - 1) / 2)
    diag(lower) <- sqrt(draw$chi_square(n - seq_len(p)))
    as.vector(crossprod(t(lower) %*% root) / n)
  }, numeric(p^2))
}
