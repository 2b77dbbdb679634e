# Items dropped from a structure, and from a confirmation, on record.

#' @export
sw_drop.sw_structure <- function(x, items = NULL, cases = NULL, reason = NULL) {
  if (!is.null(cases) || is.null(items)) stop_structure(message_of("e_structure_drops_items"))
  check_in_structure(items, structure_items(x), "item")
  x$factors <- Filter(length, lapply(x$factors, setdiff, items))
  if (length(x$factors) == 0) stop_structure(message_of("e_no_item_left"))
  gone <- function(parameter) any(unlist(parameter) %in% items)
  x$pairs <- Filter(Negate(gone), x$pairs)
  x$fixed <- Filter(function(f) !any(c(f$one, f$other) %in% items), x$fixed)
  x$equal <- Filter(function(group) length(group) > 1, lapply(x$equal, function(group) Filter(Negate(gone), group)))
  x$bounds <- Filter(function(b) !any(c(b$one, b$other) %in% items), x$bounds)
  if (!is.null(x$means)) {
    x$means$intercepts <- x$means$intercepts[setdiff(names(x$means$intercepts), items)]
    x$means$equal <- Filter(function(group) length(group) > 1, lapply(x$means$equal, setdiff, items))
  }
  left <- structure_factor_names(x)
  x$higher <- Filter(function(below) length(below) > 1, lapply(x$higher, intersect, left))
  x$unlinked <- Filter(function(pair) all(pair %in% structure_factor_names(x)), x$unlinked)
  x
}

#' @export
sw_drop.sw_confirmation <- function(x, items = NULL, cases = NULL, reason = NULL) {
  check_reason(reason)
  structure <- sw_drop(x$parts$structure, items = items, cases = cases)
  source <- if (is.null(x$parts$source)) sample_moments(x, structure) else sw_drop(survey_behind(x), items = items, reason = reason)
  now <- confirm_again(x, source, structure, read = TRUE)
  route <- if (is.null(x$tables$route)) confirmation_step(0L, "", "start", x) else x$tables$route
  now$tables$route <- rbind(route, confirmation_step(nrow(route), paste(items, collapse = " "), reason, now))
  now
}

# The sample of a confirmation from moments, without items that have gone.
sample_moments <- function(x, structure) {
  n <- x$about$n
  items <- structure_items(structure)
  s <- x$parts$observed[items, items] * n / (n - 1)
  gamma <- x$parts$gamma
  if (!is.null(gamma)) gamma <- core_gamma_of(gamma, nrow(x$parts$observed), match(items, rownames(x$parts$observed)))
  new_moments(n, x$about$n_left_out, stats::setNames(rep(NA_real_, length(items)), items), s, x$about$missing, "published", list(all = items),
    gamma = gamma)
}

confirmation_step <- function(step, dropped, reason, x) {
  figures <- x$parts$figures
  plain_table(
    step = step, dropped = dropped, reason = reason, items = x$about$options$items, n = x$about$n, chi_square = figures$chi_square, df = figures$df,
    cfi = figures$cfi, rmsea = figures$rmsea, srmr = figures$srmr,
    large_residuals = sum(x$tables$residual_correlations$verdict %in% "missed")
  )
}
