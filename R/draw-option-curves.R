#' @param items For option curves and differential item functioning: the items to
#'   draw; all, or all that are flagged, by default.
#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_option_curves <- function(object, items = NULL, ...) {
  refuse_more(...)
  curves <- object$tables$curves
  if (!is.null(items)) check_names_known(items, unique(curves$item), "items", "item")
  if (!is.null(items)) curves <- curves[curves$item %in% items, ]
  curves$item <- factor(curves$item, unique(curves$item))
  curves$kind <- ifelse(is.na(curves$right), "option", ifelse(curves$right, "right answer", "wrong option"))
  bands <- object$about$options$bands
  last <- curves[curves$band == bands, ]
  many <- nlevels(curves$item) > 1
  if (many) last <- last[last$share > .09 | last$kind == "right answer", ]
  last <- do.call(rbind, lapply(split(last, last$item), spread_labels, gap = if (many) .13 else .045))
  ggplot2::ggplot(curves, ggplot2::aes(.data$band, .data$share, group = .data$option, colour = .data$kind, linewidth = .data$kind)) +
    ggplot2::geom_line(na.rm = TRUE) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$kind), size = if (many) 1.6 else 3, na.rm = TRUE) +
    ggplot2::geom_text(
      data = last, ggplot2::aes(y = .data$label_y, label = .data$option), hjust = -.9, size = if (many) 3.2 else 5, show.legend = FALSE, na.rm = TRUE
    ) +
    ggplot2::facet_wrap(ggplot2::vars(.data$item)) +
    ggplot2::scale_colour_manual(
      values = c(option = figure_colours[4], `right answer` = figure_colours[1], `wrong option` = figure_colours[2]), name = NULL, labels = in_terms()
    ) +
    ggplot2::scale_linewidth_manual(values = c(option = .7, `right answer` = 1.4, `wrong option` = .7), name = NULL, labels = in_terms()) +
    ggplot2::scale_shape_manual(values = c(option = 16, `right answer` = 16, `wrong option` = 1), name = NULL, labels = in_terms()) +
    ggplot2::scale_x_continuous(
      breaks = seq_len(bands), limits = c(1, bands + .35),
      labels = c(worded("word_low"), rep("", max(bands - 2, 0)), worded("word_high"))[seq_len(bands)]
    ) +
    ggplot2::scale_y_continuous(limits = c(0, 1), breaks = c(0, .5, 1), labels = c("0%", "50%", "100%")) +
    figure_theme(12) +
    figure_labels(
      worded("figure_options_chosen"), worded("figure_options_chosen_is", bands = bands, score = object$about$options$score), object,
      worded("figure_options_chosen_alt", items = nlevels(curves$item), bands = bands),
      x = NULL, y = NULL
    )
}

# Heights for the labels at the ends of the lines, at least `gap` apart.
spread_labels <- function(rows, gap) {
  rows <- rows[order(rows$share), ]
  rows$label_y <- rows$share
  for (i in seq_len(nrow(rows))[-1]) rows$label_y[i] <- max(rows$label_y[i], rows$label_y[i - 1] + gap)
  over <- max(rows$label_y - 1, 0)
  rows$label_y <- pmax(rows$label_y - over, 0)
  rows
}

# One page per item.
item_pages <- function(object) {
  lapply(unique(object$tables$curves$item), function(item) autoplot.sw_option_curves(object, item))
}

#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_dif <- function(object, items = NULL, ...) {
  refuse_more(...)
  table <- object$tables$items
  if (is.null(items)) items <- table$item[table$flagged]
  if (length(items) == 0) items <- utils::head(table$item[order(table$p.value)], 4)
  check_names_known(items, table$item, "items", "item")
  curves <- object$tables$curves[object$tables$curves$item %in% items, ]
  said <- table[match(items, table$item), ]
  bias <- bias_messages(said)
  label <- vapply(seq_along(items), function(i) {
    worded("panel_of_bias", item = items[i], bias = if (said$flagged[i]) bias[[i]] else message_of("not_flagged"),
      p = if (said$bias_kind[i] == "nonuniform") said$p_nonuniform_adjusted[i] else said$p_adjusted[i])
  }, "")
  curves$panel <- factor(label[match(curves$item, items)], label)
  groups <- intersect(object$tables$groups$group, curves$group)
  curves$group <- factor(curves$group, groups)
  figure <- ggplot2::ggplot(curves, ggplot2::aes(.data$band, .data$mean, colour = .data$group, shape = .data$group, linetype = .data$group)) +
    ggplot2::geom_line(linewidth = .9) +
    ggplot2::geom_point(ggplot2::aes(size = .data$n)) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free_y") +
    ggplot2::scale_colour_manual(values = rep_len(figure_colours, length(groups)), name = object$about$options$by) +
    ggplot2::scale_shape_manual(values = rep_len(c(16, 17, 15, 18, 1, 2), length(groups)), name = object$about$options$by) +
    ggplot2::scale_linetype_discrete(name = object$about$options$by) +
    ggplot2::scale_size_area(max_size = 4, guide = "none") +
    ggplot2::scale_x_continuous(
      breaks = seq_len(max(curves$band)),
      labels = bias_band_labels(max(curves$band))
    ) +
    figure_theme() +
    figure_labels(
      worded("figure_bias"), worded("figure_bias_is"), object, worded("figure_bias_alt", items = items), x = NULL, y = worded("mean_answer")
    )
  as_tall_as(figure, 0, if (length(items) < 4) 560 else 800)
}

# "1 low", 2, ..., "5 high"
bias_band_labels <- function(most) {
  ends <- c(worded("word_low"), worded("word_high"))
  function(b) ifelse(b == 1, paste("1", ends[1]), ifelse(b == most, paste(b, ends[2]), b))
}
