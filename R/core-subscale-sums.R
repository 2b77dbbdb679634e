# Reliability of sums of subscales, and tests between alphas.

# Reliability of a weighted sum of scores (Mosier, 1943), given their covariances
# and reliabilities: 1 - sum w^2 var (1 - rel) / w'Cw. With weights 1 it is
# stratified alpha (Rajaratnam, Cronbach & Gleser, 1965); with 1 and -1 the
# reliability of a difference.
core_weighted_sum_reliability <- function(covariance, reliability, weight = rep(1, ncol(covariance))) {
  1 - sum(weight^2 * diag(covariance) * (1 - reliability)) / drop(weight %*% covariance %*% weight)
}

# Items needed for a reliability of `target`, by Spearman-Brown; NA where none do.
core_items_needed <- function(k, reliability, target) {
  if (is.na(reliability) || reliability <= 0) {
    return(NA_real_)
  }
  ceiling(k * target * (1 - reliability) / (reliability * (1 - target)) - 1e-9)
}

# The best subset of items of each length by alpha: all subsets up to 15 items, above
# that by leaving out one item at a time. data frame(items, alpha, kept), or NULL with
# fewer than three items.
core_short_forms <- function(s) {
  k <- ncol(s)
  if (k < 3 || !is.finite(sum(s))) {
    return(NULL)
  }
  row <- function(set, alpha) data.frame(items = sum(set), alpha = alpha, kept = paste(colnames(s)[set], collapse = " "))
  if (k <= 15) {
    sets <- as.matrix(expand.grid(rep(list(c(FALSE, TRUE)), k)))
    size <- rowSums(sets)
    sets <- sets[size >= 2, , drop = FALSE]
    size <- size[size >= 2]
    total <- rowSums((sets %*% s) * sets)
    alpha <- size / (size - 1) * (1 - as.vector(sets %*% diag(s)) / total)
    best <- vapply(2:k, function(m) which(size == m)[which.max(alpha[size == m])], 1L)
    return(do.call(rbind, lapply(rev(best), function(i) row(sets[i, ], alpha[i]))))
  }
  set <- rep(TRUE, k)
  out <- list(row(set, core_alpha(s)))
  while (sum(set) > 2) {
    at <- which(set)
    without <- vapply(at, function(j) core_alpha(s[setdiff(at, j), setdiff(at, j)]), 0)
    set[at[which.max(without)]] <- FALSE
    out <- c(out, list(row(set, max(without))))
  }
  do.call(rbind, out)
}

# Are alphas of independent groups equal? Two: Feldt (1969), (1 - a1) / (1 - a2)
# as F, two-sided, with (n - 1)(k - 1) / k df for each group, which gives ln(1 - a)
# the variance that it has (Bonett, 2002). More: Hakstian & Whalen (1976): the
# weighted spread of (1 - a)^(-1/3), whose variance is 2 / (9 n' (1 - a)^(2/3)) with
# n' = n (k - 1) / (k + 1), chi-square on groups - 1 df.
core_compare_alphas <- function(alpha, n, k) {
  if (length(alpha) == 2) {
    ratio <- (1 - alpha[1]) / (1 - alpha[2])
    df <- (n - 1) * (k - 1) / k
    lower <- stats::pf(ratio, df[2], df[1])
    return(list(statistic = ratio, df = df[2], df2 = df[1], p = 2 * min(lower, 1 - lower)))
  }
  m <- (1 - alpha)^(-1 / 3)
  adjusted <- n * (k - 1) / (k + 1)
  weight <- 9 * adjusted * (1 - alpha)^(2 / 3) / 2
  centre <- sum(weight * m) / sum(weight)
  statistic <- sum(weight * (m - centre)^2)
  list(statistic = statistic, df = length(alpha) - 1, df2 = NA_real_, p = core_chi_square_p(statistic, length(alpha) - 1))
}

# Are alphas of two subscales answered by the same n people equal? Feldt (1980): t
# on n - 2 df, r the correlation of the two totals.
core_compare_dependent <- function(alpha1, alpha2, r, n) {
  t <- (alpha1 - alpha2) * sqrt(n - 2) / sqrt(4 * (1 - alpha1) * (1 - alpha2) * (1 - r^2))
  list(statistic = t, df = n - 2, p = 2 * stats::pt(-abs(t), n - 2))
}
