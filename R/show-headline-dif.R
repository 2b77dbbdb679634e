# The answer of differential item functioning, and what to look at first.

#' @export
headline.sw_dif <- function(x) {
  items <- x$tables$items
  flagged <- items[items$flagged %in% TRUE, ]
  paste0(
    if (nrow(flagged) == 0) "None" else nrow(flagged), " of ", count_of(nrow(items), "item"),
    if (nrow(flagged) == 1 || nrow(flagged) == 0) " works" else " work", " differently by ", x$about$options$by,
    if (nrow(flagged) > 0) paste0(": ", and_list(paste0(flagged$item, " (class ", flagged$class, ")"))), "."
  )
}

#' @export
first_look.sw_dif <- function(x) {
  x$tables$items[c("scale", "item", "statistic", "p_adjusted", "effect", "class", "favours")]
}
