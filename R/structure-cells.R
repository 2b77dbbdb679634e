# The structure as the core's cells. scaling "variance": factor variances 1; "first": each
# factor's first loading (or path) 1. Rows and columns of items follow `items`; factors are
# those of items, then those above them. `variance`: of the items, for a known reliability.
structure_cells <- function(structure, items, scaling, variance = NULL) {
  factors <- structure_factor_names(structure)
  below <- factors %in% unlist(structure$higher, use.names = FALSE)
  cells <- rbind(
    loading_cells(structure, items, scaling), path_cells(structure, factors, scaling), factor_cells(structure, factors, below, scaling),
    residual_cells(structure, items), mean_cells(structure, items, factors)
  )
  cells <- fix_cells(cells, structure, items, factors, variance)
  cells$free <- ifelse(cells$free, cumsum(cells$free), 0L)
  equate_cells(cells, structure, items, factors) |> bound_cells(structure, items, factors)
}

cell_rows <- function(part, row, column, free, value) {
  same <- function(x) rep_len(x, length(row))
  list2DF(list(part = same(core_parts[[part]]), row = row, column = same(column), free = same(free), value = same(as.numeric(value))))
}

loading_cells <- function(structure, items, scaling) {
  do.call(rbind, lapply(seq_along(structure$factors), function(k) {
    rows <- match(structure$factors[[k]], items)
    fixed <- (scaling == "first" & seq_along(rows) == 1) | length(rows) == 1 & is_single(structure, structure$factors[[k]])
    cell_rows("loading", rows, k, !fixed, ifelse(fixed, 1, 0))
  }))
}

# Is the factor's only item one of known reliability? Then its loading is one.
is_single <- function(structure, items) {
  length(items) == 1 && any(vapply(structure$fixed, function(f) isTRUE(f$share) && f$one == items, TRUE))
}

path_cells <- function(structure, factors, scaling) {
  do.call(rbind, lapply(names(structure$higher), function(name) {
    rows <- match(structure$higher[[name]], factors)
    fixed <- scaling == "first" & seq_along(rows) == 1
    cell_rows("path", rows, match(name, factors), !fixed, ifelse(fixed, 1, 0))
  }))
}

# Variances, and covariances of factors that have none above them.
factor_cells <- function(structure, factors, below, scaling) {
  m <- length(factors)
  single <- vapply(factors, function(f) f %in% names(structure$factors) && is_single(structure, structure$factors[[f]]), TRUE)
  variances <- cell_rows("factor", seq_len(m), seq_len(m), scaling == "first" | single, 1)
  links <- which(lower.tri(diag(m)), arr.ind = TRUE)
  links <- links[!below[links[, 1]] & !below[links[, 2]], , drop = FALSE]
  rbind(variances, cell_rows("factor", links[, 1], links[, 2], !is_unlinked(structure, factors, links), 0))
}

residual_cells <- function(structure, items) {
  pairs <- matrix(match(unlist(structure$pairs), items), ncol = 2, byrow = TRUE)
  rbind(
    cell_rows("residual", seq_along(items), seq_along(items), TRUE, 0),
    cell_rows("residual", pmax(pairs[, 1], pairs[, 2]), pmin(pairs[, 1], pairs[, 2]), TRUE, 0)
  )
}

# Intercepts of all items and means of the factors named, where the structure speaks of means.
mean_cells <- function(structure, items, factors) {
  means <- structure$means
  if (is.null(means)) {
    return(NULL)
  }
  given <- unlist(means$intercepts)
  fixed <- items %in% names(given)
  rbind(
    cell_rows("intercept", seq_along(items), 1L, !fixed, ifelse(fixed, given[items], 0)),
    cell_rows("mean", match(means$factors, factors), 1L, TRUE, 0)
  )
}

is_unlinked <- function(structure, factors, links) {
  said <- vapply(structure$unlinked, function(pair) paste(sort(match(pair, factors)), collapse = "-"), "")
  paste(pmin(links[, 1], links[, 2]), pmax(links[, 1], links[, 2]), sep = "-") %in% said
}

fix_cells <- function(cells, structure, items, factors, variance) {
  for (one in structure$fixed) {
    at <- find_cell(cells, c(one$one, one$other), items, factors)
    cells$free[at] <- FALSE
    cells$value[at] <- one$value * (if (isTRUE(one$share) && !is.null(variance)) variance[match(one$one, items)] else 1)
  }
  scaled_by_fixed(cells, structure, items, factors)
}

# A loading (or path) that is fixed at another value than zero gives its factor the scale: the factor's
# variance is free then, unless it is fixed by the structure too, and no loading is fixed by the scaling.
scaled_by_fixed <- function(cells, structure, items, factors) {
  at <- vapply(structure$fixed, function(one) find_cell(cells, c(one$one, one$other), items, factors), 1L)
  links <- cells$part %in% core_parts[c("loading", "path")]
  own <- cells$part == core_parts[["factor"]] & cells$row == cells$column
  given <- at[links[at] & cells$value[at] != 0]
  for (k in unique(cells$column[given])) {
    variance <- which(own & cells$row == k)
    if (!variance %in% at) cells$free[variance] <- TRUE
    mine <- which(links & cells$column == k & cells$free == 0)
    cells$free[setdiff(mine, at)] <- TRUE
  }
  cells
}

# Cells that are equal share the number of the first; numbers are closed up.
equate_cells <- function(cells, structure, items, factors) {
  for (group in structure$equal) {
    at <- vapply(group, function(p) find_cell(cells, p, items, factors), 1L)
    free <- cells$free[at]
    if (any(free == 0)) {
      stop_structure(message_of("e_parameter_fixed_cannot"), faults = vapply(group[free == 0], paste, "", collapse = " and "),
        hint = message_of("e_scaling_first_first"))
    }
    cells$free[cells$free %in% free] <- min(free)
  }
  for (group in structure$means$equal) {
    at <- cells$part == core_parts[["intercept"]] & cells$row %in% match(group, items)
    if (any(cells$free[at] == 0)) stop_structure(message_of("e_intercept_fixed_cannot"), faults = unlist(group))
    cells$free[at] <- min(cells$free[at])
  }
  cells$free <- match(cells$free, c(0L, sort(unique(cells$free[cells$free > 0])))) - 1L
  cells
}

# Columns low and high, where parameters have bounds.
bound_cells <- function(cells, structure, items, factors) {
  if (length(structure$bounds) == 0) {
    return(cells)
  }
  cells$low <- -Inf
  cells$high <- Inf
  for (one in structure$bounds) {
    at <- find_cell(cells, c(one$one, one$other), items, factors)
    if (cells$free[at] == 0) stop_structure(message_of("e_parameter_fixed_takes", one = c(one$one, one$other)))
    cells$low[at] <- one$low
    cells$high[at] <- one$high
  }
  cells
}

# Which cell a parameter's name means.
find_cell <- function(cells, parameter, items, factors) {
  item <- match(parameter, items)
  factor <- match(parameter, factors)
  at <- if (length(parameter) == 1) {
    if (!is.na(item)) c("residual", item, item) else c("factor", factor, factor)
  } else if (sum(!is.na(item)) == 2) {
    c("residual", max(item), min(item))
  } else if (sum(!is.na(item)) == 1) {
    c("loading", item[!is.na(item)], factor[is.na(item)])
  } else {
    path <- cells$part == core_parts[["path"]] & cells$row %in% factor & cells$column %in% factor
    if (any(path)) c("path", cells$row[path][1], cells$column[path][1]) else c("factor", max(factor), min(factor))
  }
  found <- which(cells$part == core_parts[[at[1]]] & cells$row == as.integer(at[2]) & cells$column == as.integer(at[3]))
  if (length(found) == 0) {
    stop_structure(message_of("e_structure_no_parameter", parameter = parameter), hint = message_of("e_add_loading_pair"))
  }
  found[1]
}
