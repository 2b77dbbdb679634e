# Several rows of one person.

# The waves in a column in their order, and how it was found: `wanted` (given by the user or the
# codebook), a factor's levels, dates, numbers (also behind one word, as in "t2"), else the order
# of first appearance. list(order: text, how).
wave_order <- function(column, wanted = NULL) {
  text <- as.character(column)
  known <- unique(text[!is.na(text)])
  if (!is.null(wanted)) {
    return(list(order = c(intersect(wanted, known), setdiff(known, wanted)), how = "given"))
  }
  if (is.factor(column)) {
    return(list(order = intersect(levels(column), known), how = "levels"))
  }
  if (length(known) < 2) {
    return(list(order = known, how = "one"))
  }
  for (how in c("dates", "numbers")) {
    value <- switch(how, dates = dates_of(column, known), numbers = numbers_of(known))
    if (!anyNA(value)) return(list(order = known[order(value)], how = how))
  }
  list(order = known, how = "appearance")
}

dates_of <- function(column, known) {
  if (inherits(column, c("Date", "POSIXct"))) {
    return(as.numeric(column)[match(known, as.character(column))])
  }
  for (form in c("%Y-%m-%d", "%Y/%m/%d", "%d.%m.%Y")) {
    value <- as.numeric(as.Date(known, format = form))
    if (!anyNA(value)) return(value)
  }
  rep(NA_real_, length(known))
}

# Numbers, or numbers behind one and the same word.
numbers_of <- function(known) {
  word <- sub("[0-9.]+$", "", known)
  plain <- suppressWarnings(as.numeric(known))
  if (!anyNA(plain) || length(unique(word)) > 1) plain else suppressWarnings(as.numeric(substring(known, nchar(word) + 1)))
}

# The waves of a survey's cases in use, in order; of another column where one is named.
survey_waves <- function(survey, column = survey$wave) {
  if (identical(column, survey$wave)) {
    own <- survey$waves
  } else {
    own <- wave_order(source_values(survey, column), labelled_waves(survey$codebook, column))$order
  }
  intersect(own, as.character(source_distinct(survey, column)[[column]]))
}

# The wave of each case in use, as text.
wave_of <- function(survey, column = survey$wave) {
  check_string(column, "across")
  check_names_known(column, source_names(survey), "across", "column")
  as.character(source_column(survey, column))
}

# A wave column that the codebook lists with labels (role aside) has its waves in their order.
labelled_waves <- function(codebook, column) {
  labels <- sort(parse_labels(codebook$items$labels[match(column, codebook$items$item)]))
  if (length(labels) == 0) NULL else as.vector(rbind(format_answer(labels), names(labels)))
}

# Settles the order of the waves, once; on record where it had to be guessed.
settle_waves <- function(survey, wanted) {
  if (is.null(survey$wave)) {
    if (!is.null(wanted)) stop_input(message_of("e_waves_orders_waves"), hint = message_of("e_name_wave"))
    return(survey)
  }
  column <- source_values(survey, survey$wave)
  if (!is.null(wanted)) check_names_known(as.character(wanted), unique(as.character(column)), "waves", "wave")
  found <- wave_order(column, if (is.null(wanted)) labelled_waves(survey$codebook, survey$wave) else as.character(wanted))
  survey$waves <- found$order
  survey$waves_how <- found$how
  if (found$how == "appearance") log_step(survey, "order of waves guessed", message_of("log_waves_guessed",
    order = messages_of("in_quotes", name = found$order))) else survey
}


# That the order of the waves was guessed, for a result that rests on it.
waves_note <- function(survey, column = survey$wave) {
  own <- identical(column, survey$wave)
  found <- if (own) list(order = survey$waves, how = survey$waves_how) else
    wave_order(source_values(survey, column), labelled_waves(survey$codebook, column))
  if (identical(found$how, "appearance")) note("waves_guessed", message_of("waves_guessed", order = messages_of("in_quotes", name = found$order)),
    found$order, rank = 1L)
}

# The cases of the first wave, where a survey has waves.
first_wave <- function(survey) {
  if (is.null(survey$wave)) {
    return(survey)
  }
  source_take(survey, survey$wave, utils::head(survey_waves(survey), 1))
}

# How many people stand behind the cases in use, and how many of them in several rows; NULL where nobody
# does, or no identifier says.
repeated_people <- function(survey) {
  if (is.null(survey$id)) {
    return(NULL)
  }
  person <- source_people(survey)
  if (person$several > 0) person
}

# That some people stand in several rows, for a result that takes rows as independent.
repeated_note <- function(x) {
  found <- if (has_answers(x)) repeated_people(x)
  if (is.null(found)) {
    return(NULL)
  }
  note("repeated_people", message_of(if (is.null(x$wave)) "repeated_perhaps_waves" else "repeated_people", several = found$several,
    people = found$people, rows = source_count(x)$used), people = found$people, rank = 1L)
}
