#' @param scores For scores: which of them, by their columns; the first eight when `NULL`.
#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_scores <- function(object, scores = NULL, ...) {
  refuse_more(...)
  scales <- object$tables$scales
  every <- intersect(scales$score, c(names(object$tables$scores), names(object$parts$asked)))
  if (is.null(scores)) scores <- utils::head(every, 8)
  check_names_known(scores, every, "scores", "score")
  draw_scores(object, scales[match(scores, scales$score), ])
}

# How each score is spread, with one standard error of measurement either side of the mean: how far one person's score may be off.
draw_scores <- function(object, scales) {
  values <- do.call(rbind, lapply(scales$score, function(name) {
    value <- score_values(object, name)
    if (length(value) == 0) NULL else data.frame(score = name, value = value)
  }))
  if (is.null(values)) stop_input(message_of("e_nobody_score_draw"))
  about <- object$parts$found$about
  bars <- do.call(rbind, lapply(split(values, factor(values$score, scales$score), drop = TRUE), function(own) {
    at <- match(own$score[1], about$score)
    score_bars(own, about$step[at], about$least[at])
  }))
  # A score that nobody has is no panel.
  scales <- scales[scales$score %in% bars$score, ]
  bars$score <- factor(bars$score, scales$score)
  top <- tapply(bars$n, bars$score, max)[scales$score]
  marks <- data.frame(score = factor(scales$score, scales$score), mean = scales$mean, low = scales$mean - scales$sem, high = scales$mean + scales$sem,
    y = -.06 * as.vector(top))
  counted <- worded("a_term", term = if (is.null(object$parts$people$people)) "people" else "rows")
  figure <- ggplot2::ggplot(bars, ggplot2::aes(.data$middle, .data$n)) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$middle - .data$width / 2, xmax = .data$middle + .data$width / 2, ymin = 0, ymax = .data$n),
      fill = figure_colours[5]) +
    ggplot2::geom_errorbarh(data = marks[!is.na(marks$low), ], ggplot2::aes(y = .data$y, xmin = .data$low, xmax = .data$high), inherit.aes = FALSE,
      height = 0, linewidth = 1.4, colour = figure_colours[1]) +
    ggplot2::geom_point(data = marks, ggplot2::aes(.data$mean, .data$y), size = 3.2, colour = figure_colours[1]) +
    ggplot2::facet_wrap(~score, scales = "free", ncol = 2) +
    figure_theme() +
    figure_labels(worded("figure_scores"), worded("figure_scores_is", counted = counted), object,
      worded("figure_scores_alt", scores = messages_of("score_mean_sd", score = scales$score, mean = scales$mean, sd = scales$sd)),
      x = worded("a_term", term = "score"), y = counted)
  as_tall_as(figure, 16 * ceiling(nrow(scales) / 2), if (nrow(scales) < 3) 520 else 800)
}

# Of everybody who has the score; of one that a database works out, from how often each value stands.
score_values <- function(object, name) {
  shape <- object$parts$asked[[name]]$shape
  if (!is.null(shape)) {
    return(rep(shape$values, shape$counts))
  }
  value <- as.vector(object$tables$scores[[name]])
  value[!is.na(value)]
}

# A bar for each score that is possible, up to 50; of more, bars of as many scores each. step: from one possible score to the next, 0 where there
# is none; what lies between two (a mean of what was answered) counts to the nearer.
score_bars <- function(values, step = 0, least = 0) {
  if (isTRUE(step > 0) && is.finite(least)) {
    place <- round((values$value - least) / step)
    joined <- ceiling((max(place) - min(place) + 1) / 50)
    bar <- (place - min(place)) %/% joined
    middle <- least + step * (min(place) + joined * 0:max(bar) + (joined - 1) / 2)
    return(data.frame(score = values$score[1], middle = middle, n = tabulate(bar + 1, max(bar) + 1), width = .9 * step * joined))
  }
  seen <- sort(unique(values$value))
  if (length(seen) <= 25) {
    width <- if (length(seen) > 1) .85 * min(diff(seen)) else .5
    return(data.frame(score = values$score[1], middle = seen, n = as.vector(table(values$value)), width = width))
  }
  edges <- pretty(seen, 25)
  n <- as.vector(table(cut(values$value, edges, include.lowest = TRUE)))
  data.frame(score = values$score[1], middle = edges[-1] - diff(edges) / 2, n = n, width = .95 * diff(edges)[1])
}
