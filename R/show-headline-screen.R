# The answer of a screening, and what to look at first.

#' @export
headline.sw_screening <- function(x) {
  flags <- x$tables$flags
  items <- nrow(x$tables$items)
  halves <- unlist(x$noted$items[x$noted$code == "half"])
  turned <- flags$item[flags$what == "looks unreversed"]
  flagged <- unique(flags$item)
  named <- lapply(flagged, function(i) message_of("name_with_terms", name = i, terms = messages_of("a_term", term = flags$what[flags$item == i])))
  list(
    if (length(halves) > 0) message_of("keying_first_halves", scales = halves),
    if (length(turned) > 0) message_of("keying_first_turned", items = turned),
    if (length(flagged) == 0) message_of("screened_none_flagged", items = items) else
      message_of("screened_flagged", items = items, flagged = length(flagged), named = named),
    clustering_message(x$tables$items, x$tables$items$item)
  )
}

# What people in clusters have in common, where that is known: `of` names the rows.
clustering_message <- function(table, of) {
  if (!"icc" %in% names(table) || all(is.na(table$icc))) {
    return(NULL)
  }
  most <- which.max(table$icc)
  figures <- list(icc = table$icc[most], of = of[most], share = 1 / table$design_effect[most], effect = table$design_effect[most])
  if (nrow(table) == 1) do.call(message_of, c("clustering_one", figures)) else
    do.call(message_of, c("clustering", figures, least = min(table$icc, na.rm = TRUE)))
}

#' @export
first_look.sw_screening <- function(x) {
  table <- x$tables$items
  keyed <- any(!is.na(table$difficulty))
  wanted <- c("item", "missing", if (keyed) "difficulty" else c("mean", "sd", "skewness", "kurtosis", "at_lowest", "at_highest"), "item_rest_r")
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  c(list(table[wanted]), if (nrow(flags) > 0) list(flags))
}
