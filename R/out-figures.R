# A figure as a PNG: 1280 x 800 points, a tall one 1280 x 1024.

figure_size <- c(width = 1280, height = 800, tall = 1024)

figure_height <- function(tall) figure_size[[if (tall) "tall" else "height"]]

save_figure <- function(figure, path, tall = FALSE) {
  ggplot2::ggsave(path, figure, width = figure_size[["width"]] / 120, height = figure_height(tall) / 120, dpi = 120, type = "cairo", bg = "white")
  path
}
