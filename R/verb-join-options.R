#' Join options that hardly anybody chose
#'
#' Polychoric correlations and the ordinal estimators need people in every option. This joins rare options on record, by one rule: the rarest
#' option that fewer than `least` people chose is joined with its rarer neighbour, and both take the answer of the more frequent of the two; then the
#' same again, until no option is too rare or two options are left. Use the result for those analyses; score the survey as it was.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param least How many people an option needs.
#' @param items Items or subscales; all analysed ones by default. Test items are left alone.
#' @return The survey with answers joined; [sw_log()] says which, with how many people.
#' @section Errors: `scalewort_error_input` for another first argument or unknown items.
#' @examples
#' joined <- sw_join_options(sw_demo("plotholders"), least = 20)
#' sw_log(joined)
#' @export
sw_join_options <- function(survey, least = 5, items = NULL) {
  survey <- as_survey(survey)
  check_options("join_options")
  items <- setdiff(if (is.null(items)) analysed_items(survey) else pick_items(survey, items), test_items(survey))
  maps <- lapply(stats::setNames(items, items), function(item) {
    tally <- source_tally(survey, item)
    there <- tally$counts > 0
    core_joined_options(tally$values[there], tally$counts[there], least)
  })
  maps <- Filter(function(map) any(map$from != map$to), maps)
  if (length(maps) == 0) {
    return(log_step(survey, "joined", message_of("log_none_joined", least = least)))
  }
  said <- lapply(names(maps), function(item) {
    map <- maps[[item]]
    moved <- map$from != map$to
    message_of("options_of_item", item = item, moved = messages_of("counts_as", option = map$from[moved], people = map$counts[moved],
      as = map$to[moved]))
  })
  survey <- recoded_answers(survey, maps)
  log_step(survey, "joined", message_of("log_joined", least = least, items = said))
}
