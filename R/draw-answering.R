#' @param x,y For `plot()` x is the result, whose figure is drawn at once. For `autoplot()` of
#'   answering: the two indices to draw; by default the spread of the
#'   answers against the longest run, or others that have values.
#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_answering <- function(object, x = NULL, y = NULL, ...) {
  refuse_more(...)
  values <- object$parts$values
  known <- names(values)[vapply(values, function(v) !all(is.na(v)), TRUE)]
  if (length(known) < 2) stop_input(message_of("e_only_one_index"))
  if (is.null(x)) x <- c(intersect(c("person_sd", "seconds_per_item", "unanswered"), known), known)[1]
  if (is.null(y)) y <- setdiff(c(intersect(c("longest_run", "distance_p"), known), known), x)[1]
  check_choice(x, known, "x")
  check_choice(y, known, "y")
  named <- object$parts$named
  usual <- setdiff(colnames(object$parts$flags), c("straight_p", "random_p"))
  flags <- 1 + (rowSums(object$parts$flags[, usual, drop = FALSE]) > 0)
  flags[named] <- 3
  people <- data.frame(x = values[[x]], y = values[[y]], flags = factor(flags, 1:3, c("not named", "an index beyond its bound", "named")))
  flags_name <- worded("a_term", term = "answered")
  ggplot2::ggplot(
    people[order(people$flags), ],
    ggplot2::aes(.data$x, .data$y, colour = .data$flags, shape = .data$flags, size = .data$flags)
  ) +
    ggplot2::geom_point(na.rm = TRUE, alpha = .85,
      position = ggplot2::position_jitter(width = 0, height = if (y == "longest_run") .15 else 0, seed = 1)) +
    ggplot2::scale_colour_manual(values = c("#7C8E8A", figure_colours[2], figure_colours[6]), name = flags_name, drop = FALSE, labels = in_terms()) +
    ggplot2::scale_shape_manual(values = c(1, 16, 17), name = flags_name, drop = FALSE, labels = in_terms()) +
    ggplot2::scale_size_manual(values = c(1.8, 2.2, 3.4), name = flags_name, drop = FALSE, labels = in_terms()) +
    figure_theme() +
    figure_labels(
      worded("figure_answering"), worded("figure_answering_is"), object,
      worded("figure_answering_alt", x = column_header(x), y = column_header(y), people = nrow(people), flagged = sum(named)),
      x = long_header(x), y = long_header(y)
    )
}

long_header <- function(name) {
  words <- c(
    straight_p = "p of a straight line", random_p = "p of answers at random", person_sd = "spread of the person's answers",
    longest_run = "longest run of the same answer", unanswered = "share unanswered",
    even_odd = "even-odd consistency", contradiction = "contradiction of opposite wordings", distance_p = "p of Mahalanobis distance",
    seconds_per_item = "seconds per item", page_variance = "variance within pages", left_at_end = "items left out at the end"
  )
  worded("a_term", term = words[[name]])
}
