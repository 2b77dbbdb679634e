# Expected factor scores behind ordered answers: the mean of the factors given the answers, and its
# standard deviation, under normal factors and thresholds (Bock & Mislevy, 1982).

# codes: cases x items, categories from 1, NA where missing; thresholds: list by item; loading: p x
# m standardised; phi: correlations of factors; nodes: points x m, with weights. list(score, error),
# cases x m; NA without any answer.
core_expected_scores <- function(codes, thresholds, loading, phi, nodes, weights) {
  n <- nrow(codes)
  unique <- sqrt(pmax(1 - diag(loading %*% phi %*% t(loading)), 1e-6))
  middle <- nodes %*% t(loading)
  logs <- lapply(seq_along(thresholds), function(j) {
    upper <- vapply(c(thresholds[[j]], Inf), function(cut) stats::pnorm((cut - middle[, j]) / unique[j]), numeric(nrow(nodes)))
    shares <- upper - cbind(0, upper[, -ncol(upper), drop = FALSE])
    log(pmax(shares, 1e-300))
  })
  score <- error <- matrix(NA_real_, n, ncol(phi))
  for (rows in split(seq_len(n), ceiling(seq_len(n) / 200))) {
    total <- matrix(log(weights), length(rows), nrow(nodes), byrow = TRUE)
    for (j in seq_along(thresholds)) {
      seen <- which(!is.na(codes[rows, j]))
      total[seen, ] <- total[seen, ] + t(logs[[j]][, codes[rows[seen], j], drop = FALSE])
    }
    mass <- exp(total - apply(total, 1, max))
    mass <- mass / rowSums(mass)
    score[rows, ] <- mass %*% nodes
    error[rows, ] <- sqrt(pmax(mass %*% nodes^2 - score[rows, ]^2, 0))
  }
  none <- rowSums(!is.na(codes)) == 0
  score[none, ] <- error[none, ] <- NA
  list(score = score, error = error)
}

# Points of the factors' distribution with their weights: a grid for one or two factors, else
# `count` points of a low-discrepancy sequence (Halton, 1960).
core_score_nodes <- function(phi, count = 4000L) {
  m <- ncol(phi)
  root <- chol(phi)
  if (m <= 2) {
    line <- seq(-6, 6, length.out = if (m == 1) 121 else 49)
    grid <- as.matrix(expand.grid(rep(list(line), m)))
    weights <- apply(stats::dnorm(grid), 1, prod)
    return(list(nodes = grid %*% root, weights = weights / sum(weights)))
  }
  primes <- c(2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53)
  uniform <- vapply(primes[seq_len(m)], function(base) core_radical_inverse(seq_len(count) + 20, base), numeric(count))
  list(nodes = stats::qnorm(uniform) %*% root, weights = rep(1 / count, count))
}

# The digits of whole numbers, mirrored behind the point.
core_radical_inverse <- function(i, base) {
  out <- numeric(length(i))
  size <- 1 / base
  while (any(i > 0)) {
    out <- out + (i %% base) * size
    i <- i %/% base
    size <- size / base
  }
  out
}

# Standard deviation of score less factor, and the squared correlation of the two, for scores that
# are weighted sums of standardised answers.
core_score_error <- function(r, pattern, correlations, weights) {
  with_factor <- diag(crossprod(weights, pattern %*% correlations))
  variance <- diag(crossprod(weights, r %*% weights))
  list(error = sqrt(pmax(variance + 1 - 2 * with_factor, 0)), reliability = with_factor^2 / variance)
}
