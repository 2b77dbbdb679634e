# The two-way table persons x items without replication, from means and covariances
# of n persons' answers to k items.

# list(table = data frame(source, ss, df, ms, statistic, p), hoyt, icc).
core_twoway <- function(s, mean, n, level = .95) {
  k <- ncol(s)
  total <- sum(s)
  effect <- mean - mean(mean)
  ss <- c(persons = (n - 1) * total / k, items = n * sum(effect^2), residual = (n - 1) * (sum(diag(s)) - total / k))
  df <- c(n - 1, k - 1, (n - 1) * (k - 1))
  ms <- ss / df
  tukey <- core_nonadditivity(s, effect, n, ss[["residual"]])
  statistic <- c(ms[["persons"]] / ms[["residual"]], ms[["items"]] / ms[["residual"]], tukey$statistic)
  # Without residual there is nothing to test against.
  if (ms[["residual"]] <= 1e-12 * ms[["persons"]]) statistic[] <- NA_real_
  first <- c(df[1], df[2], 1)
  second <- c(df[3], df[3], df[3] - 1)
  list(
    table = data.frame(
      source = c("persons", "items", "residual", "  nonadditivity (Tukey)", "  balance", "total"),
      ss = c(ss, tukey$ss, ss[["residual"]] - tukey$ss, sum(ss)), df = c(df, 1, df[3] - 1, n * k - 1),
      ms = c(ms, tukey$ss, (ss[["residual"]] - tukey$ss) / (df[3] - 1), NA),
      statistic = c(statistic[1:2], NA, statistic[3], NA, NA),
      p = c(stats::pf(statistic[1:2], first[1:2], second[1:2], lower.tail = FALSE), NA,
        stats::pf(statistic[3], first[3], second[3], lower.tail = FALSE), NA, NA),
      row.names = NULL
    ),
    hoyt = 1 - ms[["residual"]] / ms[["persons"]], icc = core_intraclass(ms, n, k, level)
  )
}

# Tukey's (1949) one degree of freedom: the product of person and item effects.
core_nonadditivity <- function(s, effect, n, ss_residual) {
  k <- ncol(s)
  with_person <- (n - 1) * rowSums(s) / k
  persons <- (n - 1) * sum(s) / k^2
  ss <- sum(effect * with_person)^2 / (persons * sum(effect^2))
  df <- (n - 1) * (k - 1) - 1
  list(ss = ss, statistic = ss / ((ss_residual - ss) / df))
}

# Intraclass correlations with intervals (McGraw & Wong, 1996): consistency and
# agreement, of a single answer and of the mean of all.
core_intraclass <- function(ms, n, k, level) {
  tail <- 1 - (1 - level) / 2
  person <- ms[["persons"]]
  item <- ms[["items"]]
  error <- ms[["residual"]]
  df <- (n - 1) * (k - 1)
  f <- if (error > 1e-12 * person) person / error else NA_real_
  low <- f / stats::qf(tail, n - 1, df)
  high <- f * stats::qf(tail, df, n - 1)
  single <- (person - error) / (person + (k - 1) * error)
  agreement <- (person - error) / (person + (k - 1) * error + k / n * (item - error))
  a <- k * agreement / (n * (1 - agreement))
  b <- 1 + k * agreement * (n - 1) / (n * (1 - agreement))
  v <- (a * item + b * error)^2 / ((a * item)^2 / (k - 1) + (b * error)^2 / df)
  if (!is.finite(v) || v < 1) v <- NA_real_
  rest <- k * item + (k * n - k - n) * error
  f_low <- stats::qf(tail, n - 1, v)
  f_high <- stats::qf(tail, v, n - 1)
  agreement_low <- n * (person - f_low * error) / (f_low * rest + n * person)
  agreement_high <- n * (f_high * person - error) / (rest + n * f_high * person)
  stepped <- function(r) k * r / (1 + (k - 1) * r)
  data.frame(
    kind = c("consistency, single answer", "consistency, mean of all", "agreement, single answer", "agreement, mean of all"),
    estimate = c(single, (person - error) / person, agreement, stepped(agreement)),
    low = c((low - 1) / (low + k - 1), 1 - 1 / low, agreement_low, stepped(agreement_low)),
    high = c((high - 1) / (high + k - 1), 1 - 1 / high, agreement_high, stepped(agreement_high))
  )
}

# Two measurements of the same persons, n x 2: intraclass correlations of consistency and agreement of a single one with
# intervals, each c(value, low, high); sem: root of the variance within persons; real_change: sqrt(2) times it, as far as the level reaches.
core_retest <- function(x, level = .95) {
  n <- nrow(x)
  found <- core_twoway(stats::cov(x), colMeans(x), n, level)
  icc <- found$icc
  of <- function(kind) unlist(icc[icc$kind == kind, c("estimate", "low", "high")], use.names = FALSE)
  ms <- found$table$ms
  within <- ms[3] + max((ms[2] - ms[3]) / n, 0)
  list(consistency = of("consistency, single answer"), agreement = of("agreement, single answer"), sem = sqrt(within),
    real_change = core_normal_edge(level) * sqrt(2) * sqrt(within))
}
