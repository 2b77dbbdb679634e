# The answer of rival structures, and what to look at first.

#' @export
headline.sw_comparison <- function(x) {
  found <- x$parts$decision
  models <- x$tables$models
  bic <- models$bic[match(c(found$best, found$rival), models$model)]
  by <- if (!anyNA(bic)) list(bic_best = bic[1], bic_rival = bic[2])
  of_two <- function(code, with_bic) {
    do.call(message_of, c(list(if (is.null(by)) code else with_bic, best = found$best, rival = found$rival), by))
  }
  list(
    switch(found$code, better = of_two("rivals_better", "rivals_better_bic"), open = of_two("rivals_open", "rivals_open_bic"),
      no_test = of_two("rivals_no_test", "rivals_no_test_bic"),
      if (is.na(found$best[1])) message_of("rivals_none") else message_of("rivals_only_one", best = found$best)),
    if (found$misfit) message_of("rivals_misfit")
  )
}

#' @export
first_look.sw_comparison <- function(x) {
  shown <- c("model", "chi_square", "df", "p.value", "cfi", "rmsea", "srmr", if (!anyNA(x$tables$models$bic)) c("bic", "bic_weight"))
  c(list(x$tables$models[shown], x$tables$tests), if (!is.null(x$tables$vuong)) list(x$tables$vuong))
}
