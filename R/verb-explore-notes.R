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
    if (extracted$status != "ok") note("not_usable", paste0("Do not use these loadings: ", status_words(extracted$status), "."), rank = 1L),
    if (length(bound) > 0 && settings$extraction != "pca") note("uniqueness_at_bound", paste0("Uniqueness stopped at its lower bound (.005) for ",
      and_list(bound), ": an improper solution. Try fewer factors or leave the item out."), bound, rank = 1L),
    if (extracted$starts > 1) note("extraction_starts",
      paste0(extracted$reached, " of ", extracted$starts, " searches for the factors came to this solution."), reached = extracted$reached,
        rank = 3L),
    if (settings$extraction == "pca") note("components",
      "Components are no common factors: their loadings are larger, and no test of fit exists."),
    if (!settings$extraction %in% c("ml", "gls", "pca")) {
      if (is.na(fit$chi_square)) {
        note("no_chi_square", "No chi-square: the matrix that these loadings imply is not positive definite.")
      } else {
        note("other_chi_square",
          "Chi-square is that of the likelihood at these estimates, which it does not minimise: read it as a little too large.", rank = 3L)
      }
    }
  )
}

rotation_notes <- function(rotated, ordered, settings, limits) {
  m <- ncol(ordered$loadings)
  strong <- if (m > 1) which(!meets(abs(ordered$correlations), limits, "factor_r") & lower.tri(ordered$correlations), arr.ind = TRUE)
  names <- colnames(ordered$loadings)
  c(
    if (rotated$status != "ok") note("rotation_not_converged", "The rotation did not converge; the best it reached is shown.", rank = 1L),
    resting_places(rotated),
    if (m == 1 && settings$rotation != "none") note("nothing_to_rotate", "A single factor has nothing to rotate.", rank = 3L),
    if (m == 2 && settings$rotation == "bigeomin") note("nothing_to_rotate",
      "A general factor needs two group factors beside it: nothing was rotated."),
    if (length(strong) > 0) note("factors_near", paste0(names[strong[, 2]], " and ", names[strong[, 1]], " correlate ",
      coefficient_text(ordered$correlations[strong], 2), ": they may be one factor."), asplit(matrix(names[strong], ncol = 2), 1),
      correlation = ordered$correlations[strong])
  )
}

# How often the best minimum was found, when not always.
resting_places <- function(rotated) {
  if (length(rotated$minima) < 2) {
    return(NULL)
  }
  if (best_times(rotated) < 3 && length(rotated$values) >= 20) {
    return(note("resting_place_open", paste0("Only ", best_times(rotated), " of ", length(rotated$values),
      " starts of the rotation reached the best place found: a lower one may exist. Take more `starts`, or a smoother criterion."),
      places = length(rotated$minima), rank = 2L))
  }
  note("resting_places", paste0("The rotation has ", length(rotated$minima), " resting places: ", rotated$minima[[1]]$times, " of ",
    length(rotated$values), " starts reached the best, which is shown. The others are in `parts$minima`."), places = length(rotated$minima),
      rank = 3L)
}

loading_notes <- function(pattern, limits) {
  home <- item_home(pattern, limits)
  lonely <- colnames(pattern)[colSums(abs(pattern) >= limit(limits, "loading")$bound) < 3]
  none <- rownames(pattern)[home == "none"]
  crossing <- rownames(pattern)[item_place(pattern, limits) == "crosses"]
  c(
    if (length(none) > 0) note("no_loading", paste0("No loading reaches ", bound_text(limit(limits, "loading")$bound), ": ", and_list(none), "."),
      none),
    if (length(crossing) > 0) note("two_factors",
      paste0("Loads on two factors (gap under ", bound_text(limit(limits, "loading_gap")$bound), "): ", and_list(crossing), "."), crossing),
    if (length(lonely) > 0) note("thin_factor",
      paste0("Fewer than three items load on ", and_list(lonely), ": too few to make a subscale."), lonely)
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
  words <- function(rows) and_list(paste0(rows$item, " and ", rows$with, " (", coefficient_text(rows$residual, 2), ")"), 3)
  more <- large[large$residual > 0, ]
  less <- large[large$residual < 0, ]
  note("missed_correlations", paste0(
    if (nrow(more) > 0) paste0("More in common than the factors say: ", words(more), ". Read their wordings before one more factor is taken."),
    if (nrow(more) > 0 && nrow(less) > 0) " ", if (nrow(less) > 0) paste0("Less in common than the factors say: ", words(less), ".")
  ), unique(c(large$item, large$with)), largest = large$residual[1])
}

# What few cases leave open: the widest interval of an item's largest loading.
wide_note <- function(items, n) {
  wide <- items[which.max(items$width), ]
  if (nrow(wide) == 0 || wide$width < .15) {
    return(NULL)
  }
  note("wide_loadings", paste0("n = ", n, " leaves loadings open: that of ", wide$item, " on ", wide$factor, " lies between ",
    coefficient_text(wide$loading - wide$width, 2), " and ", coefficient_text(wide$loading + wide$width, 2), "."), wide$item, n = n, rank = 2L)
}

polychoric_note <- function(fit, no_pairs) {
  if (no_pairs || is.na(fit$chi_square)) {
    return(note("polychoric_fit", "Chi-square treats polychoric correlations as observed ones and comes out too large: read it for comparison only."))
  }
  note("polychoric_fit", paste("Chi-square is that of unweighted least squares with as many factors, adjusted for the errors of polychoric",
    "correlations (Asparouhov & Muth\u00e9n, 2010); RMSEA and CFI come from it."), rank = 3L)
}

error_note <- function(estimates) {
  if (estimates$status == "ok" || !estimates$asked) {
    return(NULL)
  }
  note("no_errors", switch(estimates$status,
    no_formula = "There is no formula for standard errors of this solution: use `errors = \"bootstrap\"`.",
    at_bound = "No standard errors: a uniqueness stands at its bound.",
    not_converged = "No standard errors: the solution did not converge.",
    not_identified = "No standard errors: loadings cannot be told apart."
  ))
}
