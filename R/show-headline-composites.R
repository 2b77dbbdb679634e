# The answer of composites, and what to look at first.

#' @export
headline.sw_composites <- function(x) {
  table <- x$tables$composites
  pairs <- x$tables$correlations
  low <- table$composite[table$verdict_ave %in% "missed"]
  mixed <- pairs[pairs$verdict %in% "missed", ]
  paths <- x$tables$paths
  paste0(
    if (length(low) > 0) paste0("AVE is below its bound for ", and_list(low), ". ")
    else if (all(table$verdict_ave %in% "met")) "Every composite reaches the bound of AVE. ",
    if (nrow(mixed) > 0) paste0("Hard to tell apart: ", and_list(paste(mixed$composite, "and", mixed$with)), ".")
    else if (nrow(pairs) > 0) "All can be told apart by HTMT.",
    " ", count_of(nrow(table), "composite"), ", weights found in ", count_of(x$about$options$iterations, "step"), ".",
    if (!is.null(paths) && any(!is.na(paths$conf.low))) {
      clear <- paths[paths$conf.low * paths$conf.high > 0, ]
      if (nrow(clear) > 0) paste0(" Paths away from zero: ", and_list(paste0(clear$from, " to ", clear$to, " (",
        coefficient_text(clear$estimate, 2), ")")), ".")
    }
  )
}

#' @export
first_look.sw_composites <- function(x) {
  c(
    list(x$tables$composites[c("composite", "mode", "items", "alpha", "rho_a", "composite_reliability", "ave",
      if (!is.null(x$tables$paths)) c("r_squared",
      "redundancy"))]), if (!is.null(x$tables$paths)) list(x$tables$paths), list(x$tables$correlations, x$tables$items)
  )
}

#' @export
augment.sw_composites <- function(x, ...) {
  refuse_more(...)
  tibble::as_tibble(composite_scores(x))
}
