#' @rdname figures
#' @param figure For a confirmation `"paths"`, `"residuals"` (residual correlations), `"fit"`
#'   (indices against their bounds), `"loadings"` (with intervals) or `"modifications"`.
#' @param estimates Values in the path diagram: `"standardised"` or `"raw"`.
#' @exportS3Method ggplot2::autoplot
autoplot.sw_confirmation <- function(object, figure = "paths", estimates = "standardised", ...) {
  refuse_more(...)
  check_choice(figure, c("paths", "residuals", "fit", "loadings", "modifications"), "figure")
  check_choice(estimates, c("standardised", "raw"), "estimates")
  items <- nrow(object$parts$observed)
  switch(figure,
    paths = if (needs_panels(object$parts$structure)) draw_factor_panels(object, estimates) else
      as_tall_as(draw_path_diagram(object, estimates), items, 1024), residuals = as_tall_as(draw_residuals(object), items),
    fit = draw_fit_bounds(object), loadings = as_tall_as(draw_loading_intervals(object), items), modifications = draw_modifications(object)
  )
}

draw_path_diagram <- function(object, estimates) {
  layout <- path_layout(object$parts$structure)
  raw <- estimates == "raw"
  shown <- function(table) {
    if (raw) table$standardised <- table$estimate
    table
  }
  links <- object$tables$factor_correlations
  if (raw) {
    covariances <- object$tables$factors
    links$correlation <- covariances$estimate[covariances$kind == "factor covariance"]
  }
  draw_diagram(layout, path_loadings(shown(object$tables$loadings), layout), path_links(links, layout),
    path_pairs(shown(object$tables$residuals), layout)) +
    figure_labels(
      structure_title(object, raw), worded("figure_paths_is"), object,
      worded("figure_paths_alt", factors = nrow(layout$factors), items = nrow(layout$items), estimates = estimates)
    )
}

structure_title <- function(object, raw) {
  worded(if (object$about$status != "ok") "figure_paths_not_believed" else if (raw) "figure_paths_raw" else "figure_paths_standardised")
}

#' @rdname figures
#' @exportS3Method ggplot2::autoplot
autoplot.sw_structure <- function(object, ...) {
  refuse_more(...)
  layout <- path_layout(object)
  paths <- rbind(
    do.call(rbind, lapply(names(object$factors), function(f) data.frame(factor = f, item = object$factors[[f]]))),
    do.call(rbind, lapply(names(object$higher), function(f) data.frame(factor = f, item = object$higher[[f]])))
  )
  paths$standardised <- .5
  paths$p.value <- NA_real_
  below <- unlist(object$higher, use.names = FALSE)
  top <- setdiff(structure_factor_names(object), below)
  pairs <- if (length(top) > 1) utils::combn(top, 2, simplify = FALSE)
  linked <- Filter(function(pair) !any(vapply(object$unlinked, setequal, TRUE, pair)), pairs)
  links <- data.frame(factor = vapply(linked, `[`, "", 1), with = vapply(linked, `[`, "", 2), correlation = rep(.5, length(linked)),
    p.value = rep(NA_real_, length(linked)))
  shared <- data.frame(item = vapply(object$pairs, `[`, "", 1), with = vapply(object$pairs, `[`, "", 2), standardised = rep(.3, length(object$pairs)),
    p.value = rep(NA_real_, length(object$pairs)))
  plain <- function(table) {
    table$label <- rep("", nrow(table))
    table
  }
  draw_diagram(layout, plain(path_loadings(paths, layout)), plain(path_links(links, layout)), plain(path_pairs(shared, layout))) +
    ggplot2::labs(
      title = worded("figure_structure"), caption = paste(structure_counts(object), collapse = "\n"), subtitle = worded("figure_structure_is"),
      alt = worded("figure_structure_alt", factors = nrow(layout$factors), items = nrow(layout$items))
    )
}

# Residual correlations as a heat map; those beyond the bound are written out.
draw_residuals <- function(object) {
  r <- object$parts$residual_r
  bound <- limit(object$limits, "residual_r")$bound
  at <- which(lower.tri(r), arr.ind = TRUE)
  cells <- data.frame(x = factor(colnames(r)[at[, 2]], colnames(r)), y = factor(rownames(r)[at[, 1]], rev(rownames(r))), value = r[at])
  large <- cells[abs(cells$value) > bound, ]
  missed <- object$tables$residual_correlations
  missed <- missed[missed$verdict %in% "missed", ]
  large$shown <- paste(large$x, large$y) %in% c(paste(missed$item, missed$with), paste(missed$with, missed$item))
  most <- max(abs(cells$value), bound)
  ggplot2::ggplot(cells, ggplot2::aes(.data$x, .data$y, fill = .data$value)) +
    ggplot2::geom_tile(colour = "white", linewidth = .6) +
    ggplot2::geom_text(data = large, ggplot2::aes(label = coefficient_text(.data$value, 2), fontface = ifelse(.data$shown, "bold", "plain")),
      size = if (nrow(r) > 30) 2.2 else 3.2, colour = ink) +
    ggplot2::scale_fill_gradient2(low = figure_colours[3], mid = "white", high = figure_colours[2], limits = c(-most, most),
      name = worded("residual_r"),
      labels = function(x) coefficient_text(x, 2)) +
    figure_theme() + no_grid() +
    ggplot2::theme(axis.text.x = ggplot2::element_text(angle = 90, hjust = 1, vjust = .5)) +
    figure_labels(
      worded("figure_residuals", missed = sum(large$shown), bound = bound), worded("figure_residuals_is", bound = bound), object,
      worded("figure_residuals_alt", all = nrow(cells), large = nrow(large), shown = sum(large$shown)),
      x = NULL, y = NULL
    )
}

# Each index on its own line, as it is judged: without what a small sample adds, with its interval against the bounds.
draw_fit_bounds <- function(object) {
  table <- object$tables$fit
  table <- table[table$figure %in% c("cfi", "tli", "rmsea", "srmr"), ]
  table$value <- ifelse(is.na(table$corrected), table$value, table$corrected)
  table <- table[!is.na(table$value), ]
  headers <- column_header(table$figure)
  bounds <- do.call(rbind, lapply(seq_along(headers), function(i) {
    rule <- limit(object$limits, table$figure[i])
    value <- c(rule$bound, rule$better)
    data.frame(index = factor(headers[i], headers), value = value[!is.na(value)])
  }))
  bounds$label <- vapply(bounds$value, bound_text, "")
  table$index <- factor(headers, headers)
  table$state <- factor(bound_states(table$verdict, "misses it"), c("reaches it", "open", "misses it", "not judged"))
  table$label <- coefficient_text(table$value)
  ggplot2::ggplot(table, ggplot2::aes(.data$value, 0)) +
    ggplot2::geom_vline(data = bounds, ggplot2::aes(xintercept = .data$value), colour = figure_colours[4], linetype = "dotted", linewidth = .8) +
    ggplot2::geom_text(data = bounds, ggplot2::aes(.data$value, .42, label = .data$label), colour = figure_colours[4], size = 3.8, hjust = -.15) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$conf.low, xmax = .data$conf.high), colour = figure_colours[1], linewidth = 1.2, na.rm = TRUE) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$state), colour = figure_colours[1], fill = "white", size = 4.5) +
    ggplot2::scale_shape_manual(values = c(`reaches it` = 16, open = 10, `misses it` = 21, `not judged` = 4), name = worded("a_term",
      term = "the bound"), labels = in_terms()) +
    ggplot2::geom_text(ggplot2::aes(label = .data$label), vjust = 1.9, size = 4, colour = ink) +
    ggplot2::facet_wrap(ggplot2::vars(.data$index), scales = "free_x", ncol = 1, labeller = better_labels()) +
    ggplot2::scale_y_continuous(limits = c(-.8, .6), breaks = NULL) +
    ggplot2::scale_x_continuous(expand = ggplot2::expansion(mult = .12)) +
    ggplot2::coord_cartesian(clip = "off") +
    figure_theme() +
    figure_labels(
      worded(if (object$about$status == "ok") "figure_fit" else "figure_fit_not_believed"), worded("figure_fit_is"), object,
      worded("figure_fit_alt", indices = messages_of("name_and_r3", name = headers, value = table$value)), x = NULL, y = NULL
    )
}

# "CFI (higher is better)"
better_labels <- function() {
  words <- c(worded("higher_is_better", figure = "%s"), worded("lower_is_better", figure = "%s"))
  ggplot2::as_labeller(function(x) sprintf(ifelse(x %in% c("CFI", "TLI"), words[1], words[2]), x))
}

# How a value stands to its bound by its interval, as the table judges it.
bound_states <- function(verdict, missed) {
  ifelse(is.na(verdict) | verdict == "untested", "not judged", ifelse(verdict == "missed", missed, ifelse(verdict == "near", "open", "reaches it")))
}

loadings_title <- function(state, bound) {
  counts <- table(state)
  if (counts[["not judged"]] > 0) {
    return(worded("figure_loadings_not_believed"))
  }
  found <- list(if (counts[["below it"]] > 0) message_of("loadings_stay_below", count = counts[["below it"]], bound = bound),
    if (counts[["open"]] > 0) message_of("loadings_leave_open", count = counts[["open"]], bound = bound))
  found <- Filter(Negate(is.null), found)
  if (length(found) == 0) worded("every_loading_reaches", bound = bound) else worded("parts_in_title", parts = found)
}

draw_loading_intervals <- function(object) {
  table <- object$tables$loadings[object$tables$loadings$item %in% rownames(object$parts$observed), ]
  rule <- limit(object$limits, "loading")$bound
  table$low <- table$standard_low
  table$high <- table$standard_high
  table$factor <- factor(table$factor, unique(table$factor))
  table$item <- factor(table$item, rev(unique(table$item)))
  table$state <- factor(bound_states(table$verdict, "below it"), c("reaches it", "open", "below it", "not judged"))
  ggplot2::ggplot(table, ggplot2::aes(.data$standardised, .data$item)) +
    ggplot2::geom_vline(xintercept = rule, colour = figure_colours[4], linetype = "dotted", linewidth = .8) +
    ggplot2::geom_vline(xintercept = 0, colour = faint) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$low, xmax = .data$high), colour = figure_colours[1], linewidth = .9, na.rm = TRUE) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$state), colour = figure_colours[1], fill = "white", size = 2.8) +
    ggplot2::scale_shape_manual(values = c(`reaches it` = 16, open = 10, `below it` = 21, `not judged` = 4), name = worded("a_term",
      term = "the bound"), labels = in_terms()) +
    ggplot2::facet_grid(ggplot2::vars(.data$factor), scales = "free_y", space = "free_y") +
    figure_theme() +
    ggplot2::theme(strip.text.y = ggplot2::element_text(angle = 0)) +
    figure_labels(
      loadings_title(table$state, rule), worded("figure_loadings_is", level = 100 * object$about$options$level), object,
      worded("figure_loadings_alt", items = nrow(table)), x = worded("standardised_loading"), y = NULL
    )
}

draw_modifications <- function(object) {
  table <- utils::head(object$tables$modifications, 20)
  table$label <- ifelse(table$change_of == "pair", paste(table$item, "\u2194", table$with), paste(table$with, "\u2192", table$item))
  table$label <- factor(table$label, rev(unique(table$label)))
  table$kind <- ifelse(table$change_of == "pair", "two items share something", "item wants another factor")
  matters <- table$reading_code == "matters"
  table$filled <- ifelse(matters, table$kind, "")
  ggplot2::ggplot(table, ggplot2::aes(.data$index, .data$label, colour = .data$kind, shape = .data$kind)) +
    ggplot2::geom_segment(ggplot2::aes(x = 0, xend = .data$index, yend = .data$label), linewidth = .7, alpha = .5) +
    ggplot2::geom_point(ggplot2::aes(fill = .data$filled), size = 3.2) +
    ggplot2::geom_text(ggplot2::aes(label = coefficient_text(.data$standard_change, 2)), hjust = -.5, size = 3.5, colour = ink) +
    ggplot2::scale_colour_manual(values = figure_colours[c(2, 1)], name = NULL, labels = in_terms()) +
    ggplot2::scale_shape_manual(values = c(21, 24), name = NULL, labels = in_terms()) +
    ggplot2::scale_fill_manual(values = c("white", figure_colours[c(2, 1)]), limits = c("", sort(unique(table$kind))), guide = "none") +
    ggplot2::scale_x_continuous(expand = ggplot2::expansion(mult = c(0, .1))) +
    figure_theme() +
    figure_labels(
      worded("figure_changes", count = sum(matters)), worded("figure_changes_is"), object, worded("figure_changes_alt", count = nrow(table)),
      x = worded("modification_index"), y = NULL
    )
}
