# The answer of a confirmation: does the structure fit, and what is worst: two factors that are one, an item that does not
# belong, what two items share. Then the figures.

#' @export
headline.sw_confirmation <- function(x) {
  status <- x$about$status
  if (status == "improper") {
    readings <- x$tables$readings
    return(if (NROW(readings) == 0) message_of("improper_fit") else message_of("improper_fit_read", reading = best_readings(readings)))
  }
  if (status != "ok") {
    return(message_of("fit_may_not_be_used", why = status_message(status)))
  }
  fit <- x$tables$fit
  worst <- worst_of_confirmation(x)
  verdict <- fit_answer(fit, x$about$n)
  list(
    if (length(worst) == 0) message_of("fit_alone", fit = verdict$said) else
      message_of(if (verdict$good) "fit_but_worst" else "fit_and_worst", fit = verdict$said, worst = worst),
    fit_figures(x$parts$figures, fit)
  )
}

# Fit as a whole, from the codes of the fit table: list(said, good).
fit_answer <- function(fit, n) {
  rows <- fit[match(c("cfi", "rmsea", "srmr", "tli"), fit$figure), ]
  of <- function(code) rows[rows$verdict %in% code, ]
  exact <- fit$verdict[fit$figure %in% c("chi_square", "chi_square_scaled")]
  bad <- function(said) list(said = said, good = FALSE)
  if (any(exact %in% "untested")) {
    return(bad(message_of("fit_not_testable")))
  }
  if (any(rows$verdict_reason %in% "no_baseline")) {
    return(bad(message_of("fit_no_baseline")))
  }
  rejected <- any(exact %in% "missed")
  if (nrow(of("missed")) > 0) {
    return(bad(message_of("fit_missed", figure = interval_message(of("missed")[1, ]))))
  }
  if (nrow(of("near")) > 0) {
    near <- interval_message(of("near")[1, ])
    return(bad(if (rejected) message_of("fit_open", figure = near) else message_of("fit_not_shown", cases = n, figure = near)))
  }
  list(said = if (rejected) message_of("fit_by_bounds") else message_of("fit_good"), good = !rejected)
}

# "CFI is .85 to .88, too low"; "RMSEA is .06 to .09"
interval_message <- function(row) {
  ends <- if (is.na(row$conf.low)) message_of("a_value", value = row$value) else message_of("from_to", low = row$conf.low, high = row$conf.high)
  side <- if (row$verdict != "near") if (row$figure %in% c("cfi", "tli")) message_of("too_low") else message_of("too_high")
  message_of(if (differs_corrected(row)) "figure_is_corrected" else "figure_is", figure = column_header(row$figure), ends = ends, side = side)
}

# Where the figure that is judged is not the one that is printed.
differs_corrected <- function(rows) !is.na(rows$corrected) & coefficient_text(rows$corrected, 2) != coefficient_text(rows$value, 2)

fit_figures <- function(f, fit) {
  last <- judged_chi_square(fit)
  kind <- if (last$figure == "chi_square") message_of("chi_square_plain") else
    if (is.null(f$shift)) message_of("chi_square_is_scaled") else message_of("chi_square_is_adjusted")
  corrected <- f$df > 0 && isTRUE(abs(last$corrected / last$value - 1) > 1e-9)
  value <- if (corrected) last$corrected else last$value
  if (f$df == 0) {
    return(message_of("fit_figures_no_df", kind = kind, chi_square = value))
  }
  message_of(if (corrected) "fit_figures_corrected" else "fit_figures", kind = kind, chi_square = value, df = f$df,
    p = if (corrected) last$corrected_p else last$p.value, cfi = f$cfi, rmsea = f$rmsea, srmr = f$srmr)
}

# The worst two things beside fit as a whole, as messages.
worst_of_confirmation <- function(x) {
  links <- x$tables$factor_correlations
  twins <- links[links$verdict %in% "missed", ]
  away <- x$tables$loadings[x$tables$loadings$verdict %in% "missed", ]
  readings <- x$tables$readings
  against <- unlist(x$noted$items[x$noted$code == "against_factor"])
  found <- list(
    if (length(against) > 0) message_of("load_against", items = against),
    if (nrow(twins) > 0) twin_message(twins[which.max(round(abs(twins$correlation), 8)), ]),
    if (nrow(away) > 0) away_message(away[order(abs(away$standardised)), ]),
    if (NROW(readings) > 0) best_readings(readings)
  )
  utils::head(Filter(Negate(is.null), found), 2)
}

twin_message <- function(pair) {
  message_of("hardly_apart", first = pair$factor, second = pair$with, r = pair$correlation, low = pair$conf.low, high = pair$conf.high)
}

away_message <- function(rows) {
  shown <- utils::head(rows, 3)
  if (nrow(rows) == 1) {
    return(message_of("item_not_of_factor", item = shown$item, factor = shown$factor, loading = shown$standardised))
  }
  message_of(if (nrow(rows) > 3) "items_misplaced_and_others" else "items_misplaced", count = nrow(rows),
    items = messages_of("item_in_loading", item = shown$item, factor = shown$factor, loading = shown$standardised))
}

# The best reading of the misfit, and a second one where BIC can hardly tell them apart.
best_readings <- function(readings) {
  close <- reading_messages(utils::head(readings[readings$gain > readings$gain[1] - close_readings, ], 2))
  if (length(close) == 1) close[[1]] else message_of("one_or_other", one = close[[1]], other = close[[2]])
}

#' @export
first_look.sw_confirmation <- function(x) {
  if (x$about$status != "ok") {
    return(list(x$tables$convergence, if (x$about$status == "improper") x$tables$residuals[c("item", "with", "estimate", "std.error")]) |>
      Filter(f = Negate(is.null)))
  }
  list(
    x$tables$fit[c("figure", "value", "df", "p.value", "corrected", "conf.low", "conf.high", "verdict", "verdict_reason")],
    x$tables$loadings[c("factor", "item", "estimate", "standardised", "standard_low", "standard_high", "verdict")],
    if (!is.null(x$tables$route)) x$tables$route
  ) |> Filter(f = Negate(is.null))
}
