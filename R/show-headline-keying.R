# The answer of the keying, and what to look at first.

#' @export
headline.sw_keying <- function(x) {
  wrong <- x$tables$items[x$tables$items$agrees == "no", ]
  unclear <- sum(x$tables$items$agrees == "unclear")
  start <- if (nrow(wrong) == 0) {
    "Every item that points clearly points the way the codebook says."
  } else {
    paste0(
      count_of(nrow(wrong), "item points", "items point"), " against the codebook: ", and_list(paste0(wrong$item, " in ", wrong$scale)), "."
    )
  }
  paste0(start, if (unclear > 0) paste0(" ", count_of(unclear, "item is", "items are"), " unclear."))
}

#' @export
first_look.sw_keying <- function(x) {
  items <- x$tables$items[x$tables$items$agrees != "yes", ]
  c(list(x$tables$scales[c("scale", "items", "n", "alpha", "disagree", "alpha_turned", "negative", "lowest_r")]),
    if (nrow(items) > 0) list(items))
}
