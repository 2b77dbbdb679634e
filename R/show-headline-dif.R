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
    if (nrow(flagged) > 0) paste0(": ", and_list(paste0(flagged$item, " (class ", flagged$class, ")"))), "."
  )
}

#' @export
first_look.sw_dif <- function(x) {
  x$tables$items[c("scale", "item", "statistic", "p_adjusted", "effect", "class", "favours")]
}
