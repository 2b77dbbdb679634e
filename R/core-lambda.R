# Lower bounds to reliability from a covariance matrix of items.

# Guttman's (1945) lambda 1, 2, 3, 5 and 6. Lambda 3 is alpha; lambda 4 depends on
# a split (core_splits). Lambda 6 is NA for a singular matrix.
core_lambdas <- function(s) {
  k <- ncol(s)
  total <- sum(s)
  if (k < 2 || is.na(total) || total <= 0) {
    return(c(lambda1 = NA_real_, lambda2 = NA_real_, lambda3 = NA_real_, lambda5 = NA_real_, lambda6 = NA_real_))
  }
  between <- s
  diag(between) <- 0
  squares <- between^2
  lambda1 <- sum(between) / total
  c(
    lambda1 = lambda1, lambda2 = lambda1 + sqrt(k / (k - 1) * sum(squares)) / total, lambda3 = k / (k - 1) * lambda1,
    lambda5 = lambda1 + 2 * sqrt(max(colSums(squares))) / total, lambda6 = 1 - sum(core_unexplained(s)) / total
  )
}

# Variance of each item that the others do not explain, 1 / (S^-1)_jj; NA for a
# singular matrix.
core_unexplained <- function(s) {
  variance <- diag(s)
  if (any(!is.finite(variance) | variance <= 0) || core_definiteness(core_correlation(s)) < 1e-10) {
    return(rep(NA_real_, ncol(s)))
  }
  1 / diag(solve(s))
}

# The greatest lower bound (Jackson & Agunwamba, 1977): 1 - max sum(t) / total with
# S - diag(t) positive semidefinite and t >= 0. The maximum is found by Newton's
# method on the logarithmic barrier, whose gap to the optimum is 2 k mu.
core_glb <- function(s, gap = 1e-9) {
  k <- ncol(s)
  variance <- diag(s)
  if (k < 2 || any(!is.finite(variance) | variance <= 0)) {
    return(NA_real_)
  }
  scale <- sqrt(variance)
  r <- s / outer(scale, scale)
  smallest <- min(eigen(r, symmetric = TRUE, only.values = TRUE)$values)
  if (smallest < 2e-8) {
    return(NA_real_)
  }
  found <- kernel_greatest_bound(unname(r), unname(variance / sum(s)), smallest, gap)
  if (is.finite(found)) 1 - found else NA_real_
}
