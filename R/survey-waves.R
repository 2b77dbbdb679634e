# Several rows of one person.

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

# list(survey: a row a person, items: its items, keyed, of the first wave first, waves, other_weights: how many have another weight later).
waves_beside <- function(survey, items, across, by) {
  by <- as.character(by)
  table <- survey$source$table
  if (is.null(survey$id)) stop_input(message_of("e_waves_need_know"), hint = message_of("e_name_column_sw_survey"))
  if (length(table$connections) > 1) {
    stop_input(message_of("e_waves_one_person"), hint = message_of("e_ask_one_server"))
  }
  waves <- survey_waves(survey, across)
  if (length(waves) < 2) stop_input(message_of("e_column_holds_one", across = across))
  survey <- in_statements(survey)
  connection <- table$connections[[1]]
  design <- as.character(setdiff(c(survey$weight, survey$cluster), by))
  names(design) <- paste0("d", seq_along(design), recycle0 = TRUE)
  rows <- person_rows_sql(survey, connection, items, across, waves, by, design)
  beside <- expand.grid(item = seq_along(items), wave = seq_along(waves))
  named <- utils::tail(make.unique(c(by, paste0("x", beside$item, "_", beside$wave)), sep = "_"), nrow(beside))
  groups <- paste0("g", seq_along(by), recycle0 = TRUE)
  in_wave <- function(column, wave) paste0("max(CASE WHEN wave = ", wave, " THEN ", column, " END)")
  # The design of each person's earliest wave.
  first <- vapply(names(design), function(column) paste0("coalesce(", paste(in_wave(column, seq_along(waves)), collapse = ", "), ")"), "")
  query <- paste0("SELECT ", paste(c(paste(in_wave(paste0("x", beside$item), beside$wave), "AS", named),
    paste0("min(", groups, ") AS ", quoted_names(connection, by), recycle0 = TRUE),
    paste(first, "AS", quoted_names(connection, design), recycle0 = TRUE)), collapse = ", "), " FROM ", rows, " WHERE wave > 0 GROUP BY person")
  in_one_state(table, {
    refuse_unclear_people(connection, rows, groups, by, least_people(survey$source))
    wide <- do.call(sw_table, c(list(connection, query), table[c("fetch", "smallest", "memory")]))
    asked <- list(group = if (length(by) > 0) by, weight = survey$weight, cluster = survey$cluster, find_codes = FALSE)
    own <- asked_survey(wide, beside_book(survey, items, named, length(waves)), asked, count_rows(wide))
    own$source$labels <- survey$source$labels
    weight <- names(design)[design %in% survey$weight]
    list(survey = own, items = named, waves = waves,
      other_weights = if (length(weight) > 0) people_having(connection, rows, "person", paste0("count(DISTINCT ", weight[1], ") > 1")))
  })
}
