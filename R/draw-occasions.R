# The structure of several groups or waves, side by side.

# The standardised solution of one step, a panel an occasion.
draw_occasion_paths <- function(object, most = 6) {
  step <- occasion_step(object)
  table <- object$tables$parameters[object$tables$parameters$step == step, ]
  table$occasion <- occasion_label(object, table)
  occasions <- utils::head(unique(table$occasion), most)
  layout <- path_layout(object$parts$structure)
  parts <- lapply(occasions, function(occasion) occasion_parts(table[table$occasion == occasion, ], layout, occasion, "wave" %in% names(table)))
  joined <- function(part) do.call(rbind, lapply(parts, `[[`, part))
  panels <- function(of) {
   lapply(of, function(data) {
      data$panel <- factor(data$panel, occasions)
      data
    })
 }
  of <- panels(list(loadings = joined("loadings"), links = joined("links"), pairs = joined("pairs")))
  left_out <- length(unique(table$occasion)) - length(occasions)
  draw_diagram(layout, of$loadings, of$links, of$pairs, narrow = length(occasions)) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), nrow = if (length(occasions) > 3) 2 else 1) +
    figure_labels(
      worded(if (is.null(object$about$options$across)) "figure_structure_groups" else "figure_structure_occasions"),
      worded("figure_structures_is", step = step, left_out = if (left_out > 0) message_of("occasions_not_drawn", count = left_out)), object,
      worded("figure_structures_alt", occasions = length(occasions))
    )
}

# The last step that holds, else the configural one.
occasion_step <- function(object) {
  steps <- object$tables$steps
  c(rev(steps$step[steps$verdict == "met"]), "configural")[1]
}

occasion_parts <- function(table, layout, panel, waves) {
  plain <- function(name) if (waves) sub(" \\([^()]*\\)$", "", name) else name
  table$first <- plain(table$first)
  table$second <- plain(table$second)
  table$p.value <- 2 * stats::pnorm(-abs(table$estimate / table$std.error))
  loadings <- table[table$kind == "loading", ]
  # Links to other waves, and of an item with itself at another wave, stay out.
  links <- table[table$kind == "factor covariance" & table$first != table$second, ]
  links <- links[!duplicated(paste(pmin(links$first, links$second), pmax(links$first, links$second))), ]
  pairs <- table[table$kind == "residual covariance" & table$first != table$second, ]
  out <- list(
    loadings = path_loadings(data.frame(factor = loadings$first, item = loadings$second, standardised = loadings$standardised,
      p.value = loadings$p.value), layout),
    links = path_links(data.frame(factor = links$first, with = links$second, correlation = links$standardised, p.value = links$p.value), layout),
    pairs = path_pairs(data.frame(item = pairs$first, with = pairs$second, standardised = pairs$standardised, p.value = pairs$p.value), layout)
  )
  lapply(out, function(data) {
    data$panel <- rep(panel, nrow(data))
    data
  })
}
