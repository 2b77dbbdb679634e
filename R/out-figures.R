# A figure as a file, 1280 points wide and 800 high, or as high as its rows need.

figure_width <- 1280

figure_height <- function(figure) {
  asked <- attr(figure, "height")
  if (is.null(asked)) 800 else asked
}

save_figure <- function(figure, path, device = "png") {
  type <- if (identical(device, "png")) list(type = "cairo")
  do.call(ggplot2::ggsave, c(list(path, figure, device = device, width = figure_width / 120, height = figure_height(figure) / 120, dpi = 120,
    bg = "white"), type))
  path
}
