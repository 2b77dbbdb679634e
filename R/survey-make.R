#' Bring answers and codebook together
#'
#' Checks every answer against the codebook, turns missing codes into missing
#' answers, scores test items as right or wrong, and keeps the original columns
#' as they are. Nothing is reversed here twice: each verb takes the answers
#' keyed the codebook's way.
#'
#' @param data Data frame, a row per case; columns may be numbers or text. Or a table in a database, [sw_table()].
#' @param codebook A [sw_codebook()], or what that takes: a path or data frame.
#' @param id,group,wave Names of the columns that hold the case's identifier,
#'   its group (one or several) and the wave; `NULL` when there is none.
#' @param cluster Name of the column with the group that people were drawn in (school, firm, household): errors, intervals and tests of every
#'   verb that rests on moments then allow for people who are alike in it.
#' @param weight Name of the column with sampling weights, above zero (who has none or zero is set aside, on record): means, correlations,
#'   coefficients and what comes from them
#'   are then weighted, with errors that allow for it.
#' @param waves The waves in their order, such as `c("pre", "post")`. When `NULL`, the order is that
#'   of the labels in the codebook's row of the column (role `aside`), else of a factor's levels,
#'   else of dates, else of numbers, else of first appearance in the data, which is said.
#' @param wide Where waves stand side by side: how their columns are called, such as `"{item}_t{wave}"` for `mood1_t1`, `mood1_t2`. The answers
#'   are then put below each other, a row a person and wave, before anything else; the codebook's items are those without a wave
#'   (`mood1`). See [sw_waves()].
#' @param missing_codes Codes that mean "missing" in every item, besides the
#'   codebook's own.
#' @param find_codes Look for usual missing codes (such as -9 or 99) that lie
#'   far outside an item's range? What is found is written in [sw_log()].
#' @return A `sw_survey`: a list with `source` (where the answers are), `codebook`, `id`, `group`, `wave`, `kept`
#'   (which cases are in use) and `log`. `survey$data` gives the original columns, `survey$answers`
#'   a clean column per item.
#' @section Errors: `scalewort_error_input` lists every answer that is not a
#'   number or lies outside the codebook's range, every item without a column,
#'   every column that stands twice: row and column each.
#' @examples
#' answers <- data.frame(a = c(1, 5, 4, -9), b = c(2, 4, 5, 3))
#' codebook <- data.frame(item = c("a", "b"), scale = "s", lowest = 1, highest = 5)
#' sw_survey(answers, codebook)
#' @export
sw_survey <- function(data, codebook, id = NULL, group = NULL, wave = NULL,
                      missing_codes = NULL, find_codes = TRUE, waves = NULL, cluster = NULL, weight = NULL, wide = NULL) {
  if (inherits(data, "sw_table")) {
    return(table_survey(data, codebook, list(id = id, group = group, wave = wave, missing_codes = missing_codes, find_codes = find_codes,
      waves = waves, cluster = cluster, weight = weight, wide = wide)))
  }
  data <- check_data_frame(data)
  codebook <- sw_codebook(codebook)
  described <- describe_labelled(data, "the data")
  if (!is.null(wide)) described <- long_described(described, wide, id)
  if (!is.null(wide)) id <- described$id
  if (!is.null(wide) && is.null(wave)) wave <- described$wave
  data <- told_apart(described$data)
  codebook <- settle_foreign(codebook, described)$codebook
  check_flag(find_codes, "find_codes")
  codebook <- add_missing_codes(codebook, missing_codes)
  columns <- check_columns(names(described$data), codebook, list(id = id, group = group, wave = wave, cluster = cluster, weight = weight))
  data <- label_groups(data, codebook, group)
  specs <- codebook$items[codebook$items$role != "aside", ]
  read <- lapply(seq_len(nrow(specs)), function(i) {
    read_item(data[[specs$item[i]]], as.list(specs[i, ]), find_codes)
  })
  names(read) <- specs$item
  stop_for_answers(read)
  skipped <- sum(unlist(lapply(read, `[[`, "skipped")))
  log <- new_log(c("data", "read"), list(message_of("log_data_frame"), message_of("log_taken_in", cases = nrow(data), items = nrow(specs),
    skipped = if (skipped > 0) message_of("skipped_count_as_wrong", skipped = skipped))), c(survey_code(id, group, wave, waves, missing_codes,
      find_codes, cluster, weight, wide), NA))
  absent <- absent_from_test(data, codebook)
  answers <- lapply(read, `[[`, "values")
  for (item in absent$items) answers[[item]][absent$people] <- NA
  survey <- structure(list(
    source = new_memory_source(data, answers), codebook = codebook, id = columns$id, group = columns$group, wave = columns$wave,
    cluster = columns$cluster, weight = columns$weight, kept = NULL, size = nrow(data), log = log
  ), class = "sw_survey")
  if (!is.null(wide)) {
    survey$unmatched <- described$unmatched
    survey <- log_step(survey, "waves", described$waves_said[[1]])
  }
  survey |>
    log_text_numbers(data) |>
    log_found_codes(read) |>
    log_absent(absent) |>
    settle_ranges() |>
    settle_waves(waves) |>
    settle_design() |>
    check_identifiers()
}

# Waves side by side, put below each other; without an identifier rows are people.
long_described <- function(described, wide, id) {
  described$data <- told_apart(described$data)
  if (is.null(id)) {
    id <- utils::tail(make.unique(c(names(described$data), "person"), sep = "_"), 1)
    described$data[[id]] <- seq_len(nrow(described$data))
  }
  out <- stacked_table(list(data = described$data, foreign = described$foreign, said = NULL), check_wide(wide), id)
  out$waves_said <- out$said
  out$said <- c(described$said, out$said)
  out$id <- id
  out
}

# The line that repeats bringing in a data frame.
survey_code <- function(id, group, wave, waves, missing_codes, find_codes, cluster, weight, wide) {
  args <- Filter(Negate(is.null), list(id = id, group = group, wave = wave, waves = waves, missing_codes = missing_codes, cluster = cluster,
    weight = weight, wide = wide))
  if (!find_codes) args$find_codes <- FALSE
  words <- vapply(names(args), function(name) paste(name, "=", paste(deparse(args[[name]]), collapse = "")), "")
  paste0("survey <- sw_survey(", paste(c("data", "codebook", words), collapse = ", "), ")")
}

# Every item has one column, and so have id, group and wave. Returns them.
check_columns <- function(columns, codebook, roles) {
  specs <- codebook$items
  wanted <- specs$item[specs$role != "aside"]
  absent <- setdiff(wanted, columns)
  named <- unlist(roles)
  lost <- setdiff(named, columns)
  both <- intersect(named, wanted)
  twice <- intersect(unique(columns[duplicated(columns)]), c(wanted, named))
  faults <- c(
    messages_of("fault_item_without_column", item = absent, near = vapply(absent, did_you_mean, "", known = setdiff(columns, wanted))),
    messages_of("fault_not_in_data", column = lost, near = vapply(lost, did_you_mean, "", known = columns)),
    messages_of("fault_column_twice_in_data", column = twice), messages_of("fault_item_names_cases", column = both)
  )
  if (length(faults) > 0) {
    wrong_book <- length(absent) == length(wanted)
    stop_input(message_of("e_data_codebook_do"), faults = faults, hint = if (wrong_book) wrong_book_hint(columns))
  }
  roles
}

wrong_book_hint <- function(columns) {
  wide <- find_wide(columns)
  if (is.null(wide)) message_of("e_no_item_in_data") else message_of("e_waves_seem_beside", wide = wide)
}

# One error for all faulty cells, by row and column.
stop_for_answers <- function(read) {
  faults <- do.call(rbind, Map(function(item, name) {
    if (nrow(item$faults) == 0) NULL else cbind(item = name, item$faults)
  }, read, names(read)))
  if (is.null(faults)) {
    return(invisible())
  }
  faults <- faults[order(faults$row, match(faults$item, names(read))), ]
  stop_input(message_of("e_not_fit_codebook_two", faults = nrow(faults), faults_said = if (nrow(faults) == 1) message_of("e_does") else
    message_of("e_do"), faults_too = summed_faults(faults)), faults = fault_rows(faults$problem, "answers", faults$row, faults$item, faults$field),
      hint = message_of("e_correct_file_codebook"), cells = plain_frame(faults[c("item", "row", "problem")]))
}

# "; 2 kinds: "sometimes" is neither a number nor a label, 254 times in a1 to a9; ...": what is wrong, before where.
summed_faults <- function(faults) {
  kinds <- split(faults$item, factor(faults$problem, unique(faults$problem)))
  kinds <- kinds[order(-lengths(kinds))]
  if (nrow(faults) < 3 || length(kinds) > nrow(faults) / 2) {
    return(".")
  }
  first <- utils::head(kinds, 6)
  said <- messages_of("kind_of_fault", problem = names(first), times = lengths(first), items = lapply(unname(first), unique))
  worded("kinds_of_faults", kinds = said, more = if (length(kinds) > 6) message_of("more_kinds", count = length(kinds) - 6))
}

# Columns of text whose cells turned out to be numbers.
log_text_numbers <- function(survey, data) {
  specs <- survey$codebook$items
  items <- specs$item[specs$role != "aside" & is.na(specs$answer) & is.na(specs$labels)]
  text <- items[vapply(items, function(i) is.character(data[[i]]) || is.factor(data[[i]]), TRUE)]
  if (length(text) == 0) {
    return(survey)
  }
  log_step(survey, "text read as numbers", message_of("log_text_numbers", columns = text))
}

# Who left a whole test blank, where the codebook says nothing of blanks, did not take it: list(items, people).
absent_from_test <- function(data, codebook) {
  silent <- silent_items(codebook)
  if (length(silent) == 0) {
    return(list(items = character(), people = logical()))
  }
  list(items = silent, people = Reduce(`&`, lapply(keyed_items(codebook), function(item) plain_text(data[[item]]) == "")))
}

log_absent <- function(survey, absent) {
  if (!any(absent$people)) {
    return(survey)
  }
  log_step(survey, "blank tests", message_of("log_blank_tests", people = sum(absent$people)))
}

# Codes found are missing codes from here on: in the codebook of this survey, and on record.
log_found_codes <- function(survey, read) {
  found <- lapply(read, `[[`, "found")
  codes <- sort(unique(unlist(found)))
  for (code in codes) {
    items <- names(found)[vapply(found, function(x) code %in% x, TRUE)]
    at <- match(items, survey$codebook$items$item)
    old <- survey$codebook$items$missing[at]
    survey$codebook$items$missing[at] <- trimws(paste(ifelse(is.na(old), "", old), format_answer(code)))
    survey <- log_step(survey, "missing code found", message_of("log_code_found", value = format_answer(code), items = items))
  }
  survey
}

# Items without lowest and highest take the range seen; said in the log.
settle_ranges <- function(survey) {
  specs <- survey$codebook$items
  open <- which(is.na(specs$lowest) & specs$role != "aside")
  for (i in open) {
    if (is.na(specs$answer[i])) {
      range <- suppressWarnings(range(seen_answers(survey, specs$item[i])))
      if (all(is.finite(range))) specs[i, c("lowest", "highest")] <- as.list(as.numeric(range))
    } else {
      specs[i, c("lowest", "highest")] <- list(0, 1)
    }
  }
  guessed <- open[is.na(specs$answer[open])]
  survey$codebook$items <- specs
  if (length(guessed) == 0) {
    return(survey)
  }
  log_step(survey, "range guessed", message_of("log_range_guessed", items = specs$item[guessed]))
}

# The answers that occur, among the cases in use.
seen_answers <- function(survey, item) {
  tally <- source_tally(survey, item)
  c(tally$values[tally$counts > 0], tally$hidden)
}

check_identifiers <- function(survey) {
  if (is.null(survey$id)) {
    return(survey)
  }
  twice <- source_repeats(survey, c(survey$id, survey$wave))
  if (twice$rows == 0) {
    return(survey)
  }
  log_step(survey, "identifier repeated", message_of("log_identifier_repeated", rows = twice$rows,
    first = if (!is.na(twice$first)) message_of("first_in_row", row = twice$first)))
}
