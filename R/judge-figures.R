# Every judged figure with its formula and range, beside its bound and source from the limits: the
# glossary of the documentation.

# A row a figure: figure, formula, range, direction, bound, stricter bound, source.
figure_glossary <- function(limits = sw_limits()) {
  about <- shipped_table("limits")
  about <- about[match(limits$figure, about$figure), ]
  text <- function(x) vapply(x, function(one) if (is.na(one)) "" else bound_text(one), "")
  plain_table(
    figure = limits$words, formula = about$formula, range = about$range,
    direction = c(at_least = "higher is better", at_most = "lower is better", below = "lower is better")[limits$direction] |> unname(),
    bound = text(limits$bound), stricter = text(limits$better), source = limits$source
  )
}
