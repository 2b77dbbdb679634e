# Extraction of common factors from a correlation matrix.

# Degrees of freedom of an unrestricted model with m factors for p items.
core_exploration_df <- function(p, m) ((p - m)^2 - (p + m)) / 2

# The most factors that leave no negative degrees of freedom.
core_most_factors <- function(p) {
  m <- seq_len(p) - 1L
  max(m[core_exploration_df(p, m) >= 0])
}

# list(status, discrepancy, uniqueness, loadings, iterations, largest_gradient, starts,
# reached): `method` is one of "ml", "minres", "gls", "paf", "alpha" (see
# src/core/extraction.h) or "pca". When the first search ends at a bound or does not
# converge, and always for "gls", whose discrepancy has local minima away from bounds, more follow:
# for "gls" from the end of maximum likelihood and from each item in turn with hardly any unique variance, then from points of
# a low-discrepancy sequence (Halton, 1960) between .05 and .95, `most_starts` besides these items'. The lowest discrepancy is
# kept and `reached` says how many of `starts` searches came to it.
core_extract <- function(r, m, method = "ml", lower_bound = 0.005, tolerance = NULL, max_iterations = NULL, most_starts = 10L) {
  if (method == "pca") {
    return(core_components(r, m))
  }
  iterated <- method %in% c("paf", "alpha")
  if (is.null(tolerance)) tolerance <- if (iterated) 1e-8 else 1e-9
  if (is.null(max_iterations)) max_iterations <- if (iterated) 5000L else 200L
  search <- function(start) {
    kernel_extract(r, m, start, list(method = method, lower_bound = lower_bound, tolerance = tolerance,
      max_iterations = as.integer(max_iterations)))
  }
  found <- list(search(numeric()))
  doubtful <- method == "gls" || found[[1]]$status == "not_converged" || any(found[[1]]$uniqueness <= lower_bound * (1 + 1e-6))
  if (doubtful && m > 0 && !iterated && most_starts > 1) {
    found <- c(found, lapply(extraction_starts(r, m, method, most_starts - 1), search))
  }
  value <- vapply(found, function(f) if (f$status == "ok") f$discrepancy else Inf, 0)
  best <- which.min(value)
  out <- found[[best]]
  out$starts <- length(found)
  out$reached <- if (is.finite(value[best])) sum(value <= value[best] + 1e-6 * max(1, value[best])) else 0L
  rownames(out$loadings) <- names(out$uniqueness) <- colnames(r)
  out
}

# Maximum likelihood from one start for several correlation matrices near those it comes from; the square of what the last step may be is left.
core_extract_each <- function(matrices, m, start) {
  search <- list(method = "ml", lower_bound = .005, tolerance = 1e-9, max_iterations = 200L, last_step = 1e-5)
  kernel_extract_each(lapply(matrices, unname), m, unname(start), search)
}

extraction_starts <- function(r, m, method, count) {
  likely <- if (method == "gls") list(core_extract(r, m, "ml", most_starts = 1L)$uniqueness)
  p <- ncol(r)
  alone <- if (method == "gls") lapply(seq_len(p), function(j) replace(rep(.5, p), j, .01))
  c(likely, alone, lapply(seq_len(count - length(likely)), function(i) {
    .05 + .9 * vapply(seq_len(p), function(j) core_radical_inverse(i + count * (j %/% 10), c(2, 3, 5, 7, 11, 13, 17, 19, 23, 29)[j %% 10 + 1]), 0)
  }))
}

# Maximum likelihood (Jöreskog, 1967).
core_extract_ml <- function(r, m, ...) core_extract(r, m, "ml", ...)

# Principal components: the first m, as loadings. No common factor model, no discrepancy.
core_components <- function(r, m) {
  e <- eigen(r, symmetric = TRUE)
  loadings <- e$vectors[, seq_len(m), drop = FALSE] %*% diag(sqrt(pmax(e$values[seq_len(m)], 0)), m)
  rownames(loadings) <- colnames(r)
  list(
    status = "ok", discrepancy = NA_real_, uniqueness = 1 - rowSums(loadings^2), loadings = loadings, iterations = 0L,
    largest_gradient = NA_real_, starts = 1L, reached = 1L
  )
}

# ln|Sigma| - ln|R| + tr(R Sigma^-1) - p at any loadings and unique variances; NA where
# the implied matrix is not positive definite.
core_likelihood_discrepancy <- function(r, loadings, uniqueness) {
  if (any(uniqueness <= 0)) {
    return(NA_real_)
  }
  implied <- tcrossprod(loadings) + diag(uniqueness, nrow(loadings))
  log_det <- function(x) as.numeric(determinant(x)$modulus)
  log_det(implied) - log_det(r) + sum(r * solve(implied)) - ncol(r)
}

# An unrotated solution as the cells of a structure: loadings turned so that none stands above the diagonal, which leaves
# every parameter identified. list(cells, theta).
core_echelon <- function(loadings, uniqueness) {
  p <- nrow(loadings)
  m <- ncol(loadings)
  turned <- t(qr.R(qr(t(loadings))))
  at <- which(row(turned) >= col(turned), arr.ind = TRUE)
  cells <- list2DF(list(
    part = rep(unname(core_parts[c("loading", "factor", "residual")]), c(nrow(at), m, p)), row = c(unname(at[, 1]), seq_len(m), seq_len(p)),
    column = c(unname(at[, 2]), seq_len(m), seq_len(p)), free = c(seq_len(nrow(at)), integer(m), nrow(at) + seq_len(p)),
    value = c(numeric(nrow(at)), rep(1, m), numeric(p))
  ))
  list(cells = cells, theta = c(turned[at], unname(uniqueness)))
}
