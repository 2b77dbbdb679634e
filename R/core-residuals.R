# Residual correlations of a confirmed structure over their standard errors.

# Influence of single cases on the residuals s - sigma (lower triangle with diagonal, by column; Maydeu-Olivares, 2017),
# summed within clusters: z (cases x elements) on the sample's covariances, scores and bread of the estimates, whose
# Jacobian is j. Their cross-products over n^2 are the residuals' covariances.
core_residual_influence <- function(z, j, scores, bread, cluster = NULL) {
  left <- z + kernel_product(kernel_product(scores, bread), t(j))
  if (is.null(cluster)) {
    return(left)
  }
  sums <- rowsum(left, cluster)
  sums * sqrt(nrow(sums) / (nrow(sums) - 1))
}

# Standard errors from that influence of n cases; NA where they vanish beside those of the sample's covariances.
core_case_residual_errors <- function(left, z, n, cluster = NULL) {
  spread <- colSums(left^2) / n
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

# What the unbiased SRMR needs of the residuals' covariance matrix X: list(trace: tr X, square: tr X^2, form: e'Xe).
# From the matrix,
core_residual_spread <- function(covariance, e) {
  list(trace = sum(diag(covariance)), square = sum(covariance^2), form = sum(e * (covariance %*% e)))
}

# from the influence of n cases,
core_case_residual_spread <- function(left, n, e) {
  product <- if (nrow(left) < ncol(left)) kernel_crossproduct(t(left)) else kernel_crossproduct(left)
  list(trace = sum(left^2) / n^2, square = sum(product^2) / n^4, form = sum((left %*% e)^2) / n^2)
}

# and of normal answers, without building it: X = (Gamma(sigma) - J C J') / n, J the Jacobian of the structure, C n times the estimates'
# covariances, Gamma v = sigma W sigma for the symmetric W of v; all of moments standardised by `sd`. residual: symmetric, raw.
# explained: the diagonal of J C J', not standardised.
core_normal_residual_spread <- function(cells, theta, factors, covariance, sigma, sd, n, residual) {
  p <- nrow(sigma)
  scaled <- sigma / outer(sd, sd)
  e <- residual / outer(sd, sd)
  own <- kernel_residual_spread(cells, p, factors, theta, covariance, unname(sigma), 1 / sd, unname(e))
  lower <- lower.tri(sigma, diag = TRUE)
  square <- scaled^2
  # Over ordered pairs first, then the lower triangles they stand for.
  all <- 2 * sum(square)^2 + 2 * sum((scaled %*% scaled)^2)
  gamma_square <- (all + 8 * sum(rowSums(square)^2) + 4 * sum(square^2)) / 4
  diag(e) <- 2 * diag(e)
  through <- e %*% scaled
  weight <- (1 / outer(sd, sd)^2)[lower]
  list(
    explained = own$explained, trace = (sum((outer(diag(scaled), diag(scaled)) + square)[lower]) - sum(weight * own$explained)) / n,
    square = (gamma_square - 2 * own$forms + own$squares) / n^2, form = (sum(through * t(through)) / 2 - own$along) / n
  )
}
