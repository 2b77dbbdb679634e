# One theme and one palette for every figure.

# Safe for colour-blind readers and apart in greyscale: dark teal, ochre, plum,
# slate, light sage, brick.
figure_colours <- c("#0B4F54", "#D08C1D", "#7A3B69", "#5B6C7D", "#9DBF9E", "#B5452C")
ink <- "#22302F"
faint <- "#C9D1CF"

figure_theme <- function(base_size = 13) {
  ggplot2::theme_minimal(base_size = base_size) +
    ggplot2::theme(
      text = ggplot2::element_text(colour = ink),
      axis.text = ggplot2::element_text(colour = ink),
      panel.grid.minor = ggplot2::element_blank(),
      panel.grid.major = ggplot2::element_line(colour = "#E6EBEA", linewidth = 0.4),
      plot.title = ggplot2::element_text(face = "bold", size = ggplot2::rel(1.15)),
      plot.title.position = "plot",
      plot.subtitle = ggplot2::element_text(colour = "#4A5A58", margin = ggplot2::margin(b = 10)),
      plot.caption = ggplot2::element_text(colour = "#4A5A58", hjust = 0),
      plot.caption.position = "plot",
      plot.background = ggplot2::element_rect(fill = "white", colour = NA),
      plot.margin = ggplot2::margin(14, 16, 12, 14),
      legend.position = "top", legend.justification = "left",
      strip.text = ggplot2::element_text(face = "bold", hjust = 0)
    )
}

no_grid <- function() {
  ggplot2::theme(panel.grid.major = ggplot2::element_blank(), panel.grid.minor = ggplot2::element_blank())
}

# Places of labels beside points, moved up or down until none lies on another: y values. width, height: of a label, in the units of the axes.
apart_labels <- function(x, y, width, height) {
  placed <- integer()
  for (i in order(y)) {
    repeat {
      on <- placed[abs(x[placed] - x[i]) < width & abs(y[placed] - y[i]) < height * .999]
      if (length(on) == 0) break
      y[i] <- max(y[on]) + height
    }
    placed <- c(placed, i)
  }
  y
}

# A figure with a row per item says how many points it needs from top to bottom, at a width of 1280.
as_tall_as <- function(figure, rows, least = 800) {
  attr(figure, "height") <- max(least, min(250 + 20 * rows, 3000))
  figure
}

# Title, what it shows, the cases, and a text for those who cannot see it.
figure_labels <- function(title, subtitle, result, alt, x = NULL, y = NULL) {
  about <- result$about
  ggplot2::labs(
    title = title, subtitle = paste(strwrap(subtitle, 90), collapse = "\n"), x = x, y = y, alt = alt,
    caption = worded("figure_caption", n = about$n, left_out = if (isTRUE(about$n_left_out > 0)) message_of("and_left_out", cases = about$n_left_out),
      missing = missing_message(result))
  )
}

#' Figures
#'
#' `autoplot()` draws a result with ggplot2: correlations of a screening, the
#' scree of a retention, the loadings of an exploration, the path diagram of a
#' confirmation. The figure can be changed like any ggplot; its text for screen
#' readers is `ggplot2::get_alt_text()`.
#'
#' @param object A result.
#' @param ... Not used.
#' @return A ggplot; of `plot()`, invisibly.
#' @examples
#' autoplot(sw_screen(sw_demo("plotholders")))
#' @section Errors: `scalewort_error_input` for a result that has no figure.
#' @name figures
NULL

# In place of a plain re-export: a command that draws nothing starts without loading ggplot2,
# which is half of the loading time.
#' @rdname figures
#' @export
autoplot <- function(object, ...) ggplot2::autoplot(object, ...)

# Answers, codebooks, bounds and moments are looked at in tables.
no_figure <- function(object, ...) {
  stop_input(message_of("e_there_no_figure", object = what_is(object)), hint = message_of("e_screen_survey_draw"))
}
#' @exportS3Method ggplot2::autoplot
autoplot.sw_survey <- no_figure
#' @exportS3Method ggplot2::autoplot
autoplot.sw_codebook <- no_figure
#' @exportS3Method ggplot2::autoplot
autoplot.sw_limits <- no_figure
#' @exportS3Method ggplot2::autoplot
autoplot.sw_moments <- no_figure

#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_result <- function(object, ...) stop_input(message_of("e_result_no_figure"), hint = message_of("e_tidy_gives_its"))

#' @rdname figures
#' @export
plot.sw_result <- function(x, ...) {
  figure <- autoplot(x, ...)
  print(figure)
  invisible(figure)
}

#' @rdname figures
#' @export
plot.sw_structure <- plot.sw_result
