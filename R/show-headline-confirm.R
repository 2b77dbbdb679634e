# The answer of a confirmation, and what to look at first.

#' @export
headline.sw_confirmation <- function(x) {
  f <- x$parts$figures
  status <- x$about$status
  verdicts <- x$tables$fit[x$tables$fit$figure != "chi_square", ]
  start <- switch(status,
    ok = "",
    improper = "This solution is improper: read no verdict into it. ",
    paste0("This fit may not be used: ", status_words(status), ". ")
  )
  missed <- verdicts$figure[verdicts$verdict %in% "missed"]
  judgement <- if (status != "ok") {
    ""
  } else if (f$df == 0) {
    "Its fit cannot be tested: the structure has as many parameters as there are moments. "
  } else if (length(missed) == 0) {
    "The structure fits by the usual bounds. "
  } else {
    paste0("The structure misses the bound", if (length(missed) > 1) "s", " of ", and_list(column_header(missed)), ". ")
  }
  scaled <- !is.null(f$scale) && !is.na(f$scale)
  paste0(start, judgement, if (!is.null(f$shift)) "Adjusted chi-square " else if (scaled) "Scaled chi-square " else "Chi-square ",
    decimals(if (scaled) f$chi_square_scaled else f$chi_square, 2),
    " on ", f$df, " df", if (f$df > 0) paste0(", p ", p_words(if (scaled) f$p_scaled else f$p.value)),
    if (f$df > 0) paste0("; CFI ", coefficient_text(f$cfi), ", RMSEA ", coefficient_text(f$rmsea), " [",
      coefficient_text(f$rmsea.low), ", ", coefficient_text(f$rmsea.high), "], SRMR ", coefficient_text(f$srmr)), ".")
}

#' @export
first_look.sw_confirmation <- function(x) {
  list(
    x$tables$fit[c("figure", "value", "df", "p.value", "conf.low", "conf.high", "bound", "verdict")],
    x$tables$loadings[c("factor", "item", "estimate", "std.error", "p.value", "standardised", "r_squared")],
    if (!is.null(x$tables$route)) x$tables$route
  ) |> Filter(f = Negate(is.null))
}
