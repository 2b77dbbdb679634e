# Full information maximum likelihood from incomplete answers.

# The fit of a structure with intercepts: as core_fit_structure(), with `discrepancy` that of
# the likelihood from the saturated model's (whose moments are `em`), and `expected_hessian`
# the observed one. `log_likelihood` is whole, with its constant.
core_fit_incomplete <- function(cells, patterns, em, factors, start = core_structure_start(cells, em$covariance, factors, em$mean),
                                tolerance = 1e-13, max_iterations = 500L, threads = 0L) {
  out <- one_group(core_fit_incomplete_groups(cells, list(patterns), list(em), factors, start, tolerance, max_iterations, threads))
  out$saturated <- out$saturated[[1]]
  out
}

# patterns, em: one a group.
core_fit_incomplete_groups <- function(cells, patterns, em, factors, start, tolerance = 1e-13, max_iterations = 500L, threads = 0L) {
  out <- kernel_fit_incomplete(cells, length(em[[1]]$mean), factors, patterns, start, core_search(cells, tolerance, max_iterations), threads)
  size <- vapply(patterns, function(group) sum(vapply(group, `[[`, 0, "n")), 0)
  out$saturated <- mapply(function(group, moments) core_pattern_value(group, moments$covariance, moments$mean), patterns, em)
  out$minus_two <- out$discrepancy
  out$discrepancy <- out$minus_two - sum(size / sum(size) * out$saturated)
  out$expected_hessian <- out$observed_hessian
  out$log_likelihood <- -(sum(size) * out$minus_two + answers_seen(patterns) * log(2 * pi)) / 2
  out$n <- sum(size)
  out
}

answers_seen <- function(patterns) sum(vapply(patterns, function(group) sum(vapply(group, function(g) g$n * length(g$seen), 0)), 0))

# Minus twice the log-likelihood per case, without its constant, at any moments.
core_pattern_value <- function(patterns, covariance, mean) kernel_pattern_likelihood(patterns, covariance, mean)$value

# Chi-square of unrelated items against the saturated model, each item by its own answers.
core_incomplete_baseline <- function(x, saturated, weight = rep(1, nrow(x)), patterns = NULL) {
  if (is.null(x)) {
    return(pattern_baseline(patterns, saturated))
  }
  some <- rowSums(!is.na(x)) > 0
  x <- x[some, , drop = FALSE]
  weight <- weight[some]
  own <- apply(x, 2, function(column) {
    seen <- !is.na(column)
    own <- weight[seen]
    mean <- sum(own * column[seen]) / sum(own)
    sum(own) * (log(sum(own * (column[seen] - mean)^2) / sum(own)) + 1)
  })
  p <- ncol(x)
  list(chi_square = sum(own) - sum(weight) * saturated, df = p * (p - 1) / 2)
}

# The same from patterns alone.
pattern_baseline <- function(patterns, saturated) {
  own <- pattern_item_moments(patterns)
  p <- length(own$n)
  list(chi_square = sum(own$n * (log(own$variance) + 1)) - sum(vapply(patterns, `[[`, 0, "n")) * saturated, df = p * (p - 1) / 2)
}

# Of each of p items, by the cases that answered it: list(n, mean, variance with divisor n).
pattern_item_moments <- function(patterns, p = max(unlist(lapply(patterns, `[[`, "seen")))) {
  n <- sum <- squares <- numeric(p)
  for (one in patterns) {
    n[one$seen] <- n[one$seen] + one$n
    sum[one$seen] <- sum[one$seen] + one$n * one$mean
  }
  mean <- sum / n
  for (one in patterns) squares[one$seen] <- squares[one$seen] + one$n * (diag(as.matrix(one$covariance)) + (one$mean - mean[one$seen])^2)
  list(n = n, mean = mean, variance = squares / n)
}

# Test and errors that allow for answers that are not normal, from incomplete answers (Yuan &
# Bentler, 2000): list(scale, covariance, baseline_scale) as core_robust(). x: cases x items, each with an answer, or a function that goes
# through them (see core_meats()); scales are NA where the sample, by its outliers, has none; em: the
# saturated moments; hessian: the observed one, of the fit; weight: of mean one.
core_robust_incomplete <- function(x, patterns, em, cells, theta, factors, hessian, df, cluster = NULL, held = integer(), weight = NULL) {
  p <- length(em$mean)
  n <- sum(vapply(patterns, `[[`, 0, "n"))
  bread <- core_inverse_information(hessian, held)
  meat <- core_meats(x, n, cluster, weight)$whole(function(x) kernel_case_gradients(cells, p, factors, x, theta, 1L))
  saturated <- core_incomplete_saturated(x, patterns, em, cluster, weight)
  trace <- sum(bread * meat) / 2
  positive <- function(x) if (isTRUE(x > 0)) x else NA_real_
  list(
    scale = if (df > 0) positive((saturated - trace) / df) else 1, covariance = bread %*% meat %*% bread / n,
    baseline_scale = positive((saturated - baseline_trace(x, patterns, cluster, weight)) / (p * (p - 1) / 2))
  )
}

# Trace of inverse information times scores' spread, of the saturated model; NA where the information has no inverse.
core_incomplete_saturated <- function(x, patterns, em, cluster = NULL, weight = NULL) {
  bread <- core_inverse_information(kernel_saturated_hessian(patterns, em$covariance, em$mean))
  if (is.null(bread)) {
    return(NA_real_)
  }
  n <- sum(vapply(patterns, `[[`, 0, "n"))
  sum(bread * core_meats(x, n, cluster, weight)$whole(function(x) kernel_saturated_gradients(x, em$covariance, em$mean))) / 2
}

# The same of unrelated items, each with its own answers.
baseline_trace <- function(x, patterns, cluster = NULL, weight = NULL) {
  own <- pattern_item_moments(patterns)
  n <- sum(vapply(patterns, `[[`, 0, "n"))
  spread <- core_meats(x, n, cluster, weight)$diagonal(function(x) {
    d <- x - rep(own$mean, each = nrow(x))
    v <- rep(own$variance, each = nrow(x))
    scores <- cbind(-2 * d / v, (1 - d^2 / v) / v)
    scores[is.na(scores)] <- 0
    scores
  })
  sum(spread * n / own$n * c(own$variance / 2, own$variance^2)) / 2
}

# How scores spread over n cases: list(whole(score), diagonal(score)), the matrix of core_meat() and its diagonal, for score(cases x items), which
# gives a row a case. x: all cases, of which each may have a cluster and a weight; or, for cases that are too many at once, a function that goes
# through them and calls each(some cases, weight, cluster).
core_meats <- function(x, n, cluster = NULL, weight = NULL) {
  if (is.function(x)) {
    return(list(whole = function(score) meat_by_rows(x, n, score, kernel_crossproduct),
      diagonal = function(score) meat_by_rows(x, n, score, function(scores) colSums(scores^2))))
  }
  weighted <- function(scores) if (is.null(weight)) scores else weight * scores
  list(whole = function(score) core_meat(weighted(score(x)), cluster), diagonal = function(score) core_meat_diagonal(weighted(score(x)), cluster))
}

# squares(scores): what is summed, over people or over their clusters' sums.
meat_by_rows <- function(rows, n, score, squares) {
  total <- 0
  sums <- NULL
  each_scores(rows, score, function(scores, cluster) {
    if (is.null(cluster)) total <<- total + squares(scores) else sums <<- added_sums(sums, scores, cluster)
  })
  if (is.null(sums)) total / n else squares(sums) / n * nrow(sums) / (nrow(sums) - 1)
}

# Calls each(weighted scores, clusters) for some people at a time: the scores of a few at once are held.
each_scores <- function(rows, score, each) {
  rows(function(some, weight = NULL, cluster = NULL) {
    size <- max(256, floor(4e6 / (ncol(some) * (ncol(some) + 3))))
    for (piece in split(seq_len(nrow(some)), ceiling(seq_len(nrow(some)) / size))) {
      scores <- score(some[piece, , drop = FALSE])
      each(if (is.null(weight)) scores else weight[piece] * scores, cluster[piece])
    }
    NULL
  })
}

added_sums <- function(sums, scores, cluster) rowsum(rbind(sums, scores), c(rownames(sums), cluster))

# The scores' sums over the people of each cluster, whose names are the rows'.
core_sums_by_rows <- function(rows, score) {
  sums <- NULL
  each_scores(rows, score, function(scores, cluster) sums <<- added_sums(sums, scores, cluster))
  sums
}

# Mean of the scores' squares, over cases or summed over the cases of each cluster (with the
# factor C / (C - 1) for C clusters). scores: cases x parameters.
core_meat <- function(scores, cluster = NULL) {
  n <- nrow(scores)
  if (is.null(cluster)) {
    return(kernel_crossproduct(scores) / n)
  }
  core_meat_of_sums(rowsum(scores, cluster), n)
}

# The same of the sums of clusters with n cases in all.
core_meat_of_sums <- function(sums, n) kernel_crossproduct(sums) / n * nrow(sums) / (nrow(sums) - 1)
