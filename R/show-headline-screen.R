# The answer of a screening, and what to look at first.

#' @export
headline.sw_screening <- function(x) {
  flags <- x$tables$flags
  items <- nrow(x$tables$items)
  halves <- x$noted$items[x$noted$code == "half"]
  half <- if (length(halves) > 0) paste0("Check the keying first: half of ", and_list(unlist(halves)), " points against the other half. ")
  if (nrow(flags) == 0) {
    return(paste0(half, count_of(items, "item"), " screened, none flagged."))
  }
  turned <- flags$item[flags$what == "looks unreversed"]
  flagged <- unique(flags$item)
  paste0(half, if (length(turned) > 0) paste0("Check the keying first: ", and_list(turned), if (length(turned) == 1) " looks" else " look",
    " unreversed. "),
    count_of(items, "item"), " screened, ", length(flagged), " flagged: ",
    and_list(vapply(flagged, function(i) paste0(i, " (", and_list(flags$what[flags$item == i]), ")"), ""), 12), ".")
}

#' @export
first_look.sw_screening <- function(x) {
  table <- x$tables$items
  keyed <- any(!is.na(table$difficulty))
  wanted <- c("item", "missing", if (keyed) "difficulty" else c("mean", "sd", "skewness", "kurtosis", "at_lowest", "at_highest"), "item_rest_r")
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  c(list(table[wanted]), if (nrow(flags) > 0) list(flags))
}
