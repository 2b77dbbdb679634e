# Which items differ between occasions: one equality at a time is lifted, the one that the score tests are surest of, and the rest looked at again,
# since an item that differs makes others look different beside it (Yoon & Millsap, 2007).

# What an item must differ by to be named, by the kind of parameter: rows of the limits table.
item_sizes <- c(loading = "loading_difference", intercept = "intercept_difference", threshold = "intercept_difference",
  `residual variance` = "residual_difference")

# Bartlett's factor of each group, averaged by size: what chi-square is multiplied by where groups are small.
small_groups_factor <- function(plan, basis) {
  if (basis$ordered) {
    return(1)
  }
  n <- vapply(basis$samples, function(one) one$n + 0, 0)
  p <- length(plan$items) * basis$waves
  m <- length(plan$factors) * basis$waves
  sum(n * pmax(1 - (2 * p + 5 + 4 * m) / (6 * (n - 1)), .1)) / sum(n)
}

# What score tests of a fit are multiplied by.
score_factor <- function(plan, basis, fit) small_groups_factor(plan, basis) / max(c(fit$figures$scale, 1), na.rm = TRUE)

# Lifts equalities of the step's kind while one is surely wrong among all (Holm, 1979) and two of its factor's items stay equal. list(freed: base
# cells in order; named: of those that differ by enough, a table; detectable: the difference of one item that would be seen with probability .8).
released_in_turn <- function(plan, basis, fit, kinds, released, start, limits) {
  kind <- utils::tail(kinds, 1)
  if (!kind %in% names(item_sizes) || !fit$believed) {
    return(NULL)
  }
  freed <- integer()
  p <- numeric()
  detectable <- detectable_difference(plan, basis, fit, kind)
  now <- fit
  repeat {
    found <- largest_culprit(plan, basis, now, kinds, c(released, freed), limits)
    if (is.null(found)) break
    again <- fitted_step(plan, basis, kinds, c(released, freed, found$base), start)
    if (again$status != "ok") break
    now <- again
    freed <- c(freed, found$base)
    p <- c(p, found$p_holm)
  }
  list(freed = freed, named = named_items(plan, basis, now, kind, freed, p, limits), detectable = detectable)
}

fitted_step <- function(plan, basis, kinds, released, start) {
  if (basis$ordered) core_fit_ordered_step(plan, basis, kinds, released, start) else core_fit_normal_step(plan, basis, kinds, released, start)
}

# Standard deviation (of residual variances: variance) over the first and another occasion of an item's answers; 1 of what lies behind ordered ones.
pooled_spread <- function(basis, items, kind) {
  if (basis$ordered) {
    return(rep(1, length(items)))
  }
  n <- vapply(basis$samples, function(one) one$n + 0, 0)
  variance <- Reduce(`+`, lapply(seq_along(n), function(g) n[g] * diag(basis$samples[[g]]$s)[items])) / sum(n)
  if (kind == "residual variance") variance else sqrt(variance)
}

# Of the equalities lifted, how far the parameter differs at most between the first occasion and another, in the item's standard deviation.
named_items <- function(plan, basis, fit, kind, freed, p, limits) {
  if (length(freed) == 0) {
    return(NULL)
  }
  value <- core_cell_values(fit$cells, fit$theta)
  first <- fit$cells$group == 1 & fit$cells$wave == 1
  rows <- lapply(seq_along(freed), function(i) {
    own <- which(fit$cells$base %in% freed[i])
    other <- own[!first[own]]
    item <- plan$base$row[freed[i]]
    apart <- (value[other] - value[own[first[own]]][1]) / pooled_spread(basis, item, kind)
    most <- other[which.max(abs(apart))]
    plain_table(item = plan$items[item], kind = kind, factor = plan$factors[home_of(plan, item)], occasion = occasion_of(fit$cells[most, ], basis),
      difference = apart[which.max(abs(apart))], p_adjusted = p[i])
  })
  out <- do.call(rbind, rows)
  out <- out[abs(out$difference) >= limit(limits, item_sizes[[kind]])$bound, ]
  out <- out[order(-abs(out$difference)), ]
  # Of several thresholds of an item the one that differs most.
  if (nrow(out) == 0) NULL else plain_frame(out[!duplicated(out$item), ])
}

home_of <- function(plan, item) plan$base$column[plan$base$part == core_parts[["loading"]] & plan$base$row %in% item][1]

detectable_difference <- function(plan, basis, fit, kind) {
  found <- equality_scores(plan, basis, fit, kind)
  if (is.null(found)) {
    return(NA_real_)
  }
  error <- abs(found$change) / sqrt(found$index)
  spread <- pooled_spread(basis, plan$base$row[found$base], kind)
  (core_normal_edge(1 - .05 / nrow(found)) + stats::qnorm(.8)) * stats::median(error / spread, na.rm = TRUE)
}
