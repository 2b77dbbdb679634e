# Loadings as bars, a panel per factor, items sorted by the factor they belong
# to; bars that reach the bound are filled.

#' @rdname figures
#' @export
autoplot.sw_exploration <- function(object, ...) {
  pattern <- object$parts$pattern
  order <- rev(first_look(object)$item)
  bound <- limit(object$limits, "loading")$bound
  bars <- data.frame(
    item = factor(rep(rownames(pattern), ncol(pattern)), order),
    factor = factor(rep(colnames(pattern), each = nrow(pattern)), colnames(pattern)),
    loading = as.vector(pattern)
  )
  bars$reach <- factor(abs(bars$loading) >= bound, c(TRUE, FALSE), c(paste("reaches", bound_text(bound)), paste("below", bound_text(bound))))
  ggplot2::ggplot(bars, ggplot2::aes(.data$loading, .data$item, fill = .data$reach)) +
    ggplot2::geom_vline(xintercept = c(-bound, bound), colour = figure_colours[4], linetype = "dotted") +
    ggplot2::geom_col(width = .72, colour = ink, linewidth = .25) +
    ggplot2::geom_vline(xintercept = 0, colour = ink, linewidth = .4) +
    ggplot2::facet_wrap(ggplot2::vars(.data$factor), nrow = 1) +
    ggplot2::scale_fill_manual(values = c(figure_colours[1], "#E3E8E6"), name = NULL, drop = FALSE) +
    ggplot2::scale_x_continuous(breaks = c(-.5, 0, .5, 1), labels = c("-.5", "0", ".5", "1")) +
    figure_theme() +
    figure_labels(
      "Which item belongs to which factor",
      paste0("Loadings (", object$about$options$rotation, "); items sorted by the factor they load on most."),
      object, paste0("Bars of the loadings of ", nrow(pattern), " items on ", count_of(ncol(pattern), "factor"), "."),
      x = "loading"
    )
}
