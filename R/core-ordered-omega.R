# Reliability of the sum of ordered answers (Green & Yang, 2009).

# Each two thresholds of all items, the later first: their items, places and the rise of the sum's variance with them.
ordered_pairs <- function(thresholds, steps) {
  item <- rep(seq_along(thresholds), lengths(thresholds))
  cut <- unlist(thresholds, use.names = FALSE)
  step <- unlist(steps, use.names = FALSE)
  b <- rep(seq_along(cut), rev(seq_along(cut)))
  a <- sequence(rev(seq_along(cut)), seq_along(cut))
  list(a = a, b = b, first = item[a], second = item[b], own = item[a] == item[b], cut_a = cut[a], cut_b = cut[b],
    weight = step[a] * step[b] * ifelse(a == b, 1, 2))
}

# r: polychoric correlations; loadings: of one factor behind them; pairs: of ordered_pairs(), from thresholds (list by item) and steps (list by
# item, by how much the answer rises at each threshold). The variance of the sum, and the part of it that two sets of answers to the same items
# would share: covariances of answers follow from bivariate normal probabilities, over the correlation r and over the product of the loadings.
ordered_parts <- function(r, loadings, pairs) {
  apart <- stats::pnorm(pairs$cut_a) * stats::pnorm(pairs$cut_b)
  shared <- shared_correlation(loadings, pairs)
  observed <- stats::pnorm(pmin(pairs$cut_a, pairs$cut_b))
  other <- !pairs$own
  observed[other] <- core_bivariate_normal(pairs$cut_a[other], pairs$cut_b[other], r[cbind(pairs$first, pairs$second)][other])
  list(common = sum(pairs$weight * (core_bivariate_normal(pairs$cut_a, pairs$cut_b, shared) - apart)),
    observed = sum(pairs$weight * (observed - apart)))
}

shared_correlation <- function(loadings, pairs) pmin(pmax(loadings[pairs$first] * loadings[pairs$second], -.9999), .9999)

# With the one-factor likelihood solution of r: list(omega, error; NA where there is none). gamma: n times the covariance
# matrix of all thresholds followed by the correlations (lower triangle by column).
core_ordered_reliability <- function(r, thresholds, steps, gamma = NULL, n = NULL) {
  none <- list(omega = NA_real_, error = NA_real_)
  found <- core_omega(r, max(n, 3))
  if (found$status != "ok" || found$bound) {
    return(none)
  }
  pairs <- ordered_pairs(thresholds, steps)
  parts <- ordered_parts(r, found$loadings, pairs)
  none$omega <- parts$common / parts$observed
  if (is.null(gamma) || any(!is.finite(diag(gamma))) || any(diag(gamma) <= 0)) {
    return(none)
  }
  slope <- core_ordered_slopes(r, found$loadings, found$unique, pairs, parts)
  if (all(is.finite(slope))) none$error <- sqrt(max(sum(slope * (gamma %*% slope)), 0) / n)
  none
}

# Slopes of the reliability in all thresholds, then in the correlations (lower triangle by column).
core_ordered_slopes <- function(r, loadings, unique, pairs, parts) {
  in_common <- threshold_slopes(pairs, shared_correlation(loadings, pairs), FALSE)
  in_observed <- threshold_slopes(pairs, r[cbind(pairs$first, pairs$second)], TRUE)
  over_items <- function(value, item) summed_at(value, item, length(loadings))
  by_loading <- over_items(in_common$joint * loadings[pairs$second], pairs$first) +
    over_items(in_common$joint * loadings[pairs$first], pairs$second)
  p <- nrow(r)
  other <- !pairs$own
  joint <- matrix(summed_at(in_observed$joint[other], pairs$first[other] + p * (pairs$second[other] - 1), p^2), p)
  at <- joint + t(joint)
  omega <- parts$common / parts$observed
  by_r <- core_one_factor_slopes(r, loadings, unique, by_loading) - omega * at
  c(in_common$cuts - omega * in_observed$cuts, by_r[lower.tri(r)]) / parts$observed
}

# Sums of values by place 1, ..., count.
summed_at <- function(value, where, count) {
  out <- numeric(count)
  sums <- rowsum(value, where, reorder = FALSE)
  out[as.integer(rownames(sums))] <- sums
  out
}

# Weighted slopes of the joint probabilities less those of unrelated answers: summed by threshold, and in the correlation of each pair.
# observed: two thresholds of one item are passed together wherever the higher one is.
threshold_slopes <- function(pairs, correlation, observed) {
  rest <- sqrt(1 - ifelse(pairs$own & observed, 0, correlation)^2)
  towards <- function(own, other) stats::dnorm(own) * (stats::pnorm((other - correlation * own) / rest) - stats::pnorm(other))
  of_a <- towards(pairs$cut_a, pairs$cut_b)
  of_b <- towards(pairs$cut_b, pairs$cut_a)
  joint <- exp(-(pairs$cut_a^2 - 2 * correlation * pairs$cut_a * pairs$cut_b + pairs$cut_b^2) / (2 * rest^2)) / (2 * pi * rest)
  if (observed) {
    own <- pairs$own
    of_a[own] <- -stats::dnorm(pairs$cut_a[own]) * stats::pnorm(pairs$cut_b[own])
    of_b[own] <- stats::dnorm(pairs$cut_b[own]) * (1 - stats::pnorm(pairs$cut_a[own]))
    joint[own] <- 0
  }
  sums <- function(value, where) summed_at(value, where, max(pairs$a))
  list(cuts = sums(pairs$weight * of_a, pairs$a) + sums(pairs$weight * of_b, pairs$b), joint = pairs$weight * joint)
}

# Slope in each correlation of what has these slopes in the loadings of the one-factor likelihood solution, which r moves: its gradient stays
# zero, so that d theta = H^-1 (2 V dR u; diag(V dR V)), with V the inverse of the implied matrix, u = V loadings, W = V (implied - r) V.
# NA where H has no inverse.
core_one_factor_slopes <- function(r, loadings, unique, slopes) {
  p <- length(loadings)
  v <- chol2inv(chol(tcrossprod(loadings) + diag(unique, p)))
  w <- v %*% (tcrossprod(loadings) + diag(unique, p) - r) %*% v
  u <- as.vector(v %*% loadings)
  s <- sum(u * loadings)
  mixed <- 2 * u * (v - w)
  hessian <- rbind(cbind(2 * (s * v + tcrossprod(u) + (1 - s) * w), t(mixed)), cbind(mixed, v^2 - 2 * v * w))
  inverse <- kernel_inverse(hessian, definite = FALSE)
  if (length(inverse) == 0) {
    return(matrix(NA_real_, p, p))
  }
  q <- inverse[, seq_len(p)] %*% slopes
  along <- as.vector(v %*% q[seq_len(p)])
  2 * (outer(along, u) + outer(u, along)) + 2 * v %*% (q[-seq_len(p)] * v)
}
