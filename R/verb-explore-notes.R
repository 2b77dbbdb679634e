# What an exploration says in words.

exploration_notes <- function(extracted, rotated, ordered, moments, settings, tables, estimates, limits) {
  c(
    extraction_notes(extracted, settings, tables$fit),
    if (moments$correlation == "polychoric") note("polychoric_fit",
      "Chi-square treats polychoric correlations as observed ones and comes out too large: read it for comparison only."),
    rotation_notes(rotated, ordered, settings, limits),
    loading_notes(read_columns(ordered$loadings, settings), limits),
    residual_note(tables$residuals, limits),
    error_note(estimates),
    moments_notes(moments), small_sample_note(moments), left_out_note(moments)
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

residual_note <- function(residuals, limits) {
  large <- residuals[!meets(abs(residuals$residual), limits, "residual_r"), ]
  if (nrow(large) == 0) {
    return(NULL)
  }
  pairs <- paste0(large$item, " with ", large$with, " (", coefficient_text(large$residual, 2), ")")
  note("missed_correlations", paste0("Residual correlations above ", bound_text(limit(limits, "residual_r")$bound), ": ", and_list(pairs, 5),
    ". These pairs share something beside the factors."), unique(c(large$item, large$with)), largest = large$residual[1])
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
