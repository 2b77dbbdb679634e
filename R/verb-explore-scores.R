# Factor scores of the people who were explored.

# The survey's data (cases in use) with a column per factor; NA for who missed an item.
exploration_scores <- function(x, method) {
  check_choice(method, names(x$parts$weights), "method")
  weights <- x$parts$weights[[method]]
  if (is.null(weights)) stop_numeric("Bartlett scores do not exist here: some item has no unique variance.")
  survey <- x$parts$source$x
  if (!inherits(survey, "sw_survey")) {
    stop_input("Scores need single answers, and this exploration comes from moments.", hint = "Explore the survey.")
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
