# People in groups: how alike they are, and covariances within and between groups.

# Analysis of variance of every two items over the cases that answered both (one-way, unequal groups): list(within: pooled
# covariances, between: covariances of the groups' true means, (MS between - MS within) / n0, icc: of each item, size: mean number of
# people weighted by group size, groups, n). x: cases x items; cluster: of each case. NA where no group has two people.
core_two_levels <- function(x, cluster) {
  of <- match(cluster, unique(cluster))
  p <- ncol(x)
  seen <- !is.na(x)
  filled <- replace(x, !seen, 0)
  within <- between <- matrix(NA_real_, p, p, dimnames = list(colnames(x), colnames(x)))
  for (j in seq_len(p)) {
    for (k in seq_len(j)) {
      both <- seen[, j] & seen[, k]
      found <- level_products(filled[both, j], filled[both, k], of[both])
      within[j, k] <- within[k, j] <- found[["within"]]
      between[j, k] <- between[k, j] <- found[["between"]]
    }
  }
  counts <- tabulate(of)
  share <- pmax(diag(between), 0) / (pmax(diag(between), 0) + diag(within))
  list(within = within, between = between, icc = share, size = sum(counts^2) / sum(counts), groups = length(counts), n = nrow(x))
}

level_products <- function(a, b, of) {
  of <- match(of, unique(of))
  counts <- tabulate(of)
  n <- length(a)
  groups <- length(counts)
  if (groups < 2 || n <= groups) {
    return(c(within = NA_real_, between = NA_real_))
  }
  mean_a <- rowsum(a, of)[, 1] / counts
  mean_b <- rowsum(b, of)[, 1] / counts
  within <- sum((a - mean_a[of]) * (b - mean_b[of])) / (n - groups)
  across <- sum(counts * (mean_a - mean(a)) * (mean_b - mean(b))) / (groups - 1)
  c(within = within, between = (across - within) / ((n - sum(counts^2) / n) / (groups - 1)))
}

# By how much a mean of people in groups is less sure than one of as many people apart (Kish, 1965).
core_design_effect <- function(icc, size) 1 + (size - 1) * icc

# By how much unequal weights make a mean less sure (Kish, 1965): n over the effective number of people.
core_weight_effect <- function(weight) length(weight) * sum(weight^2) / sum(weight)^2

# Alpha and omega within and between groups (Geldhof, Preacher & Zyphur, 2014), NA where a matrix gives none.
core_level_coefficients <- function(levels) {
  known <- function(s) !anyNA(s) && all(diag(s) > 0)
  of <- function(s, n) {
    if (!known(s)) {
      return(c(alpha = NA_real_, omega = NA_real_))
    }
    found <- core_omega(s, n)
    c(alpha = core_alpha(s), omega = if (identical(found$status, "ok") && !found$bound) found$omega else NA_real_)
  }
  rbind(within = of(levels$within, levels$n - levels$groups), between = of(levels$between, levels$groups))
}

# The same left out of one part of the clusters after another, for their errors (the jackknife; Tukey, 1958): list(low, high), matrices as
# above, on the scale of log(1 - value). parts: number of parts the clusters are joined to.
core_level_intervals <- function(x, cluster, estimate, level, parts, random) {
  of <- match(cluster, unique(cluster))
  parts <- min(parts, max(of))
  part <- random$sample(rep_len(seq_len(parts), max(of)))[of]
  drawn <- vapply(seq_len(parts), function(g) as.vector(core_level_coefficients(core_two_levels(x[part != g, , drop = FALSE], of[part != g]))),
    numeric(4))
  moved <- log(pmax(1 - drawn, 1e-6))
  error <- sqrt((parts - 1) / parts * rowSums((moved - rowMeans(moved))^2))
  width <- stats::qt((1 + level) / 2, parts - 1) * matrix(error, 2)
  list(low = 1 - (1 - estimate) * exp(width), high = 1 - (1 - estimate) * exp(-width))
}
