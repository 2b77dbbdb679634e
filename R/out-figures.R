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

# Several figures, drawn by as many processes as there are cores.
save_figures <- function(figures, paths) {
  each <- function(i) save_figure(figures[[i]], paths[i])
  cores <- min(drawing_processes(), length(figures))
  drawn <- logical(length(figures))
  if (cores > 1) {
    found <- suppressWarnings(parallel::mclapply(seq_along(figures), function(i) tryCatch(is.character(each(i)), error = function(e) FALSE),
      mc.cores = cores, mc.set.seed = FALSE))
    drawn <- vapply(found, isTRUE, TRUE) & file.exists(paths)
  }
  # What another process could not draw says here why.
  for (i in which(!drawn)) each(i)
  invisible(paths)
}

# Processes that share what is in memory can be had on Linux, and are safe where nobody waits at a console or in a window.
drawing_processes <- function() {
  if (Sys.info()[["sysname"]] != "Linux" || interactive() || isNamespaceLoaded("httpuv") || !may_fork()) {
    return(1L)
  }
  asked <- suppressWarnings(as.integer(Sys.getenv("SCALEWORT_THREADS")))
  cores <- parallel::detectCores()
  min(if (is.na(asked) || asked < 1) cores else asked, cores, na.rm = TRUE)
}
