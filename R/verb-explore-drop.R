# Items dropped from an exploration one after the other, on record.

#' @export
sw_drop.sw_exploration <- function(x, items = NULL, cases = NULL, reason = NULL) {
  check_reason(reason)
  if (!is.null(cases)) stop_input(message_of("e_exploration_drops_items"), hint = message_of("e_drop_cases_from"))
  known <- colnames(x$parts$correlations)
  if (is.null(items)) stop_input(message_of("e_items_needed_items"))
  check_names_known(items, known, "items", "item")
  source <- x$parts$source
  left <- setdiff(known, items)
  source$x <- survey_behind(x)
  source$x <- if (has_answers(source$x)) sw_drop(source$x, items = items, reason = reason) else narrow_moments(source$x, left)
  source$items <- left
  settings <- x$parts$settings
  if (!is.null(settings$target)) settings$target <- settings$target[match(left, known), , drop = FALSE]
  moments <- as_moments(source$x, left, source$missing, source$correlation, source$smooth, source$also, spread = TRUE)
  check_factor_input(moments)
  factors <- x$about$options$factors
  check_factor_number(factors, length(left))
  extracted <- core_extract(core_correlation(moments$covariance), factors, settings$extraction)
  labels <- colnames(x$parts$pattern)
  now <- exploration_of(extracted, moments, factors, settings, labels, source, x$limits)
  route <- if (is.null(x$tables$route)) route_row(0L, "", "start", x) else x$tables$route
  now$tables$route <- rbind(route, route_row(nrow(route), paste(items, collapse = " "), reason, now))
  now
}

# One step: what was dropped and why, and how things stand after it.
route_row <- function(step, dropped, reason, x) {
  row <- solution_row(x)
  figures <- as.list(row[c("chi_square", "df", "rmsea", "srmr", "share_of_total", "clear", "crossing", "nowhere")])
  do.call(plain_table, c(list(step = step, dropped = dropped, reason = reason, items = ncol(x$parts$correlations), n = x$about$n), figures))
}
