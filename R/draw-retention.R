#' @rdname figures
#' @export
autoplot.sw_retention <- function(object, ...) {
  table <- object$tables$eigenvalues
  suggested <- object$tables$rules$suggestion[1]
  percentile <- ordinal_word(100 * object$about$options$percentile)
  lines <- rbind(
    data.frame(number = table$number, value = table$eigenvalue, series = "these answers"),
    data.frame(number = table$number, value = table$random_percentile, series = paste0("unrelated items (", percentile, " percentile)"))
  )
  lines$series <- factor(lines$series, unique(lines$series))
  ggplot2::ggplot(lines, ggplot2::aes(.data$number, .data$value, colour = .data$series, linetype = .data$series, shape = .data$series)) +
    ggplot2::geom_hline(yintercept = 1, colour = faint, linewidth = .5) +
    ggplot2::geom_vline(xintercept = suggested + .5, colour = figure_colours[4], linetype = "dotted", linewidth = .7) +
    ggplot2::geom_line(linewidth = .9) +
    ggplot2::geom_point(size = 2.6) +
    ggplot2::annotate("text",
      x = suggested + .65, y = max(lines$value) * .93, hjust = 0, colour = ink, size = 4,
      label = paste0(count_of(suggested, "eigenvalue"), " above chance")
    ) +
    ggplot2::scale_colour_manual(values = figure_colours[1:2], name = NULL) +
    ggplot2::scale_linetype_manual(values = c("solid", "dashed"), name = NULL) +
    ggplot2::scale_shape_manual(values = c(16, 1), name = NULL) +
    ggplot2::scale_x_continuous(breaks = table$number) +
    ggplot2::scale_y_continuous(limits = c(0, NA)) +
    figure_theme() +
    figure_labels(
      paste0("Parallel analysis suggests ", count_of(suggested, "factor")),
      "Eigenvalues of the items' correlations against those of items that have nothing in common; the grey line is 1.",
      object, paste0(
        "Line plot of ", nrow(table), " eigenvalues falling from ", decimals(table$eigenvalue[1], 2), "; the first ",
        suggested, " lie above those of unrelated items."
      ),
      x = "number", y = "eigenvalue"
    )
}
