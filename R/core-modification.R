# Modification indices: what freeing a cell of a confirmed structure would do.

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

# Modification index (Sörbom, 1989) and expected change of each candidate; NA where it cannot
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
  gamma <- core_normal_gamma(fit$implied)
  at <- core_weighted_inference(j, w, gamma, n, fit$held)
  scores <- core_weighted_scores(at, j, w, gamma, candidate_jacobian(cells, fit$theta, ncol(s), factors, candidates), (s - fit$implied)[lower])
  c_columns(candidates, scores)
}

# and of correlations.
core_correlation_scores <- function(cells, fit, r, factors, candidates) {
  lower <- lower.tri(r)
  apart <- lower[lower.tri(r, diag = TRUE)]
  jc <- candidate_jacobian(cells, fit$theta, ncol(r), factors, candidates)
  of <- fit$quadratic
  scores <- core_weighted_scores(of$inference, of$jacobian, of$weights, of$gamma, jc, (r - fit$implied)[lower], cumsum(apart) * apart)
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
  edge <- core_normal_edge(1 - level)
  shift <- sqrt(pmax(index, 0)) * abs(size / standard_change)
  stats::pnorm(shift - edge) + stats::pnorm(-shift - edge)
}
