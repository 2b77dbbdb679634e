# The answer of a reliability, and what to look at first.

#' @export
headline.sw_reliability <- function(x) {
  scales <- x$tables$scales
  turned <- scales[scales$looks_unreversed != "", ]
  known <- scales[!is.na(scales$alpha), ]
  paste0(
    if (nrow(turned) > 0) paste0("Check the keying first: ", and_list(paste0(unreversed_words(turned), " in ", turned$scale)),
      if (nrow(turned) == 1 && !grepl(" ", turned$looks_unreversed)) " looks" else " look", " unreversed. "),
    if (nrow(known) == 0) "Alpha could not be computed for any subscale." else paste0(
      if (all(known$coefficient == "KR-20")) "KR-20: " else "Alpha: ",
      and_list(paste(known$scale, coefficient_text(known$alpha)), 12), ".")
  )
}

#' @export
first_look.sw_reliability <- function(x) {
  table <- x$tables$scales
  last <- if (any(!is.na(table$alpha_turned))) "alpha_turned" else "omega"
  table[c("scale", "items", "n", "alpha", "conf.low", "conf.high", "verdict", last)]
}
