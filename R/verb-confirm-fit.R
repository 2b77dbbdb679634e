# The fit of a confirmation, by estimator, in one shape: what the core returns, and
# matrices, covariance (of the estimates; NULL where there is none), chi_square, baseline,
# scale and shift of an adjusted test.

confirm_cells <- function(structure, basis, options) {
  items <- colnames(basis$s)
  scaling <- if (options$scaling == "effects") "variance" else options$scaling
  cells <- structure_cells(structure, items, scaling, diag(basis$s))
  if (basis$kind == "ordinal") {
    refuse_residuals(structure)
    cells <- ordinal_cells(cells)
  }
  if (options$improper == "bound") cells <- core_bound_variances(cells)
  if (basis$kind == "incomplete" && !core_has_means(cells)) cells <- core_free_intercepts(cells, length(items))
  if (core_has_means(cells) && basis$kind == "complete" && !is.null(basis$gamma)) {
    stop_structure(message_of("e_these_moments_say"), hint = message_of("e_take_missing_fiml"))
  }
  if (core_has_means(cells) && anyNA(basis$mean)) {
    stop_structure(message_of("e_structure_says_something"), hint = message_of("e_give_mean_sw"))
  }
  cells
}

# Residual variances cannot be fixed or made equal where they follow from the rest.
refuse_residuals <- function(structure) {
  own <- function(parameter) length(unlist(parameter)) == 1 && unlist(parameter) %in% structure_items(structure)
  named <- c(lapply(structure$fixed, function(f) c(f$one, f$other)), unlist(structure$equal, recursive = FALSE))
  if (any(vapply(named, own, TRUE))) {
    stop_structure(message_of("e_residual_variances_ordered"), hint = message_of("e_leave_out_parallel"))
  }
}

# Where the first search does not end at a possible solution, or is held at a bound, others begin
# at the end of a bounded search, at that of a search in the other scaling, and around the start.
fit_sample <- function(basis, cells, factors, start, options, structure) {
  fit_from <- function(start) core_fit_once(basis, cells, factors, start, options)
  proper <- function(fit) core_is_possible(core_sample_matrices(basis, cells, fit, factors), fit$implied)
  fit <- core_best_of_starts(fit_from, start,
    further = function() {
      bounded <- core_fit_once(basis, core_bound_variances(cells), factors, start, options)
      c(list(bounded$theta), other_scaling_ends(structure, basis, cells, factors, options), core_further_starts(cells, start, basis$s))
    },
    proper, well = function(fit) fit$status == "ok" && length(fit$held) == 0 && proper(fit)
  )
  fit$implied <- dimnames_like(fit$implied, basis$s)
  fit$df <- core_fitted_moments(basis, cells) - length(fit$theta)
  items <- ncol(basis$s)
  fit$matrices <- core_sample_matrices(basis, cells, fit, factors)
  fit$parameters <- length(fit$theta) - if (core_means_are_free(cells, items)) items else 0
  # Information criteria count the items' means in every fit.
  fit$counted <- length(fit$theta) + if (core_has_means(cells)) 0 else items
  fit
}

# Where searches end whose factors have their scale from the other convention, in these cells; none
# where single parameters are spoken of.
other_scaling_ends <- function(structure, basis, cells, factors, options) {
  if (length(c(structure$higher, structure$fixed, structure$equal, structure$bounds)) > 0) {
    return(NULL)
  }
  first <- options$scaling == "first"
  options$scaling <- if (first) "variance" else "first"
  other <- confirm_cells(structure, basis, options)
  start <- core_structure_start(other, basis$s, factors, basis$mean)
  ends <- lapply(c(list(start), core_further_starts(other, start, basis$s)), function(from) core_fit_once(basis, other, factors, from, options))
  ends <- Filter(function(end) end$status == "ok", ends)
  ends <- ends[!duplicated(vapply(ends, function(end) signif(end$discrepancy, 6), 0))]
  rescaled <- lapply(ends, function(end) core_rescaled_theta(cells, core_structure_matrices(other, end$theta, ncol(basis$s), factors)))
  Filter(function(theta) all(is.finite(theta)), rescaled)
}

# Counts first, then the rank of the Jacobian away from the plain start.
check_identified <- function(structure, cells, start, basis, factors) {
  count <- core_fitted_moments(basis, cells)
  alone <- names(structure$factors)[lengths(structure$factors) == 1]
  advice <- if (length(alone) > 0) message_of("e_factor_of_one_item", factors = alone) else message_of("e_three_items_each")
  if (count < length(start)) {
    stop_structure(message_of("e_structure_not_identified", start = length(start), count = count,
      cells_said = if (core_has_means(cells)) message_of("e_means_variances_covariances") else message_of("e_variances_covariances")), hint = advice)
  }
  p <- ncol(basis$s)
  rows <- if (basis$kind == "ordinal") which(lower.tri(basis$s)[lower.tri(basis$s, diag = TRUE)])
  found <- core_identified(cells, away_from_start(cells, start), p, length(factors), rows)
  if (isFALSE(found$identified)) {
    stop_structure(message_of("e_structure_not_identified_some"), faults = unclear_words(cells, found$unclear, colnames(basis$s), factors),
      hint = advice)
  }
}
