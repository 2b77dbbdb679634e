# The EM algorithm as books write it: fill in what is missing, case by case, and average.

slow_em <- function(x, steps = 400) {
  x <- x[rowSums(!is.na(x)) > 0, , drop = FALSE]
  p <- ncol(x)
  mean <- colMeans(x, na.rm = TRUE)
  covariance <- diag(apply(x, 2, var, na.rm = TRUE), p)
  for (step in seq_len(steps)) {
    total <- numeric(p)
    products <- matrix(0, p, p)
    for (i in seq_len(nrow(x))) {
      lost <- which(is.na(x[i, ]))
      seen <- setdiff(seq_len(p), lost)
      row <- x[i, ]
      left <- matrix(0, p, p)
      if (length(lost) > 0) {
        slope <- covariance[lost, seen, drop = FALSE] %*% solve(covariance[seen, seen, drop = FALSE])
        row[lost] <- mean[lost] + slope %*% (row[seen] - mean[seen])
        left[lost, lost] <- covariance[lost, lost] - slope %*% covariance[seen, lost, drop = FALSE]
      }
      total <- total + row
      products <- products + tcrossprod(row) + left
    }
    mean <- total / nrow(x)
    covariance <- products / nrow(x) - tcrossprod(mean)
  }
  list(mean = mean, covariance = covariance)
}
