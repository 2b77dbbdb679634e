# The answer of scores, and what to look at first.

#' @export
headline.sw_scores <- function(x) {
  table <- x$tables$scales
  people <- x$parts$people
  paste0(count_of(nrow(table), "score"), " for ", if (is.null(people)) count_of(x$about$n, "case") else
    paste0(count_of(people$people, "person", "people"), " in ", x$about$n, " rows"), ": ", and_list(table$score, 12), ".",
    change_words(x$tables$change))
}

#' @export
first_look.sw_scores <- function(x) {
  c(
    list(x$tables$scales[c("score", "items", "n", "without", "mean", "sd", "lowest", "highest", "reliability", "sem")]),
    x$tables[intersect(c(if (NROW(x$tables$correlations) <= 6) "correlations", "bands", "consistency"), names(x$tables))],
    if (!is.null(x$tables$change)) list(change_counts(x$tables$change))
  )
}

# How many went up, down or stayed within error.
change_counts <- function(change) {
  of <- function(rows, verdict) sum(rows$verdict %in% verdict)
  do.call(rbind, lapply(split(change, factor(paste(change$score, change$wave), unique(paste(change$score, change$wave)))), function(rows) {
    plain_table(score = rows$score[1], wave = rows$wave[1], n = sum(!is.na(rows$change)), change = mean(rows$change, na.rm = TRUE),
      up = of(rows, "up"), within_error = of(rows, "within error"), down = of(rows, "down"))
  }))
}

change_words <- function(change) {
  if (is.null(change)) {
    return("")
  }
  beyond <- mean(change$verdict[!is.na(change$verdict)] != "within error")
  paste0(" From wave to wave ", round(100 * beyond), "% of changes are beyond a score's error.")
}
