# Saturated means and covariances by maximum likelihood, how sure they are, and what that means for whatever is estimated from
# them in a second stage (Yuan & Bentler, 2000; Savalei & Bentler, 2009).
#
# Gamma is n times the covariance matrix of the covariances with divisor n: lower triangle with diagonal, by column. Whoever goes through it
# takes slopes at the covariances with divisor n, and divides by n.

# Influence of each case on the covariances, cases x elements; its columns sum to zero. x: cases x items, each with an answer; em:
# its saturated moments (divisor n); weight: sampling weights of mean one.
core_moment_influence <- function(x, em, patterns, weight = rep(1, nrow(x))) {
  if (!anyNA(x)) {
    return(core_product_influence(x, weight))
  }
  inverse <- core_inverse_information(kernel_saturated_hessian(patterns, unname(em$covariance), unname(em$mean)))
  if (!is.null(inverse)) influence_through(x, em, inverse, weight)
}

influence_through <- function(x, em, inverse, weight) {
  slopes <- weight * kernel_saturated_gradients(x, unname(em$covariance), unname(em$mean))
  -kernel_product(slopes, inverse)[, -seq_len(ncol(x)), drop = FALSE]
}

# Gamma of answers of any distribution, from the influence of cases summed within clusters (core_meat()). The answers may be very many:
# `size` at a time. NULL where the information has no inverse.
core_free_gamma <- function(x, em, patterns, weight = rep(1, nrow(x)), cluster = NULL, size = 20000L) {
  n <- nrow(x)
  if (n <= size || !anyNA(x)) {
    influence <- core_moment_influence(x, em, patterns, weight)
    return(if (!is.null(influence)) core_meat(influence, cluster))
  }
  inverse <- core_inverse_information(kernel_saturated_hessian(patterns, unname(em$covariance), unname(em$mean)))
  if (is.null(inverse)) {
    return(NULL)
  }
  parts <- split(seq_len(n), ceiling(seq_len(n) / size))
  of <- function(rows) influence_through(x[rows, , drop = FALSE], em, inverse, weight[rows])
  if (is.null(cluster)) {
    return(Reduce(function(total, rows) total + kernel_crossproduct(of(rows)), parts, 0) / n)
  }
  sums <- do.call(rbind, lapply(parts, function(rows) rowsum(of(rows), cluster[rows])))
  core_meat(rowsum(sums, rownames(sums)), seq_along(unique(rownames(sums)))) * length(unique(rownames(sums))) / n
}

# The same of cases that come some at a time (see core_meats()): rows goes through all n, and patterns are theirs, by weight.
core_gamma_by_rows <- function(rows, em, patterns, n) {
  p <- length(em$mean)
  mean <- unname(em$mean)
  covariance <- unname(em$covariance)
  meats <- core_meats(rows, n)
  if (all(lengths(lapply(patterns, `[[`, "seen")) == p)) {
    return(meats$whole(function(x) complete_influence(x, mean, covariance)[, -seq_len(p), drop = FALSE]))
  }
  inverse <- core_inverse_information(kernel_saturated_hessian(patterns, covariance, mean))
  if (is.null(inverse)) {
    return(NULL)
  }
  through <- inverse[, -seq_len(p), drop = FALSE]
  spread <- meats$whole(function(x) kernel_saturated_gradients(x, covariance, mean))
  kernel_product(t(through), kernel_product(spread, through))
}

# Gamma of complete cases who come a part at a time: list(add(cases x items), gamma(covariance with divisor n - 1, n)), of deviations from a mean.
# The sums, a large matrix that nobody else holds, are changed in their place.
core_fourth_products <- function(mean) {
  p <- length(mean)
  sums <- matrix(0, p * (p + 1) / 2, p * (p + 1) / 2)
  list(
    add = function(x) if (nrow(x) > 0) kernel_add_fourth_products(x, mean, sums),
    gamma = function(covariance, n) {
      kernel_finish_fourth_products(sums, n, covariance[lower.tri(covariance, diag = TRUE)] * (n - 1) / n)
      sums
    }
  )
}

# Gamma of normal answers with gaps, from the observed information; NULL where there is none.
core_observed_gamma <- function(em, patterns) {
  inverse <- core_inverse_information(kernel_saturated_hessian(patterns, unname(em$covariance), unname(em$mean)))
  means <- seq_along(em$mean)
  if (!is.null(inverse)) 2 * inverse[-means, -means, drop = FALSE]
}

# The columns of Gamma that belong to some of p items, in their order.
core_gamma_of <- function(gamma, p, items) {
  place <- matrix(0, p, p)
  place[lower.tri(place, diag = TRUE)] <- seq_len(p * (p + 1) / 2)
  place <- pmax(place, t(place))[items, items, drop = FALSE]
  at <- place[lower.tri(place, diag = TRUE)]
  gamma[at, at, drop = FALSE]
}

# n times the covariance matrix of the correlations (lower triangle with diagonal, by column; rows of the diagonal are zero), by
# the delta method. covariance: with divisor n - 1.
core_correlation_gamma <- function(gamma, covariance, n) {
  covariance <- covariance * (n - 1) / n
  p <- ncol(covariance)
  at <- which(lower.tri(covariance, diag = TRUE), arr.ind = TRUE)
  sd <- sqrt(diag(covariance))
  r <- covariance / outer(sd, sd)
  rows <- seq_len(nrow(at))
  variance <- which(at[, 1] == at[, 2])
  slope <- diag(1 / (sd[at[, 1]] * sd[at[, 2]]), nrow(at))
  own <- r[at] / 2
  first <- cbind(rows, variance[at[, 1]])
  second <- cbind(rows, variance[at[, 2]])
  slope[first] <- slope[first] - own / sd[at[, 1]]^2
  slope[second] <- slope[second] - own / sd[at[, 2]]^2
  slope[variance, ] <- 0
  kernel_product(kernel_product(slope, gamma), t(slope))
}

# Weight matrix of the likelihood at the implied covariances: the discrepancy is about e'We for residuals e.
core_likelihood_weight <- function(implied) {
  v <- chol2inv(chol(implied))
  at <- which(lower.tri(v, diag = TRUE), arr.ind = TRUE)
  share <- ifelse(at[, 1] == at[, 2], .5, 1)
  (v[at[, 1], at[, 1]] * v[at[, 2], at[, 2]] + v[at[, 1], at[, 2]] * v[at[, 2], at[, 1]]) * outer(share, share)
}

# What gamma says of a structure fitted by likelihood to moments: jacobian: elements x parameters (identified). list(slopes:
# parameters x elements, d estimate / d moment; first, second: trace of U Gamma and of its square; left: covariance matrix of the
# residuals, times n). NULL where the structure is not identified.
core_second_stage <- function(jacobian, implied, gamma, held = integer()) {
  w <- core_likelihood_weight(implied)
  weighted <- kernel_product(w, jacobian)
  bread <- core_inverse_information(crossprod(jacobian, weighted), held)
  if (is.null(bread)) {
    return(NULL)
  }
  slopes <- kernel_product(bread, t(weighted))
  apart <- diag(nrow(gamma)) - kernel_product(jacobian, slopes)
  left <- kernel_product(kernel_product(apart, gamma), t(apart))
  # U = W (I - jacobian slopes), and U Gamma U Gamma has the trace of (W left)^2.
  spread <- kernel_product(w, left)
  list(slopes = slopes, first = sum(diag(spread)), second = sum(spread * t(spread)), left = left)
}

# The chi-square n F of a second stage, adjusted by mean and variance so that it keeps its degrees of freedom (Asparouhov & Muthén, 2010);
# above 40 items by its mean alone (Yuan & Bentler, 2000), which takes far less. list(chi_square, scale: the mean's, by which gaps make moments
# less sure); NULL where the structure is not identified.
core_stage_test <- function(statistic, jacobian, implied, gamma, df) {
  if (nrow(gamma) <= 820) {
    stage <- core_stage_traces(jacobian, implied, gamma)
    return(if (!is.null(stage)) list(chi_square = core_adjusted_test(statistic, df, stage$first, stage$second)$chi_square, scale = stage$first / df))
  }
  scale <- core_stage_scale(jacobian, implied, gamma, df)
  if (!is.na(scale)) list(chi_square = statistic / scale, scale = scale)
}

# Traces of U Gamma and of its square, where U = W - W J (J'WJ)^-1 J'W: one large product instead of the four that slopes need.
core_stage_traces <- function(jacobian, implied, gamma) {
  w <- core_likelihood_weight(implied)
  weighted <- kernel_product(w, jacobian)
  bread <- core_inverse_information(kernel_product(t(jacobian), weighted))
  if (is.null(bread)) {
    return(NULL)
  }
  u_gamma <- kernel_product(w, gamma) - kernel_product(weighted, bread %*% kernel_product(t(weighted), gamma))
  list(first = sum(diag(u_gamma)), second = sum(u_gamma * t(u_gamma)))
}

# Trace of U Gamma over the degrees of freedom.
core_stage_scale <- function(jacobian, implied, gamma, df) {
  w <- core_likelihood_weight(implied)
  weighted <- kernel_product(w, jacobian)
  bread <- core_inverse_information(crossprod(jacobian, weighted))
  if (is.null(bread)) NA_real_ else (sum(w * gamma) - sum(bread * crossprod(weighted, kernel_product(gamma, weighted)))) / df
}

# Chi-square of unrelated items with covariances as correlations, divided by its mean: it is far from what the adjustment of the variance is for,
# which
# would make CFI and TLI too low.
core_stage_baseline <- function(r, n, gamma) {
  out <- core_baseline(r, n)
  out$chi_square <- out$chi_square / (sum(diag(gamma)) / out$df)
  out
}

# How many people answered both of each two items: the harmonic mean over pairs.
core_pair_count <- function(answers) {
  both <- crossprod(!is.na(answers))
  1 / mean(1 / both[lower.tri(both)])
}

# Standard error of a function that all covariances may be multiplied in without changing it (a reliability, a correlation), from gamma and the
# function's gradient, by central differences. covariance: with divisor n - 1.
core_delta_error <- function(of, covariance, gamma, n) {
  covariance <- covariance * (n - 1) / n
  rows <- lower.tri(covariance, diag = TRUE)
  at <- which(rows, arr.ind = TRUE)
  step <- 1e-4 * sqrt(diag(covariance)[at[, 1]] * diag(covariance)[at[, 2]])
  moved <- function(k, by) {
    covariance[at[k, 1], at[k, 2]] <- covariance[at[k, 1], at[k, 2]] + by
    covariance[at[k, 2], at[k, 1]] <- covariance[at[k, 1], at[k, 2]]
    of(covariance)
  }
  slope <- vapply(seq_len(nrow(at)), function(k) (moved(k, step[k]) - moved(k, -step[k])) / (2 * step[k]), of(covariance))
  slope <- matrix(slope, ncol = nrow(at))
  sqrt(pmax(rowSums((slope %*% gamma) * slope), 0) / n)
}

# Covariance matrices (divisor n - 1) as other samples would give them, drawn from the normal distribution that gamma says: p^2 x count. For
# intervals of what has no formula.
core_drawn_covariances <- function(covariance, gamma, n, count, random) {
  q <- nrow(gamma)
  root <- chol(gamma + diag(1e-10 * mean(diag(gamma)), q))
  moved <- matrix(random$normal(count * q), count) %*% root * sqrt(n) / (n - 1)
  lower <- covariance[lower.tri(covariance, diag = TRUE)]
  vapply(seq_len(count), function(i) as.vector(core_symmetric(lower + moved[i, ], ncol(covariance))), numeric(length(covariance)))
}

# The same of correlations, from gamma of their lower triangle (by column), each within 1.
core_drawn_correlations <- function(r, gamma, n, count, random) {
  q <- nrow(gamma)
  root <- chol(gamma + diag(1e-10 * mean(diag(gamma)), q))
  moved <- matrix(random$normal(count * q), count) %*% root / sqrt(n)
  vapply(seq_len(count), function(i) {
    out <- diag(ncol(r))
    out[lower.tri(out)] <- pmin(pmax(r[lower.tri(r)] + moved[i, ], -.9999), .9999)
    as.vector(out + t(out) - diag(ncol(r)))
  }, numeric(length(r)))
}

# list(gamma, sums): n times the covariance matrix of means and covariances (lower triangle with diagonal, by column) of the first `count` columns:
# from the observed information where `normal`, else from the influence of each case; and with clusters the sum of the influence in each. NULL where
# the information has no inverse.
core_moments_spread <- function(x, em, patterns, count, normal, weight = rep(1, nrow(x)), cluster = NULL) {
  p <- ncol(x)
  own <- seq_len(count)
  place <- matrix(0, p, p)
  place[lower.tri(place, diag = TRUE)] <- p + seq_len(p * (p + 1) / 2)
  at <- c(own, place[own, own][lower.tri(diag(count), diag = TRUE)])
  inverse <- core_inverse_information(kernel_saturated_hessian(patterns, unname(em$covariance), unname(em$mean)))
  if (is.null(inverse)) {
    return(NULL)
  }
  if (normal) {
    return(list(gamma = 2 * inverse[at, at]))
  }
  slopes <- weight * kernel_saturated_gradients(x, unname(em$covariance), unname(em$mean))
  influence <- -kernel_product(slopes, inverse)[, at, drop = FALSE]
  list(gamma = core_meat(influence, cluster), sums = if (!is.null(cluster)) rowsum(influence, cluster))
}

# The same of complete cases who come some at a time (see core_meats()), of these means and covariances (divisor n, by weight).
core_moments_spread_by_rows <- function(rows, mean, covariance, n, clustered) {
  influence <- function(x) complete_influence(x, mean, covariance)
  if (!clustered) {
    return(list(gamma = core_meats(rows, n)$whole(influence)))
  }
  sums <- core_sums_by_rows(rows, influence)
  list(gamma = core_meat_of_sums(sums, n), sums = sums)
}

# Influence of complete cases on means and covariances.
complete_influence <- function(x, mean, covariance) {
  at <- which(lower.tri(covariance, diag = TRUE), arr.ind = TRUE)
  d <- x - rep(mean, each = nrow(x))
  cbind(d, d[, at[, 1], drop = FALSE] * d[, at[, 2], drop = FALSE] - rep(covariance[at], each = nrow(x)))
}
