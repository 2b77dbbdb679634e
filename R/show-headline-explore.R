# The answer of an exploration, and what to look at first.

#' @export
headline.sw_exploration <- function(x) {
  fit <- x$tables$fit
  options <- x$about$options
  one <- options$factors == 1
  what <- if (options$extraction == "pca") count_of(options$factors, "component") else count_of(options$factors, "factor")
  judged <- if (is.na(fit$chi_square)) {
    paste0("SRMR ", coefficient_text(fit$srmr))
  } else {
    paste0("chi-square ", decimals(fit$chi_square, 2), " on ", fit$df, " df, p ", p_words(fit$p.value), ", RMSEA ", coefficient_text(fit$rmsea))
  }
  paste0(
    if (x$about$status != "ok") paste0("These loadings may not be used: ", status_words(x$about$status), ". "),
    what, " (", extraction_words(options$extraction), ", ", rotation_words(options), if (options$rotation != "none") " rotation",
    ") ", if (one) "explains " else "explain ", format_number(sum(x$tables$variance$share_of_total), "percent"), " of the items' variance; ",
      judged, "."
  )
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
