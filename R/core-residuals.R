# Residual correlations of a confirmed structure over their standard errors.

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
