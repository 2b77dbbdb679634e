# Factor scores of the people behind an exploration or a confirmation.

exploration_scores <- function(x, method) {
  check_choice(method, names(x$parts$weights), "method")
  factor_scores(x$parts$weights, x$parts$source$x, method)
}

confirmation_scores <- function(x, method) {
  if (is.null(x$parts$weights)) stop_numeric("There are no factor scores of an improper solution.")
  check_choice(method, names(x$parts$weights), "method")
  factor_scores(x$parts$weights, x$parts$source, method)
}

# The survey's data (cases in use) with a column per factor; NA for who missed an item.
factor_scores <- function(weights, survey, method) {
  weights <- weights[[method]]
  if (is.null(weights)) stop_numeric("Bartlett scores do not exist here: some item has no unique variance, or factors cannot be told apart.")
  if (!inherits(survey, "sw_survey")) {
    stop_input("Scores need single answers, and this result comes from moments.", hint = "Give the survey.")
  }
  answers <- keyed_answers(survey, rownames(weights))
  complete <- answers[stats::complete.cases(answers), , drop = FALSE]
  z <- sweep(sweep(answers, 2, colMeans(complete)), 2, apply(complete, 2, stats::sd), "/")
  scores <- z %*% weights
  taken <- intersect(colnames(scores), names(survey$data))
  if (length(taken) > 0) stop_input(paste0("The data have a column named ", and_list(quoted(taken)), " already."),
    hint = "Give the factors other `names`.")
  tibble::as_tibble(cbind(survey$data[survey$kept, , drop = FALSE], scores))
}
