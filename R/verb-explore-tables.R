# The tables of an exploration.

exploration_tables <- function(ordered, extracted, r, n, factors, settings, limits, pairs, estimates) {
  found <- core_exploration_inference(r, extracted, n, settings, pairs)
  modifications <- exploration_modifications(r, found, n, factors, settings, pairs, limits)
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
    list(pattern = table, items = with_width(loading_words(read, limits), estimates), structure = matrix_table(structure, "item")),
    if (ncol(pattern) > 1) list(factor_correlations = matrix_table(ordered$correlations, "factor")),
    general_split(ordered),
    list(
      variance = variance_table(ordered, extracted, r), fit = exploration_fit(r, extracted, n, factors, settings, found$spread, pairs),
      residuals = exploration_residuals(r, extracted, found$z, limits)
    ),
    if (!is.null(modifications)) list(modifications = modifications)
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
  table <- with_columns(matrix_table(found$group, "item"), list(general = unname(found$general)), after = "item")
  table$explained_common <- unname(found$general^2 / (found$general^2 + rowSums(found$group^2)))
  list(general = table)
}

variance_table <- function(ordered, extracted, r) {
  explained <- unname(core_variance_explained(ordered$loadings, ordered$correlations))
  before <- unname(colSums(extracted$loadings^2))
  plain_table(
    factor = colnames(ordered$loadings), sum_of_squares = explained, share_of_total = explained / nrow(r),
    share_of_common = explained / sum(explained), before_rotation = before, share_before = before / nrow(r)
  )
}

# Fit; `corrected` is chi-square for small samples (Bartlett, 1950), from which p and RMSEA's interval come; SRMR also without
# what chance adds. Of polychoric correlations the test is that of core_adjusted_exploration().
exploration_fit <- function(r, extracted, n, m, settings, spread, pairs) {
  p <- ncol(r)
  df <- core_exploration_df(p, m)
  implied <- tcrossprod(extracted$loadings) + diag(extracted$uniqueness, p)
  residual <- (r - implied)[lower.tri(r)]
  own <- list(value = NA_real_, low = NA_real_, high = NA_real_)
  if (!is.null(spread)) own <- core_srmr_unbiased(spread$e, p * (p + 1) / 2, spread$trace, spread$square, spread$form)
  of_residuals <- plain_table(srmr = core_srmr(r, implied), srmr_unbiased = own$value, srmr_low = own$low, srmr_high = own$high,
    rmsr = sqrt(mean(residual^2)))
  tested <- core_exploration_test(r, extracted, n, m, settings, pairs)
  if (is.null(tested)) {
    none <- NA_real_
    return(cbind(plain_table(chi_square = none, df = df, p.value = none, corrected = none, corrected_p = none, rmsea = none,
      rmsea_corrected = none,
      conf.low = none, conf.high = none, cfi = none, tli = none), of_residuals) |> plain_frame())
  }
  figures <- core_fit_figures(tested$chi_square, df, n, tested$baseline)
  own <- core_fit_intervals(tested$corrected, df, n, tested$baseline)
  cbind(plain_table(
    chi_square = tested$chi_square, df = df, p.value = figures$p.value, corrected = if (df > 0) tested$corrected else NA_real_,
    corrected_p = core_chi_square_p(tested$corrected, df), rmsea = figures$rmsea, rmsea_corrected = own$value[3],
    conf.low = own$low[3], conf.high = own$high[3], cfi = figures$cfi, tli = figures$tli
  ), of_residuals) |> plain_frame()
}

# Half the width of the interval of each item's largest loading; NA where there is none.
with_width <- function(items, estimates) {
  table <- estimates$table
  row <- if (!is.null(table)) match(paste(items$item, items$factor), paste(table$item, table$factor))
  items$width <- if (is.null(row)) NA_real_ else (table$conf.high[row] - table$conf.low[row]) / 2
  items
}

# Verdicts on fit, on where items load (by the interval of the largest loading, where it has one), and on residual
# correlations that are more than chance.
exploration_verdicts <- function(tables, limits) {
  fit <- tables$fit
  large <- tables$residuals[tables$residuals$verdict %in% "missed", ]
  home <- tables$items
  ends <- cbind(abs(home$loading) - home$width, abs(home$loading) + home$width)
  ranked_verdicts(
    verdict_rows("whole", "", judge(c(fit$corrected_p, fit$rmsea_corrected), limits, c("exact_fit_p", "rmsea"), c(NA, fit$conf.low), c(NA,
      fit$conf.high))),
    verdict_rows("whole", "", judge(fit$srmr_unbiased, limits, "srmr", fit$srmr_low, fit$srmr_high)),
    verdict_rows("item", home$item, judge(abs(home$loading), limits, "loading", ends[, 1], ends[, 2])),
    verdict_rows("pair", paste(large$item, "and", large$with, recycle0 = TRUE), judge(abs(large$residual), limits, "residual_r"))
  )
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
  plain_table(
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
  plain_table(minimum = seq_along(values), value = values, starts = times, share_of_starts = times / length(rotated$values))
}

# Determinacy and what each kind of score reaches: list(table, weights).
scoring_table <- function(r, ordered, uniqueness) {
  weights <- core_score_weights(r, ordered$loadings, ordered$correlations, uniqueness)
  validity <- function(w) if (is.null(w)) NA_real_ else unname(core_score_validity(r, ordered$loadings, ordered$correlations, w))
  list(
    weights = weights,
    table = plain_table(
      factor = colnames(ordered$loadings), determinacy = unname(core_determinacy(r, ordered$loadings, ordered$correlations)),
      regression = validity(weights$regression), bartlett = validity(weights$bartlett), tenberge = validity(weights$tenberge)
    )
  )
}
