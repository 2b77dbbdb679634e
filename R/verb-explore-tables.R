# The tables of an exploration.

exploration_tables <- function(ordered, extracted, r, n, factors, settings, limits) {
  pattern <- ordered$loadings
  structure <- pattern %*% ordered$correlations
  common <- unname(rowSums(pattern * structure))
  table <- matrix_table(pattern, "item")
  table$communality <- common
  table$uniqueness <- 1 - common
  table$complexity <- unname(rowSums(pattern^2)^2 / rowSums(pattern^4))
  read <- read_columns(pattern, settings)
  table$belongs <- item_home(read, limits)
  c(
    list(pattern = table, items = loading_words(read, limits), structure = matrix_table(structure, "item")),
    if (ncol(pattern) > 1) list(factor_correlations = matrix_table(ordered$correlations, "factor")),
    general_split(ordered),
    list(
      variance = variance_table(ordered, extracted, r), fit = exploration_fit(r, extracted, n, factors, settings),
      residuals = exploration_residuals(r, extracted, limits)
    )
  )
}

# The items' loadings on a general factor above correlated factors, and what is left for
# these; nothing where the factors do not all go together.
general_split <- function(ordered) {
  m <- ncol(ordered$loadings)
  if (m < 2 || max(abs(ordered$correlations - diag(m))) < 1e-12 || core_definiteness(ordered$correlations) < 1e-8) {
    return(NULL)
  }
  found <- core_schmid_leiman(ordered$loadings, ordered$correlations)
  if (found$status != "ok") {
    return(NULL)
  }
  table <- tibble::add_column(matrix_table(found$group, "item"), general = unname(found$general), .after = "item")
  table$explained_common <- unname(found$general^2 / (found$general^2 + rowSums(found$group^2)))
  list(general = table)
}

variance_table <- function(ordered, extracted, r) {
  explained <- unname(core_variance_explained(ordered$loadings, ordered$correlations))
  before <- unname(colSums(extracted$loadings^2))
  tibble::tibble(
    factor = colnames(ordered$loadings), sum_of_squares = explained, share_of_total = explained / nrow(r),
    share_of_common = explained / sum(explained), before_rotation = before, share_before = before / nrow(r)
  )
}

exploration_fit <- function(r, extracted, n, m, settings) {
  p <- ncol(r)
  df <- core_exploration_df(p, m)
  implied <- tcrossprod(extracted$loadings) + diag(extracted$uniqueness, p)
  residual <- (r - implied)[lower.tri(r)]
  rmsr <- sqrt(mean(residual^2))
  if (settings$extraction == "pca") {
    return(tibble::tibble(chi_square = NA_real_, df = df, p.value = NA_real_, rmsea = NA_real_, conf.low = NA_real_, conf.high = NA_real_,
      cfi = NA_real_, tli = NA_real_, srmr = core_srmr(r, implied), rmsr = rmsr))
  }
  f <- if (settings$extraction %in% c("ml", "gls")) extracted$discrepancy else core_likelihood_discrepancy(r, extracted$loadings,
    extracted$uniqueness)
  factor <- if (settings$multiplier == "n") n else n - 1 - (2 * p + 5) / 6 - 2 * m / 3
  chi_square <- factor * f
  baseline <- core_baseline(r, n)
  error <- core_rmsea(chi_square, df, n)
  tibble::tibble(
    chi_square = chi_square, df = df,
    p.value = if (df > 0) stats::pchisq(chi_square, df, lower.tail = FALSE) else NA_real_,
    rmsea = error$estimate, conf.low = error$low, conf.high = error$high,
    cfi = core_cfi(chi_square, df, baseline), tli = core_tli(chi_square, df, baseline),
    srmr = core_srmr(r, implied), rmsr = rmsr
  )
}

# Residual correlations, largest in size first.
exploration_residuals <- function(r, extracted, limits) {
  left <- r - tcrossprod(extracted$loadings)
  at <- which(lower.tri(r), arr.ind = TRUE)
  table <- tibble::tibble(
    item = colnames(r)[at[, 2]], with = rownames(r)[at[, 1]], correlation = r[at], residual = left[at],
    verdict = judge_code(abs(left[at]), limits, "residual_r")
  )
  judged_table(table[order(-abs(table$residual)), ], verdict = "residual_r")
}

# Verdicts on residual correlations: those that are large.
residual_verdicts <- function(residuals, limits) {
  large <- residuals[residuals$verdict %in% "missed", ]
  ranked_verdicts(verdict_rows("pair", paste(large$item, "and", large$with, recycle0 = TRUE), judge(abs(large$residual), limits, "residual_r")))
}

# The columns that say where an item belongs: all but a general factor in front.
read_columns <- function(pattern, settings) {
  if (settings$rotation == "bigeomin" && ncol(pattern) > 2) pattern[, -1, drop = FALSE] else pattern
}

# What each item's row of loadings says: list(home, next_home, largest, second).
row_reading <- function(pattern) {
  size <- abs(pattern)
  m <- ncol(size)
  order <- t(apply(size, 1, order, decreasing = TRUE))
  if (m == 1) order <- t(order)
  rows <- seq_len(nrow(size))
  list(
    home = order[, 1], next_home = order[, min(2, m)], largest = pattern[cbind(rows, order[, 1])],
    second = if (m > 1) pattern[cbind(rows, order[, 2])] else rep(NA_real_, nrow(size))
  )
}

# The factor an item belongs to, "F1 and F2" where it cross-loads, "none".
item_home <- function(pattern, limits) {
  reading <- row_reading(pattern)
  names <- colnames(pattern)
  place <- item_place(pattern, limits)
  unname(ifelse(place == "nowhere", "none", ifelse(place == "crosses", paste(names[reading$home], "and", names[reading$next_home]),
    names[reading$home])))
}

# "clear": one loading that counts; "crosses": the next one is near; "nowhere": none counts.
item_place <- function(pattern, limits) {
  reading <- row_reading(pattern)
  clear <- meets(abs(reading$largest), limits, "loading")
  gap <- abs(reading$largest) - ifelse(is.na(reading$second), 0, abs(reading$second))
  unname(ifelse(!clear, "nowhere", ifelse(!meets(gap, limits, "loading_gap"), "crosses", "clear")))
}

# The same in words, with the two largest loadings.
loading_words <- function(pattern, limits) {
  reading <- row_reading(pattern)
  names <- colnames(pattern)
  home <- item_home(pattern, limits)
  negative <- reading$largest < 0
  place <- item_place(pattern, limits)
  says <- ifelse(place == "nowhere", "loads nowhere",
    ifelse(place == "crosses", paste("cross-loads on", home), paste0("belongs to ", home, ifelse(negative, ", negatively", ""))))
  tibble::tibble(
    item = rownames(pattern), place = place, says = says, factor = names[reading$home], loading = unname(reading$largest),
    second_factor = if (ncol(pattern) > 1) names[reading$next_home] else NA_character_, second_loading = unname(reading$second),
    gap = unname(abs(reading$largest) - abs(reading$second))
  )
}

# Where the random starts of the rotation ended; NULL without any.
minima_table <- function(rotated) {
  if (length(rotated$minima) == 0) {
    return(NULL)
  }
  values <- vapply(rotated$minima, `[[`, 0, "value")
  times <- vapply(rotated$minima, `[[`, 0L, "times")
  tibble::tibble(minimum = seq_along(values), value = values, starts = times, share_of_starts = times / length(rotated$values))
}

# Determinacy and what each kind of score reaches: list(table, weights).
scoring_table <- function(r, ordered, uniqueness) {
  weights <- core_score_weights(r, ordered$loadings, ordered$correlations, uniqueness)
  validity <- function(w) if (is.null(w)) NA_real_ else unname(core_score_validity(r, ordered$loadings, ordered$correlations, w))
  list(
    weights = weights,
    table = tibble::tibble(
      factor = colnames(ordered$loadings), determinacy = unname(core_determinacy(r, ordered$loadings, ordered$correlations)),
      regression = validity(weights$regression), bartlett = validity(weights$bartlett), tenberge = validity(weights$tenberge)
    )
  )
}
