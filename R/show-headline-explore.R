# The answer of an exploration, and what to look at first.

#' @export
headline.sw_exploration <- function(x) {
  fit <- x$tables$fit
  options <- x$about$options
  if (x$about$status != "ok") {
    return(message_of("loadings_may_not_be_used", why = status_message(x$about$status)))
  }
  corrected <- isTRUE(abs(fit$corrected / fit$chi_square - 1) > 1e-9)
  judged <- if (is.na(fit$chi_square)) message_of("srmr_is", srmr = fit$srmr) else
    message_of(if (corrected) "chi_square_corrected_rmsea" else "chi_square_rmsea", chi_square = if (corrected) fit$corrected else fit$chi_square,
      df = fit$df, p = if (corrected) fit$corrected_p else fit$p.value, rmsea = fit$rmsea)
  worst <- worst_of_exploration(x)
  how <- list(factors = options$factors, extraction = message_of("a_term", term = extraction_words(options$extraction)),
    rotation = rotation_message(options), share = sum(x$tables$variance$share_of_total))
  code <- if (options$extraction == "pca") "components_explain" else "factors_explain"
  list(do.call(message_of, c(code, how, list(worst = if (length(worst) > 0) message_of("and_worst", worst = worst)))), judged)
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
  found <- list(
    if (length(improper) > 0) message_of("no_variance_of_own", items = improper),
    if (length(thin) > 0) message_of("fewer_than_three_load", factors = thin),
    if (length(nowhere) > 0) message_of("load_nowhere", items = nowhere),
    if (length(crossing) > 0) message_of("load_on_two", items = crossing)
  )
  utils::head(Filter(Negate(is.null), found), 2)
}

extraction_words <- function(extraction) {
  c(ml = "maximum likelihood", minres = "least squares", gls = "generalised least squares", paf = "principal axes", alpha = "alpha factoring",
    pca = "principal components")[[extraction]]
}

rotation_message <- function(options) {
  name <- gsub("_", "-", options$rotation)
  if (options$rotation == "none") message_of("unrotated") else
    message_of(if (identical(options$oblique, FALSE)) "orthogonal_rotation" else "rotation_by", rotation = name)
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
  list(message_of("explorations_with", factors = x$tables$comparison$factors), message_of("read_solutions_down"))
}

#' @export
first_look.sw_solutions <- function(x) {
  list(x$tables$comparison[c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "share_of_total")],
    x$tables$comparison[c("factors", "clear", "crossing", "nowhere", "thin", "large_residuals")])
}
