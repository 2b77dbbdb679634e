# The answer of the keying, and what to look at first.

#' @export
headline.sw_keying <- function(x) {
  items <- x$tables$items
  of <- function(code) items[items$agrees == code, ]
  wrong <- of("no")
  halves <- unique(of("half")$scale)
  suspects <- nrow(of("suspect"))
  unclear <- of("unclear")$item
  nowhere <- if (length(unclear) > 0) message_of("point_nowhere", count = length(unclear), items = unclear)
  turned <- if (suspects > 0) message_of("look_turned", count = suspects)
  list(
    if (nrow(wrong) > 0) message_of("items_against_codebook", count = nrow(wrong), items = messages_of("name_in", name = wrong$item,
      place = wrong$scale)) else
      if (length(halves) > 0) message_of("half_each_way", scales = halves) else message_of("none_against_codebook"),
    if (!is.null(turned) || !is.null(nowhere)) message_of("keying_rest", parts = Filter(Negate(is.null), list(turned, nowhere)))
  )
}

#' @export
first_look.sw_keying <- function(x) {
  items <- x$tables$items[x$tables$items$agrees != "yes", ]
  c(list(x$tables$scales[c("scale", "items", "n", "alpha", "disagree", "alpha_turned", "suspect", "lowest_r")]),
    if (nrow(items) > 0) list(items))
}
