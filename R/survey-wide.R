# Waves that stand side by side, a column for each item and wave, and waves below each other, a row for each person and wave.

#' Waves side by side, or below each other
#'
#' Every verb takes waves below each other: a row a person and wave, a column that says which wave. Many files have them side by side
#' (`mood1_t1`, `mood1_t2`), or in a file for each wave. `sw_waves()` turns one into the other. Waves are ordered by number where
#' they are numbers, as `pre`, `post` and `followup` where they are called so, else as they first appear.
#'
#' @param x A survey, a data frame, or a list of data frames, one a wave, whose names are the waves.
#' @param suffix What stands behind an item's name in the columns of a wave, such as `"_t{wave}"`.
#' @param prefix What stands before it, such as `"t{wave}_"`.
#' @param to `"long"` (below each other) or `"wide"` (side by side).
#' @param id Name of the column that identifies people; the survey's own when `NULL`. Without one, rows are people where waves stand side
#'   by side.
#' @param wave Name of the column of waves, in data frames whose waves stand below each other.
#' @return What was given, a survey or a data frame; of a list, a data frame. Whoever is not in every wave stands in `unmatched`
#'   (of a survey) or the attribute `unmatched` (of a data frame): a tibble with `person` and `absent` (waves without any answer).
#'   The log of a survey says how many.
#' @section Errors: `scalewort_error_input` when no column or only one wave fits the pattern, when someone stands twice in a wave, or when
#'   an item is keyed or numbered one way in one wave and another way in another.
#' @examples
#' beside <- data.frame(
#'   code = 1:4, a_t1 = c(1, 2, 3, 3), b_t1 = c(2, 2, 3, 1),
#'   a_t2 = c(2, 2, 3, NA), b_t2 = c(3, 2, 2, NA)
#' )
#' below <- sw_waves(beside, suffix = "_t{wave}", id = "code")
#' below
#' attr(below, "unmatched")
#' sw_waves(below, suffix = "_t{wave}", to = "wide", id = "code", wave = "wave")
#' @export
sw_waves <- function(x, suffix = NULL, prefix = NULL, to = "long", id = NULL, wave = NULL) {
  check_choice(to, c("long", "wide"), "to")
  if (is.list(x) && !is.data.frame(x) && !inherits(x, "sw_survey")) {
    return(bound_waves(x, id))
  }
  if (is.null(suffix) && is.null(prefix)) suffix <- if (to == "wide") "_t{wave}"
  if (is.null(suffix) && is.null(prefix)) {
    stop_input(message_of("e_suffix_prefix_needed"), hint = message_of("e_such_suffix_t"))
  }
  pattern <- paste0(prefix, "{item}", suffix)
  check_wide(pattern, "suffix")
  if (inherits(x, "sw_survey")) {
    return(if (to == "long") long_survey(x, pattern, id) else wide_survey(x, pattern, id))
  }
  data <- check_data_frame(x)
  if (to == "long") {
    table <- stacked_table(list(data = data, foreign = list(), said = NULL), pattern, id)
    return(structure(tibble::as_tibble(table$data), unmatched = table$unmatched))
  }
  if (is.null(id) || is.null(wave)) stop_input(message_of("e_id_wave_needed"))
  check_names_known(c(id, wave), names(data), "id", "column")
  wide <- wide_frame(data, id, wave, character(), wave_order(data[[wave]])$order, pattern)
  structure(tibble::as_tibble(wide$data), unmatched = wide$unmatched)
}

# A frame with waves below each other as one with waves side by side: list(data, unmatched, moved: columns that differ between waves).
wide_frame <- function(data, id, wave, items, waves, pattern) {
  person <- as.character(data[[id]])
  twice <- duplicated(data.frame(person, as.character(data[[wave]]))) & !is.na(data[[wave]])
  if (any(twice) || anyNA(person)) {
    stop_input(message_of("e_people_cannot_told"), faults = utils::head(c(if (anyNA(person))
      messages_of("row_no_identifier", row = which(is.na(person))), if (any(twice)) messages_of("row_twice_in_wave", row = which(twice),
      person = person[twice], wave = as.character(data[[wave]][twice]))), 20))
  }
  people <- unique(person)
  fixed <- function(name) {
    value <- data[[name]]
    all(tapply(seq_along(person), person, function(at) length(unique(value[at])) == 1))
  }
  others <- setdiff(names(data), c(id, wave, items))
  stays <- others[vapply(others, fixed, TRUE)]
  moved <- c(setdiff(others, stays), items)
  first <- match(people, person)
  name_of <- function(items, w) {
    vapply(items, function(item) sub("{wave}", w, sub("{item}", item, pattern, fixed = TRUE), fixed = TRUE), "", USE.NAMES = FALSE)
  }
  out <- c(as.list(data[c(id, stays)]) |> lapply(function(x) x[first]), unlist(lapply(waves, function(w) {
    at <- match(paste(people, w), paste(person, data[[wave]]))
    stats::setNames(lapply(moved, function(name) data[[name]][at]), name_of(moved, w))
  }), recursive = FALSE))
  absent <- vapply(people, function(p) paste(setdiff(waves, data[[wave]][person == p]), collapse = " "), "", USE.NAMES = FALSE)
  list(data = list2DF(out), unmatched = plain_table(person = people[absent != ""], absent = absent[absent != ""]), moved = moved,
    name_of = name_of)
}

# A frame for each wave, below each other.
bound_waves <- function(frames, id) {
  good <- length(frames) > 1 && !is.null(names(frames)) && all(nzchar(names(frames))) && all(vapply(frames, is.data.frame, TRUE))
  if (!good || anyDuplicated(names(frames))) {
    stop_input(message_of("e_x_must_survey_data"), hint = message_of("e_such_sw_waves"))
  }
  if (is.null(id)) stop_input(message_of("e_id_needed_column"))
  for (wave in names(frames)) check_names_known(id, names(frames[[wave]]), "id", "column")
  every <- unique(unlist(lapply(frames, names)))
  name <- utils::tail(make.unique(c(every, "wave"), sep = "_"), 1)
  columns <- bound_columns(frames, every)
  columns[[name]] <- rep(names(frames), vapply(frames, nrow, 1L))
  data <- list2DF(columns)
  # Refuses whoever stands twice in a wave.
  found <- wide_frame(data, id, name, setdiff(every, id), names(frames), "{item}_{wave}")
  structure(tibble::as_tibble(data), unmatched = found$unmatched)
}

# The survey with waves below each other; its codebook has one row for an item of all waves.
long_survey <- function(survey, pattern, id) {
  id <- if (is.null(id)) survey$id else id
  book <- survey$codebook$items
  columns <- wide_columns(book$item, pattern)
  fields <- c("direction", "lowest", "highest", "answer", "labels")
  for (item in unique(columns$item)) {
    own <- book[match(columns$column[columns$item == item], book$item), fields]
    if (nrow(unique(own)) > 1) stop_input(message_of("e_codebook_says_one", item = item), faults = fields[vapply(own,
      function(x) length(unique(x)) > 1, TRUE)])
  }
  everyone <- source_everyone(survey)
  table <- stacked_table(list(data = everyone, foreign = list(), said = NULL), pattern, id)
  first <- match(columns$column[!duplicated(columns$item)], book$item)
  rows <- book[c(first, setdiff(seq_len(nrow(book)), match(columns$column, book$item))), ]
  rows$item[seq_along(first)] <- unique(columns$item)
  rows$scale[seq_along(first)] <- sub_scale(rows$scale[seq_along(first)], pattern)
  rebuilt_survey(survey, table$data, rows, id, table$wave, table, paste0("survey <- sw_waves(survey, ", pattern_code(pattern), ")"))
}

# Subscales that were called by their wave lose it.
sub_scale <- function(scale, pattern) {
  known <- wide_columns(unique(scale[!is.na(scale)]), pattern)
  at <- match(scale, known$column)
  ifelse(is.na(at), scale, known$item[at])
}

wide_survey <- function(survey, pattern, id) {
  id <- if (is.null(id)) survey$id else id
  if (is.null(id) || is.null(survey$wave)) stop_input(message_of("e_waves_side_side_need"))
  book <- survey$codebook$items
  items <- intersect(book$item[book$role != "aside"], source_names(survey))
  everyone <- source_everyone(survey)
  wide <- wide_frame(everyone, id, survey$wave, items, survey$waves, pattern)
  rows <- do.call(rbind, lapply(survey$waves, function(w) {
    own <- book[match(items, book$item), ]
    own$item <- wide$name_of(own$item, w)
    own$scale <- ifelse(is.na(own$scale), NA, wide$name_of(own$scale, w))
    own
  }))
  rest <- book[book$role == "aside" & book$item %in% names(wide$data), ]
  said <- message_of("log_waves_beside", pattern = pattern, matched = nrow(wide$data) - nrow(wide$unmatched), people = nrow(wide$data))
  survey$group <- intersect(survey$group, names(wide$data))
  rebuilt_survey(survey, wide$data, rbind(rows, rest), id, NULL, list(said = said, unmatched = wide$unmatched), paste0("survey <- sw_waves(survey, ",
    pattern_code(pattern), ", to = \"wide\")"))
}

pattern_code <- function(pattern) {
  around <- strsplit(pattern, "{item}", fixed = TRUE)[[1]]
  parts <- c(prefix = around[1], suffix = if (length(around) > 1) around[2])
  parts <- parts[nzchar(parts)]
  paste0(names(parts), " = \"", parts, "\"", collapse = ", ")
}

# The survey again, on other data and rows of the codebook; those not in use stay so by their identifier where there is one.
rebuilt_survey <- function(survey, data, rows, id, wave, table, code) {
  book <- new_codebook(rows, survey$codebook$source)
  keep <- function(column) if (length(column) > 0 && all(column %in% names(data))) column
  out <- sw_survey(data, book, id = keep(id), group = keep(survey$group), wave = wave, cluster = keep(survey$cluster), weight = keep(survey$weight),
    find_codes = FALSE)
  out$log <- survey$log
  out$unmatched <- table$unmatched
  if (source_count(survey)$aside > 0) {
    if (is.null(keep(id))) stop_input(message_of("e_cases_set_aside"), hint = message_of("e_name_their_column_id"))
    used <- source_columns(survey, id)[[1]]
    out <- keep_cases(out, as.character(data[[id]]) %in% as.character(used))
  }
  log_step(out, "waves", if (is.list(table$said) && !inherits(table$said, "sw_message")) table$said[[length(table$said)]] else table$said, code)
}
