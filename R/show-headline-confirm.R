# Headlines of confirmations and what belongs to them.

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
  missed <- verdicts$figure[grepl("^(below|above)", verdicts$verdict)]
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

#' @export
headline.sw_comparison <- function(x) {
  models <- x$tables$models
  tests <- x$tables$tests
  if (anyNA(models$bic)) {
    row <- tests[which.min(tests$p.value), ]
    if (nrow(row) == 0) row <- tests[1, ]
    return(paste0(nrow(models), " structures. ", quoted(row$stricter), " against ", quoted(row$freer), ": ", row$says,
      if (!is.na(row$p.value)) paste0(" (adjusted difference ", decimals(row$statistic, 2), " on ", row$df, " df, p ", p_words(row$p.value),
        ")"), "."))
  }
  two <- models$model[order(models$bic)[1:2]]
  row <- tests[tests$stricter %in% two & tests$freer %in% two, ]
  paste0("By BIC ", quoted(two[1]), " is best of ", nrow(models), " (weight ", coefficient_text(max(models$bic_weight), 2), "). ",
    quoted(row$stricter), " against ", quoted(row$freer), ": ", row$says,
    if (!is.na(row$p.value)) paste0(" (difference ", decimals(row$statistic, 2), " on ", row$df, " df, p ", p_words(row$p.value), ")"), ".")
}

#' @export
first_look.sw_comparison <- function(x) {
  shown <- c("model", "chi_square", "df", "p.value", "cfi", "rmsea", "srmr", if (!anyNA(x$tables$models$bic)) c("bic", "bic_weight"))
  c(list(x$tables$models[shown], x$tables$tests), if (!is.null(x$tables$vuong)) list(x$tables$vuong))
}

#' @export
headline.sw_influence <- function(x) {
  cases <- x$tables$cases
  without <- x$tables$without
  last <- without[nrow(without), ]
  paste0("Case ", cases$case[1], " moves the estimates most (Cook's distance ", decimals(cases$cook[1], 2), "). Without the ",
    count_of(last$without, "most influential case", "most influential cases"), ", CFI goes from ", coefficient_text(without$cfi[1]), " to ",
    coefficient_text(last$cfi), ", RMSEA from ", coefficient_text(without$rmsea[1]), " to ", coefficient_text(last$rmsea),
    ", and no loading changes by more than ", coefficient_text(last$largest_change, 2), ".")
}

#' @export
first_look.sw_influence <- function(x) list(utils::head(x$tables$cases, 10), x$tables$without)

#' @export
headline.sw_power <- function(x) {
  options <- x$about$options
  if (is.null(x$tables$needed)) {
    table <- x$tables$parameter
    enough <- table$n[table$power >= options$power]
    return(paste0("The parameter of ", options$parameter, ", ", coefficient_text(options$true, 2), " in truth, is seen with power ",
      coefficient_text(options$power, 2), if (length(enough) > 0) paste0(" from n = ", min(enough), " on.") else
        paste0(" by none of these numbers of cases; with n = ", max(table$n), " it is ", coefficient_text(table$power[nrow(table)], 2), ".")))
  }
  needed <- x$tables$needed
  paste0("With ", options$df, " df, a power of ", coefficient_text(options$power, 2), " needs ",
    and_list(ifelse(is.na(needed$needed), paste("more than a million cases for the test of", needed$test),
      paste(needed$needed, "cases for the test of", needed$test))), ".")
}

#' @export
first_look.sw_power <- function(x) {
  if (is.null(x$tables$needed)) {
    return(x$tables$parameter[c("n", "power", "mean_estimate", "bias", "error_ratio", "coverage", "converged")])
  }
  x$tables
}
