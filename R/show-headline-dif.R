# The answer of differential item functioning, and what to look at first.

#' @export
headline.sw_dif <- function(x) {
  items <- x$tables$items
  flagged <- items[items$flagged %in% TRUE, ]
  power <- stats::median(items$power, na.rm = TRUE)
  by <- x$about$options$by
  if (nrow(flagged) > 0) {
    return(message_of("items_differ", count = nrow(flagged), all = nrow(items), by = by, items = messages_of("name_with", name = flagged$item,
      what = bias_messages(flagged))))
  }
  if (isTRUE(power < .8)) message_of("none_differs_power", all = nrow(items), by = by, power = power) else
    message_of("none_differs", all = nrow(items), by = by)
}

# What is unequal about flagged items.
bias_messages <- function(flagged) {
  lapply(seq_len(nrow(flagged)), function(i) {
    less <- message_of("separates_less", group = flagged$less_in[i])
    switch(flagged$bias_kind[i], nonuniform = less, both = message_of("class_and", class = flagged$class[i], less = less),
      message_of("class_of", class = flagged$class[i]))
  })
}

#' @export
first_look.sw_dif <- function(x) {
  x$tables$items[c("scale", "item", "p_adjusted", "effect", "class", "favours", if (any(x$tables$items$bias_kind %in% c("nonuniform", "both")))
    c("p_nonuniform_adjusted", "slope_ratio", "less_in"))]
}
