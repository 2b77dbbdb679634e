# Whether a structure is identified, and which part of it is not.

# list(items, free, df, identified (NA where it could not be found out), unclear: words).
structure_identified <- function(structure) {
  items <- structure_items(structure)
  factors <- structure_factor_names(structure)
  p <- length(items)
  cells <- structure_cells(structure, items, "variance", rep(1, p))
  free <- max(cells$free)
  df <- p * (p + 1) / 2 + (if (core_has_means(cells)) p else 0) - free
  if (df < 0) {
    return(list(items = p, free = free, df = df, identified = FALSE, unclear = character()))
  }
  s <- matrix(.3, p, p) + diag(.7, p)
  start <- core_structure_start(cells, s, length(factors), numeric(p))
  found <- core_identified(cells, away_from_start(cells, start), p, length(factors))
  list(items = p, free = free, df = df, identified = found$identified, unclear = unclear_words(cells, found$unclear, items, factors))
}

# A point where no parameter is special: factors correlate a little, loadings differ.
away_from_start <- function(cells, start) {
  away <- start * (1 + .1 * sin(seq_along(start)))
  links <- cells$part == core_parts[["factor"]] & cells$row != cells$column & cells$free > 0
  away[cells$free[links]] <- 0.3 * sqrt(factor_scale(cells, start, cells$row[links]) * factor_scale(cells, start, cells$column[links]))
  means <- cells$part == core_parts[["mean"]] & cells$free > 0
  away[cells$free[means]] <- .2
  away
}

# Variance of factors at theta.
factor_scale <- function(cells, theta, factors) {
  own <- which(cells$part == core_parts[["factor"]] & cells$row == cells$column)
  own <- own[match(factors, cells$row[own])]
  ifelse(cells$free[own] > 0, theta[pmax(cells$free[own], 1)], cells$value[own])
}

unclear_messages <- function(cells, unclear, items, factors) parameter_messages(cells[match(unclear, cells$free), ], items, factors)

unclear_words <- function(cells, unclear, items, factors) vapply(unclear_messages(cells, unclear, items, factors), say, "")

# Cells in words.
parameter_messages <- function(cells, items, factors) {
  lapply(seq_len(nrow(cells)), function(i) {
    part <- names(core_parts)[cells$part[i] + 1L]
    row <- cells$row[i]
    column <- cells$column[i]
    switch(part,
      loading = message_of("parameter_loading", item = items[row], factor = factors[column]),
      path = message_of("parameter_path", from = factors[column], to = factors[row]),
      factor = if (row == column) message_of("parameter_variance", factor = factors[row]) else
        message_of("parameter_covariance", first = factors[column], second = factors[row]),
      residual = if (row == column) message_of("parameter_residual", item = items[row]) else
        message_of("parameter_residuals", first = items[column], second = items[row]),
      intercept = message_of("parameter_intercept", item = items[row]), message_of("parameter_mean", factor = factors[row])
    )
  })
}
