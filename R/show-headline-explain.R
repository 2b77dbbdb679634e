# The answer of one person's scores, and what to look at first.

#' @export
headline.sw_explanation <- function(x) {
  w <- x$tables$working
  w <- w[!duplicated(sub("_.*$", "", w$score)), ]
  one <- function(score, value, working) {
    if (is.na(value)) message_of("no_score_since", score = score, working = working) else
      message_of("score_worked_out", score = score, value = value, working = working)
  }
  message_of("scores_worked_out", scores = unname(Map(one, w$score, w$value, w$working)))
}

#' @export
first_look.sw_explanation <- function(x) x$tables
