# The answer of a screening, and what to look at first.

#' @export
headline.sw_screening <- function(x) {
  flags <- x$tables$flags
  items <- nrow(x$tables$items)
  if (nrow(flags) == 0) {
    return(paste0(count_of(items, "item"), " screened, none flagged."))
  }
  flagged <- unique(flags$item)
  paste0(count_of(items, "item"), " screened, ", length(flagged), " flagged: ",
    and_list(vapply(flagged, function(i) paste0(i, " (", and_list(flags$what[flags$item == i]), ")"), "")), ".")
}

#' @export
first_look.sw_screening <- function(x) {
  table <- x$tables$items
  keyed <- any(!is.na(table$difficulty))
  wanted <- c("item", "missing", if (keyed) "difficulty" else c("mean", "sd", "skewness", "kurtosis", "at_lowest", "at_highest"), "item_rest_r")
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  c(list(table[wanted]), if (nrow(flags) > 0) list(flags))
}
