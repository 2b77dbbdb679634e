#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_retention <- function(object, figure = "scree", ...) {
  refuse_more(...)
  check_choice(figure, c("scree", "fit"), "figure")
  if (figure == "scree") draw_scree(object) else draw_fits(object)
}

# The two rules that decide, in one picture: eigenvalues of what items share against those of unrelated items, and all eigenvalues against the
# empirical Kaiser criterion.
draw_scree <- function(object) {
  table <- object$tables$eigenvalues
  suggested <- object$parts$agreement$first
  against <- object$about$options$against
  chance <- if (against == "mean") table$common_mean else table$common_percentile
  of_chance <- if (against == "mean") message_of("word_mean") else message_of("a_percentile", percentile = 100 * object$about$options$percentile)
  series <- c(worded("shared_by_items"), worded("of_unrelated_items", what = of_chance), worded("all_of_variance"), worded("empirical_kaiser"))
  lines <- data.frame(number = rep(table$number, 4), value = c(table$common, chance, table$eigenvalue, table$empirical_kaiser),
    series = factor(rep(series, each = nrow(table)), series))
  lines <- lines[!is.na(lines$value), ]
  ggplot2::ggplot(lines, ggplot2::aes(.data$number, .data$value, colour = .data$series, linetype = .data$series, shape = .data$series)) +
    ggplot2::geom_vline(xintercept = suggested + .5, colour = figure_colours[4], linetype = "dotted", linewidth = .7) +
    ggplot2::geom_line(linewidth = .9) +
    ggplot2::geom_point(size = 2.6) +
    ggplot2::annotate("text",
      x = suggested + .65, y = max(lines$value) * .93, hjust = 0, colour = ink, size = 4,
      label = worded("factors_decided", factors = suggested)
    ) +
    ggplot2::scale_colour_manual(values = figure_colours[c(1, 1, 2, 2)], name = NULL) +
    ggplot2::scale_linetype_manual(values = c("solid", "dashed", "solid", "dotdash"), name = NULL) +
    ggplot2::scale_shape_manual(values = c(16, 1, 17, 2), name = NULL) +
    ggplot2::scale_x_continuous(breaks = whole_breaks(table$number)) +
    figure_theme() +
    figure_labels(
      worded("figure_scree", factors = suggested), worded("figure_scree_is"), object,
      worded("figure_scree_alt", count = nrow(table), first = table$common[1], factors = suggested), x = worded("a_term", term = "number"),
      y = worded("a_term", term = "eigenvalue")
    )
}

# What each further factor brings: RMSEA with its interval, and CFI, against the number.
draw_fits <- function(object) {
  fits <- object$tables$fits
  fits <- fits[fits$factors > 0 & fits$factors <= max(object$tables$rules$suggestion, 2, na.rm = TRUE) + 4, ]
  limits <- object$limits
  panels <- c(worded("lower_is_better", figure = "RMSEA"), worded("higher_is_better", figure = "CFI"), worded("bic_above_lowest"))
  long <- data.frame(
    factors = rep(fits$factors, 3), value = c(fits$rmsea, fits$cfi, fits$bic - min(fits$bic)), low = c(fits$conf.low, rep(NA, 2 * nrow(fits))),
    high = c(fits$conf.high, rep(NA, 2 * nrow(fits))), panel = factor(rep(panels, each = nrow(fits)), panels)
  )
  rules <- lapply(c("rmsea", "cfi"), function(f) limit(limits, f))
  bounds <- data.frame(value = c(rules[[1]]$bound, rules[[1]]$better, rules[[2]]$bound, rules[[2]]$better), panel = factor(rep(panels[1:2],
    each = 2), panels))
  bounds <- bounds[!is.na(bounds$value), ]
  bounds$label <- vapply(bounds$value, bound_text, "")
  chosen <- object$parts$agreement$first
  ggplot2::ggplot(long, ggplot2::aes(.data$factors, .data$value)) +
    ggplot2::geom_vline(xintercept = chosen, colour = figure_colours[2], alpha = .35, linewidth = 6) +
    ggplot2::geom_hline(data = bounds, ggplot2::aes(yintercept = .data$value), colour = figure_colours[4], linetype = "dotted", linewidth = .7) +
    ggplot2::geom_text(data = bounds, ggplot2::aes(max(fits$factors), .data$value, label = .data$label), colour = figure_colours[4], vjust = -.35,
      hjust = 1, size = 3.6) +
    ggplot2::geom_linerange(ggplot2::aes(ymin = .data$low, ymax = .data$high), colour = figure_colours[1], linewidth = .9, na.rm = TRUE) +
    ggplot2::geom_line(colour = figure_colours[1], linewidth = .8, na.rm = TRUE) +
    ggplot2::geom_point(colour = figure_colours[1], size = 2.8, na.rm = TRUE) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free_y", nrow = 1) +
    ggplot2::scale_x_continuous(breaks = whole_breaks(fits$factors, 8)) +
    figure_theme() +
    figure_labels(
      worded("figure_fits"), worded("figure_fits_is", chosen = chosen), object, worded("figure_fits_alt", most = max(fits$factors)),
      x = worded("a_term", term = "factors"), y = NULL
    )
}

# Every number where there is room, else every second, fifth or tenth.
whole_breaks <- function(numbers, most = 25) {
  step <- c(1, 2, 5, 10, 20, 50)
  step <- step[length(numbers) / step <= most][1]
  if (is.na(step)) step <- 100
  numbers[numbers %% step == 0 | numbers == 1]
}
