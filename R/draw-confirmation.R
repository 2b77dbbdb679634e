#' @rdname figures
#' @export
autoplot.sw_confirmation <- function(object, ...) {
  layout <- path_layout(object$parts$structure)
  draw_diagram(layout, path_loadings(object$tables$loadings, layout), path_links(object$tables$factor_correlations, layout),
    path_pairs(object$tables$residuals, layout)) +
    figure_labels(
      if (object$about$status == "ok") "The structure, standardised" else "The structure: this fit may not be believed",
      "Ovals are factors, boxes items. Thicker arrows are stronger; dashed ones are not significant at .05.",
      object, paste0(
        "Path diagram of ", count_of(nrow(layout$factors), "factor"), " and ", count_of(nrow(layout$items), "item"),
        " with standardised loadings and factor correlations."
      )
    )
}
