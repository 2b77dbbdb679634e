# Means and covariances of a numeric matrix. `NA` marks a missing cell.

# Complete rows only: list(status, n, mean, covariance).
core_complete_moments <- function(x) {
  storage.mode(x) <- "double"
  name_moments(kernel_matrix_moments(x), colnames(x))
}

# The same of a named list of integer or double columns, read where they lie: the
# value of column j is shift[j] + sign[j] * x. keep: NULL, or a logical value per
# row.
core_column_moments <- function(columns, shift, sign, keep = NULL) {
  name_moments(kernel_complete_moments(unclass(as_numeric_columns(columns)), shift, sign, keep), names(columns))
}

# The same of the complete rows without each part of them in turn: a list. part: of each row, 1, ..., parts, or 0 for a row that counts nowhere.
core_moments_without_parts <- function(columns, shift, sign, part, parts) {
  found <- kernel_moments_without_parts(unclass(as_numeric_columns(columns)), shift, sign, part, parts)
  lapply(found, name_moments, names(columns))
}

# Columns as the kernels read them: whole numbers or reals.
as_numeric_columns <- function(columns) {
  other <- !vapply(columns, function(x) is.integer(x) || is.double(x), TRUE)
  columns[other] <- lapply(columns[other], as.double)
  columns
}

name_moments <- function(out, names) {
  names(out$mean) <- names
  dimnames(out$covariance) <- list(names, names)
  out
}

# Without the rows of each group in turn: list of list(status, n, mean, covariance). x: complete; of: the group of each row, 1, ..., groups.
core_moments_without <- function(x, of, groups, weight = NULL) {
  if (is.null(weight)) weight <- rep(1, nrow(x))
  centre <- colSums(x * weight) / sum(weight)
  x <- sweep(x, 2, centre)
  parts <- lapply(seq_len(groups), function(g) {
    mine <- x[of == g, , drop = FALSE]
    own <- weight[of == g]
    list(n = nrow(mine), weight = sum(own), sum = colSums(mine * own), products = kernel_crossproduct(mine * sqrt(own)))
  })
  all <- Reduce(`+`, lapply(parts, `[[`, "products"))
  lapply(parts, function(part) {
    n <- nrow(x) - part$n
    total <- sum(weight) - part$weight
    mean <- -part$sum / total
    covariance <- ((all - part$products) / total - tcrossprod(mean)) * n / (n - 1)
    list(status = "ok", n = n, mean = centre + mean, covariance = `dimnames<-`(covariance, list(colnames(x), colnames(x))))
  })
}

# Each pair of columns over the rows where both are there:
# list(status, n = smallest pair, pairs = n of each pair, mean, covariance).
core_pairwise_moments <- function(x) {
  storage.mode(x) <- "double"
  seen <- !is.na(x)
  mean <- colMeans(x, na.rm = TRUE)
  centred <- sweep(x, 2, mean)
  centred[!seen] <- 0
  storage.mode(seen) <- "double"
  pairwise_of_sums(mean, crossprod(seen), crossprod(centred, seen), crossprod(centred))
}

# pairs: how many answered both; sums: of the row's item about its mean, among those who answered the column's; products alike.
pairwise_of_sums <- function(mean, pairs, sums, products) {
  covariance <- (products - sums * t(sums) / pairs) / (pairs - 1)
  covariance[pairs < 2] <- NA_real_
  list(
    status = if (min(pairs) < 2) "too_few_cases" else "ok",
    n = min(pairs), pairs = pairs, mean = mean, covariance = covariance
  )
}

# Correlations of a covariance matrix; NA for a variable without variance.
core_correlation <- function(covariance) {
  variance <- diag(covariance)
  variance[!is.na(variance) & variance <= 0] <- NA_real_
  r <- covariance / sqrt(outer(variance, variance))
  diag(r) <- ifelse(is.na(variance), NA_real_, 1)
  r
}

# Smallest eigenvalue of a symmetric matrix over its largest; below about 1e-8
# the matrix cannot be inverted with any digits left.
core_definiteness <- function(m) {
  values <- eigen(m, symmetric = TRUE, only.values = TRUE)$values
  values[length(values)] / values[1]
}

# Spearman correlations in the shape of moments; pairwise ranks each pair on its own.
core_rank_moments <- function(x, listwise) {
  complete <- stats::complete.cases(x)
  if (listwise) x <- x[complete, , drop = FALSE]
  n <- if (listwise) nrow(x) else sum(rowSums(!is.na(x)) > 0)
  if (n < 2) {
    return(list(status = "too_few_cases", n = n))
  }
  r <- suppressWarnings(stats::cor(x, method = "spearman", use = if (listwise) "everything" else "pairwise.complete.obs"))
  flat <- apply(x, 2, function(v) length(unique(v[!is.na(v)])) < 2)
  r[flat, ] <- r[, flat] <- 0
  diag(r) <- ifelse(flat, 0, 1)
  list(status = if (anyNA(r)) "too_few_cases" else "ok", n = n, mean = stats::setNames(rep(NA_real_, ncol(x)), colnames(x)), covariance = r)
}
