# Test and standard errors that allow for answers that are not normal (Satorra & Bentler,
# 1994), for sampling weights and for cases that come in clusters (Muthén & Satorra, 1995).

# x: complete answers, cases x items; s: their covariances with divisor n, by `weight`;
# cells, theta: the fitted structure; hessian: its expected Hessian. weight: sampling weights
# of mean one; cluster: which cluster each case is from. list(scale, covariance): chi-square
# is to be divided by `scale`, the covariance matrix of the estimates is the sandwich. scale
# is 1 where df is 0.
core_robust <- function(x, s, implied, cells, theta, factors, hessian, df, weight = NULL, cluster = NULL, held = integer(), implied_mean = NULL) {
  n <- nrow(x)
  if (is.null(weight)) weight <- rep(1, n)
  centre <- colSums(weight * x) / n
  structured <- core_has_means(cells)
  # Scores of the discrepancy per case, twice minus log-likelihood, with each case's deviation from
  # the sample's means, as in the spread of the saturated moments below.
  at <- sweep(x, 2, if (structured) centre - implied_mean else centre)
  scores <- weight * kernel_case_gradients(cells, ncol(x), factors, at, theta, 1L)
  scores <- sweep(scores, 2, colMeans(scores))
  bread <- core_inverse_information(hessian, held)
  meat <- core_meat(scores, cluster)
  total <- core_saturated_trace(x, s, implied, weight, cluster, structured)
  list(
    scale = if (df > 0) (total - sum(bread * meat) / 2) / df else 1, covariance = bread %*% meat %*% bread / n
  )
}

# Trace of the weight matrix of the moments times their covariances: the mean over cases (or
# sums of clusters) of tr((inv(Sigma) (d d' - S))^2) / 2, and of d' inv(Sigma) d where means
# are structured.
core_saturated_trace <- function(x, s, implied, weight, cluster, means) {
  n <- nrow(x)
  d <- sweep(x, 2, colSums(weight * x) / n)
  inverse <- chol2inv(chol(implied))
  if (is.null(cluster)) {
    length <- rowSums((d %*% inverse) * d)
    cross <- rowSums((d %*% (inverse %*% s %*% inverse)) * d)
    own <- sum((inverse %*% s) * t(inverse %*% s))
    return(mean(weight^2 * (length^2 - 2 * cross + own)) / 2 + if (means) mean(weight^2 * length) else 0)
  }
  root <- chol(inverse)
  of_sums <- vapply(split(seq_len(n), cluster), function(rows) {
    near <- d[rows, , drop = FALSE] %*% t(root)
    sum_of <- crossprod(near, weight[rows] * near) - sum(weight[rows]) * root %*% s %*% t(root)
    sum(sum_of^2) / 2 + if (means) sum(colSums(weight[rows] * near)^2) else 0
  }, 0)
  count <- length(of_sums)
  sum(of_sums) / n * count / (count - 1)
}

# Scale of the baseline's chi-square: the same for unrelated items.
core_baseline_scale <- function(x, s, weight = NULL, cluster = NULL) {
  p <- ncol(s)
  own <- list2DF(list(part = rep(core_parts[["residual"]], p), row = seq_len(p), column = seq_len(p), free = seq_len(p), value = numeric(p)))
  core_robust(x, s, diag(diag(s)), own, diag(s), 1L, diag(1 / diag(s)^2), p * (p - 1) / 2, weight, cluster)$scale
}

# Covariances with divisor n, and means, of cases with weights of mean one.
core_weighted_covariance <- function(x, weight) {
  mean <- colSums(weight * x) / nrow(x)
  d <- sweep(x, 2, mean)
  list(mean = mean, covariance = crossprod(d, weight * d) / nrow(x))
}
