# Reliability of the sum of ordered answers (Green & Yang, 2009).

# r: polychoric correlations; loadings: of one factor behind them; thresholds: list by item; steps: list by item, by how much the answer rises at
# each threshold. The variance of the sum, and the part of it that two sets of answers to the same items would share: covariances
# of answers follow from bivariate normal probabilities, over the correlation r and over the product of the loadings.
core_ordered_omega <- function(r, loadings, thresholds, steps) {
  item <- rep(seq_along(thresholds), lengths(thresholds))
  cut <- unlist(thresholds, use.names = FALSE)
  step <- unlist(steps, use.names = FALSE)
  pair <- expand.grid(a = seq_along(cut), b = seq_along(cut))
  pair <- pair[pair$a >= pair$b, ]
  weight <- step[pair$a] * step[pair$b] * ifelse(pair$a == pair$b, 1, 2)
  first <- item[pair$a]
  second <- item[pair$b]
  apart <- stats::pnorm(cut[pair$a]) * stats::pnorm(cut[pair$b])
  shared <- pmin(pmax(loadings[first] * loadings[second], -.9999), .9999)
  common <- core_bivariate_normal(cut[pair$a], cut[pair$b], shared) - apart
  own <- first == second
  observed <- stats::pnorm(pmin(cut[pair$a], cut[pair$b]))
  observed[!own] <- core_bivariate_normal(cut[pair$a][!own], cut[pair$b][!own], r[cbind(first, second)][!own])
  sum(weight * common) / sum(weight * (observed - apart))
}

# With the one-factor likelihood solution of r: list(omega, error; NA where there is none). gamma: n times the covariance
# matrix of all thresholds followed by the correlations (lower triangle by column).
core_ordered_reliability <- function(r, thresholds, steps, gamma = NULL, n = NULL) {
  none <- list(omega = NA_real_, error = NA_real_)
  found <- core_omega(r, max(n, 3))
  if (found$status != "ok" || found$bound) {
    return(none)
  }
  cuts <- unlist(thresholds, use.names = FALSE)
  below <- lower.tri(r)
  of <- function(theta) {
    at <- r
    at[below] <- theta[-seq_along(cuts)]
    at[upper.tri(at)] <- t(at)[upper.tri(at)]
    loadings <- if (identical(theta[-seq_along(cuts)], r[below])) found$loadings else core_omega(at, n)$loadings
    core_ordered_omega(at, loadings, utils::relist(theta[seq_along(cuts)], thresholds), steps)
  }
  theta <- c(cuts, r[below])
  none$omega <- of(theta)
  if (is.null(gamma) || any(!is.finite(diag(gamma))) || any(diag(gamma) <= 0)) {
    return(none)
  }
  h <- 1e-4
  slope <- vapply(seq_along(theta), function(k) (of(replace(theta, k, theta[k] + h)) - of(replace(theta, k, theta[k] - h))) / (2 * h), 0)
  none$error <- sqrt(max(sum(slope * (gamma %*% slope)), 0) / n)
  none
}
