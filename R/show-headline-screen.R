# The answer of a screening, and what to look at first.

#' @export
headline.sw_screening <- function(x) {
  flags <- x$tables$flags
  items <- nrow(x$tables$items)
  halves <- x$noted$items[x$noted$code == "half"]
  half <- if (length(halves) > 0) paste0("Check the keying first: half of ", and_list(unlist(halves)), " points against the other half. ")
  if (nrow(flags) == 0) {
    return(paste0(half, count_of(items, "item"), " screened, none flagged.", clustering_words(x$tables$items, x$tables$items$item)))
  }
  turned <- flags$item[flags$what == "looks unreversed"]
  flagged <- unique(flags$item)
  paste0(half, if (length(turned) > 0) paste0("Check the keying first: ", and_list(turned), if (length(turned) == 1) " looks" else " look",
    " unreversed. "),
    count_of(items, "item"), " screened, ", length(flagged), " flagged: ",
    and_list(vapply(flagged, function(i) paste0(i, " (", and_list(flags$what[flags$item == i]), ")"), ""), 12), ".",
    clustering_words(x$tables$items, x$tables$items$item))
}

# What people in clusters have in common, where that is known: `of` names the rows.
clustering_words <- function(table, of) {
  if (!"icc" %in% names(table) || all(is.na(table$icc))) {
    return("")
  }
  most <- which.max(table$icc)
  least <- min(table$icc, na.rm = TRUE)
  paste0(" Intraclass correlation ", if (nrow(table) > 1) paste(coefficient_text(least), "to "), coefficient_text(table$icc[most]), " (", of[most],
    "): means are as sure as those of ", format_number(1 / table$design_effect[most], "percent"), " as many people apart",
    if (nrow(table) > 1) " at worst", " (design effect ", coefficient_text(table$design_effect[most], 2), ").")
}

#' @export
first_look.sw_screening <- function(x) {
  table <- x$tables$items
  keyed <- any(!is.na(table$difficulty))
  wanted <- c("item", "missing", if (keyed) "difficulty" else c("mean", "sd", "skewness", "kurtosis", "at_lowest", "at_highest"), "item_rest_r")
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  c(list(table[wanted]), if (nrow(flags) > 0) list(flags))
}
