# The answer of scores, and what to look at first.

#' @export
headline.sw_scores <- function(x) {
  table <- x$tables$scales
  people <- x$parts$people
  paste0(count_of(nrow(table), "score"), " for ", if (is.null(people)) count_of(x$about$n, "case") else
    paste0(count_of(people$people, "person", "people"), " in ", x$about$n, " rows"), ": ", and_list(table$score, 12), ".",
    change_words(x$tables$rates))
}

#' @export
first_look.sw_scores <- function(x) {
  c(
    list(x$tables$scales[c("score", "items", "n", "without", "mean", "sd", "lowest", "highest", "reliability", "sem")]),
    x$tables[intersect(c(if (NROW(x$tables$correlations) <= 6) "correlations", "bands", "consistency"), names(x$tables))],
    if (!is.null(x$tables$rates)) list(x$tables$rates[c("score", "wave", "n", "change", "up", "down", "beyond", "by_error", "more")])
  )
}

# Are there more changes beyond error than error alone would give?
change_words <- function(rates) {
  if (is.null(rates) || all(rates$n == 0)) {
    return("")
  }
  more <- which(rates$more == "yes")
  if (length(more) == 0) {
    return(paste0(" From wave to wave ", sum(rates$beyond), " of ", sum(rates$n),
      " changes lie beyond error, no more than error alone may give (about ",
      round(sum(rates$by_error)), ")."))
  }
  first <- rates[more[which.min(rates$p.value[more])], ]
  paste0(" More changes lie beyond error than error alone gives in ", length(more), " of ", nrow(rates), ", first in ", first$score, ", wave ",
    first$wave,
    ": ", first$beyond, " of ", first$n, " (error alone: about ", round(first$by_error), ").")
}
