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
      values = c(option = figure_colours[4], `right answer` = figure_colours[1], `wrong option` = figure_colours[2]), name = NULL
    ) +
    ggplot2::scale_linewidth_manual(values = c(option = .7, `right answer` = 1.4, `wrong option` = .7), name = NULL) +
    ggplot2::scale_shape_manual(values = c(option = 16, `right answer` = 16, `wrong option` = 1), name = NULL) +
    ggplot2::scale_x_continuous(
      breaks = seq_len(bands), limits = c(1, bands + .35),
      labels = c("low", rep("", max(bands - 2, 0)), "high")[seq_len(bands)]
    ) +
    ggplot2::scale_y_continuous(limits = c(0, 1), breaks = c(0, .5, 1), labels = c("0%", "50%", "100%")) +
    figure_theme(12) +
    figure_labels(
      "Who chooses which option",
      paste0("Share choosing each option in ", bands, " bands of the ", object$about$options$score, " score, from low to high."), object,
      paste0("Option curves of ", count_of(nlevels(curves$item), "item"), " over ", bands, " score bands."),
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
  label <- paste0(items, ": ", ifelse(said$flagged, bias_words(said), "not flagged"), ", p ",
    vapply(ifelse(said$bias_kind == "nonuniform", said$p_nonuniform_adjusted, said$p_adjusted), p_words, ""))
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
      labels = function(b) ifelse(b == 1, "1 low", ifelse(b == max(curves$band), paste(b, "high"), b))
    ) +
    figure_theme() +
    figure_labels(
      "Do people with the same score answer alike?",
      "Mean answer, keyed, by fifths of the score; larger points are more people.", object,
      paste0("Mean answers by score and group for ", and_list(items), "."), x = NULL, y = "mean answer"
    )
  as_tall_as(figure, 0, if (length(items) < 4) 560 else 800)
}
