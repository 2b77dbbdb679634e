# Scores against a distribution, and what a score's error does to decisions.

# Share of the reference below each value plus half of that at it, times 100; weight: of the reference.
core_percentile_rank <- function(x, reference, weight = rep(1, length(reference))) {
  order <- order(reference, na.last = NA)
  reference <- reference[order]
  share <- c(0, cumsum(weight[order])) / sum(weight[order])
  below <- share[findInterval(x, reference, left.open = TRUE) + 1]
  upto <- share[findInterval(x, reference) + 1]
  ifelse(is.na(x), NA_real_, 100 * (below + upto) / 2)
}

# 1 to 9, in steps of half a standard deviation of a normal distribution.
core_stanine <- function(percentile) {
  edges <- 100 * stats::pnorm(seq(-1.75, 1.75, by = .5))
  ifelse(is.na(percentile), NA_real_, findInterval(percentile, edges) + 1)
}

# Consistency of pass and fail over two equivalent forms, normal scores with that reliability
# (Peng & Subkoviak, 1980): list(share, kappa), and accuracy against the true score.
core_decision_consistency <- function(cut, mean, sd, reliability) {
  z <- (cut - mean) / sd
  fail <- stats::pnorm(z)
  agree <- function(r) 1 - 2 * (fail - core_bivariate_normal(z, z, r))
  chance <- fail^2 + (1 - fail)^2
  true <- z / sqrt(reliability)
  both <- core_bivariate_normal(z, true, sqrt(reliability))
  share <- agree(reliability)
  list(share = share, kappa = (share - chance) / (1 - chance), accuracy = 1 - fail - stats::pnorm(true) + 2 * both)
}
