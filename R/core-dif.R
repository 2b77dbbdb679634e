# Differential item functioning: does an item work the same in groups of the same
# score?

# Each function takes people, or counts of people: n is how many each element of the
# others stands for.

# Mantel-Haenszel statistics of a 0/1 item (Mantel & Haenszel, 1959). item: 0/1;
# focal: TRUE for the focal group; stratum: matching score. list(odds_ratio,
# statistic, p, delta, delta_se, strata): the common odds ratio of the reference
# group over the focal one, the continuity-corrected chi-square on 1 df, and
# delta = -2.35 ln(odds ratio) (Holland & Thayer, 1988) with its standard error
# (Phillips & Holland, 1987). Strata with only one group or only one answer carry
# nothing and drop out.
core_mantel_haenszel <- function(item, focal, stratum, n = rep(1, length(item))) {
  cell <- function(which) rowsum(n * which, stratum)[, 1]
  a <- cell(!focal & item == 1)
  b <- cell(!focal & item == 0)
  c <- cell(focal & item == 1)
  d <- cell(focal & item == 0)
  use <- (a + b) > 0 & (c + d) > 0 & (a + c) > 0 & (b + d) > 0
  none <- list(odds_ratio = NA_real_, statistic = NA_real_, p = NA_real_, delta = NA_real_, delta_se = NA_real_, strata = sum(use))
  if (!any(use)) {
    return(none)
  }
  a <- a[use]
  b <- b[use]
  c <- c[use]
  d <- d[use]
  n <- a + b + c + d
  r <- sum(a * d / n)
  s <- sum(b * c / n)
  expected <- (a + b) * (a + c) / n
  variance <- sum((a + b) * (c + d) * (a + c) * (b + d) / (n^2 * (n - 1)))
  statistic <- max(abs(sum(a - expected)) - 0.5, 0)^2 / variance
  ratio <- r / s
  log_variance <- sum((a * d + ratio * b * c) * (a + d + ratio * (b + c)) / n^2) / (2 * r^2)
  list(
    odds_ratio = ratio, statistic = statistic, p = core_chi_square_p(statistic, 1),
    delta = -2.35 * log(ratio), delta_se = 2.35 * sqrt(log_variance), strata = sum(use)
  )
}

# Mantel's (1963) test of an ordered item: the focal group's sum of answers
# against what the strata lead to expect, chi-square on 1 df, and the standardised
# mean difference (Dorans & Schmitt, 1991), focal less reference, over the answers'
# standard deviation. list(statistic, p, difference, strata).
core_mantel <- function(item, focal, stratum, n = rep(1, length(item))) {
  # Answers from their mean: sums of squares keep their digits.
  away <- item - sum(n * item) / sum(n)
  by <- rowsum(cbind(people = n, focal = n * focal, sum = n * away, squares = n * away^2, own = n * away * focal), stratum)
  varies <- tapply(item, stratum, function(x) any(x != x[1]))
  by <- by[by[, "focal"] > 0 & by[, "focal"] < by[, "people"] & varies[rownames(by)], , drop = FALSE]
  if (nrow(by) == 0) {
    return(list(statistic = NA_real_, p = NA_real_, difference = NA_real_, strata = 0L))
  }
  size <- by[, "people"]
  own <- by[, "focal"]
  variance <- own * (size - own) * (size * by[, "squares"] - by[, "sum"]^2) / (size^2 * (size - 1))
  statistic <- sum(by[, "own"] - own * by[, "sum"] / size)^2 / sum(variance)
  list(
    statistic = statistic, p = core_chi_square_p(statistic, 1),
    difference = core_matched_difference(item, focal, stratum, n), strata = nrow(by)
  )
}

# Mean answer of the focal group less what the reference group of the same scores
# answers, over the standard deviation of all answers. Strata without one of the
# groups drop out.
core_matched_difference <- function(item, focal, stratum, n = rep(1, length(item))) {
  people <- cbind(n * focal, n * !focal)
  size <- rowsum(people, stratum)
  answers <- rowsum(people * item, stratum) / size
  use <- size[, 1] > 0 & size[, 2] > 0
  if (!any(use)) {
    return(NA_real_)
  }
  gap <- answers[use, 1] - answers[use, 2]
  spread <- sqrt(sum(n * (item - sum(n * item) / sum(n))^2) / (sum(n) - 1))
  sum(size[use, 1] * gap) / sum(size[use, 1]) / spread
}

# The generalised test for any number of groups and unordered options (Mantel &
# Haenszel, 1959; Landis, Heyman & Koch, 1978): observed less expected counts over
# strata, a quadratic form on (groups - 1)(options - 1) df.
core_general_association <- function(item, group, stratum, n = rep(1, length(item))) {
  cells <- tapply(n, list(group, item, stratum), sum, default = 0)
  rows <- seq_len(dim(cells)[1] - 1)
  columns <- seq_len(dim(cells)[2] - 1)
  df <- length(rows) * length(columns)
  none <- list(statistic = NA_real_, df = df, p = NA_real_)
  if (df == 0) {
    return(none)
  }
  total <- numeric(df)
  variance <- matrix(0, df, df)
  for (s in seq_len(dim(cells)[3])) {
    counts <- cells[, , s]
    size <- sum(counts)
    if (size < 2) next
    by_group <- rowSums(counts) / size
    by_item <- colSums(counts) / size
    total <- total + as.vector((counts - size * outer(by_group, by_item))[rows, columns])
    spread <- function(share, keep) (diag(share, length(share)) - tcrossprod(share))[keep, keep, drop = FALSE]
    variance <- variance + size^2 / (size - 1) * kronecker(spread(by_item, columns), spread(by_group, rows))
  }
  decomposed <- qr(variance)
  if (decomposed$rank < df) {
    return(none)
  }
  statistic <- sum(total * solve(decomposed, total))
  list(statistic = statistic, df = df, p = core_chi_square_p(statistic, df))
}

# Maximum likelihood of the proportional-odds model (McCullagh, 1980) P(y <= k) =
# logistic(t_k - x b), which for two options is logistic regression, by Newton's method: the likelihood is concave in t and b
# (Pratt, 1981). y: whole numbers 1..K, each seen. x: rows x q without constant; n: how many people each row stands for. list(status,
# log_likelihood, coefficients).
core_proportional_odds <- function(y, x, n = rep(1, length(y)), tolerance = 1e-12) {
  k <- max(y)
  total <- sum(n)
  x <- x - rep(colSums(n * x) / total, each = nrow(x))
  sd <- sqrt(colSums(n * x^2) / (total - 1))
  x <- x / rep(ifelse(sd > 0, sd, 1), each = nrow(x))
  shares <- cumsum(rowsum(n, factor(y, seq_len(k)))[, 1])[-k] / total
  theta <- c(stats::qlogis(shares), numeric(ncol(x)))
  upper <- cbind(outer(y, seq_len(k - 1), `==`) + 0, -x)
  lower <- cbind(outer(y - 1, seq_len(k - 1), `==`) + 0, -x)
  at <- odds_likelihood(theta, y, upper, lower, n)
  for (step in 1:100) {
    move <- qr.coef(qr(at$information), at$gradient)
    move[is.na(move)] <- 0
    if (sum(move * at$gradient) < tolerance * total) {
      return(list(status = "ok", log_likelihood = at$value, coefficients = theta[k - 1 + seq_len(ncol(x))] / sd))
    }
    shorter <- 1
    while ((new <- odds_likelihood(theta + shorter * move, y, upper, lower, n))$value < at$value && shorter > 1e-8) shorter <- shorter / 2
    if (new$value < at$value) break
    theta <- theta + shorter * move
    at <- new
  }
  list(status = "not_converged", log_likelihood = at$value, coefficients = theta[k - 1 + seq_len(ncol(x))] / sd)
}

# Log-likelihood at thresholds and slopes, -Inf where the thresholds are out of order, its gradient, and the negative of its second derivatives.
# upper, lower: how the two ends of each row's interval follow from theta, but for the outer ones, which lie at infinity.
odds_likelihood <- function(theta, y, upper, lower, n) {
  k <- max(y)
  end <- ifelse(y == k, Inf, upper %*% theta)
  start <- ifelse(y == 1, -Inf, lower %*% theta)
  # The smaller tails keep their digits.
  turned <- start > 0
  p <- ifelse(turned, stats::plogis(-start) - stats::plogis(-end), stats::plogis(end) - stats::plogis(start))
  if (any(!(p > 0))) {
    return(list(value = -Inf))
  }
  slope_end <- stats::dlogis(end) / p
  slope_start <- -stats::dlogis(start) / p
  curve <- function(slope, at) slope * (1 - 2 * stats::plogis(at)) - slope^2
  both <- -slope_end * slope_start
  cross <- crossprod(upper, n * both * lower)
  list(
    value = sum(n * log(p)), gradient = drop(crossprod(upper, n * slope_end) + crossprod(lower, n * slope_start)),
    information = -(crossprod(upper, n * curve(slope_end, end) * upper) + crossprod(lower, n * curve(slope_start, start) * lower) +
      cross + t(cross))
  )
}

# Likelihood-ratio tests by the proportional-odds model (Zumbo, 1999): the answer
# by score; by score and group (uniform); by score, group and their product
# (non-uniform); and the rise of Nagelkerke's R squared from the first to the last. slope_ratio: the least slope over the largest among
# the groups, at least 0; flattest: the group that has it.
core_logistic_dif <- function(item, group, score, n = rep(1, length(item))) {
  y <- match(item, sort(unique(item)))
  levels <- sort(unique(group))
  dummies <- outer(group, levels[-1], `==`) + 0
  odds <- function(x) core_proportional_odds(y, x, n)
  fits <- list(
    none = odds(matrix(0, length(y), 0)), score = odds(cbind(score)), uniform = odds(cbind(score, dummies)),
    all = odds(cbind(score, dummies, score * dummies))
  )
  ok <- all(vapply(fits, function(f) f$status == "ok", TRUE))
  likelihood <- vapply(fits, `[[`, 0, "log_likelihood")
  r2 <- (1 - exp(2 * (likelihood[["none"]] - likelihood) / sum(n))) / (1 - exp(2 * likelihood[["none"]] / sum(n)))
  test <- function(small, large) max(2 * (likelihood[[large]] - likelihood[[small]]), 0)
  df <- ncol(dummies)
  # How steeply answers rise with the score in each group.
  slopes <- fits$all$coefficients[1] + c(0, fits$all$coefficients[1 + df + seq_len(df)])
  tail <- function(statistic) if (ok) core_chi_square_p(statistic, df) else NA_real_
  list(
    uniform = test("score", "uniform"), nonuniform = test("uniform", "all"), df = df,
    p_uniform = tail(test("score", "uniform")), p_nonuniform = tail(test("uniform", "all")),
    r2_change = if (ok) r2[["all"]] - r2[["score"]] else NA_real_, slope_ratio = if (ok && max(slopes) > 0) max(min(slopes) / max(slopes), 0) else
      NA_real_, flattest = levels[which.min(slopes)]
  )
}

# Standard error of the mean difference of people with the same score, in standard deviations of the item: two groups, and what
# the score leaves of the item's variance.
core_matched_error <- function(item, score, focal, n = rep(1, length(item))) {
  left <- 1 - stats::cov.wt(cbind(item, score), n / sum(n), cor = TRUE)$cor[1, 2]^2
  sqrt((1 / sum(n[focal]) + 1 / sum(n[!focal])) * left)
}

# Power of a two-sided test at `level` to see a difference of `size` whose standard error is `error`.
core_dif_power <- function(error, size, level) {
  edge <- core_normal_edge(1 - level)
  stats::pnorm(size / error - edge) + stats::pnorm(-size / error - edge)
}
