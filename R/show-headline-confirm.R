# The answer of a confirmation: does the structure fit, and what is worst: two factors that are one, an item that does not
# belong, what two items share. Then the figures.

#' @export
headline.sw_confirmation <- function(x) {
  status <- x$about$status
  if (status == "improper") {
    return("This solution is improper: no data could have these estimates, so its fit is not judged.")
  }
  if (status != "ok") {
    return(paste0("This fit may not be used: ", status_words(status), "."))
  }
  fit <- x$tables$fit
  worst <- worst_of_confirmation(x)
  verdict <- fit_answer(fit, x$about$n)
  contrast <- if (verdict$good) ", but " else "; "
  paste0(verdict$words, if (nzchar(worst)) paste0(contrast, worst), ". ", fit_figures(x$parts$figures, fit))
}

# Fit as a whole, from the codes of the fit table: list(words, good).
fit_answer <- function(fit, n) {
  rows <- fit[match(c("cfi", "rmsea", "srmr", "tli"), fit$figure), ]
  of <- function(code) rows$figure[rows$verdict %in% code]
  exact <- fit$verdict[fit$figure %in% c("chi_square", "chi_square_scaled")]
  if (any(exact %in% "untested")) {
    return(list(words = "Its fit cannot be tested: the structure has as many parameters as there are moments", good = FALSE))
  }
  if (any(rows$verdict_reason %in% "no_baseline")) {
    return(list(words = "Its fit cannot be judged: the items hardly correlate", good = FALSE))
  }
  rejected <- any(exact %in% "missed")
  if (length(of("missed")) > 0) {
    return(list(words = paste0("The structure does not fit: ", interval_words(rows[rows$verdict %in% "missed", ][1, ])), good = FALSE))
  }
  if (length(of("near")) > 0) {
    near <- interval_words(rows[rows$verdict %in% "near", ][1, ])
    words <- if (rejected) paste0("The structure does not fit exactly, and whether it fits well enough stays open: ", near) else
      paste0("Nothing speaks against the structure, but ", count_of(n, "case"), " cannot show that it fits: ", near)
    return(list(words = words, good = FALSE))
  }
  list(words = if (rejected) "The structure fits by the usual bounds, though not exactly" else "The structure fits", good = !rejected)
}

# "CFI is .85 to .88, below .90"; "RMSEA is .06 to .09"
interval_words <- function(rows) {
  name <- column_header(rows$figure)
  ends <- ifelse(is.na(rows$conf.low), coefficient_text(rows$value, 2),
    paste(coefficient_text(rows$conf.low, 2), "to", coefficient_text(rows$conf.high, 2)))
  side <- ifelse(rows$verdict == "near", "", ifelse(rows$figure %in% c("cfi", "tli"), ", too low", ", too high"))
  paste0(name, ifelse(differs_corrected(rows), " corrected for n", ""), " is ", ends, side)
}

# Where the figure that is judged is not the one that is printed.
differs_corrected <- function(rows) !is.na(rows$corrected) & coefficient_text(rows$corrected, 2) != coefficient_text(rows$value, 2)

fit_figures <- function(f, fit) {
  last <- judged_chi_square(fit)
  kind <- if (last$figure == "chi_square") "Chi-square " else if (is.null(f$shift)) "Scaled chi-square " else "Adjusted chi-square "
  corrected <- f$df > 0 && isTRUE(abs(last$corrected / last$value - 1) > 1e-9)
  p <- if (f$df > 0) paste0(", p ", p_words(if (corrected) last$corrected_p else last$p.value), if (corrected) ", both corrected for n")
  paste0(kind, decimals(if (corrected) last$corrected else last$value, 2), " on ", f$df, " df", p, if (f$df > 0) paste0("; CFI ",
    coefficient_text(f$cfi), ", RMSEA ",
    coefficient_text(f$rmsea), ", SRMR ", coefficient_text(f$srmr)), ".")
}

# The worst thing beside fit as a whole, "" for none.
worst_of_confirmation <- function(x) {
  links <- x$tables$factor_correlations
  twins <- links[links$verdict %in% "missed", ]
  away <- x$tables$loadings[x$tables$loadings$verdict %in% "missed", ]
  readings <- x$tables$readings
  against <- unlist(x$noted$items[x$noted$code == "against_factor"])
  parts <- c(
    if (length(against) > 0) paste0(and_list(against, 3), if (length(against) == 1) " loads" else " load",
      " against the other items: check the keying first"),
    if (nrow(twins) > 0) twin_words(twins[which.max(round(abs(twins$correlation), 8)), ]),
    if (nrow(away) > 0) away_words(away[order(abs(away$standardised)), ]),
    if (NROW(readings) > 0) reading_words(readings)
  )
  and_list(utils::head(parts, 2))
}

twin_words <- function(pair) {
  paste0(pair$factor, " and ", pair$with, " can hardly be told apart (r ", coefficient_text(pair$correlation, 2), " [",
    coefficient_text(pair$conf.low, 2), ", ", coefficient_text(pair$conf.high, 2), "])")
}

away_words <- function(rows) {
  shown <- utils::head(rows, 3)
  size <- paste0(shown$item, " does not belong to ", shown$factor, " (loading ", coefficient_text(shown$standardised, 2), ")")
  if (nrow(rows) == 1) size else paste0(count_of(nrow(rows), "item"), " do not belong where they stand: ",
    and_list(paste0(shown$item, " in ", shown$factor, " (loading ", coefficient_text(shown$standardised, 2),
      ")")), if (nrow(rows) > 3) ", and others")
}

# The best reading of the misfit, and a second one where BIC can hardly tell them apart.
reading_words <- function(readings) {
  close <- readings[readings$gain > readings$gain[1] - close_readings, ]
  paste(reading_text(utils::head(close, 2)), collapse = ", or ")
}

# Differences of BIC below this say little (Raftery, 1995).
close_readings <- 6

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
