# The answer of composites, and what to look at first.

#' @export
headline.sw_composites <- function(x) {
  table <- x$tables$composites
  pairs <- x$tables$correlations
  low <- table$composite[table$verdict_ave %in% "missed"]
  mixed <- pairs[pairs$verdict %in% "missed", ]
  paths <- x$tables$paths
  clear <- if (!is.null(paths)) paths[(paths$conf.low * paths$conf.high > 0) %in% TRUE, ]
  list(
    if (length(low) > 0) message_of("composites_ave_low", composites = low) else
      if (all(table$verdict_ave %in% "met")) message_of("composites_ave_reached"),
    if (nrow(mixed) > 0) message_of("composites_alike", pairs = Map(message_of, "two_names", first = mixed$composite, second = mixed$with)) else
      if (nrow(pairs) > 0) message_of("composites_apart"),
    message_of("composites_found", composites = nrow(table), steps = message_of("composites_steps", steps = x$about$options$iterations)),
    if (NROW(clear) > 0) message_of("composites_paths", paths = Map(message_of, "path_and_size", from = clear$from, to = clear$to,
      size = clear$estimate))
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
