# The answer of differential item functioning, and what to look at first.

#' @export
headline.sw_dif <- function(x) {
  items <- x$tables$items
  flagged <- items[items$flagged %in% TRUE, ]
  power <- stats::median(items$power, na.rm = TRUE)
  by <- x$about$options$by
  if (nrow(flagged) == 0 && isTRUE(power < .8)) {
    return(paste0("None of ", count_of(nrow(items), "item"), " is seen to work differently by ", by,
      ", but a large difference would be seen with a probability of ",
      coefficient_text(power, 2), " only: that is no finding."))
  }
  paste0(
    if (nrow(flagged) == 0) "None" else nrow(flagged), " of ", count_of(nrow(items), "item"),
    if (nrow(flagged) == 1 || nrow(flagged) == 0) " works" else " work", " differently by ", by,
    if (nrow(flagged) > 0) paste0(": ", and_list(paste0(flagged$item, " (", bias_words(flagged), ")"))), "."
  )
}

# What is unequal about flagged items.
bias_words <- function(flagged) {
  less <- paste("separates people less in", quoted(flagged$less_in))
  ifelse(flagged$bias_kind == "nonuniform", less, paste0("class ", flagged$class, ifelse(flagged$bias_kind == "both", paste0(", and ", less), "")))
}

#' @export
first_look.sw_dif <- function(x) {
  x$tables$items[c("scale", "item", "p_adjusted", "effect", "class", "favours", if (any(x$tables$items$bias_kind %in% c("nonuniform", "both")))
    c("p_nonuniform_adjusted", "slope_ratio", "less_in"))]
}
