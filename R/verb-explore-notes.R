# What an exploration says in words.

exploration_notes <- function(extracted, rotated, ordered, moments, settings, tables, estimates, limits, pairs) {
  c(
    extraction_notes(extracted, settings, tables$fit),
    if (moments$correlation == "polychoric") polychoric_note(tables$fit, is.null(pairs)),
    rotation_notes(rotated, ordered, settings, limits),
    loading_notes(read_columns(ordered$loadings, settings), limits),
    residual_note(tables$residuals, tables$modifications),
    error_note(estimates), wide_note(tables$items, moments$n),
    moments_notes(moments), left_out_note(moments)
  )
}

extraction_notes <- function(extracted, settings, fit) {
  bound <- names(extracted$uniqueness)[extracted$uniqueness <= .005 * (1 + 1e-6)]
  c(
    if (extracted$status != "ok") note("not_usable", message_of("loadings_not_usable", why = status_message(extracted$status)), rank = 1L),
    if (length(bound) > 0 && settings$extraction != "pca") note("uniqueness_at_bound", message_of("uniqueness_at_bound", items = bound), bound,
      rank = 1L),
    if (extracted$starts > 1) note("extraction_starts", message_of("extraction_starts", reached = extracted$reached, starts = extracted$starts),
      reached = extracted$reached, rank = 3L),
    if (settings$extraction == "pca") note("components", message_of("components")),
    if (!settings$extraction %in% c("ml", "gls", "pca")) {
      if (is.na(fit$chi_square)) note("no_chi_square", message_of("no_chi_square")) else
        note("other_chi_square", message_of("other_chi_square"), rank = 3L)
    }
  )
}

rotation_notes <- function(rotated, ordered, settings, limits) {
  m <- ncol(ordered$loadings)
  strong <- if (m > 1) which(!meets(abs(ordered$correlations), limits, "factor_r") & lower.tri(ordered$correlations), arr.ind = TRUE)
  names <- colnames(ordered$loadings)
  c(
    if (rotated$status != "ok") note("rotation_not_converged", message_of("rotation_not_converged"), rank = 1L),
    resting_places(rotated),
    if (m == 1 && settings$rotation != "none") note("nothing_to_rotate", message_of("nothing_to_rotate"), rank = 3L),
    if (m == 2 && settings$rotation == "bigeomin") note("nothing_to_rotate", message_of("bigeomin_needs_two")),
    if (length(strong) > 0) note("factors_near", messages_of("factors_near", first = names[strong[, 2]], second = names[strong[, 1]],
      r = ordered$correlations[strong]), asplit(matrix(names[strong], ncol = 2), 1), correlation = ordered$correlations[strong])
  )
}

# How often the best minimum was found, when not always.
resting_places <- function(rotated) {
  if (length(rotated$minima) < 2) {
    return(NULL)
  }
  places <- length(rotated$minima)
  starts <- length(rotated$values)
  if (best_times(rotated) < 3 && starts >= 20) {
    return(note("resting_place_open", message_of("resting_place_open", reached = best_times(rotated), starts = starts), places = places))
  }
  note("resting_places", message_of("resting_places", places = places, reached = rotated$minima[[1]]$times, starts = starts), places = places,
    rank = 3L)
}

loading_notes <- function(pattern, limits) {
  home <- item_home(pattern, limits)
  lonely <- colnames(pattern)[colSums(abs(pattern) >= limit(limits, "loading")$bound) < 3]
  none <- rownames(pattern)[home == "none"]
  crossing <- rownames(pattern)[item_place(pattern, limits) == "crosses"]
  c(
    if (length(none) > 0) note("no_loading", message_of("no_loading", bound = limit(limits, "loading")$bound, items = none), none),
    if (length(crossing) > 0) note("two_factors", message_of("two_factors", gap = limit(limits, "loading_gap")$bound, items = crossing), crossing),
    if (length(lonely) > 0) note("thin_factor", message_of("thin_factor", factors = lonely), lonely)
  )
}

# Pairs that share more, or less, than the factors say, beyond chance among all pairs.
residual_note <- function(residuals, modifications) {
  large <- residuals[residuals$verdict %in% "missed", ]
  if (nrow(large) == 0) {
    return(NULL)
  }
  # The score tests name the pair itself, residuals also its neighbours.
  if (!is.null(modifications) && any(modifications$p_holm < .05)) {
    top <- modifications[modifications$p_holm < .05, ]
    key <- function(table) paste(pmin(table$item, table$with), pmax(table$item, table$with))
    large <- large[order(match(key(large), key(top), nomatch = nrow(top) + 1)), ]
  }
  pairs <- function(rows) messages_of("pair_and_size", first = rows$item, second = rows$with, size = rows$residual)
  more <- large[large$residual > 0, ]
  less <- large[large$residual < 0, ]
  note("missed_correlations", list(list(if (nrow(more) > 0) message_of("more_in_common", pairs = pairs(more)),
    if (nrow(less) > 0) message_of("less_in_common", pairs = pairs(less)))), list(unique(c(large$item, large$with))), largest = large$residual[1])
}

# What few cases leave open: the widest interval of an item's largest loading.
wide_note <- function(items, n) {
  width <- max(items$width, 0, na.rm = TRUE)
  if (width >= .15) note("wide_loadings", message_of("wide_loadings", n = n, width = width), n = n)
}

polychoric_note <- function(fit, no_pairs) {
  if (no_pairs || is.na(fit$chi_square)) {
    return(note("polychoric_fit", message_of("polychoric_fit_compare")))
  }
  note("polychoric_fit", message_of("polychoric_fit_adjusted"), rank = 3L)
}

error_note <- function(estimates) {
  if (estimates$status == "ok" || !estimates$asked) {
    return(NULL)
  }
  note("no_errors", switch(estimates$status,
    no_formula = message_of("no_error_formula"), at_bound = message_of("no_errors_at_bound"),
    not_converged = message_of("no_errors_not_converged"), not_identified = message_of("no_errors_not_identified")
  ))
}
