# The answer of option curves, and what to look at first.

#' @export
headline.sw_option_curves <- function(x) {
  flags <- x$tables$flags
  items <- unique(x$tables$curves$item)
  wrong <- unique(flags$item[flags$what_code == "key_looks_wrong"])
  drawing <- unique(flags$item[flags$what_code == "draws_strongest"])
  words <- c(
    if (length(wrong) > 0) paste0("The key looks wrong: ", and_list(wrong), "."),
    if (length(drawing) > 0) paste0("A wrong option draws the strongest: ", and_list(drawing), "."),
    if (nrow(flags) == 0 && any(!is.na(x$tables$curves$right))) "No option is flagged.",
    if (all(is.na(x$tables$curves$right))) "Answers by band are shown, not judged: no item has a right answer.",
    paste0(count_of(length(items), "item"), " in ", x$about$options$bands, " score bands.")
  )
  paste(words, collapse = " ")
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
