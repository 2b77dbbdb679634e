# Factor scores of the people behind an exploration or a confirmation.

exploration_scores <- function(x, method) factor_scores(x, survey_behind(x), method)

confirmation_scores <- function(x, method) {
  if (is.null(x$parts$weights)) stop_numeric(message_of("e_there_no_factor"))
  factor_scores(x, survey_behind(x), method)
}

# The survey's data (cases in use) with a column per factor, from what each person answered; NA for
# who answered nothing.
factor_scores <- function(x, survey, method) {
  check_choice(method, names(x$parts$weights), "method")
  if (is.null(x$parts$weights[[method]])) {
    stop_numeric(message_of("e_bartlett_scores_do"))
  }
  if (!has_answers(survey)) {
    stop_input(message_of("e_scores_need_single"), hint = message_of("e_give_survey"))
  }
  scores <- solution_scores(survey, x, score_solution(x), method)$score
  taken <- intersect(colnames(scores), source_names(survey))
  if (length(taken) > 0) stop_input(message_of("e_data_column_named", taken = taken), hint = message_of("e_give_factors_other"))
  plain_frame(cbind(source_columns(survey, source_names(survey)), scores))
}
