# The answer of rival structures, and what to look at first.

#' @export
headline.sw_comparison <- function(x) {
  found <- x$parts$decision
  models <- x$tables$models
  bic <- if (anyNA(models$bic[models$model %in% c(found$best, found$rival)])) "" else paste0(" (BIC ",
    decimals(models$bic[models$model == found$best], 1), " against ", decimals(models$bic[models$model == found$rival], 1), ")")
  answer <- switch(found$code,
    better = paste0(quoted(found$best), " describes the answers better than ", quoted(found$rival), bic, "."),
    open = paste0("The answers do not decide between ", quoted(found$best), " and ", quoted(found$rival), ": ",
      if (nzchar(bic)) paste0("BIC leans to ", quoted(found$best), bic, ", the test does not follow.") else "the test does not tell them apart."),
    paste0("No comparison can be made: ", if (is.na(found$best[1])) "no structure" else paste("only", and_list(quoted(found$best))),
      " may be believed.")
  )
  paste0(answer, if (found$misfit) " None of them fits: the better one is not yet a good one.")
}

#' @export
first_look.sw_comparison <- function(x) {
  shown <- c("model", "chi_square", "df", "p.value", "cfi", "rmsea", "srmr", if (!anyNA(x$tables$models$bic)) c("bic", "bic_weight"))
  c(list(x$tables$models[shown], x$tables$tests), if (!is.null(x$tables$vuong)) list(x$tables$vuong))
}
