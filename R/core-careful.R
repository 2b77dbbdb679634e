# Slips, variance within pages, and items left at the end.

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
