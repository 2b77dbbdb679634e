# Factor scores of the people behind an exploration or a confirmation.

exploration_scores <- function(x, method) factor_scores(x, survey_behind(x), method)

confirmation_scores <- function(x, method) {
  if (is.null(x$parts$weights)) stop_numeric("There are no factor scores of an improper solution.")
  factor_scores(x, survey_behind(x), method)
}

# The survey's data (cases in use) with a column per factor, from what each person answered; NA for
# who answered nothing.
factor_scores <- function(x, survey, method) {
  check_choice(method, names(x$parts$weights), "method")
  if (is.null(x$parts$weights[[method]])) {
    stop_numeric("Bartlett scores do not exist here: some item has no unique variance, or factors cannot be told apart.")
  }
  if (!has_answers(survey)) {
    stop_input("Scores need single answers, and this result comes from moments.", hint = "Give the survey.")
  }
  scores <- solution_scores(survey, x, score_solution(x), method)$score
  taken <- intersect(colnames(scores), source_names(survey))
  if (length(taken) > 0) stop_input(paste0("The data have a column named ", and_list(quoted(taken)), " already."),
    hint = "Give the factors other `names`.")
  plain_frame(cbind(source_columns(survey, source_names(survey)), scores))
}
