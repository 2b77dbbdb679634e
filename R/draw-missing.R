# Who left out what: cases with something missing, sorted by how much.

draw_missing <- function(object) {
  cells <- object$parts$missing_cells
  if (is.null(cells)) stop_input(message_of("e_map_missing_answers"))
  lost <- rowSums(cells)
  rows <- which(lost > 0)
  subtitle <- worded("figure_missing_is", cases = length(rows), all = nrow(cells), share = length(rows) / nrow(cells), missing = mean(cells))
  rows <- rows[order(lost[rows], apply(cells[rows, , drop = FALSE], 1, function(m) which(m)[1]))]
  map <- data.frame(
    item = factor(rep(colnames(cells), each = length(rows)), colnames(cells)), case = rep(seq_along(rows), ncol(cells)),
    missing = as.vector(cells[rows, , drop = FALSE])
  )
  map <- map[map$missing, ]
  ggplot2::ggplot(map, ggplot2::aes(.data$item, .data$case)) +
    ggplot2::geom_tile(fill = figure_colours[1], width = .9, height = 1) +
    ggplot2::scale_x_discrete(drop = FALSE) +
    ggplot2::scale_y_continuous(limits = c(0, length(rows) + 1), expand = c(.01, 0)) +
    figure_theme() +
    ggplot2::theme(
      axis.text.x = ggplot2::element_text(angle = 90, vjust = .5, hjust = 1), panel.grid.major.y = ggplot2::element_blank()
    ) +
    figure_labels(
      worded("figure_missing"), subtitle, object, worded("figure_missing_alt", cases = length(rows), items = ncol(cells)),
      y = worded("cases_by_completeness")
    )
}
