#' @param figure For a reliability: `"scales"` (alpha and omega with the interval of
#'   alpha), `"items"` (item-rest r against alpha without the item) or `"splits"` (all
#'   split halves).
#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_reliability <- function(object, figure = "scales", ...) {
  refuse_more(...)
  check_choice(figure, c("scales", "items", "splits"), "figure")
  switch(figure, scales = draw_alphas(object), items = draw_item_alphas(object), splits = draw_splits(object))
}

# All subscales on one axis, with the bounds drawn and labelled.
draw_alphas <- function(object) {
  scales <- object$tables$scales
  scales <- scales[!is.na(scales$alpha), ]
  if (nrow(scales) == 0) stop_input(message_of("e_no_subscale_alpha"))
  order <- rev(scales$scale)
  points <- data.frame(
    scale = factor(rep(scales$scale, 2), order), value = c(scales$alpha, scales$omega),
    what = rep(c("alpha", "omega"), each = nrow(scales)), nudge = rep(c(.12, -.16), each = nrow(scales))
  )
  points$y <- as.integer(points$scale) + points$nudge
  scales$y <- as.integer(factor(scales$scale, order)) + .12
  rule <- limit(object$limits, "alpha")
  bounds <- data.frame(x = c(rule$bound, rule$better))
  bounds <- bounds[!is.na(bounds$x), , drop = FALSE]
  bounds$label <- vapply(bounds$x, bound_text, "")
  left <- min(0.4, floor(10 * min(scales$conf.low, points$value, na.rm = TRUE)) / 10)
  ggplot2::ggplot(points, ggplot2::aes(.data$value, .data$y)) +
    ggplot2::geom_vline(data = bounds, ggplot2::aes(xintercept = .data$x), colour = figure_colours[4], linetype = "dotted", linewidth = .7) +
    ggplot2::geom_text(
      data = bounds, ggplot2::aes(.data$x, length(order) + .62, label = .data$label), colour = figure_colours[4], hjust = -.15, size = 4
    ) +
    ggplot2::geom_segment(
      data = scales, ggplot2::aes(x = .data$conf.low, xend = .data$conf.high, y = .data$y, yend = .data$y), colour = figure_colours[1],
      linewidth = 1.1
    ) +
    omega_lines(scales, order) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$what, shape = .data$what), size = 4, na.rm = TRUE) +
    ggplot2::scale_colour_manual(values = figure_colours[1:2], name = NULL, labels = in_terms()) +
    ggplot2::scale_shape_manual(values = c(16, 17), name = NULL, labels = in_terms()) +
    ggplot2::scale_y_continuous(breaks = seq_along(order), labels = order, limits = c(.5, length(order) + .75)) +
    ggplot2::coord_cartesian(xlim = c(left, 1)) +
    figure_theme() +
    figure_labels(
      worded("figure_alphas"),
      worded(if ("omega_low" %in% names(scales)) "figure_alphas_omegas_is" else "figure_alphas_is", level = 100 * object$about$options$level), object,
      worded("figure_alphas_alt", low = min(scales$alpha), high = max(scales$alpha), scales = nrow(scales)),
      x = worded("a_term", term = "reliability")
    )
}

# Intervals of omega, where resampling gave them.
omega_lines <- function(scales, order) {
  if (!"omega_low" %in% names(scales)) {
    return(NULL)
  }
  scales$y <- as.integer(factor(scales$scale, order)) - .16
  ggplot2::geom_segment(
    data = scales, ggplot2::aes(x = .data$omega_low, xend = .data$omega_high, y = .data$y, yend = .data$y), colour = figure_colours[2],
    linewidth = 1.1, na.rm = TRUE
  )
}

# Items to the lower right of their subscale's line carry it; those above the line
# would raise alpha by leaving.
draw_item_alphas <- function(object) {
  items <- object$tables$items
  items <- items[!is.na(items$alpha_without) & !is.na(items$item_rest_r), ]
  if (nrow(items) == 0) stop_input(message_of("e_no_subscale_three"))
  items$scale <- factor(items$scale, unique(items$scale))
  lines <- unique(data.frame(scale = items$scale, alpha = round(items$alpha_without - items$change, 12)))
  # Labels keep apart within a panel, whose axis of alpha is its own.
  across <- diff(range(items$item_rest_r)) * 1.3 + 1e-6
  items$label_y <- unsplit(lapply(split(items, items$scale), function(own) {
    apart_labels(own$item_rest_r, own$alpha_without, across * .035 * max(nchar(own$item)), diff(range(own$alpha_without,
      own$alpha_without - own$change)) * .1 + 1e-6)
  }), items$scale)
  items$raises <- ifelse(items$change > 0, "alpha would rise without it", "alpha would fall without it")
  ggplot2::ggplot(items, ggplot2::aes(.data$item_rest_r, .data$alpha_without)) +
    ggplot2::geom_hline(data = lines, ggplot2::aes(yintercept = .data$alpha), colour = figure_colours[1], linewidth = .6) +
    ggplot2::geom_vline(xintercept = limit(object$limits, "item_rest_r")$bound, colour = figure_colours[4], linetype = "dotted") +
    ggplot2::geom_point(ggplot2::aes(colour = .data$raises, shape = .data$raises), size = 3) +
    ggplot2::geom_text(ggplot2::aes(y = .data$label_y, label = .data$item), hjust = -.2, size = 3.6, colour = ink) +
    ggplot2::facet_wrap(ggplot2::vars(.data$scale), scales = "free_y") +
    ggplot2::scale_colour_manual(
      values = c(`alpha would fall without it` = figure_colours[1], `alpha would rise without it` = figure_colours[6]), name = NULL,
        labels = in_terms()
    ) +
    ggplot2::scale_shape_manual(values = c(`alpha would fall without it` = 16, `alpha would rise without it` = 17), name = NULL,
      labels = in_terms()) +
    ggplot2::scale_y_continuous(expand = ggplot2::expansion(mult = c(.1, .2))) +
    ggplot2::scale_x_continuous(expand = ggplot2::expansion(mult = .15)) +
    figure_theme() +
    figure_labels(
      worded("figure_item_alphas"), worded("figure_item_alphas_is"), object, worded("figure_item_alphas_alt", items = nrow(items)),
      x = worded("item_rest_r"), y = worded("alpha_without_item")
    )
}

draw_splits <- function(object) {
  splits <- object$parts$splits
  splits <- splits[vapply(splits, function(x) length(x) > 2 && !anyNA(x), TRUE)]
  if (length(splits) == 0) stop_input(message_of("e_no_subscale_enough"))
  rows <- data.frame(
    scale = factor(rep(names(splits), lengths(splits)), names(splits)), value = unlist(splits, use.names = FALSE)
  )
  alpha <- object$tables$scales[match(names(splits), object$tables$scales$scale), ]
  alpha$scale <- factor(alpha$scale, names(splits))
  ggplot2::ggplot(rows, ggplot2::aes(.data$value)) +
    ggplot2::geom_dotplot(binwidth = diff(range(rows$value)) / 45, dotsize = .8, fill = "#B9CFCB", colour = ink, stackratio = 1.05) +
    ggplot2::geom_vline(data = alpha, ggplot2::aes(xintercept = .data$alpha), colour = figure_colours[6], linewidth = .8) +
    ggplot2::facet_wrap(ggplot2::vars(.data$scale), ncol = 1, strip.position = "left") +
    ggplot2::scale_y_continuous(breaks = NULL) +
    figure_theme() +
    figure_labels(
      worded("figure_splits"), worded("figure_splits_is"), object, worded("figure_splits_alt", scales = length(splits)),
      x = worded("reliability_by_split")
    )
}
