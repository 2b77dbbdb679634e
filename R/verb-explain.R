#' One person's scores worked out step by step
#'
#' From the answers as given to each score: what was turned, what was not answered, what was added
#' and divided.
#'
#' @param scores A result of [sw_score()] from the answers themselves (no factor scores).
#' @param id The person's identifier, or row number where the survey has none; with several waves
#'   the first row of the person, or the one of `wave`.
#' @param wave The wave.
#' @return A `sw_explanation` with the tables `working` (each score in numbers) and `answers` (each
#'   item: answer, what it counts as, why).
#' @section Errors: `scalewort_error_input` for an identifier that is not there, or factor scores.
#' @examples
#' scores <- sw_score(sw_demo("plotholders"), form = "t")
#' sw_explain(scores, sw_demo("plotholders")$data$id[3])
#' @export
sw_explain <- function(scores, id, wave = NULL) {
  check_class(scores, "sw_scores", "scores", "`sw_score()`")
  check_options("explain")
  found <- scores$parts$found
  if (length(found$scales) == 0) stop_input(message_of("e_factor_scores_weighted"))
  survey <- survey_behind(scores)
  row <- explained_row(survey, id, wave)
  place <- match(row, case_rows(survey))
  keyed <- source_rows(survey)[place, ]
  raw <- source_rows(survey, keyed = FALSE)[place, ]
  items <- survey$codebook$items
  found$about <- found$about[found$about$method %in% raw_methods, ]
  base <- found$about[found$about$score == found$about$base & !duplicated(found$about$scale), ]
  answers <- do.call(rbind, lapply(base$scale, function(scale) {
    own <- found$scales[[scale]]
    spec <- items[match(own, items$item), ]
    plain_table(scale = scale, item = own, answer = unname(raw[own]), counts_as = unname(keyed[own]), how = counted_words(spec, unname(raw[own]),
      unname(keyed[own])))
  }))
  working <- do.call(rbind, lapply(seq_len(nrow(found$about)), function(i) working_row(found, i, keyed, place, items)))
  new_result("sw_explanation", message_of("title_explanation", id = id),
    tables = list(working = working, answers = answers), notes = other_rows_note(survey, id, row), n = 1,
    missing = missing_message(scores), options = list(id = as.character(id), row = row)
  )
}

explained_row <- function(survey, id, wave) {
  if (length(id) != 1 || is.na(id)) stop_input(message_of("e_id_must_one"))
  if (is.null(survey$id)) {
    row <- suppressWarnings(as.integer(id))
    if (is.na(row) || !row %in% case_rows(survey)) stop_input(message_of("e_there_no_case", id = id))
    return(row)
  }
  known <- rows_of_person(survey, id)
  if (!is.null(wave) && !is.null(survey$wave)) known <- intersect(known, case_rows(survey)[wave_of(survey) %in% as.character(wave)])
  if (length(known) == 0) {
    stop_input(message_of("e_there_no_case_identifier", id = as.character(id)), hint = did_you_mean(as.character(id), case_names(survey)))
  }
  known[1]
}

rows_of_person <- function(survey, id) case_rows(survey)[case_names(survey) %in% as.character(id)]

# That the person stands in other rows, too.
other_rows_note <- function(survey, id, row) {
  if (is.null(survey$id)) {
    return(NULL)
  }
  others <- setdiff(rows_of_person(survey, id), row)
  if (length(others) > 0) note("other_rows", message_of(if (is.null(survey$wave)) "other_rows_waves" else "other_rows", id = as.character(id),
    rows = length(others) + 1, row = row, others = others), rows = others)
}

counted_words <- function(spec, raw, keyed) {
  ifelse(is.na(keyed), "not answered",
    ifelse(!is.na(spec$answer), ifelse(keyed == 1, "right", "not right"),
      ifelse(is_turned(spec), paste0("reversed: ", turn_sum(spec), " - ", format_plain(raw)), "as answered")))
}

# Each score with the sum, in numbers, that it comes from.
working_row <- function(found, i, keyed, place, items) {
  about <- found$about[i, ]
  own <- found$scales[[about$scale]]
  specs <- items[match(own, items$item), ]
  answered <- sum(!is.na(keyed[own]))
  # Items of different ranges are filled first.
  x <- if (answered > 0) filled_answers(matrix(keyed[own], 1, dimnames = list(NULL, own)), specs)[1, ] else keyed[own]
  seen <- x[!is.na(x)]
  value <- as.vector(found$columns[[about$score]])[place]
  sum <- paste0("(", paste(format_plain(seen), collapse = " + "), ")")
  steps <- if (about$score != about$base) {
    about$recipe
  } else if (is.na(value)) {
    paste0("no score: ", answered, " answered, ", about$needed, " needed")
  } else {
    weights <- found$weights[own][!is.na(x)]
    switch(about$method,
      mean = paste(sum, "/", length(seen)),
      right = , sum = if (length(seen) == length(own)) paste(format_plain(seen), collapse = " + ") else
        paste(length(own), "x", sum, "/", length(seen)),
      share = paste0("100 x (", sum, " / ", length(seen), " - ", format_plain(mean_end(specs, "lowest")), ") / ",
        format_plain(mean_end(specs, "highest") - mean_end(specs, "lowest"))),
      weighted = paste0("(", paste(paste0(format_plain(weights), " x ", format_plain(seen)), collapse = " + "), ") / ", format_plain(sum(weights)))
    )
  }
  plain_table(score = about$score, answered = answered, needed = about$needed, value = value, working = steps)
}
