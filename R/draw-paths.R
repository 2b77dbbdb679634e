# Path diagrams: factors as ovals in a column, their items as boxes to the right,
# one-headed arrows for loadings, two-headed arcs for factor correlations and
# residual pairs. Positions are worked out here; nothing is estimated.

# The diagram from tables of places: loadings, links between factors and pairs of items. narrow:
# how many stand side by side; the tables then say which `panel` each row is in.
draw_diagram <- function(layout, loadings, links, pairs, narrow = 1) {
  height <- max(diff(range(layout$items$y)), 6)
  rows <- if (is.null(layout$items$panel)) nrow(layout$items) else max(table(layout$items$panel))
  text_size <- max(2.4, min(4.2, 90 / rows))
  if (narrow > 1) text_size <- max(2.1, min(text_size, 4.4 - .45 * min(narrow, 3)))
  left <- if (nrow(links) == 0 && all(layout$factors$x >= 0)) -.35 else -1.05
  right <- if (any(layout$factors$x > 2)) 2.75 else if (nrow(pairs) > 0) 1.7 else 1.42
  across <- if (narrow > 3) ceiling(narrow / 2) else narrow
  wide <- 2.47 / (right - left) / across
  ggplot2::ggplot() +
    draw_arcs(links, text_size, height, curve = 1, across) +
    draw_arcs(pairs, text_size, height, curve = -1, across) +
    draw_loadings(loadings, text_size, height, across) +
    draw_boxes(layout$items, min(text_size, 34 * wide / max(nchar(layout$items$item)))) +
    draw_ovals(layout$factors, min(text_size * 1.15, (if (across > 1) 58 else 43) * wide / max(nchar(layout$factors$factor)))) +
    ggplot2::scale_linewidth_identity() +
    ggplot2::scale_linetype_identity() +
    ggplot2::coord_cartesian(xlim = c(left, right), clip = "off") +
    figure_theme() +
    no_grid() +
    ggplot2::theme(axis.text = ggplot2::element_blank(), axis.title = ggplot2::element_blank())
}

# Items from top to bottom under their first factor, with a gap between factors;
# each factor stands at the middle of its own items.
path_layout <- function(structure) {
  items <- structure_items(structure)
  home <- vapply(items, function(i) which(vapply(structure$factors, function(f) i %in% f, TRUE))[1], 1L)
  items <- items[order(home)]
  home <- sort(home)
  y <- -(seq_along(items) - 1) - .8 * (home - 1)
  places <- stats::setNames(vapply(seq_along(structure$factors), function(k) factor_place(k, home, y), 0), names(structure$factors))
  for (name in names(structure$higher)) places[name] <- mean(places[structure$higher[[name]]])
  across <- ifelse(names(places) %in% names(structure$higher), -.85, 0)
  across[match(names(structure$factors)[!seq_along(structure$factors) %in% home], names(places))] <- 2.5
  list(
    items = data.frame(item = items, x = 1.25, y = y), factors = data.frame(factor = names(places), x = across, y = unname(places))
  )
}

# The middle of a factor's own items; of all for a general factor, which has none of its
# own and stands to their right.
factor_place <- function(k, home, y) if (any(home == k)) mean(y[home == k]) else mean(range(y))

path_loadings <- function(table, layout) {
  from <- layout$factors[match(table$factor, layout$factors$factor), ]
  below <- match(table$item, layout$factors$factor)
  to <- layout$items[match(table$item, layout$items$item), ]
  to[!is.na(below), c("x", "y")] <- layout$factors[below[!is.na(below)], c("x", "y")]
  first <- !duplicated(table$item)
  at <- ifelse(first, .78, .45)
  at[!is.na(below)] <- .55
  back <- from$x > to$x
  at[back] <- .72
  start <- from$x + ifelse(back, -.19, .19)
  end <- to$x - ifelse(back, -.16, ifelse(is.na(below), .16, .20))
  data.frame(
    x = start, y = from$y, xend = end, yend = to$y,
    label_x = start + at * (end - start), label_y = from$y + at * (to$y - from$y),
    label = coefficient_text(table$standardised, 2), width = .3 + 1.1 * pmin(abs(table$standardised), 1),
    line = ifelse(!is.na(table$p.value) & table$p.value > .05, "dashed", "solid")
  )
}

path_links <- function(table, layout) {
  table <- table[table$correlation != 0, ]
  from <- layout$factors[match(table$factor, layout$factors$factor), ]
  to <- layout$factors[match(table$with, layout$factors$factor), ]
  arc_table(rep(-.19, nrow(table)), from$y, to$y, table$correlation, table$p.value, .17, diff(range(layout$items$y)))
}

path_pairs <- function(table, layout) {
  pairs <- table[table$item != table$with, ]
  from <- layout$items[match(pairs$item, layout$items$item), ]
  to <- layout$items[match(pairs$with, layout$items$item), ]
  arc_table(rep(1.42, nrow(pairs)), from$y, to$y, pairs$standardised, pairs$p.value, .06, diff(range(layout$items$y)))
}

# Arcs from y to yend at x: the further apart the ends, the deeper the arc.
arc_table <- function(x, y, yend, value, p, least, height) {
  depth <- least + .75 * abs(y - yend) / max(height, 1)
  data.frame(
    id = seq_along(y), x = x, y = y, yend = yend, depth = depth,
    label = coefficient_text(value, 2), width = rep(.3 + 1.1 * pmin(abs(value), 1), length.out = length(y)),
    line = ifelse(!is.na(p) & p > .05, "dashed", "solid")
  )
}

draw_arcs <- function(arcs, text_size, height, curve, across) {
  if (nrow(arcs) == 0) {
    return(NULL)
  }
  points <- do.call(rbind, lapply(seq_len(nrow(arcs)), function(i) {
    arc <- arcs[i, ]
    t <- seq(0, pi, length.out = 40)
    data.frame(
      id = i, x = arc$x - curve * arc$depth * sin(t), y = arc$y + (arc$yend - arc$y) * (1 - cos(t)) / 2,
      width = arc$width, line = arc$line
    ) |> within_panel(arc$panel)
  }))
  arcs$label_x <- arcs$x - curve * arcs$depth
  arcs$label_y <- (arcs$y + arcs$yend) / 2
  list(
    ggplot2::geom_path(
      data = points, ggplot2::aes(.data$x, .data$y, group = .data$id, linewidth = .data$width, linetype = .data$line),
      colour = figure_colours[4], arrow = path_arrow("both")
    ),
    value_labels(arcs, text_size, height, across)
  )
}

within_panel <- function(data, panel) {
  if (!is.null(panel)) data$panel <- panel
  data
}

draw_loadings <- function(loadings, text_size, height, across) {
  list(
    ggplot2::geom_segment(
      data = loadings,
      ggplot2::aes(.data$x, .data$y, xend = .data$xend, yend = .data$yend, linewidth = .data$width, linetype = .data$line),
      colour = ink, arrow = path_arrow("last")
    ),
    value_labels(loadings, text_size, height, across)
  )
}

path_arrow <- function(ends) grid::arrow(length = grid::unit(5, "pt"), type = "closed", ends = ends)

# Values on a white patch, so that the line does not run through them.
value_labels <- function(table, text_size, height, across) {
  table <- table[nzchar(table$label), ]
  place <- ggplot2::aes(.data$label_x, .data$label_y)
  list(
    ggplot2::geom_tile(data = table, place, width = .019 * text_size * across, height = .0072 * text_size * height, fill = "white"),
    ggplot2::geom_text(data = table, ggplot2::aes(.data$label_x, .data$label_y, label = .data$label), size = text_size, colour = ink)
  )
}

draw_boxes <- function(items, text_size) {
  list(
    ggplot2::geom_rect(
      data = items, ggplot2::aes(xmin = .data$x - .15, xmax = .data$x + .15, ymin = .data$y - .38, ymax = .data$y + .38),
      fill = "white", colour = ink, linewidth = .5
    ),
    ggplot2::geom_text(data = items, ggplot2::aes(.data$x, .data$y, label = .data$item), size = text_size, colour = ink)
  )
}

draw_ovals <- function(factors, text_size) {
  turn <- seq(0, 2 * pi, length.out = 60)
  oval <- do.call(rbind, lapply(seq_len(nrow(factors)), function(k) {
    data.frame(id = k, x = factors$x[k] + .185 * cos(turn), y = factors$y[k] + .95 * sin(turn)) |> within_panel(factors$panel[k])
  }))
  list(
    ggplot2::geom_polygon(
      data = oval, ggplot2::aes(.data$x, .data$y, group = .data$id), fill = "#EAF1EF", colour = figure_colours[1], linewidth = .8
    ),
    ggplot2::geom_text(data = factors, ggplot2::aes(.data$x, .data$y, label = .data$factor), size = text_size, fontface = "bold", colour = ink)
  )
}
