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

# Blocks with figures, each into its file. On the command line the cores share them: figures take most of a report's time, and there
# nobody's windows or connections stand in the way of processes of their own.
save_figures <- function(blocks) {
  draw <- function(b) save_figure(b$figure, b$file)
  alone <- interactive() || .Platform$OS.type != "unix" || isNamespaceLoaded("httpuv") || length(blocks) < 4
  cores <- if (alone) 1L else drawing_cores()
  done <- if (cores > 1) suppressWarnings(parallel::mclapply(blocks, draw, mc.cores = cores, mc.preschedule = FALSE)) else list()
  for (i in seq_along(blocks)) if (!identical(done[i], list(blocks[[i]]$file))) draw(blocks[[i]])
}

drawing_cores <- function() {
  said <- suppressWarnings(as.integer(Sys.getenv("SCALEWORT_THREADS")))
  found <- parallel::detectCores()
  min(c(said, found, 4L), na.rm = TRUE)
}
