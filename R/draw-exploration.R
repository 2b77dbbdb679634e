#' @param figure For an exploration: `"bars"` (loadings, a panel per factor), `"heat"`
#'   (loadings as a heat map), `"plane"` (two factors, axes before and after rotation) or
#'   `"paths"` (path diagram of the pattern). For a retention: `"scree"` or `"fit"`.
#' @param pair For `"plane"`: the two factors, by number or name.
#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_exploration <- function(object, figure = "bars", pair = 1:2, ...) {
  refuse_more(...)
  check_choice(figure, c("bars", "heat", "plane", "paths"), "figure")
  items <- nrow(object$parts$pattern)
  switch(figure,
    bars = as_tall_as(draw_bars(object), items), heat = as_tall_as(draw_heat(object), items), plane = draw_plane(object, pair),
    paths = as_tall_as(draw_pattern_paths(object), items)
  )
}

# The loadings in long form, items sorted by the factor they belong to.
long_loadings <- function(object) {
  pattern <- object$parts$pattern
  data.frame(
    item = factor(rep(rownames(pattern), ncol(pattern)), rev(sorted_pattern(object)$item)),
    factor = factor(rep(colnames(pattern), each = nrow(pattern)), colnames(pattern)), loading = as.vector(pattern)
  )
}

# Bars, a panel per factor; those that reach the bound are filled.
draw_bars <- function(object) {
  pattern <- object$parts$pattern
  bound <- limit(object$limits, "loading")$bound
  bars <- long_loadings(object)
  bars$reach <- factor(abs(bars$loading) >= bound, c(TRUE, FALSE), c(worded("reaches_bound", bound = bound), worded("below_bound", bound = bound)))
  ggplot2::ggplot(bars, ggplot2::aes(.data$loading, .data$item, fill = .data$reach)) +
    ggplot2::geom_vline(xintercept = c(-bound, bound), colour = figure_colours[4], linetype = "dotted") +
    ggplot2::geom_col(width = .72, colour = ink, linewidth = .25) +
    ggplot2::geom_vline(xintercept = 0, colour = ink, linewidth = .4) +
    ggplot2::facet_wrap(ggplot2::vars(.data$factor), nrow = 1) +
    ggplot2::scale_fill_manual(values = c(figure_colours[1], "#E3E8E6"), name = NULL, drop = FALSE) +
    ggplot2::scale_x_continuous(breaks = c(-.5, 0, .5, 1), labels = c("-.5", "0", ".5", "1")) +
    figure_theme() +
    figure_labels(
      worded("figure_pattern"), worded("figure_pattern_is", rotation = rotation_name(object$about$options)), object,
      worded("figure_pattern_alt", items = nrow(pattern), factors = ncol(pattern)), x = worded("a_term", term = "loading"), y = NULL
    )
}

# "oblimin", without the word rotation.
rotation_name <- function(options) {
  name <- gsub("_", "-", options$rotation)
  if (options$rotation == "none") message_of("unrotated") else
    if (identical(options$oblique, FALSE)) message_of("rotation_orthogonal", rotation = name) else name
}

draw_heat <- function(object) {
  cells <- long_loadings(object)
  bound <- limit(object$limits, "loading")$bound
  cells$label <- coefficient_text(cells$loading, 2)
  cells$bold <- ifelse(abs(cells$loading) >= bound, "bold", "plain")
  ggplot2::ggplot(cells, ggplot2::aes(.data$factor, .data$item, fill = .data$loading)) +
    ggplot2::geom_tile(colour = "white", linewidth = .8) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label, fontface = .data$bold, colour = abs(.data$loading) > .55), size = 3.7) +
    ggplot2::scale_fill_gradient2(low = figure_colours[6], mid = "#F4F6F5", high = figure_colours[1], midpoint = 0, limits = c(-1, 1),
      oob = clamp_to, guide = "none") +
    ggplot2::scale_colour_manual(values = c(`TRUE` = "white", `FALSE` = ink), guide = "none") +
    ggplot2::scale_x_discrete(position = "top") +
    figure_theme() +
    no_grid() +
    figure_labels(
      worded("figure_heat"), worded("figure_heat_is", bound = bound), object,
      worded("figure_heat_alt", items = length(unique(cells$item)), factors = nlevels(cells$factor)), x = NULL, y = NULL
    )
}

clamp_to <- function(x, range) pmin(pmax(x, range[1]), range[2])

# Two factors: items at their loadings before rotation, with the rotated axes drawn in.
draw_plane <- function(object, pair) {
  names <- colnames(object$parts$pattern)
  if (length(names) < 2) stop_input(message_of("e_single_factor_no"))
  at <- if (is.character(pair)) match(pair, names) else pair
  if (length(at) != 2 || anyNA(at) || !all(at %in% seq_along(names)) || at[1] == at[2]) {
    stop_input(message_of("e_pair_must_two", names = names))
  }
  at <- sort(at)
  places <- object$parts$planes[[paste(at, collapse = " ")]]
  points <- data.frame(x = places$items[, 1], y = places$items[, 2], item = rownames(object$parts$pattern))
  bound <- limit(object$limits, "loading")$bound
  own <- abs(object$parts$pattern[, at, drop = FALSE])
  points$belongs <- factor(ifelse(own[, 1] >= bound & own[, 1] >= own[, 2], names[at[1]], ifelse(own[, 2] >= bound, names[at[2]], "neither")),
    c(names[at], "neither"))
  axes <- data.frame(x = places$axes[, 1], y = places$axes[, 2], label = names[at])
  near <- points[points$belongs != "neither", ]
  y <- range(points$y, axes$y, 0) + c(-.12, .12)
  x <- mean(range(points$x, axes$x, 0)) + c(-.5, .5) * max(1.75 * diff(y), diff(range(points$x, axes$x)) + .3)
  # Every second label stands to the left of its point.
  near <- near[order(near$y), ]
  near$side <- rep_len(c(-.25, 1.25), nrow(near))
  near$label_y <- stats::ave(seq_len(nrow(near)), near$side, FUN = function(rows) {
    apart_labels(near$x[rows], near$y[rows], diff(x) * .012 * max(nchar(near$item), 1), diff(y) * .035)
  })
  ggplot2::ggplot(points, ggplot2::aes(.data$x, .data$y)) +
    ggplot2::geom_hline(yintercept = 0, colour = faint, linewidth = .8) +
    ggplot2::geom_vline(xintercept = 0, colour = faint, linewidth = .8) +
    ggplot2::geom_segment(data = axes, ggplot2::aes(x = 0, y = 0, xend = .data$x, yend = .data$y), colour = figure_colours[4],
      linewidth = .8, arrow = path_arrow("last")) +
    ggplot2::geom_text(data = axes, ggplot2::aes(1.06 * .data$x, 1.06 * .data$y, label = .data$label), colour = figure_colours[4],
      fontface = "bold", size = 5) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$belongs, shape = .data$belongs), size = 3.4) +
    ggplot2::geom_text(data = near, ggplot2::aes(y = .data$label_y, label = .data$item, hjust = .data$side), size = 4, colour = ink) +
    ggplot2::scale_colour_manual(values = c(figure_colours[1:2], "#9AA5A3"), name = NULL, drop = FALSE, labels = in_terms()) +
    ggplot2::scale_shape_manual(values = c(16, 17, 1), name = NULL, drop = FALSE, labels = in_terms()) +
    ggplot2::scale_x_continuous(breaks = seq(-1, 1, .5)) +
    ggplot2::scale_y_continuous(breaks = seq(-1, 1, .5)) +
    ggplot2::coord_equal(xlim = x, ylim = y) +
    figure_theme() +
    figure_labels(
      worded("figure_plane", first = names[at[1]], second = names[at[2]]), worded("figure_plane_is"), object,
      worded("figure_plane_alt", items = nrow(points)), x = worded("first_axis"), y = worded("second_axis")
    )
}

# The pattern as a path diagram; loadings that reach the bound are drawn.
draw_pattern_paths <- function(object) {
  pattern <- object$parts$pattern
  bound <- limit(object$limits, "loading")$bound
  home <- max.col(abs(pattern), ties.method = "first")
  shown <- abs(pattern) >= bound
  factors <- lapply(seq_len(ncol(pattern)), function(k) rownames(pattern)[home == k & rowSums(shown) > 0])
  names(factors) <- colnames(pattern)
  factors <- Filter(length, factors)
  if (length(factors) == 0) stop_input(message_of("e_no_loading_reaches", bound = bound))
  layout <- path_layout(structure(list(factors = factors, pairs = list(), unlinked = list()), class = "sw_structure"))
  at <- which(shown & colnames(pattern)[col(pattern)] %in% names(factors), arr.ind = TRUE)
  main <- home[at[, 1]] == at[, 2]
  at <- at[order(!main), , drop = FALSE]
  loadings <- data.frame(item = rownames(pattern)[at[, 1]], factor = colnames(pattern)[at[, 2]], standardised = pattern[at], p.value = 0)
  r <- object$parts$factor_correlations
  below <- which(lower.tri(r) & abs(r) >= .10, arr.ind = TRUE)
  links <- data.frame(factor = colnames(r)[below[, 2]], with = colnames(r)[below[, 1]], correlation = r[below], p.value = rep(0, nrow(below)))
  links <- links[links$factor %in% names(factors) & links$with %in% names(factors), ]
  none <- data.frame(item = character(), with = character(), standardised = numeric(), p.value = numeric())
  draw_diagram(layout, path_loadings(loadings, layout), path_links(links, layout), path_pairs(none, layout)) +
    figure_labels(
      worded("figure_pattern_paths"), worded("figure_pattern_paths_is", bound = bound), object,
      worded("figure_pattern_paths_alt", factors = length(factors))
    )
}

#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_stability <- function(object, ...) {
  refuse_more(...)
  splits <- object$tables$splits
  splits$factor <- factor(splits$factor, rev(object$tables$factors$factor))
  means <- object$tables$factors
  means$factor <- factor(means$factor, levels(splits$factor))
  rule <- limit(object$limits, "congruence")
  bounds <- data.frame(x = c(rule$bound, rule$better), label = c(worded("fair_bound", bound = rule$bound), worded("good_bound", bound = rule$better)))
  ggplot2::ggplot(splits, ggplot2::aes(.data$congruence, .data$factor)) +
    ggplot2::geom_vline(data = bounds, ggplot2::aes(xintercept = .data$x), colour = figure_colours[4], linetype = "dotted", linewidth = .7) +
    ggplot2::geom_text(data = bounds, ggplot2::aes(.data$x, nlevels(splits$factor) + .62, label = .data$label), colour = figure_colours[4],
      hjust = -.1, size = 4) +
    ggplot2::geom_point(colour = "#9DB8B4", size = 2.4, alpha = .6, position = ggplot2::position_jitter(height = .16, width = 0, seed = 1)) +
    ggplot2::geom_point(data = means, colour = figure_colours[1], size = 4.5, shape = 18) +
    ggplot2::scale_y_discrete(expand = ggplot2::expansion(add = c(.6, .9))) +
    ggplot2::coord_cartesian(xlim = c(min(.8, splits$congruence), 1)) +
    figure_theme() +
    figure_labels(
      worded("figure_stability"), worded("figure_stability_is"), object,
      worded("figure_stability_alt", factors = nrow(means), low = min(means$congruence), high = max(means$congruence)),
      x = worded("congruence_between_halves"), y = NULL
    )
}
