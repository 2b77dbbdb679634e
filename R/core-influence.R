# What single cases do to a fit.

# Minus twice the log-likelihood of each case (rows of x, NA for missing) at given moments.
core_case_likelihood <- function(x, covariance, mean) {
  groups <- core_patterns(x)
  out <- numeric(nrow(x))
  distance <- numeric(nrow(x))
  for (k in seq_along(groups$n)) {
    rows <- which(groups$of == k)
    seen <- which(!groups$missing[k, ])
    root <- chol(covariance[seen, seen, drop = FALSE])
    d <- forwardsolve(t(root), t(sweep(x[rows, seen, drop = FALSE], 2, mean[seen])))
    distance[rows] <- colSums(d^2)
    out[rows] <- distance[rows] + 2 * sum(log(diag(root))) + length(seen) * log(2 * pi)
  }
  list(minus_two = out, distance = distance)
}

# Generalised Cook's distance of each case, to first order (Cook, 1986; Pek & MacCallum,
# 2011): scores' quadratic form in the covariance matrix of the estimates. gradients: of minus
# twice each case's log-likelihood, cases x parameters.
core_cook_distance <- function(gradients, covariance) kernel_row_forms(gradients / 2, covariance)

# Test of two structures that are not nested (Vuong, 1989) from each case's log-likelihood:
# difference, z of the difference (positive for the first), p, and the variance of the
# differences. `free`: numbers of parameters, whose difference is taken off as in BIC.
core_vuong <- function(first, second, free) {
  n <- length(first)
  apart <- first - second
  spread <- mean((apart - mean(apart))^2)
  total <- sum(apart) - unname(free[1] - free[2]) / 2 * log(n)
  z <- if (spread > 1e-12) total / sqrt(n * spread) else NA_real_
  list(difference = total, variance = spread, statistic = z, p = 2 * stats::pnorm(-abs(z)))
}
