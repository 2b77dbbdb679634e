# Figures that take a click: where their panel stands in the picture, so that the page can tell what lies under the mouse.

# A figure's HTML with its kind, what it names, and the place of its panel.
clickable_html <- function(html, figure, what) {
  told <- jsonlite::toJSON(c(panel_place(figure), what[names(what) != "kind"]), auto_unbox = TRUE, digits = 6)
  sub("<figure>", paste0("<figure class=\"clickable ", what$kind, "\" data-span=\"", escape_html(told), "\">"), html, fixed = TRUE)
}

# Ends of the first panel as shares of the picture, and the values at them. A panel of fixed shape stands in the middle.
panel_place <- function(figure) {
  # Sizes of text are asked of a device; without one of its own R would leave an Rplots.pdf behind.
  grDevices::pdf(NULL)
  on.exit(grDevices::dev.off())
  built <- ggplot2::ggplot_build(figure)
  table <- ggplot2::ggplot_gtable(built)
  at <- table$layout[grepl("^panel", table$layout$name), ][1, ]
  across <- spread_out(table$widths, figure_width / 120)
  down <- spread_out(table$heights, figure_height(figure) / 120)
  if (isTRUE(table$respect)) {
    unit <- min(across$unit, down$unit)
    across <- spread_out(table$widths, figure_width / 120, unit)
    down <- spread_out(table$heights, figure_height(figure) / 120, unit)
  }
  range <- built$layout$panel_params[[1]]
  list(left = across$starts[at$l], right = across$starts[at$r + 1], top = down$starts[at$t], bottom = down$starts[at$b + 1],
    low = range$x.range[1], high = range$x.range[2], below = range$y.range[1], above = range$y.range[2])
}

# Where each column (or row) of a figure's table begins, as a share; unit: inches of one flexible unit, by default what is left.
spread_out <- function(sizes, whole, unit = NULL) {
  flexible <- grid::unitType(sizes) == "null"
  inches <- rep(0, length(sizes))
  inches[!flexible] <- grid::convertWidth(sizes[!flexible], "in", valueOnly = TRUE)
  share <- as.numeric(sizes[flexible])
  own <- if (is.null(unit)) (whole - sum(inches)) / sum(share) else unit
  inches[flexible] <- own * share
  list(starts = ((whole - sum(inches)) / 2 + cumsum(c(0, inches))) / whole, unit = own)
}

# The heat map of how items go together: a click names a pair, each of which can be turned.
heat_figure <- function(screening, settings, desk) {
  items <- colnames(screening$parts$correlations)
  if (length(items) < 2) {
    return(NULL)
  }
  place <- paste("heat", settings$language, rlang::hash(screening$parts$correlations))
  if (is.null(desk$memory[[place]])) {
    figure <- figure_in(report_figures(screening)$correlations, settings$words)
    folder <- tempfile("desk-")
    on.exit(unlink(folder, recursive = TRUE))
    block <- report_block("figure", figure = figure, name = "heat-map", alt = ggplot2::get_alt_text(figure), number = 2,
      caption = figure_title(figure))
    html <- html_block(draw_document(list(blocks = block), folder)$blocks[[1]], settings)
    r <- round(unname(screening$parts$correlations), 2)
    assign(place, htmltools::HTML(clickable_html(html, figure, list(kind = "heat", items = items, r = r))), desk$memory)
  }
  htmltools::tagList(desk$memory[[place]], htmltools::tags$p(id = "pair", `aria-live` = "polite"))
}
