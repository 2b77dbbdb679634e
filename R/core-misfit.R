# Where a confirmed structure misses, and what freeing a cell would do.

# Cells that could be freed: every loading and every residual pair that is plainly zero
# or fixed at zero. A data frame of cells.
core_candidates <- function(cells, items, factors) {
  used <- cells$free > 0 | cells$value != 0
  loading <- matrix(FALSE, items, factors)
  loading[cbind(cells$row, cells$column)[used & cells$part == core_parts[["loading"]], , drop = FALSE]] <- TRUE
  pair <- upper.tri(diag(items), diag = TRUE)
  taken <- used & cells$part == core_parts[["residual"]]
  pair[cbind(pmax(cells$row, cells$column), pmin(cells$row, cells$column))[taken, , drop = FALSE]] <- TRUE
  places <- rbind(which(!loading, arr.ind = TRUE), which(!pair, arr.ind = TRUE))
  count <- c(sum(!loading), sum(!pair))
  list2DF(list(
    part = rep(unname(core_parts[c("loading", "residual")]), count), row = unname(places[, 1]), column = unname(places[, 2]),
    free = integer(sum(count)), value = numeric(sum(count))
  ))
}

# Modification index (Sorbom, 1989) and expected change of each candidate; NA where it cannot
# be told from what is free. Candidates come back with columns index and change. patterns: of
# incomplete answers, in place of s.
core_modifications <- function(cells, theta, s, mean, factors, n, candidates, patterns = NULL) {
  at <- if (is.null(patterns)) {
    kernel_score_tests(cells, ncol(s), factors, list(list(share = 1, covariance = s, mean = mean)), theta, candidates)
  } else {
    kernel_incomplete_score_tests(cells, ncol(s), factors, patterns, theta, candidates)
  }
  with_scores(candidates, at, n)
}

with_scores <- function(candidates, at, n) {
  curvature <- replace(at$curvature, at$curvature <= 0, NA)
  candidates$index <- n / 2 * at$slope^2 / curvature
  candidates$change <- -at$slope / curvature
  candidates
}

# The same of least squares: generalised,
core_gls_scores <- function(cells, fit, s, n, factors, candidates) {
  with_scores(candidates, kernel_quadratic_scores(cells, ncol(s), factors, s, solve(s), fit$theta, candidates), n)
}

# unweighted (of covariances, for normal answers),
core_uls_scores <- function(cells, fit, s, n, factors, candidates) {
  lower <- lower.tri(s, diag = TRUE)
  w <- uls_weight(ncol(s))[lower]
  j <- core_structure_jacobian(cells, fit$theta, ncol(s), factors)
  at <- core_weighted_inference(j, w, core_normal_gamma(fit$implied), n, fit$held)
  scores <- core_weighted_scores(at, j, candidate_jacobian(cells, fit$theta, ncol(s), factors, candidates), w, (s - fit$implied)[lower])
  c_columns(candidates, scores)
}

# and of correlations.
core_correlation_scores <- function(cells, fit, r, factors, candidates) {
  lower <- lower.tri(r)
  rows <- lower[lower.tri(r, diag = TRUE)]
  jc <- candidate_jacobian(cells, fit$theta, ncol(r), factors, candidates)[rows, , drop = FALSE]
  scores <- core_weighted_scores(fit$quadratic$inference, fit$quadratic$jacobian, jc, fit$quadratic$weights, (r - fit$implied)[lower])
  c_columns(candidates, scores)
}

c_columns <- function(candidates, scores) {
  candidates$index <- scores$index
  candidates$change <- scores$change
  candidates
}

# Derivative of the implied covariances in each candidate.
candidate_jacobian <- function(cells, theta, items, factors, candidates) {
  fixed <- cells
  fixed$value <- core_cell_values(cells, theta)
  fixed$free <- 0L
  freed <- candidates
  freed$free <- seq_len(nrow(candidates))
  common <- intersect(names(fixed), names(freed))
  core_structure_jacobian(rbind(fixed[common], freed[common]), numeric(nrow(candidates)), items, factors)
}

# Power of the score test, at `level`, to see a standardised change of `size` (Saris,
# Satorra & van der Veld, 2009).
core_change_power <- function(index, standard_change, size, level = .05) {
  edge <- stats::qnorm(1 - level / 2)
  shift <- sqrt(index) * abs(size / standard_change)
  stats::pnorm(shift - edge) + stats::pnorm(-shift - edge)
}

# Standard errors of the residuals s - sigma (lower triangle with diagonal, by column) from the
# influence of single cases (Maydeu-Olivares, 2017): z (cases x elements) on the sample's
# covariances, scores and bread of the estimates, whose Jacobian is j. NA where they vanish.
core_case_residual_errors <- function(z, j, scores, bread, cluster = NULL) {
  n <- nrow(z)
  left <- z + kernel_product(kernel_product(scores, bread), t(j))
  spread <- core_meat_diagonal(left, cluster)
  sqrt(ifelse(spread > 1e-8 * core_meat_diagonal(z, cluster), spread, NA) / n)
}

core_meat_diagonal <- function(x, cluster) {
  if (is.null(cluster)) {
    return(colMeans(x^2))
  }
  sums <- rowsum(x, cluster)
  colSums(sums^2) / nrow(x) * nrow(sums) / (nrow(sums) - 1)
}

# Influence of complete cases on their covariances: weighted products of deviations, centred.
core_product_influence <- function(x, weight) {
  d <- sweep(x, 2, colSums(weight * x) / nrow(x))
  at <- which(lower.tri(diag(ncol(x)), diag = TRUE), arr.ind = TRUE)
  z <- d[, at[, 1], drop = FALSE] * d[, at[, 2], drop = FALSE]
  weight * sweep(z, 2, colSums(weight * z) / nrow(x))
}

# A symmetric matrix from its lower triangle with diagonal, by column.
core_symmetric <- function(lower, p, names = NULL) {
  out <- matrix(NA_real_, p, p, dimnames = names)
  out[lower.tri(out, diag = TRUE)] <- lower
  upper <- upper.tri(out)
  out[upper] <- t(out)[upper]
  out
}

# Standardised residuals (Joreskog & Sorbom, 1988): s - sigma over its standard error,
# which allows for the estimates. A symmetric matrix; NA where the error vanishes.
core_standardised_residuals <- function(s, implied, jacobian, estimate_covariance, n) {
  lower <- lower.tri(s, diag = TRUE)
  spread <- (outer(diag(implied), diag(implied)) + implied^2)[lower]
  explained <- n * kernel_row_forms(jacobian, estimate_covariance)
  error <- sqrt(replace(spread - explained, spread - explained <= 1e-8 * spread, NA) / n)
  core_symmetric((s - implied)[lower] / error, nrow(s), dimnames(s))
}
