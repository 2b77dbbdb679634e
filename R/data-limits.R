# The bounds that judge figures: one table, read by everything that flags.
# `bound` is what must be met; `better`, where there is one, is the stricter
# bound; a figure between the two is in the grey zone.

limits_table <- function() {
  rows <- list(
    list("inter_item_r", "at_least", .30, NA, "correlation between two items", "Hair et al. (2019)"),
    list("item_rest_r", "at_least", .30, .40, "item-rest correlation", "Nunnally & Bernstein (1994)"),
    list("item_rest_r_keyed", "at_least", .20, .30, "item-rest correlation of a test item", "Ebel & Frisbie (1991)"),
    list("alpha", "at_least", .70, .90, "alpha (research; individual decisions)", "Nunnally & Bernstein (1994)"),
    list("omega", "at_least", .70, .90, "omega (research; individual decisions)", "Nunnally & Bernstein (1994)"),
    list("alpha_excess", "at_most", .95, NA, "alpha before items repeat each other", "Streiner (2003)"),
    list("kmo", "at_least", .60, .80, "sampling adequacy", "Kaiser (1974)"),
    list("bartlett_p", "below", .05, NA, "p of the test of sphericity", "Bartlett (1950)"),
    list("loading", "at_least", .40, NA, "loading", "Stevens (2009)"),
    list("loading_gap", "at_least", .20, NA, "gap between the two largest loadings", "Howard (2016)"),
    list("condition", "at_most", 1000, 100, "condition number of the correlations", "Belsley et al. (1980)"),
    list("smallest_eigenvalue", "at_least", .01, NA, "smallest eigenvalue", "our choice"),
    list("small_partials", "at_least", .50, .75, "share of partial correlations below .10 in size", "our choice"),
    list("multiple_r", "at_most", .90, NA, "squared multiple correlation of an item", "Kline (2016)"),
    list("duplicate_r", "at_most", .80, NA, "correlation of two items before they say the same", "Field (2013)"),
    list("cases_per_item", "at_least", 5, 10, "cases per item", "Gorsuch (1983)"),
    list("cases_per_parameter", "at_least", 5, 10, "cases per free parameter", "Bentler & Chou (1987)"),
    list("congruence", "at_least", .85, .95, "congruence of two factors", "Lorenzo-Seva & ten Berge (2006)"),
    list("determinacy", "at_least", .80, .90, "correlation of scores with their factor", "Gorsuch (1983)"),
    list("standard_loading", "at_least", .40, .708, "standardised loading", "Hair et al. (2019)"),
    list("composite_reliability", "at_least", .70, NA, "composite reliability", "Fornell & Larcker (1981)"),
    list("ave", "at_least", .50, NA, "average variance extracted", "Fornell & Larcker (1981)"),
    list("htmt", "at_most", .90, .85, "heterotrait-monotrait ratio", "Henseler et al. (2015)"),
    list("vif", "below", 5, NA, "variance inflation", "Hair et al. (2019)"),
    list("cfi", "at_least", .90, .95, "comparative fit index", "Hu & Bentler (1999)"),
    list("tli", "at_least", .90, .95, "Tucker-Lewis index", "Hu & Bentler (1999)"),
    list("rmsea", "at_most", .08, .05, "RMSEA", "Browne & Cudeck (1993)"),
    list("srmr", "at_most", .08, NA, "SRMR", "Hu & Bentler (1999)"),
    list("residual_r", "at_most", .10, NA, "residual correlation (absolute)", "Kline (2016)"),
    list("cfi_change", "at_most", .010, NA, "fall in CFI between steps", "Cheung & Rensvold (2002)"),
    list("rmsea_change", "at_most", .015, NA, "rise in RMSEA between steps", "Chen (2007)"),
    list("skewness", "at_most", 2, NA, "skewness (absolute)", "West et al. (1995)"),
    list("kurtosis", "at_most", 7, NA, "excess kurtosis (absolute)", "West et al. (1995)"),
    list("difficulty_low", "at_least", .30, NA, "share right (too hard below)", "Allen & Yen (1979)"),
    list("difficulty_high", "at_most", .95, NA, "share right (too easy above)", "our choice"),
    list("option_margin", "at_most", .05, NA, "gain of a wrong option", "our choice"),
    list("dif_p", "below", .05, NA, "adjusted p of a difference between groups", "convention"),
    list("unanswered", "at_most", .20, NA, "share unanswered", "our choice"),
    list("longest_run_share", "at_most", .50, NA, "longest run of one answer", "Curran (2016)"),
    list("person_sd", "at_least", .30, NA, "spread of a person's answers", "our choice"),
    list("even_odd", "at_least", .30, NA, "even-odd consistency", "Jackson (1976)"),
    list("contradiction", "at_most", .50, NA, "contradiction of opposite wordings", "our choice"),
    list("distance_p", "at_least", .001, NA, "p of Mahalanobis distance", "Tabachnick & Fidell (2013)"),
    list("seconds_per_item", "at_least", 2, NA, "seconds per item", "Huang et al. (2012)"),
    list("end_share", "at_most", .50, NA, "share at one end of the answers", "our choice"),
    list("missing_share", "at_most", .10, NA, "share of missing answers", "Bennett (2001)")
  )
  column <- function(i) unlist(lapply(rows, `[[`, i))
  tibble::tibble(
    figure = column(1), direction = column(2), bound = column(3), better = column(4),
    words = column(5), source = column(6)
  )
}

#' The bounds that judge figures
#'
#' Every screen, table, figure and report judges by this one table. Called with
#' nothing it gives the bounds in force: the package's own, or those set with
#' `options(scalewort.limits = sw_limits(...))`. Named numbers change bounds.
#'
#' @param ... Bounds to change, as `figure = number`. Two numbers change the
#'   bound and the stricter bound: `alpha = c(.70, .80)`.
#' @return A `sw_limits`: a tibble with a row per figure and the columns
#'   `figure`, `direction` (`at_least`, `at_most`, `below`), `bound`, `better`
#'   (the stricter bound, `NA` where there is none), `words` and `source`
#'   (author, year).
#' @section Errors: `scalewort_error_input` for an unknown figure or a bound
#'   that is not one or two numbers.
#' @examples
#' sw_limits()
#' sw_limits(alpha = .80, item_rest_r = c(.25, .40))
#' @export
sw_limits <- function(...) {
  limits <- getOption("scalewort.limits", default_limits())
  changes <- list(...)
  if (length(changes) == 0) {
    return(limits)
  }
  if (is.null(names(changes)) || any(!nzchar(names(changes)))) {
    stop_input("Bounds are given by name, as in `sw_limits(alpha = .80)`.")
  }
  check_names_known(names(changes), limits$figure, "...", "figure")
  for (figure in names(changes)) {
    value <- changes[[figure]]
    if (!is.numeric(value) || anyNA(value) || !length(value) %in% 1:2) {
      stop_input(paste0("The bound of `", figure, "` must be one or two numbers; this is ", shown(value), "."))
    }
    row <- match(figure, limits$figure)
    wrong <- limit_order_fault(value, limits$direction[row])
    if (!is.null(wrong)) stop_input(paste0("The bounds of `", figure, "` are in the wrong order: ", wrong, "."))
    limits$bound[row] <- value[1]
    if (length(value) == 2) limits$better[row] <- value[2]
    limits$source[row] <- "set by the user"
  }
  check_limits_order(limits)
}

default_limits <- function() {
  table <- limits_table()
  structure(table, class = c("sw_limits", class(table)))
}

# What is wrong with the order of two bounds, the stricter second; NULL when nothing is.
limit_order_fault <- function(value, direction) {
  if (length(value) < 2) {
    return(NULL)
  }
  up <- direction == "at_least"
  if (if (up) value[2] > value[1] else value[2] < value[1]) NULL else
    paste0("the second is the stricter one and must be ", if (up) "higher" else "lower", " than the first")
}

# A stricter bound that has become the laxer one is dropped.
check_limits_order <- function(limits) {
  up <- limits$direction == "at_least"
  crossed <- !is.na(limits$better) &
    ((up & limits$better <= limits$bound) | (!up & limits$better >= limits$bound))
  limits$better[crossed] <- NA_real_
  limits
}

limit <- function(limits, figure) as.list(limits[match(figure, limits$figure), ])

# Does each value meet the bound? NA where there is no value.
meets <- function(value, limits, figure, which = "bound") {
  rule <- limit(limits, figure)
  switch(rule$direction,
    at_least = value >= rule[[which]],
    at_most = value <= rule[[which]],
    below = value < rule[[which]]
  )
}

# A verdict in words: "meets .95", "between .90 and .95", "below .90".
judge <- function(value, limits, figure) {
  rule <- limit(limits, figure)
  ok <- meets(value, limits, figure)
  fails <- if (rule$direction == "at_least") "below " else "above "
  if (rule$direction == "below") fails <- "not below "
  strict <- if (is.na(rule$better)) rule$bound else rule$better
  good <- meets(value, limits, figure, if (is.na(rule$better)) "bound" else "better")
  between <- paste("between", bound_text(min(rule$bound, strict)), "and", bound_text(max(rule$bound, strict)))
  words <- c(paste0("meets ", bound_sign(rule$direction), bound_text(strict)), between, paste0(fails, bound_text(rule$bound)))
  words[3L - ok - (ok & good)]
}

bound_sign <- function(direction) {
  c(at_least = "\u2265 ", at_most = "\u2264 ", below = "< ")[[direction]]
}

# "\u2265 .70"
bound_only <- function(limits, figure) {
  rule <- limit(limits, figure)
  paste0(bound_sign(rule$direction), bound_text(rule$bound))
}

# .70, .708, 5: at least two decimals under one, no leading zero.
bound_text <- function(x) {
  if (abs(x) >= 1) {
    return(format(x))
  }
  text <- formatC(x, format = "f", digits = 3)
  sub("^(-?)0", "\\1", sub("(\\.\\d\\d)0$", "\\1", text))
}
