#' @rdname figures
#' @details For an invariance `figure` is `"steps"`, `"means"`, `"parameters"`, `"item"` or `"paths"`
#'   (the structure of each group or wave, side by side).
#' @param item For `figure = "item"` of an invariance: the item whose curves are drawn; by
#'   default the one freed, or the first culprit.
#' @exportS3Method ggplot2::autoplot
autoplot.sw_invariance <- function(object, figure = "steps", item = NULL, ...) {
  refuse_more(...)
  check_choice(figure, c("steps", "means", "parameters", "item", "paths"), "figure")
  switch(figure,
    steps = draw_steps(object), means = draw_means(object), parameters = draw_parameters(object), item = draw_item_curves(object, item),
    paths = draw_occasion_paths(object)
  )
}

draw_steps <- function(object) {
  steps <- object$tables$steps
  steps$step <- factor(steps$step, steps$step)
  long <- data.frame(
    step = rep(steps$step, 2), value = c(steps$cfi, steps$rmsea), low = c(rep(NA, nrow(steps)), steps$conf.low), high = c(rep(NA, nrow(steps)),
      steps$conf.high),
    panel = factor(rep(c(worded("higher_is_better", figure = "CFI"), worded("lower_is_better", figure = "RMSEA")), each = nrow(steps))),
      state = factor(rep(step_states(steps), 2), c("holds", "open", "does not hold", "not tested"))
  )
  # Small differences are not to look like large ones.
  room <- data.frame(step = steps$step[1], value = c(min(steps$cfi) - .01, max(steps$cfi) + .01, 0), panel = long$panel[c(1, 1, nrow(long))])
  ggplot2::ggplot(long, ggplot2::aes(.data$step, .data$value, group = 1)) +
    ggplot2::geom_blank(data = room) +
    ggplot2::geom_linerange(ggplot2::aes(ymin = .data$low, ymax = .data$high), colour = figure_colours[1], linewidth = 1, na.rm = TRUE) +
    ggplot2::geom_line(colour = figure_colours[4], linewidth = .6, na.rm = TRUE) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$state), colour = figure_colours[1], fill = "white", size = 4, na.rm = TRUE) +
    ggplot2::geom_label(ggplot2::aes(label = coefficient_text(.data$value)), hjust = -.25, size = 3.8, colour = ink, fill = "white", label.size = 0,
      label.padding = ggplot2::unit(.08, "lines"), na.rm = TRUE) +
    ggplot2::scale_shape_manual(values = c(holds = 16, open = 10, `does not hold` = 21, `not tested` = 4), name = NULL, labels = in_terms()) +
    ggplot2::scale_x_discrete(labels = in_terms()) +
    ggplot2::scale_y_continuous(expand = ggplot2::expansion(mult = c(.02, .12))) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free_y", nrow = 1) +
    figure_theme() +
    figure_labels(
      steps_title(steps), worded("figure_steps_is"), object, worded("figure_steps_alt", steps = nrow(steps)), x = NULL, y = NULL
    )
}

# What each step is, as the table says it.
step_states <- function(steps) {
  ifelse(steps$verdict %in% "missed", "does not hold", ifelse(steps$verdict %in% "near", "open", ifelse(steps$verdict %in% "untested" &
    steps$why != "ground", "not tested", "holds")))
}

steps_title <- function(steps) {
  state <- step_states(steps)
  counted <- function(what, code) if (any(state == what)) message_of(code, count = sum(state == what))
  found <- Filter(Negate(is.null), list(counted("does not hold", "count_steps_fail"), counted("open", "count_steps_open"),
    counted("not tested", "count_steps_untested")))
  if (length(found) > 0) worded("parts_in_title", parts = found) else worded(if (any(steps$why == "in_part")) "steps_hold_in_part" else
    "steps_hold_all")
}

draw_means <- function(object) {
  means <- object$tables$means
  if (is.null(means)) {
    stop_input(message_of("e_there_no_latent"))
  }
  means$factor <- factor(means$factor, rev(unique(means$factor)))
  several <- length(unique(means$occasion)) > 1
  ggplot2::ggplot(means, ggplot2::aes(.data$effect, .data$factor, colour = .data$occasion, shape = .data$occasion)) +
    ggplot2::geom_vline(xintercept = 0, colour = figure_colours[4], linetype = "dotted", linewidth = .8) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$conf.low, xmax = .data$conf.high), linewidth = 1,
      position = ggplot2::position_dodge(width = .5)) +
    ggplot2::geom_point(size = 3.5, position = ggplot2::position_dodge(width = .5)) +
    ggplot2::scale_colour_manual(values = rep(figure_colours, length.out = length(unique(means$occasion))), name = NULL) +
    ggplot2::scale_shape_manual(values = rep(c(16, 17, 15, 18, 8), length.out = length(unique(means$occasion))), name = NULL) +
    figure_theme() + (if (!several) ggplot2::theme(legend.position = "none")) +
    figure_labels(
      if (several) worded("figure_means", against = means$against[1]) else
        worded("figure_means_of", against = means$against[1], occasion = means$occasion[1]),
      worded("figure_means_is", step = means$step[1]), object, worded("figure_means_alt", means = nrow(means)), x = worded("difference_in_sd"),
      y = NULL
    )
}

# Loadings and intercepts of each occasion, from the configural step.
draw_parameters <- function(object) {
  table <- object$tables$parameters
  table <- table[table$step == "configural" & table$kind %in% c("loading", "intercept"), ]
  table$item <- sub(" \\([^()]*\\)$", "", table$second)
  if (!"wave" %in% names(table)) table$item <- table$second
  table$occasion <- occasion_label(object, table)
  table$item <- factor(table$item, rev(unique(table$item)))
  table$kind <- factor(paste0(table$kind, "s"), c("loadings", "intercepts"))
  ggplot2::ggplot(table, ggplot2::aes(.data$estimate, .data$item, colour = .data$occasion, shape = .data$occasion)) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$conf.low, xmax = .data$conf.high), position = ggplot2::position_dodge(width = .6),
      na.rm = TRUE) +
    ggplot2::geom_point(size = 2, position = ggplot2::position_dodge(width = .6)) +
    ggplot2::facet_wrap(ggplot2::vars(.data$kind), scales = "free_x", labeller = ggplot2::as_labeller(in_terms())) +
    ggplot2::scale_colour_manual(values = rep(figure_colours, length.out = length(unique(table$occasion))), name = NULL) +
    ggplot2::scale_shape_manual(values = rep(c(16, 17, 15, 18, 8), length.out = length(unique(table$occasion))), name = NULL) +
    figure_theme() +
    figure_labels(worded("figure_parameters"), worded("figure_parameters_is"), object,
      worded("figure_parameters_alt", items = length(unique(table$item))), x = NULL, y = NULL)
}

occasion_label <- function(object, table) {
  labels <- object$parts$labels
  if (!"wave" %in% names(table)) table$group else labels$label[match(paste(table$group, table$wave), paste(labels$group, labels$wave))]
}

# Expected answer over the factor for each occasion, nothing held equal but what the scalar step
# (or the last one fitted) keeps.
draw_item_curves <- function(object, item) {
  items <- structure_items(object$parts$structure)
  if (is.null(item)) item <- c(object$tables$effects$item, object$tables$named$item, items)[1]
  check_in_structure(item, items, "item")
  table <- object$tables$parameters[object$tables$parameters$step == "configural", ]
  plain <- if (!"wave" %in% names(table)) table$second else sub(" \\([^()]*\\)$", "", table$second)
  own <- table[plain == item & table$kind %in% c("loading", "intercept"), ]
  own$occasion <- occasion_label(object, own)
  loadings <- own[own$kind == "loading", ]
  loadings <- loadings[!duplicated(loadings$occasion), ]
  at <- seq(-2.5, 2.5, length.out = 60)
  lines <- do.call(rbind, lapply(seq_len(nrow(loadings)), function(i) {
    intercept <- own$estimate[own$kind == "intercept" & own$occasion == loadings$occasion[i]]
    data.frame(factor = at, answer = intercept + loadings$estimate[i] * at, occasion = loadings$occasion[i])
  }))
  ggplot2::ggplot(lines, ggplot2::aes(.data$factor, .data$answer, colour = .data$occasion, linetype = .data$occasion)) +
    ggplot2::geom_line(linewidth = 1.1) +
    ggplot2::scale_colour_manual(values = rep(figure_colours, length.out = nrow(loadings)), name = NULL) +
    ggplot2::scale_linetype_discrete(name = NULL) +
    figure_theme() +
    figure_labels(worded("figure_item", item = item), worded("figure_item_is"), object, worded("figure_item_alt", item = item),
      x = sub(" \\([^()]*\\)$", "", loadings$first[1]), y = worded("expected_answer"))
}
