# Differential item functioning: does an item work the same in groups of the same
# score?

# Mantel-Haenszel statistics of a 0/1 item (Mantel & Haenszel, 1959). item: 0/1;
# focal: TRUE for the focal group; stratum: matching score. list(odds_ratio,
# statistic, p, delta, delta_se, strata): the common odds ratio of the reference
# group over the focal one, the continuity-corrected chi-square on 1 df, and
# delta = -2.35 ln(odds ratio) (Holland & Thayer, 1988) with its standard error
# (Phillips & Holland, 1987). Strata with only one group or only one answer carry
# nothing and drop out.
core_mantel_haenszel <- function(item, focal, stratum) {
  cell <- function(which) as.numeric(table(factor(stratum[which], sort(unique(stratum)))))
  a <- cell(!focal & item == 1)
  b <- cell(!focal & item == 0)
  c <- cell(focal & item == 1)
  d <- cell(focal & item == 0)
  n <- a + b + c + d
  use <- (a + b) > 0 & (c + d) > 0 & (a + c) > 0 & (b + d) > 0
  none <- list(odds_ratio = NA_real_, statistic = NA_real_, p = NA_real_, delta = NA_real_, delta_se = NA_real_, strata = sum(use))
  if (!any(use)) {
    return(none)
  }
  a <- a[use]
  b <- b[use]
  c <- c[use]
  d <- d[use]
  n <- n[use]
  r <- sum(a * d / n)
  s <- sum(b * c / n)
  expected <- (a + b) * (a + c) / n
  variance <- sum((a + b) * (c + d) * (a + c) * (b + d) / (n^2 * (n - 1)))
  statistic <- max(abs(sum(a - expected)) - 0.5, 0)^2 / variance
  ratio <- r / s
  log_variance <- sum((a * d + ratio * b * c) * (a + d + ratio * (b + c)) / n^2) / (2 * r^2)
  list(
    odds_ratio = ratio, statistic = statistic, p = stats::pchisq(statistic, 1, lower.tail = FALSE),
    delta = -2.35 * log(ratio), delta_se = 2.35 * sqrt(log_variance), strata = sum(use)
  )
}

# Mantel's (1963) test of an ordered item: the focal group's sum of answers
# against what the strata lead to expect, chi-square on 1 df, and the standardised
# mean difference (Dorans & Schmitt, 1991), focal less reference, over the answers'
# standard deviation. list(statistic, p, difference, strata).
core_mantel <- function(item, focal, stratum) {
  by <- split(data.frame(item, focal), stratum)
  by <- Filter(function(s) any(s$focal) && !all(s$focal) && length(unique(s$item)) > 1, by)
  if (length(by) == 0) {
    return(list(statistic = NA_real_, p = NA_real_, difference = NA_real_, strata = 0L))
  }
  parts <- vapply(by, function(s) {
    n <- nrow(s)
    nf <- sum(s$focal)
    c(
      sum(s$item[s$focal]), nf * mean(s$item),
      nf * (n - nf) * (n * sum(s$item^2) - sum(s$item)^2) / (n^2 * (n - 1))
    )
  }, numeric(3))
  statistic <- (sum(parts[1, ]) - sum(parts[2, ]))^2 / sum(parts[3, ])
  list(
    statistic = statistic, p = stats::pchisq(statistic, 1, lower.tail = FALSE),
    difference = core_matched_difference(item, focal, stratum), strata = length(by)
  )
}

# Mean answer of the focal group less what the reference group of the same scores
# answers, over the standard deviation of all answers. Strata without one of the
# groups drop out.
core_matched_difference <- function(item, focal, stratum) {
  strata <- sort(unique(stratum))
  mean_in <- function(which) tapply(item[which], factor(stratum[which], strata), mean)
  weight <- as.vector(table(factor(stratum[focal], strata)))
  gap <- as.vector(mean_in(focal)) - as.vector(mean_in(!focal))
  use <- is.finite(gap) & weight > 0
  if (!any(use)) {
    return(NA_real_)
  }
  sum(weight[use] * gap[use]) / sum(weight[use]) / stats::sd(item)
}

# The generalised test for any number of groups and unordered options (Mantel &
# Haenszel, 1959; Landis, Heyman & Koch, 1978): observed less expected counts over
# strata, a quadratic form on (groups - 1)(options - 1) df.
core_general_association <- function(item, group, stratum) {
  items <- sort(unique(item))
  groups <- sort(unique(group))
  rows <- seq_len(length(groups) - 1)
  columns <- seq_len(length(items) - 1)
  df <- length(rows) * length(columns)
  none <- list(statistic = NA_real_, df = df, p = NA_real_)
  if (df == 0) {
    return(none)
  }
  total <- numeric(df)
  variance <- matrix(0, df, df)
  for (s in unique(stratum)) {
    counts <- table(factor(group[stratum == s], groups), factor(item[stratum == s], items))
    n <- sum(counts)
    if (n < 2) next
    by_group <- rowSums(counts) / n
    by_item <- colSums(counts) / n
    total <- total + as.vector((counts - n * outer(by_group, by_item))[rows, columns])
    spread <- function(share, keep) (diag(share, length(share)) - tcrossprod(share))[keep, keep, drop = FALSE]
    variance <- variance + n^2 / (n - 1) * kronecker(spread(by_item, columns), spread(by_group, rows))
  }
  decomposed <- qr(variance)
  if (decomposed$rank < df) {
    return(none)
  }
  statistic <- sum(total * solve(decomposed, total))
  list(statistic = statistic, df = df, p = stats::pchisq(statistic, df, lower.tail = FALSE))
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
# (non-uniform); and the rise of Nagelkerke's R squared from the first to the last.
core_logistic_dif <- function(item, group, score) {
  n <- length(item)
  # People of the same answer, group and score count together.
  answer <- match(item, sort(unique(item)))
  levels <- sort(unique(group))
  scores <- sort(unique(score))
  place <- answer + max(answer) * (match(group, levels) - 1 + length(levels) * (match(score, scores) - 1))
  first <- which(!duplicated(place))
  count <- tabulate(match(place, place[first]), length(first))
  y <- answer[first]
  score <- score[first]
  dummies <- outer(group[first], levels[-1], `==`) + 0
  odds <- function(x) core_proportional_odds(y, x, count)
  fits <- list(
    none = odds(matrix(0, length(y), 0)), score = odds(cbind(score)), uniform = odds(cbind(score, dummies)),
    all = odds(cbind(score, dummies, score * dummies))
  )
  ok <- all(vapply(fits, function(f) f$status == "ok", TRUE))
  likelihood <- vapply(fits, `[[`, 0, "log_likelihood")
  r2 <- (1 - exp(2 * (likelihood[["none"]] - likelihood) / n)) / (1 - exp(2 * likelihood[["none"]] / n))
  test <- function(small, large) max(2 * (likelihood[[large]] - likelihood[[small]]), 0)
  df <- ncol(dummies)
  tail <- function(statistic) if (ok) stats::pchisq(statistic, df, lower.tail = FALSE) else NA_real_
  list(
    uniform = test("score", "uniform"), nonuniform = test("uniform", "all"), df = df,
    p_uniform = tail(test("score", "uniform")), p_nonuniform = tail(test("uniform", "all")),
    r2_change = if (ok) r2[["all"]] - r2[["score"]] else NA_real_
  )
}

# Standard error of the mean difference of people with the same score, in standard deviations of the item: two groups, and what
# the score leaves of the item's variance.
core_matched_error <- function(item, score, focal) {
  left <- 1 - stats::cor(item, score)^2
  sqrt((1 / sum(focal) + 1 / sum(!focal)) * left)
}

# Power of a two-sided test at `level` to see a difference of `size` whose standard error is `error`.
core_dif_power <- function(error, size, level) {
  edge <- stats::qnorm(1 - level / 2)
  stats::pnorm(size / error - edge) + stats::pnorm(-size / error - edge)
}
