# A structure with numbers for its parameters, all standardised: what simulated answers come from.

# loading: of items, one number or named by item; an item on k factors has the loading over
# the root of k on each. correlation: of linked factors. path: of factors below others. list(cells,
# theta, covariance: of items of variance one, items, factors).
structure_truth <- function(structure, loading = .7, correlation = .3, path = .7) {
  items <- structure_items(structure)
  factors <- structure_factor_names(structure)
  cells <- structure_cells(structure, items, "variance", rep(1, length(items)))
  cells <- cells[cells$part < core_parts[["intercept"]], ]
  part <- names(core_parts)[cells$part + 1L]
  truth <- cells$value
  below <- part == "path" & cells$free > 0
  spread <- factor_spread(cells, below, path, length(factors))
  truth[below] <- path / sqrt(1 - path^2) / sqrt(spread[cells$column[below]])
  truth[part == "factor" & cells$row != cells$column & cells$free > 0] <- correlation
  loads <- part == "loading"
  several <- tabulate(cells$row[loads], length(items))
  size <- item_loadings(loading, items)
  open <- loads & cells$free > 0
  truth[open] <- (size / sqrt(several))[cells$row[open]] / sqrt(spread[cells$column[open]])
  free <- cells$free > 0
  theta <- as.vector(tapply(truth[free], factor(cells$free[free], seq_len(max(cells$free))), mean))
  impossible <- core_definiteness(stats::cov2cor(core_factor_covariance(core_structure_matrices(cells, theta, length(items),
    length(factors))))) < 1e-8
  if (isTRUE(impossible)) {
    stop_input(message_of("e_no_factors_can", factors = length(factors), correlation = correlation), hint = message_of("e_take_correlation_nearer"))
  }
  common <- common_covariance(cells, theta, length(items), length(factors))
  own <- part == "residual" & cells$row == cells$column & free
  theta[cells$free[own]] <- (1 - diag(common))[cells$row[own]]
  if (any(theta[cells$free[own]] <= 0)) {
    stop_input(message_of("e_loadings_leave_some"), faults = items[cells$row[own]][theta[cells$free[own]] <= 0],
      hint = message_of("e_take_smaller_loadings"))
  }
  residual <- core_structure_matrices(cells, theta, length(items), length(factors))$residual
  list(cells = cells, theta = theta, covariance = common + residual, items = items, factors = factors)
}

# Variances of the factors, those above others first: the part a path leaves has variance one.
factor_spread <- function(cells, below, path, factors) {
  spread <- rep(1, factors)
  spread[unique(cells$row[below])] <- 1 / (1 - path^2)
  spread
}

common_covariance <- function(cells, theta, items, factors) {
  m <- core_structure_matrices(cells, theta, items, factors)
  m$loading %*% core_factor_covariance(m) %*% t(m$loading)
}

# One loading for each item, from one number or named ones; items not named have .7.
item_loadings <- function(loading, items) {
  if (!is.numeric(loading) || length(loading) == 0 || anyNA(loading) || any(abs(loading) < .05 | abs(loading) > .99)) {
    stop_input(message_of("e_loading_must_numbers"))
  }
  if (is.null(names(loading))) {
    if (length(loading) > 1) stop_input(message_of("e_several_loadings_need"))
    return(rep(loading, length(items)))
  }
  unknown <- setdiff(names(loading), items)
  if (length(unknown) > 0) stop_input(message_of("e_loading_names_items"), faults = unknown)
  out <- stats::setNames(rep(.7, length(items)), items)
  out[names(loading)] <- loading
  unname(out)
}
