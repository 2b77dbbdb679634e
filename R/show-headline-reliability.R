# The answer of a reliability, and what to look at first.

#' @export
headline.sw_reliability <- function(x) {
  scales <- x$tables$scales
  turned <- scales[scales$looks_unreversed != "", ]
  halves <- unlist(x$noted$items[x$noted$code == "half"])
  # What the keying spoils is no result.
  known <- scales[!is.na(scales$alpha) & !scales$scale %in% c(turned$scale, halves) & scales$alpha >= 0, ]
  spoilt <- nrow(known) < sum(!is.na(scales$alpha))
  negative <- setdiff(scales$scale[scales$alpha %in% scales$alpha[which(scales$alpha < 0)]], c(turned$scale, halves))
  first <- list(if (nrow(turned) > 0) message_of("look_unreversed", count = sum(lengths(unreversed_items(turned))),
    items = messages_of("items_in", items = unreversed_items(turned), scale = turned$scale)),
    if (length(halves) > 0) message_of("half_points_against", scales = halves))
  list(
    if (nrow(turned) > 0 || length(halves) > 0) message_of("keying_first", what = Filter(Negate(is.null), first)),
    if (length(negative) > 0) message_of("items_cancel", scales = negative),
    core_messages(x),
    if (nrow(known) > 0) alphas_message(known, spoilt) else if (!spoilt) message_of("alpha_nowhere"),
    if (!is.null(x$tables$levels)) clustering_message(whole_scores(x$tables$levels), whole_scores(x$tables$levels)$scale)
  )
}

# "Alpha: calm .719 and craft .813." spoilt: other subscales have none to report.
alphas_message <- function(known, spoilt) {
  message_of(if (spoilt) "alphas_of_others" else "alphas", coefficient = if (all(known$coefficient == "KR-20")) "KR-20" else "Alpha",
    alphas = messages_of("name_and_r3", name = known$scale, value = known$alpha))
}

# One row a subscale.
whole_scores <- function(levels) levels[levels$level == "within", ]

# Subscales of which only some items hang together.
core_messages <- function(x) {
  lapply(which(x$noted$code == "core"), function(i) {
    of <- x$noted$numbers[[i]]
    message_of("only_some_together", count = length(x$noted$items[[i]]), all = of$items_of, scale = of$scale, alpha = of$alpha)
  })
}

#' @export
first_look.sw_reliability <- function(x) {
  table <- x$tables$scales
  last <- if (any(!is.na(table$alpha_turned))) "alpha_turned" else intersect(c("omega", "omega_low", "omega_high"), names(table))
  table[c("scale", "items", "n", "alpha", "conf.low", "conf.high", "verdict", last)]
}
