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
  out$code <- ifelse(out$reason != "", "untested", judged_code(out, out$bound, ifelse(is.na(out$better), out$bound, out$better)))
  out
}

judge_code <- function(...) judge(...)$code

# Both ends of an interval stand for the figure; the figure itself where it has none.
judged_code <- function(of, bound, strict) {
  one <- ifelse(is.na(of$low) | is.na(of$high), of$value, of$low)
  other <- ifelse(is.na(of$low) | is.na(of$high), of$value, of$high)
  good <- on_good_side(one, bound, of$direction) + on_good_side(other, bound, of$direction)
  best <- on_good_side(one, strict, of$direction) & on_good_side(other, strict, of$direction)
  ifelse(good == 0, "missed", ifelse(good == 1, "near", ifelse(best, "met", "between")))
}

# bound and direction: one for all values, or one each. What differs from a bound in its last digits only stands at it.
on_good_side <- function(value, bound, direction) {
  value <- ifelse(abs(value - bound) <= 1e-9 * pmax(abs(bound), 1), bound, value)
  (direction == "at_least" & value >= bound) | (direction == "at_most" & value <= bound) | (direction == "below" & value < bound)
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
  rows <- rows[!is.na(rows$code), ]
  far <- abs(rows$value - rows$bound) / pmax(abs(rows$bound), .01)
  order <- order(match(rows$code, c("missed", "near", "untested", "between", "met")), ifelse(rows$code == "missed", -far, far))
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
