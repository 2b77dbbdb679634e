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

unclear_words <- function(cells, unclear, items, factors) {
  cells <- cells[match(unclear, cells$free), ]
  parameter_words(cells, items, factors)
}

# Cells in words.
parameter_words <- function(cells, items, factors) {
  part <- names(core_parts)[cells$part + 1L]
  own <- cells$row == cells$column
  ifelse(part == "loading", paste("loading of", items[cells$row], "on", factors[cells$column]),
    ifelse(part == "path", paste("path from", factors[cells$column], "to", factors[cells$row]),
      ifelse(part == "factor", ifelse(own, paste("variance of", factors[cells$row]),
        paste("covariance of", factors[cells$column], "and", factors[cells$row])),
        ifelse(part == "residual", ifelse(own, paste("residual variance of", items[cells$row]),
          paste("residual covariance of", items[cells$column], "and", items[cells$row])),
        ifelse(part == "intercept", paste("intercept of", items[cells$row]), paste("mean of", factors[cells$row]))))))
}
