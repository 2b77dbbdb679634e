# Which way items point: the signs of their loadings on the first principal
# axis of their correlations. The majority's direction counts as forward.

# TRUE for an item that points against the majority. An item whose weight is
# trivial against the others is not called either way.
core_points_back <- function(covariance, trivial = 0.1) {
  r <- core_correlation(covariance)
  if (anyNA(r) || ncol(r) < 3) {
    return(rep(FALSE, ncol(r)))
  }
  axis <- eigen(r, symmetric = TRUE)$vectors[, 1]
  if (sum(axis) < 0) axis <- -axis
  axis < -trivial * max(abs(axis))
}

# The covariances after the items in `turned` are reversed.
core_turn <- function(covariance, turned) {
  sign <- ifelse(turned, -1, 1)
  covariance * outer(sign, sign)
}
