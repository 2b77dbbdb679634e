# The answer of option curves, and what to look at first.

#' @export
headline.sw_option_curves <- function(x) {
  flags <- x$tables$flags
  wrong <- unique(flags$item[flags$what_code == "key_looks_wrong"])
  drawing <- unique(flags$item[flags$what_code == "draws_strongest"])
  keyed <- any(!is.na(x$tables$curves$right))
  list(
    if (length(wrong) > 0) message_of("key_looks_wrong", items = wrong),
    if (length(drawing) > 0) message_of("draws_strongest", items = drawing),
    if (nrow(flags) == 0 && keyed) message_of("no_option_flagged"),
    if (!keyed) message_of("bands_not_judged"),
    message_of("items_in_bands", items = length(unique(x$tables$curves$item)), bands = x$about$options$bands)
  )
}

# Test items: the share of each option by band; others: the mean answer by band.
#' @export
first_look.sw_option_curves <- function(x) {
  curves <- x$tables$curves
  tests <- curves[!is.na(curves$right), ]
  flags <- x$tables$flags
  c(
    if (nrow(flags) > 0) list(flags[c("item", "option", "what", "weakest", "strongest")]),
    if (nrow(tests) > 0) list(shares_by_band(tests)),
    if (nrow(tests) < nrow(curves)) list(x$tables$means)
  )
}

shares_by_band <- function(curves) {
  first <- curves[curves$band == 1, ]
  bands <- lapply(sort(unique(curves$band)), function(b) curves$share[curves$band == b])
  names(bands) <- paste0("share_band_", seq_along(bands))
  plain_frame(c(list(item = first$item, option = first$option, right = ifelse(first$right, "right", "")), bands))
}
