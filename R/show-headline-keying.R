# The answer of the keying, and what to look at first.

#' @export
headline.sw_keying <- function(x) {
  items <- x$tables$items
  of <- function(code) items[items$agrees == code, ]
  wrong <- of("no")
  halves <- unique(of("half")$scale)
  start <- if (nrow(wrong) > 0) {
    paste0(count_of(nrow(wrong), "item points", "items point"), " against the codebook: ", and_list(paste0(wrong$item, " in ", wrong$scale)), ".")
  } else if (length(halves) > 0) {
    paste0("Half of ", and_list(halves), " points one way and half the other: which half is turned cannot be said from the answers.")
  } else {
    "No item is shown to point against the codebook."
  }
  rest <- c(if (nrow(of("suspect")) > 0) paste0(count_of(nrow(of("suspect")), "looks", "look"), " turned, with too few people to say"),
    if (nrow(of("unclear")) > 0) paste0(count_of(nrow(of("unclear")), "points", "point"), " nowhere (", and_list(of("unclear")$item, 4), ")"))
  paste0(start, if (length(rest) > 0) paste0(" ", sentence_start(and_list(rest)), "."))
}

#' @export
first_look.sw_keying <- function(x) {
  items <- x$tables$items[x$tables$items$agrees != "yes", ]
  c(list(x$tables$scales[c("scale", "items", "n", "alpha", "disagree", "alpha_turned", "suspect", "lowest_r")]),
    if (nrow(items) > 0) list(items))
}
