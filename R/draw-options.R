# Shares of options: bars to the left and right of the middle option, and a grid
# of histograms.

# Greys and greens from low to high: dark ends, light middle, apart in greyscale
# by their outline and order.
option_palette <- function(k) {
  grDevices::colorRampPalette(c("#8A5A14", "#E3B667", "#F1F1EC", "#7FB3AC", "#0B4F54"))(k)
}

# Each item's bar is cut at the middle of its options, so that more to the right
# means higher answers.
draw_options <- function(object) {
  options <- option_shares(object)
  options <- options[is.na(options$right), ]
  if (nrow(options) == 0) stop_input(message_of("e_no_item_numbered"))
  items <- unique(options$item)
  ranks <- lapply(items, function(i) seq_len(sum(options$item == i)))
  most <- max(lengths(ranks))
  bars <- do.call(rbind, Map(function(item, rank) option_bar(options[options$item == item, ], length(rank)), items, ranks))
  bars$item <- factor(bars$item, rev(items))
  shown <- bars[bars$share >= .07, ]
  shown$light <- abs(shown$place - .5) > .38
  ggplot2::ggplot(bars) +
    ggplot2::geom_vline(xintercept = 0, colour = ink, linewidth = .6) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$from, xmax = .data$to, ymin = as.integer(.data$item) - .38, ymax = as.integer(.data$item) + .38, fill = .data$place
      ),
      colour = ink, linewidth = .2
    ) +
    ggplot2::geom_text(
      data = shown,
      ggplot2::aes((.data$from + .data$to) / 2, as.integer(.data$item), label = .data$option, colour = .data$light), size = 3.4
    ) +
    ggplot2::scale_colour_manual(values = c(`TRUE` = "white", `FALSE` = ink), guide = "none") +
    ggplot2::scale_fill_gradientn(colours = option_palette(max(most, 5)), guide = "none") +
    ggplot2::scale_y_continuous(breaks = seq_along(items), labels = rev(items), expand = c(.01, .01)) +
    ggplot2::scale_x_continuous(labels = function(x) paste0(round(100 * abs(x)), "%")) +
    figure_theme() +
    figure_labels(
      worded("figure_answers"), worded("figure_answers_is", left_out = options_left_out(object, items)), object,
      worded("figure_answers_alt", items = length(items)), x = worded("share_around_middle")
    )
}

# Items that this figure cannot show.
options_left_out <- function(object, items) {
  others <- setdiff(object$tables$items$item, items)
  if (length(others) > 0) message_of("not_shown_right", items = others)
}

# From and to of each option's piece; half of a middle option lies on either side.
option_bar <- function(rows, k) {
  rows$place <- (seq_len(k) - 1) / max(k - 1, 1)
  below <- sum(rows$share[rows$place < .5]) + sum(rows$share[rows$place == .5]) / 2
  rows$to <- cumsum(rows$share) - below
  rows$from <- rows$to - rows$share
  rows
}

draw_histograms <- function(object) {
  options <- option_shares(object)
  if (nrow(options) == 0) stop_input(message_of("e_no_item_up"))
  options$item <- factor(options$item, unique(options$item))
  options$kind <- ifelse(options$right %in% TRUE, "right answer", "option")
  columns <- ceiling(sqrt(1.6 * nlevels(options$item)))
  ggplot2::ggplot(options, ggplot2::aes(.data$option, .data$share, fill = .data$kind)) +
    ggplot2::geom_col(width = .85, colour = ink, linewidth = .2) +
    ggplot2::facet_wrap(ggplot2::vars(.data$item), ncol = columns, scales = "free_x") +
    ggplot2::scale_fill_manual(values = c(option = "#B9CFCB", `right answer` = figure_colours[1]), name = NULL, labels = in_terms(),
      guide = if (any(options$right %in% TRUE)) "legend" else "none") +
    ggplot2::scale_y_continuous(labels = function(x) paste0(round(100 * x), "%")) +
    figure_theme(12) +
    figure_labels(
      worded("figure_histograms"), worded("figure_histograms_is"), object, worded("figure_histograms_alt", items = nlevels(options$item)), x = NULL,
      y = NULL
    )
}
