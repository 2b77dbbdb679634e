# The answer of a reliability, and what to look at first.

#' @export
headline.sw_reliability <- function(x) {
  scales <- x$tables$scales
  turned <- scales[scales$looks_unreversed != "", ]
  halves <- unlist(x$noted$items[x$noted$code == "half"])
  # What the keying spoils is no result.
  known <- scales[!is.na(scales$alpha) & !scales$scale %in% c(turned$scale, halves) & scales$alpha >= 0, ]
  spoilt <- nrow(known) < sum(!is.na(scales$alpha))
  first <- c(if (nrow(turned) > 0) paste0(and_list(paste0(unreversed_words(turned), " in ", turned$scale)),
    if (nrow(turned) == 1 && !grepl(" ", turned$looks_unreversed)) " looks" else " look", " unreversed"),
    if (length(halves) > 0) paste0("half of ", and_list(halves), " points against the other half"))
  negative <- setdiff(scales$scale[scales$alpha %in% scales$alpha[which(scales$alpha < 0)]], c(turned$scale, halves))
  paste0(
    if (length(first) > 0) paste0("Check the keying first: ", and_list(first), ". "),
    if (length(negative) > 0) paste0("Items of ", and_list(negative), " cancel each other: there is no alpha to report. "),
    core_words(x), if (nrow(known) > 0) paste0(
      if (all(known$coefficient == "KR-20")) "KR-20" else "Alpha", if (spoilt) " of the others", ": ",
      and_list(paste(known$scale, coefficient_text(known$alpha)), 12), ".") else if (!spoilt) "Alpha could not be computed for any subscale.",
    if (!is.null(x$tables$levels)) clustering_words(whole_scores(x$tables$levels), whole_scores(x$tables$levels)$scale)
  ) |> trimws()
}

# One row a subscale.
whole_scores <- function(levels) levels[levels$level == "within", ]

# Subscales of which only some items hang together.
core_words <- function(x) {
  paste0(vapply(which(x$noted$code == "core"), function(i) {
    of <- x$noted$numbers[[i]]
    paste0("Only ", length(x$noted$items[[i]]), " of ", of$items_of, " items of ", of$scale, " hang together (alpha ", coefficient_text(of$alpha),
      "). ")
  }, ""), collapse = "")
}

#' @export
first_look.sw_reliability <- function(x) {
  table <- x$tables$scales
  last <- if (any(!is.na(table$alpha_turned))) "alpha_turned" else intersect(c("omega", "omega_low", "omega_high"), names(table))
  table[c("scale", "items", "n", "alpha", "conf.low", "conf.high", "verdict", last)]
}
