# Means of many groups without exact invariance: each group's factor mean and variance are chosen
# so that most loadings and intercepts agree and the rest may differ much (Asparouhov & Muthén, 2014).

# loading, intercept: groups x items, of one factor with mean 0 and variance 1 in each group; n:
# cases. list(status, mean, sd: of each group, the first one 0 and 1; loading, intercept: aligned;
# loss: items x 2, contributions; value).
core_align <- function(loading, intercept, n, epsilon = .01) {
  groups <- nrow(loading)
  pairs <- utils::combn(groups, 2)
  weight <- sqrt(n[pairs[1, ]] * n[pairs[2, ]]) / mean(n)
  at <- function(a) alignment_loss(a, loading, intercept, pairs, weight, epsilon)
  # From the moments of the first group's items, and from all alike.
  slope <- rowMeans(loading) / mean(loading[1, ])
  level <- rowMeans(sweep(intercept, 2, intercept[1, ]) / loading) * slope
  starts <- list(c(level[-1], log(slope[-1])), numeric(2 * (groups - 1)), c(level[-1] / 2, log(slope[-1]) / 2))
  found <- lapply(starts, function(start) {
    stats::nlminb(start, function(a) at(a)$value, function(a) at(a)$slope, control = list(iter.max = 1000, eval.max = 2000, rel.tol = 1e-14))
  })
  best <- found[[which.min(vapply(found, `[[`, 0, "objective"))]]
  out <- at(best$par)
  list(
    status = if (best$convergence == 0 || max(abs(out$slope)) < 1e-5) "ok" else "not_converged", par = best$par, mean = c(0, best$par[seq_len(groups -
      1)]), sd = exp(c(0, best$par[-seq_len(groups - 1)])), loading = out$loading, intercept = out$intercept, loss = out$loss, value = out$value
  )
}

# a: means of the groups but the first, then logarithms of standard deviations.
alignment_loss <- function(a, loading, intercept, pairs, weight, epsilon) {
  groups <- nrow(loading)
  mean <- c(0, a[seq_len(groups - 1)])
  sd <- exp(c(0, a[-seq_len(groups - 1)]))
  l <- loading / sd
  v <- intercept - mean * l
  part <- function(x) {
    d <- x[pairs[1, ], , drop = FALSE] - x[pairs[2, ], , drop = FALSE]
    f <- (d^2 + epsilon)^.25
    push <- weight * d / (2 * f^3)
    of <- rowsum(rbind(push, -push), c(pairs[1, ], pairs[2, ]))
    list(loss = colSums(weight * f), slope = of)
  }
  of_l <- part(l)
  of_v <- part(v)
  by_mean <- -rowSums(of_v$slope * l)
  by_log <- -rowSums(of_l$slope * l) + mean * rowSums(of_v$slope * l)
  list(
    value = sum(of_l$loss) + sum(of_v$loss), slope = c(by_mean[-1], by_log[-1]), loading = l, intercept = v, loss = cbind(of_l$loss, of_v$loss)
  )
}

# Covariances of the aligned means and log standard deviations, when `covariance` is that of the
# loadings (groups x items, by column) followed by the intercepts: by the delta method.
core_align_covariance <- function(par, loading, intercept, n, covariance, epsilon = .01) {
  groups <- nrow(loading)
  pairs <- utils::combn(groups, 2)
  weight <- sqrt(n[pairs[1, ]] * n[pairs[2, ]]) / mean(n)
  slope <- function(a, x) {
    half <- seq_along(loading)
    alignment_loss(a, matrix(x[half], groups), matrix(x[-half], groups), pairs, weight, epsilon)$slope
  }
  x <- c(loading, intercept)
  derive <- function(f, at) {
   vapply(seq_along(at), function(k) {
      step <- replace(numeric(length(at)), k, 1e-5)
      (f(at + step) - f(at - step)) / 2e-5
    }, numeric(length(par)))
 }
  bend <- derive(function(a) slope(a, x), par)
  through <- tryCatch(-solve(bend, derive(function(x) slope(par, x), x)), error = function(e) NULL)
  if (is.null(through)) matrix(NA_real_, length(par), length(par)) else through %*% covariance %*% t(through)
}
