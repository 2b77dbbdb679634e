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
  weight <- variance / sum(s)
  t <- rep(0.5 * smallest, k)
  barrier <- function(t, mu) {
    root <- tryCatch(chol(r - diag(t, k)), error = function(e) NULL)
    if (is.null(root) || any(t <= 0)) -Inf else sum(weight * t) + mu * (2 * sum(log(diag(root))) + sum(log(t)))
  }
  mu <- max(weight)
  # So near to singular that rounding decides.
  if (!is.finite(barrier(t, mu))) {
    return(NA_real_)
  }
  while (2 * k * mu > gap) {
    mu <- mu / 5
    for (step in seq_len(50)) {
      inverse <- chol2inv(chol(r - diag(t, k)))
      gradient <- weight - mu * diag(inverse) + mu / t
      direction <- solve(mu * (inverse^2 + diag(1 / t^2, k)), gradient)
      decrement <- sum(gradient * direction)
      if (decrement < 1e-3 * mu) break
      size <- core_step_size(function(size) barrier(t + size * direction, mu), barrier(t, mu), 1e-4 * decrement)
      # Nothing better can be told apart from here.
      if (size <= 1e-12) break
      t <- t + size * direction
    }
  }
  1 - sum(weight * t)
}

# Halves a step until the value rises by a share of what it promises.
core_step_size <- function(at, here, least) {
  size <- 1
  while (at(size) < here + size * least && size > 1e-12) size <- size / 2
  size
}
