# Indices of how a person answered, one value a row of a matrix of answers.

# Longest run of one and the same answer in a row; a missing answer ends a run.
core_longest_run <- function(x) {
  longest <- current <- as.integer(!is.na(x[, 1]))
  for (j in seq_len(ncol(x))[-1]) {
    same <- x[, j] == x[, j - 1]
    same[is.na(same)] <- FALSE
    current <- current * same + !is.na(x[, j])
    longest <- pmax(longest, current)
  }
  longest
}

# Standard deviation within each row; NA with fewer than two answers.
core_row_sd <- function(x) {
  n <- rowSums(!is.na(x))
  centred <- x - rowMeans(x, na.rm = TRUE)
  sd <- sqrt(rowSums(centred^2, na.rm = TRUE) / (n - 1))
  sd[n < 2] <- NA_real_
  sd
}

# Even-odd consistency (Jackson, 1976): over subscales, the correlation within a
# person of the mean of the odd with the mean of the even items, stepped up by
# Spearman-Brown. scales: list of column numbers. NA with fewer than three
# subscales that have both halves.
core_even_odd <- function(x, scales) {
  half <- function(first) {
    vapply(scales, function(columns) {
      rowMeans(x[, columns[seq(first, length(columns), by = 2)], drop = FALSE], na.rm = TRUE)
    }, numeric(nrow(x)))
  }
  odd <- matrix(half(1), nrow(x))
  even <- matrix(half(2), nrow(x))
  odd[is.nan(odd) | is.nan(even)] <- NA
  even[is.na(odd)] <- NA
  n <- rowSums(!is.na(odd))
  a <- odd - rowMeans(odd, na.rm = TRUE)
  b <- even - rowMeans(even, na.rm = TRUE)
  r <- rowSums(a * b, na.rm = TRUE) / sqrt(rowSums(a^2, na.rm = TRUE) * rowSums(b^2, na.rm = TRUE))
  r[n < 3 | !is.finite(r)] <- NA_real_
  ifelse(r < 0, r, 2 * r / (1 + r))
}

# How far a person's keyed answers to forward and to reversed items of the same
# subscale lie apart, 0 to 1 of the range, mean over subscales that have both.
# forward, reversed: lists of column numbers; width: range of the answers.
core_contradiction <- function(x, forward, reversed, width) {
  gaps <- vapply(seq_along(forward), function(k) {
    abs(rowMeans(x[, forward[[k]], drop = FALSE], na.rm = TRUE) - rowMeans(x[, reversed[[k]], drop = FALSE], na.rm = TRUE)) / width[k]
  }, numeric(nrow(x)))
  out <- rowMeans(matrix(gaps, nrow(x)), na.rm = TRUE)
  ifelse(is.nan(out), NA_real_, out)
}
