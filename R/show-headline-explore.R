# The answer of an exploration, and what to look at first.

#' @export
headline.sw_exploration <- function(x) {
  fit <- x$tables$fit
  options <- x$about$options
  if (x$about$status != "ok") {
    return(paste0("These loadings may not be used: ", status_words(x$about$status), "."))
  }
  one <- options$factors == 1
  what <- if (options$extraction == "pca") count_of(options$factors, "component") else count_of(options$factors, "factor")
  corrected <- isTRUE(abs(fit$corrected / fit$chi_square - 1) > 1e-9)
  judged <- if (is.na(fit$chi_square)) {
    paste0("SRMR ", coefficient_text(fit$srmr))
  } else {
    paste0("Chi-square ", decimals(if (corrected) fit$corrected else fit$chi_square, 2), " on ", fit$df, " df, p ",
      p_words(if (corrected) fit$corrected_p else fit$p.value), if (corrected) ", both corrected for n", ", RMSEA ", coefficient_text(fit$rmsea))
  }
  worst <- worst_of_exploration(x)
  paste0(what, " (", extraction_words(options$extraction), ", ", rotation_words(options), if (options$rotation != "none") " rotation",
    ") ", if (one) "explains " else "explain ", format_number(sum(x$tables$variance$share_of_total), "percent"), " of the items' variance",
    if (nzchar(worst)) paste0("; ", worst), ". ", judged, ".")
}

# What is worst: an item without variance of its own, a factor too thin for a subscale, items that load nowhere or on two.
worst_of_exploration <- function(x) {
  items <- x$tables$items
  named <- function(codes) unlist(x$noted$items[x$noted$code %in% codes])
  improper <- named("uniqueness_at_bound")
  thin <- named("thin_factor")
  # Nowhere by the interval, where there is one: not only by chance.
  nowhere <- items$item[items$place == "nowhere" & (is.na(items$width) | abs(items$loading) + items$width < limit(x$limits, "loading")$bound)]
  crossing <- items$item[items$place == "crosses"]
  parts <- c(
    if (length(improper) > 0) paste(and_list(improper, 3), if (length(improper) == 1) "has" else "have", "no variance of", if (length(improper) == 1)
      "its own: an improper solution" else "their own: an improper solution"),
    if (length(thin) > 0) paste("fewer than three items load on", and_list(thin, 3)),
    if (length(nowhere) > 0) paste(and_list(nowhere, 3), if (length(nowhere) == 1) "loads nowhere" else "load nowhere"),
    if (length(crossing) > 0) paste(and_list(crossing, 3), if (length(crossing) == 1) "loads on two factors" else "load on two factors")
  )
  and_list(utils::head(parts, 2))
}

extraction_words <- function(extraction) {
  c(ml = "maximum likelihood", minres = "least squares", gls = "generalised least squares", paf = "principal axes", alpha = "alpha factoring",
    pca = "principal components")[[extraction]]
}

rotation_words <- function(options) {
  if (options$rotation == "none") {
    return("unrotated")
  }
  paste0(gsub("_", "-", options$rotation), if (identical(options$oblique, FALSE)) ", orthogonal")
}

# Loadings sorted by the factor an item belongs to, the small ones left blank.
#' @export
first_look.sw_exploration <- function(x) {
  factors <- colnames(x$parts$pattern)
  sorted <- sorted_pattern(x)[c("item", factors, "communality", "belongs")]
  sorted[factors] <- lapply(sorted[factors], function(l) ifelse(abs(l) < x$about$options$hide, NA, l))
  c(list(sorted), if (!is.null(x$tables$factor_correlations) && !is_orthogonal(x)) list(x$tables$factor_correlations),
    if (!is.null(x$tables$route)) list(x$tables$route))
}

sorted_pattern <- function(x) {
  items <- x$tables$items
  home <- match(items$factor, colnames(x$parts$pattern))
  x$tables$pattern[order(home, -abs(items$loading)), ]
}

is_orthogonal <- function(x) max(abs(x$parts$factor_correlations - diag(ncol(x$parts$pattern)))) < 1e-12

#' @export
headline.sw_solutions <- function(x) {
  table <- x$tables$comparison
  paste0("Explorations with ", and_list(table$factors), " factors. ",
    "Read down: fit rises with every factor; stop where factors get thin, items load nowhere, or residuals have gone.")
}

#' @export
first_look.sw_solutions <- function(x) {
  list(x$tables$comparison[c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "share_of_total")],
    x$tables$comparison[c("factors", "clear", "crossing", "nowhere", "thin", "large_residuals")])
}
