# Figures of a screening.

#' @param figure For a screening: `"correlations"`, `"options"` (shares of each
#'   option, centred on the middle), `"histograms"` or `"missing"` (who left out
#'   what).
#' @param order For correlations: `"codebook"` or `"clustered"` (items that go
#'   together stand together).
#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_screening <- function(object, figure = "correlations", order = "codebook", ...) {
  refuse_more(...)
  check_choice(figure, c("correlations", "options", "histograms", "missing"), "figure")
  check_choice(order, c("codebook", "clustered"), "order")
  switch(figure,
    correlations = as_tall_as(draw_correlations(object, order), ncol(object$parts$correlations), 1024),
    options = as_tall_as(draw_options(object), nrow(object$tables$items)), histograms = draw_histograms(object),
    missing = draw_missing(object)
  )
}

# Heat map of inter-item correlations. Negative ones carry a minus and an outline,
# so that they are seen without colour too.
draw_correlations <- function(object, order) {
  r <- object$parts$correlations
  items <- colnames(r)
  if (length(items) < 2) stop_input(message_of("e_one_item_no"), hint = message_of("e_figure_options_shows"))
  if (order == "clustered" && !anyNA(r)) items <- items[stats::hclust(stats::as.dist(1 - abs(r)), "average")$order]
  r <- r[items, items]
  cells <- expand.grid(row = items, column = items, stringsAsFactors = FALSE)
  cells$r <- as.vector(r)
  cells <- cells[match(cells$row, items) > match(cells$column, items), ]
  cells$row <- factor(cells$row, rev(items))
  cells$column <- factor(cells$column, items)
  cells$label <- ifelse(is.na(cells$r), "", drop_zero(decimals(cells$r, 2)))
  cells$dark <- !is.na(cells$r) & abs(cells$r) > .45
  scales <- object$parts$scales
  home <- stats::setNames(rep(names(scales), lengths(scales)), unlist(scales))
  together <- length(home) == 0 | home[as.character(cells$row)] == home[as.character(cells$column)]
  negative <- cells[!is.na(cells$r) & cells$r < 0 & together %in% TRUE, ]
  size <- if (length(items) > 30) 0 else if (length(items) > 16) 3.1 else 3.8
  ggplot2::ggplot(cells, ggplot2::aes(.data$column, .data$row, fill = .data$r)) +
    ggplot2::geom_tile(colour = "white", linewidth = 0.5) +
    ggplot2::geom_tile(data = negative, fill = NA, colour = "black", linewidth = 0.7, width = .9, height = .9) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, colour = .data$dark), size = size, show.legend = FALSE) +
    ggplot2::scale_colour_manual(values = c(`TRUE` = "white", `FALSE` = ink), guide = "none") +
    ggplot2::scale_fill_gradient2(
      low = figure_colours[6], mid = "#F7F7F4", high = figure_colours[1], limits = c(-1, 1), name = "r", na.value = "grey80"
    ) +
    ggplot2::scale_x_discrete(position = "bottom", drop = FALSE) +
    ggplot2::scale_y_discrete(drop = FALSE) +
    figure_theme() +
    no_grid() +
    ggplot2::theme(
      axis.title = ggplot2::element_blank(), axis.text.x = ggplot2::element_text(angle = 90, vjust = .5, hjust = 1),
      legend.position = "right"
    ) +
    figure_labels(
      worded("figure_correlations"),
      worded(if (order == "clustered") "figure_correlations_clustered_is" else "figure_correlations_is",
        bound = limit(object$limits, "inter_item_r")$bound),
      object, worded("figure_correlations_alt", items = length(items), low = min(cells$r, na.rm = TRUE), high = max(cells$r, na.rm = TRUE),
        negative = nrow(negative))
    )
}

# Options of each item, a data frame: item, option, share, right; answers of more than 20 values in ten classes of equal width.
option_shares <- function(object) {
  options <- object$tables$options
  whole <- names(which(table(options$item) <= 20))
  others <- lapply(setdiff(object$tables$items$item, whole), function(item) {
    count <- object$parts$counts[[item]]
    if (length(count$values) < 2 || !is.numeric(count$values)) {
      return(NULL)
    }
    edges <- seq(min(count$values), max(count$values), length.out = 11)
    n <- vapply(split(count$counts, cut(count$values, edges, include.lowest = TRUE)), sum, 0)
    data.frame(item = item, option = "", label = NA_character_, n = n, share = n / sum(n), right = NA, unused = "")
  })
  rbind(options[options$item %in% whole, ], do.call(rbind, others))
}
