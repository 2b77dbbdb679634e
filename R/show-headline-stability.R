# The answer of a stability, and what to look at first.

#' @export
headline.sw_stability <- function(x) {
  table <- x$tables$factors
  good <- sum(table$congruence >= limit(x$limits, "congruence")$better)
  bound <- paste0(" nearly the same in halves of the sample (congruence of at least ", bound_text(limit(x$limits, "congruence")$better), "); ")
  mean <- coefficient_text(min(table$congruence))
  if (nrow(table) == 1) {
    return(paste0("The factor ", if (good == 1) "comes" else "does not come", " back", bound, "mean ", mean, "."))
  }
  paste0(if (good == 0) "None" else good, " of ", nrow(table), " factors ", if (good <= 1) "comes" else "come", " back", bound, "lowest mean ", mean,
    ".")
}

#' @export
first_look.sw_stability <- function(x) {
  items <- x$tables$items
  unsure <- items[!meets(items$share_same, x$limits, "home_share"), ]
  c(list(x$tables$factors), if (nrow(unsure) > 0) list(unsure), if (!is.null(x$tables$groups)) list(x$tables$groups))
}
