# Correlations of the normal variables behind ordered answers.

# columns: a named list of answers, whose values are shift + sign * x; keep: NULL or
# which cases; `complete` takes only cases that miss nothing. Polychoric correlations
# (Olsson, 1979): two-step maximum likelihood. In a 2 x 2 table an empty cell counts as
# half a case. list(status, values: the answers that occur per item, cases, r,
# std_error, n, state, thresholds), matrices items x items; with `covariance` also the
# asymptotic covariance matrix, times n, of all thresholds followed by the correlations
# (lower triangle by column), for complete answers. status: "ok", "constant_item",
# "too_many_categories" (above `most`); `state` of a pair: "ok", "not_converged",
# "at_bound", "empty_cell", "too_few_cases".
core_polychoric <- function(columns, shift = rep(0, length(columns)), sign = rep(1, length(columns)), keep = NULL, complete = FALSE,
                            covariance = FALSE, most = 20L, threads = 0L) {
  known <- rep(list(NULL), length(columns))
  for (j in which(!vapply(columns, is.integer, TRUE))) {
    x <- as.double(columns[[j]])
    whole <- kernel_whole_numbers(x)
    if (!is.null(whole)) {
      columns[[j]] <- whole
    } else {
      x[is.infinite(x)] <- NA
      known[[j]] <- sort(unique(shift[j] + sign[j] * x))
      columns[[j]] <- match(shift[j] + sign[j] * x, known[[j]])
      shift[j] <- 0
      sign[j] <- 1
    }
  }
  out <- kernel_polychoric(unclass(columns), shift, sign, keep,
    list(complete = complete, most = most, empty_cell = .5, covariance = covariance, threads = threads))
  out$values <- Map(function(values, known) if (is.null(known)) values else known[values], out$values, known)
  names(out$values) <- names(columns)
  if (out$status != "ok") {
    return(out)
  }
  name_pairs(out, names(columns))
}

# P(X < h, Y < k) for standard normals with correlation r.
core_bivariate_normal <- function(h, k, r) {
  size <- max(length(h), length(k), length(r))
  kernel_bivariate_normal(rep_len(h, size), rep_len(k, size), rep_len(r, size))
}

# A positive definite correlation matrix near r: eigenvalues below `least` are raised to
# it and the diagonal is brought back to one.
core_smooth <- function(r, least = 1e-6) {
  e <- eigen(r, symmetric = TRUE)
  raised <- e$vectors %*% (pmax(e$values, least) * t(e$vectors))
  out <- stats::cov2cor(raised)
  dimnames(out) <- dimnames(r)
  out
}

# The same from counts: tables as source_tables() gives them. Answers that nobody gave are left out.
core_polychoric_tables <- function(tables, most = 20L) {
  if (tables$status != "ok" || any(vapply(tables$items, function(n) sum(n > 0), 0) > most)) {
    return(list(status = "too_many_categories", values = tables$values))
  }
  p <- length(tables$items)
  used <- lapply(tables$items, function(n) n > 0)
  at <- which(lower.tri(diag(p)), arr.ind = TRUE)
  values <- Map(function(values, used) values[used], tables$values, used)
  out <- list(status = "ok", values = values, cases = tables$cases)
  if (any(lengths(values) < 2)) {
    out$status <- "constant_item"
    return(out)
  }
  pairs <- lapply(seq_len(nrow(at)), function(k) tables$pairs[[k]][used[[at[k, 1]]], used[[at[k, 2]]], drop = FALSE])
  found <- kernel_polychoric_counts(Map(function(n, used) n[used], unname(tables$items), unname(used)), pairs, .5)
  name_pairs(c(out, found), names(tables$values))
}

# The covariance matrix, times n, of estimates from the sums of what each case weighs on them and of its products: list(sum, products).
core_spread_of_influence <- function(sums, n) sums$products / n - tcrossprod(sums$sum / n)

name_pairs <- function(out, names) {
  items <- list(names, names)
  dimnames(out$r) <- dimnames(out$std_error) <- dimnames(out$n) <- items
  dimnames(out$state) <- items
  names(out$thresholds) <- names
  out
}

# Spearman correlation of a two-way table: of the midranks of both margins.
core_rank_correlation <- function(table) {
  n <- sum(table)
  rank <- function(count) cumsum(count) - count / 2 - n / 2
  a <- rank(rowSums(table))
  b <- rank(colSums(table))
  sum(a * (table %*% b)) / sqrt(sum(rowSums(table) * a^2) * sum(colSums(table) * b^2))
}
