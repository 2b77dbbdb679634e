# Answers to be expected of people who left some out, from what they did answer (normal answers).

# x: cases x items; mean, covariance: of the items; member: items x scores, the weight of each item in each score. list(filled: x with the
# conditional mean in each gap, NA for people without any answer; error: cases x scores, standard deviation of what the gaps leave open).
core_expected_answers <- function(x, mean, covariance, member) {
  patterns <- core_patterns(x)
  error <- matrix(0, nrow(x), ncol(member), dimnames = list(NULL, colnames(member)))
  for (k in seq_along(patterns$n)) {
    gap <- which(patterns$missing[k, ])
    seen <- which(!patterns$missing[k, ])
    rows <- which(patterns$of == k)
    if (length(gap) == 0) next
    if (length(seen) == 0) {
      error[rows, ] <- NA_real_
      next
    }
    weights <- t(solve(covariance[seen, seen, drop = FALSE], covariance[seen, gap, drop = FALSE]))
    x[rows, gap] <- rep(mean[gap], each = length(rows)) + sweep(x[rows, seen, drop = FALSE], 2, mean[seen]) %*% t(weights)
    left <- covariance[gap, gap, drop = FALSE] - weights %*% covariance[seen, gap, drop = FALSE]
    own <- member[gap, , drop = FALSE]
    error[rows, ] <- rep(sqrt(pmax(colSums(own * (left %*% own)), 0)), each = length(rows))
  }
  list(filled = x, error = error)
}
