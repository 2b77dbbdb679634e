# Path diagrams of many items: a panel a factor, two or three beside each other.

# Above 24 items one column would be too small to read; factors above factors stay together.
needs_panels <- function(structure) {
  length(structure$factors) > 1 && length(structure_items(structure)) > 24 && length(structure$higher) == 0 && all(lengths(structure$factors) <= 30)
}

draw_factor_panels <- function(object, estimates) {
  structure <- object$parts$structure
  loadings <- object$tables$loadings
  if (estimates == "raw") loadings$standardised <- loadings$estimate
  pairs <- object$tables$residuals
  if (estimates == "raw") pairs$standardised <- pairs$estimate
  factors <- names(structure$factors)
  parts <- lapply(factors, function(name) {
    own <- structure$factors[[name]]
    layout <- path_layout(list(factors = structure$factors[name], higher = list()))
    mine <- pairs[pairs$item %in% own & pairs$with %in% own, ]
    with_panel <- function(table) within_panel(table, rep(name, nrow(table)))
    list(items = with_panel(layout$items), factors = with_panel(layout$factors),
      loadings = with_panel(path_loadings(loadings[loadings$factor == name & loadings$item %in% own, ], layout)),
      pairs = with_panel(path_pairs(mine, layout)))
  })
  all_of <- function(what) {
    out <- do.call(rbind, lapply(parts, `[[`, what))
    out$panel <- factor(out$panel, factors)
    out
  }
  across <- if (length(factors) > 4) 3 else 2
  layout <- list(items = all_of("items"), factors = all_of("factors"))
  pairs_drawn <- all_of("pairs")
  pairs_drawn$id <- seq_len(nrow(pairs_drawn))
  links <- path_links(object$tables$factor_correlations[0, ], layout)
  figure <- draw_diagram(layout, all_of("loadings"), links, pairs_drawn, across) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = across, scales = "free_y") +
    figure_labels(
      structure_title(object, estimates == "raw"), worded("figure_panels_is"), object,
      worded("figure_panels_alt", factors = length(factors), items = length(structure_items(structure)), estimates = estimates))
  rows <- ceiling(length(factors) / across)
  as_tall_as(figure, rows * max(lengths(structure$factors)) * 1.25, 800)
}
