# Figures that take a click: where their panel stands in the picture, so that the page can tell what lies under the mouse.

# A figure's HTML with its kind, what it names, and the place of its panel; of a path diagram, of each box and oval.
clickable_html <- function(html, figure, what) {
  place <- if (what$kind == "paths") list(nodes = path_nodes(figure)) else panel_places(figure)[[1]]
  told <- jsonlite::toJSON(c(place, what[!names(what) %in% c("kind", "hint")]), auto_unbox = TRUE, digits = 6)
  html <- sub("<figure>", paste0("<figure class=\"clickable ", what$kind, "\" data-span=\"", escape_html(told), "\">"), html, fixed = TRUE)
  if (is.null(what$hint)) html else sub("</figure>", paste0("<p id=\"drawn\" aria-live=\"polite\">", escape_html(what$hint), "</p></figure>"), html,
    fixed = TRUE)
}

# For each panel its ends as shares of the picture, and the values at them. A panel of fixed shape stands in the middle.
panel_places <- function(figure) {
  # Sizes of text are asked of a device; without one of its own R would leave an Rplots.pdf behind.
  grDevices::pdf(NULL)
  on.exit(grDevices::dev.off())
  built <- ggplot2::ggplot_build(figure)
  table <- ggplot2::ggplot_gtable(built)
  cells <- table$layout[grepl("^panel", table$layout$name), ]
  cells <- cells[order(cells$t, cells$l), ]
  across <- spread_out(table$widths, figure_width / 120)
  down <- spread_out(table$heights, figure_height(figure) / 120)
  if (isTRUE(table$respect)) {
    unit <- min(across$unit, down$unit)
    across <- spread_out(table$widths, figure_width / 120, unit)
    down <- spread_out(table$heights, figure_height(figure) / 120, unit)
  }
  panels <- built$layout$layout
  columns <- max(panels$COL)
  places <- lapply(seq_len(nrow(panels)), function(i) {
    at <- cells[(panels$ROW[i] - 1) * columns + panels$COL[i], ]
    range <- built$layout$panel_params[[i]]
    list(left = across$starts[at$l], right = across$starts[at$r + 1], top = down$starts[at$t], bottom = down$starts[at$b + 1],
      low = range$x.range[1], high = range$x.range[2], below = range$y.range[1], above = range$y.range[2])
  })
  stats::setNames(places, if (is.null(panels$panel)) "" else as.character(panels$panel))
}

# Each item and factor of a path diagram: what it is, its name, its middle and half its size as shares of the picture.
path_nodes <- function(figure) {
  places <- panel_places(figure)
  data <- lapply(figure$layers, function(layer) if (is.data.frame(layer$data)) layer$data)
  of <- function(kind) Filter(function(d) !is.null(d) && all(c(kind, "x", "y") %in% names(d)) && !"xend" %in% names(d), data)[1][[1]]
  half <- list(item = c(.15, .38), factor = c(.185, .95))
  unlist(lapply(c("item", "factor"), function(kind) {
    nodes <- of(kind)
    lapply(seq_len(nrow(nodes)), function(i) {
      at <- if (is.null(nodes$panel)) places[[1]] else places[[as.character(nodes$panel[i])]]
      across <- (at$right - at$left) / (at$high - at$low)
      down <- (at$bottom - at$top) / (at$above - at$below)
      list(kind = kind, name = nodes[[kind]][i], x = at$left + (nodes$x[i] - at$low) * across, y = at$top + (at$above - nodes$y[i]) * down,
        w = half[[kind]][1] * across, h = half[[kind]][2] * down)
    })
  }), recursive = FALSE)
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
  place <- paste("heat", settings$language, hash_of(screening$parts$correlations))
  if (is.null(desk$memory[[place]])) {
    figure <- in_language(settings$words$language, report_figures(screening)$correlations)
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
