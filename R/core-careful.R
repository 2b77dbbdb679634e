# Careful people made up from a sample: what their answers would look like, so that bounds are found for these very items.

# `count` people with the sample's shares of each answer and latent correlations r. shares: a list of named shares, one an
# item, whose names are the answers. random: list(normal).
core_careful_people <- function(r, shares, count, random) {
  x <- matrix(random$normal(count * ncol(r)), count) %*% chol(r)
  for (j in seq_len(ncol(r))) {
    cuts <- stats::qnorm(cumsum(shares[[j]]))
    x[, j] <- as.numeric(names(shares[[j]]))[findInterval(x[, j], cuts[-length(cuts)]) + 1]
  }
  x
}

# Answers that slip: a share of them is one step off, within the range.
core_slipped <- function(x, lowest, highest, share, random) {
  at <- matrix(random$uniform(length(x)) < share, nrow(x))
  step <- matrix(ifelse(random$uniform(length(x)) < .5, -1, 1), nrow(x))
  moved <- x + at * step
  low <- matrix(lowest, nrow(x), ncol(x), byrow = TRUE)
  high <- matrix(highest, nrow(x), ncol(x), byrow = TRUE)
  pmin(pmax(moved, low), high)
}

# Mean over pages of the variance of a person's answers on a page, in units of the range; pages: lists of columns. NA for
# people with less than half of the pages.
core_page_variance <- function(x, pages, width) kernel_page_variances(x, pages, width)

# How many items at the end a person left out, in the order given; 0 for somebody who answered none.
core_left_at_end <- function(x) kernel_left_at_end(x)

# People who give one answer on each page, another perhaps on the next; pages: lists of columns.
core_straight_lines <- function(pages, lowest, highest, count, random) {
  out <- matrix(NA_real_, count, length(lowest))
  for (columns in pages) {
    low <- max(lowest[columns])
    steps <- min(highest[columns]) - low
    out[, columns] <- low + floor(random$uniform(count) * (steps + 1))
  }
  out
}

# People who answer at random, every answer as likely as any other.
core_random_answers <- function(shares, count, random) {
  vapply(shares, function(one) {
    values <- as.numeric(names(one))
    values[1 + floor(random$uniform(count) * length(values))]
  }, numeric(count))
}
