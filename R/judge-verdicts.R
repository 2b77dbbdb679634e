# Verdicts are codes with their numbers; words for them are made in R/show-verdict.R.
#
#   met       the bound, or the stricter one where there are two, is met (by the whole interval, where there is one)
#   near      the interval of the figure holds the bound
#   between   the bound is met, the stricter one is not (or not by the whole interval)
#   missed    the bound is missed
#   untested  nothing can be said, for the reason given
#   NA        there is no figure

# value: figures; figure: their keys in the limits table (one, or one each); low, high: their intervals, where
# they have any; reason: why nothing can be said, "" where something can. A data frame with a row per value: figure,
# value, low, high, bound, better, direction, source, reason, code.
judge <- function(value, limits, figure, low = NA_real_, high = NA_real_, reason = "") {
  row <- match(rep_len(figure, length(value)), limits$figure)
  out <- plain_table(
    figure = limits$figure[row], value = as.numeric(value), low = rep_len(as.numeric(low), length(value)),
    high = rep_len(as.numeric(high), length(value)), bound = limits$bound[row], better = limits$better[row], direction = limits$direction[row],
    source = limits$source[row], reason = rep_len(reason, length(value))
  )
  out$code <- judged_code(out$value, out$low, out$high, limits, row, out$reason)
  out
}

# The codes alone.
judge_code <- function(value, limits, figure, low = NA_real_, high = NA_real_, reason = "") {
  size <- length(value)
  row <- match(figure, limits$figure)
  judged_code(as.numeric(value), rep_len(as.numeric(low), size), rep_len(as.numeric(high), size), limits, rep_len(row, size), rep_len(reason, size))
}

# Both ends of an interval stand for the figure; the figure itself where it has none. row: of the limits, one each.
judged_code <- function(value, low, high, limits, row, reason) {
  bound <- limits$bound[row]
  strict <- limits$better[row]
  strict[is.na(strict)] <- bound[is.na(strict)]
  direction <- limits$direction[row]
  interval <- which(!is.na(low) & !is.na(high))
  one <- other <- value
  one[interval] <- low[interval]
  other[interval] <- high[interval]
  good <- on_good_side(one, bound, direction) + on_good_side(other, bound, direction)
  best <- on_good_side(one, strict, direction) & on_good_side(other, strict, direction)
  code <- c("missed", "near", "between")[good + 1]
  code[best & good == 2] <- "met"
  code[reason != ""] <- "untested"
  code
}

# bound and direction: one for all values, or one each. What differs from a bound in its last digits only stands at it.
on_good_side <- function(value, bound, direction) {
  apart <- value - bound
  at <- abs(apart) <= 1e-9 | abs(apart) <= 1e-9 * abs(bound)
  (direction == "at_least" & (at | apart >= 0)) | (direction == "at_most" & (at | apart <= 0)) | (direction == "below" & !at & apart < 0)
}

# Does each value meet the bound? NA where there is no value.
meets <- function(value, limits, figure, which = "bound") {
  rule <- limit(limits, figure)
  on_good_side(value, rule[[which]], rule$direction)
}

# Rows of a result's table `verdicts`. where: whole, item, factor, pair, step, subscale, group, person; name: which of
# them, "" for the whole; judged: of judge().
verdict_rows <- function(where, name, judged) {
  columns <- c("figure", "value", "low", "high", "bound", "direction", "source", "code", "reason")
  do.call(plain_table, c(list(where = rep_len(where, nrow(judged)), name = rep_len(name, nrow(judged))), judged[columns]))
}

# All verdicts of a result, ranked: 1 is what to look at first (missed before near, before untested, before between,
# before met; the farther from the bound the earlier).
ranked_verdicts <- function(...) {
  rows <- stacked(list(...))
  rows <- rows_of(rows, !is.na(rows$code))
  far <- abs(rows$value - rows$bound) / pmax(abs(rows$bound), .01)
  missed <- which(rows$code == "missed")
  far[missed] <- -far[missed]
  order <- order(match(rows$code, c("missed", "near", "untested", "between", "met")), far)
  rows$rank <- integer(nrow(rows))
  rows$rank[order] <- seq_along(order)
  rows
}

# Marks columns of codes in a table for those who print it: `verdict = "alpha"`, one figure for the column, or a
# vector of figures named by what stands in the table's column `by`. reason, detail: likewise, by `by`, or the name of
# the column that holds them.
judged_table <- function(table, ..., by = NULL, reason = NULL, detail = NULL) {
  attr(table, "judged") <- list(columns = list(...), by = by, reason = reason, detail = detail)
  class(table) <- c("judged_frame", "data.frame")
  table
}

# Rows and columns of a judged table are judged as it is.
#' @export
`[.judged_frame` <- function(x, ...) {
  out <- NextMethod()
  if (is.data.frame(out)) for (name in c("judged", "limits")) attr(out, name) <- attr(x, name)
  out
}
