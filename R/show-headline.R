# The answer of each result in a sentence or two, and the table (or list of
# tables) to show first.

headline <- function(x) UseMethod("headline")
first_look <- function(x) UseMethod("first_look")

#' @export
first_look.default <- function(x) x$tables[[1]]

#' @export
headline.sw_screening <- function(x) {
  flags <- x$tables$flags
  items <- nrow(x$tables$items)
  if (nrow(flags) == 0) {
    return(paste0(count_of(items, "item"), " screened, none flagged."))
  }
  flagged <- unique(flags$item)
  paste0(count_of(items, "item"), " screened, ", length(flagged), " flagged: ",
    and_list(vapply(flagged, function(i) paste0(i, " (", and_list(flags$what[flags$item == i]), ")"), "")), ".")
}

#' @export
first_look.sw_screening <- function(x) {
  table <- x$tables$items
  keyed <- any(!is.na(table$difficulty))
  wanted <- c("item", "missing", if (keyed) "difficulty" else c("mean", "sd", "skewness", "kurtosis", "at_lowest", "at_highest"), "item_rest_r")
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  c(list(table[wanted]), if (nrow(flags) > 0) list(flags))
}

#' @export
headline.sw_reliability <- function(x) {
  scales <- x$tables$scales
  turned <- scales[scales$looks_unreversed != "", ]
  known <- scales[!is.na(scales$alpha), ]
  paste0(
    if (nrow(turned) > 0) paste0("Check the keying first: ", and_list(paste0(turned$looks_unreversed, " in ", turned$scale)),
      if (nrow(turned) == 1) " looks" else " look", " unreversed. "),
    if (nrow(known) == 0) "Alpha could not be computed for any subscale." else paste0(
      "Alpha: ", and_list(paste(known$scale, coefficient_text(known$alpha)), 12), ".")
  )
}

#' @export
first_look.sw_reliability <- function(x) {
  table <- x$tables$scales
  last <- if (any(!is.na(table$alpha_turned))) "alpha_turned" else "inter_item_r"
  table[c("scale", "items", "n", "alpha", "conf.low", "conf.high", "verdict", last)]
}

#' @export
headline.sw_retention <- function(x) {
  rules <- x$tables$rules
  paste0(
    "Parallel analysis suggests ", count_of(rules$suggestion[1], "factor"), "; ",
    "counting eigenvalues above 1 gives ", rules$suggestion[2], "."
  )
}

#' @export
first_look.sw_retention <- function(x) {
  table <- x$tables$eigenvalues
  utils::head(table, max(x$tables$rules$suggestion) + 3)
}

#' @export
headline.sw_exploration <- function(x) {
  fit <- x$tables$fit
  options <- x$about$options
  paste0(
    count_of(options$factors, "factor"), " (", extraction_words(options$extraction), ", ",
    if (options$rotation == "none") "unrotated" else paste0(options$rotation, " rotation"), ") ",
    "explain ", format_number(sum(x$tables$variance$share_of_total), "percent"), " of the items' variance; chi-square ",
    decimals(fit$chi_square, 2), " on ", fit$df, " df, p ", p_words(fit$p.value), ", RMSEA ", coefficient_text(fit$rmsea), "."
  ) |> sub(pattern = "^1 factor (.*?) explain ", replacement = "1 factor \\1 explains ")
}

extraction_words <- function(extraction) c(ml = "maximum likelihood")[[extraction]]

# "= .022", "< .001"
p_words <- function(p) {
  if (is.na(p)) {
    return("not defined")
  }
  text <- format_number(p, "p")
  if (startsWith(text, "<")) sub("<", "< ", text) else paste("=", text)
}

# Loadings sorted by the factor an item belongs to.
#' @export
first_look.sw_exploration <- function(x) {
  pattern <- x$parts$pattern
  home <- max.col(abs(pattern), ties.method = "first")
  size <- abs(pattern[cbind(seq_len(nrow(pattern)), home)])
  x$tables$pattern[order(home, -size), ]
}

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
  judgement <- if (status != "ok" || f$df == 0) {
    ""
  } else if (length(missed) == 0) {
    "The structure fits by the usual bounds. "
  } else {
    paste0("The structure misses the bound of ", and_list(column_header(missed)), ". ")
  }
  paste0(start, judgement, "Chi-square ", decimals(f$chi_square, 2), " on ", f$df, " df, p ", p_words(f$p.value),
    if (f$df > 0) paste0("; CFI ", coefficient_text(f$cfi), ", RMSEA ", coefficient_text(f$rmsea), " [",
      coefficient_text(f$rmsea.low), ", ", coefficient_text(f$rmsea.high), "], SRMR ", coefficient_text(f$srmr)), ".")
}

#' @export
first_look.sw_confirmation <- function(x) {
  list(
    x$tables$fit[c("figure", "value", "df", "p.value", "conf.low", "conf.high", "bound", "verdict")],
    x$tables$loadings[c("factor", "item", "estimate", "std.error", "p.value", "standardised", "r_squared")]
  )
}

#' @export
headline.sw_scores <- function(x) {
  table <- x$tables$scales
  paste0(count_of(nrow(table), "score"), " for ", count_of(x$about$n, "case"), ": ", and_list(table$score, 12), ".")
}

#' @export
first_look.sw_scores <- function(x) {
  x$tables$scales[c("score", "items", "n", "without", "mean", "sd", "lowest", "highest", "alpha")]
}
