# Test and standard errors that allow for answers that are not normal (Satorra & Bentler,
# 1994).

# x: complete answers, cases x items; cells, theta: the fitted structure; hessian: its
# expected Hessian. list(scale, covariance): chi-square is to be divided by `scale`, the
# covariance matrix of the estimates is the sandwich. scale is 1 where df is 0.
core_robust <- function(x, s, implied, cells, matrices, hessian, df) {
  n <- nrow(x)
  d <- sweep(x, 2, colMeans(x))
  inverse <- chol2inv(chol(implied))
  y <- d %*% inverse
  scores <- case_slopes(y, cells, matrices)
  scores <- sweep(scores, 2, colMeans(scores))
  information <- hessian / 2
  meat <- crossprod(scores) / n
  bread <- solve(information)
  # mean of half tr((Sigma^-1 (d d' - S))^2)
  length <- rowSums(y * d)
  middle <- inverse %*% s %*% inverse
  cross <- rowSums((d %*% middle) * d)
  total <- mean((length^2 - 2 * cross) / 2) + sum((inverse %*% s) * t(inverse %*% s)) / 2
  list(
    scale = if (df > 0) (total - sum(bread * t(meat))) / df else 1, covariance = bread %*% meat %*% bread / n
  )
}

# Half of y' (d Sigma / d theta_k) y for every case and free parameter.
case_slopes <- function(y, cells, matrices) {
  m <- ncol(matrices$loading)
  inverse <- solve(diag(m) - matrices$path)
  reach <- matrices$loading %*% inverse
  pull <- reach %*% matrices$factor %*% t(inverse)
  through_reach <- y %*% reach
  through_pull <- y %*% pull
  out <- matrix(0, nrow(y), max(cells$free))
  for (i in which(cells$free > 0)) {
    row <- cells$row[i]
    column <- cells$column[i]
    one <- switch(names(core_parts)[cells$part[i] + 1L],
      loading = y[, row] * through_pull[, column], path = through_reach[, row] * through_pull[, column],
      factor = through_reach[, row] * through_reach[, column], residual = y[, row] * y[, column]
    )
    if (row == column && cells$part[i] %in% core_parts[c("factor", "residual")]) one <- one / 2
    out[, cells$free[i]] <- out[, cells$free[i]] + one
  }
  out
}

# Scale of the baseline's chi-square: the same for unrelated items.
core_baseline_scale <- function(x, s) {
  p <- ncol(s)
  cells <- data.frame(part = core_parts[["residual"]], row = seq_len(p), column = seq_len(p), free = seq_len(p), value = 0)
  matrices <- list(loading = matrix(0, p, 1), factor = matrix(1), residual = diag(diag(s)), path = matrix(0))
  core_robust(x, s, diag(diag(s)), cells, matrices, diag(1 / diag(s)^2), p * (p - 1) / 2)$scale
}
