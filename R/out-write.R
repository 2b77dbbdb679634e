#' Write a result to a file
#'
#' The file's ending says the form: `.csv` or `.tsv` (one table, or the scored data), `.xlsx` (a sheet
#' a table), `.json` (all tables with what they are about), `.rds` (the object itself),
#' `.parquet` and `.sav` (one table, or the scored data; `.sav` with the codebook's labels), `.xml`
#' (DDI-Codebook 2.5 of the scored data), `.pdf` (the figure; option curves with a page per
#' item), `.yml` (a structure).
#'
#' @param x A result, a structure, moments, a codebook, a survey (its identifier and its answers, keyed and
#'   scored as they are analysed: test items as 0 and 1), or a data frame.
#' @param path Path of the file. Or a connection to a database (`DBI::dbConnect()`): the result's first table, of scores the identifier, the scores
#'   and their bands, is written there as the new table `table`, in one transaction. Scores that the database works out
#'   ([sw_table()]) are made by one statement there.
#' @param table Of a file: which table; by default all in XLSX and JSON, else the first. For scores the
#'   default is the data with the scores added.
#' @param schema Beside CSV or TSV, also a Frictionless table schema
#'   (`<name>.schema.json`): names, titles, types and bounds of the columns?
#' @param codes Keep the codes for missing answers in the scored data as they are? Else they are empty
#'   cells; SAV and DDI keep them, declared missing.
#' @param codebook For scores: also `<name>-codebook.csv`, a row for each column that scoring added: what it is (mean or sum, form), its items
#'   and their recipe with reversals, how many are needed, possible range, reliability and standard error.
#' @param overwrite Replace an existing file?
#' @return The path, invisibly. Cells that a spreadsheet would run as a formula
#'   are written with a leading apostrophe.
#' @section Errors: `scalewort_error_file` for an unknown ending, a missing
#'   folder, an existing file, or a package that the form needs; `scalewort_error_input` for a
#'   form that does not fit the result.
#' @examples
#' path <- tempfile(fileext = ".csv")
#' sw_write(sw_score(sw_demo("plotholders")), path, schema = TRUE)
#' head(read.csv(path))
#' @export
sw_write <- function(x, path, table = NULL, schema = FALSE, codes = FALSE, codebook = FALSE, overwrite = FALSE) {
  if (isS4(path) || is.list(path)) {
    return(write_to_database(x, path, table, check_flag(overwrite, "overwrite")))
  }
  check_string(path, "path")
  check_flag(schema, "schema")
  check_flag(codes, "codes")
  check_flag(codebook, "codebook")
  if (codebook && !inherits(x, "sw_scores")) stop_input(message_of("e_codebook_true_goes"))
  if (inherits(x, "sw_structure")) {
    return(write_structure(x, path, overwrite))
  }
  own <- codebook_of(x)
  if (inherits(x, "sw_moments")) x <- moments_result(x)
  if (has_answers(x)) x <- add_identifier(x, plain_frame(source_rows(x, analysed_items(x))))
  if (inherits(x, "sw_codebook")) x <- plain_frame(x$items)
  if (!inherits(x, "sw_result") && !is.data.frame(x)) {
    stop_input(message_of("e_x_must_result_codebook", x = what_is(x)))
  }
  form <- check_written_form(path)
  if (schema && !form %in% c("csv", "tsv")) stop_input(message_of("e_table_schema_stands"))
  write_safely(path, overwrite, function(draft) file_writers()[[form]](x, draft, table, own, codes))
  if (schema) write_table_schema(main_data(x, table, codes), paste0(tools::file_path_sans_ext(path), ".schema.json"), own, overwrite)
  if (codebook) sw_write(scores_codebook(x), paste0(tools::file_path_sans_ext(path), "-codebook.csv"), overwrite = overwrite)
  invisible(path)
}

check_written_form <- function(path) {
  form <- tolower(tools::file_ext(path))
  if (!form %in% names(file_writers())) {
    stop_file(message_of("e_ending_says_nothing", path = basename(path)), hint = message_of("e_use", value = paste0(".", names(file_writers()))))
  }
  form
}

# The codebook behind a survey or its scores; NULL elsewhere.
codebook_of <- function(x) {
  if (has_answers(x)) keyed_codebook(x$codebook) else if (inherits(x, "sw_scores")) x$parts$source$codebook
}

# Moments in the shape of results: correlations, covariances and what belongs to each item.
moments_result <- function(x) {
  new_result("sw_moments_tables", "title_moments", tables = moments_tables(x), notes = x$notes, n = x$n,
    n_left_out = x$n_left_out, missing = x$missing,
    options = list(correlation = x$correlation))
}

# The codebook of answers as keyed: labels of reversed items turned with their answers, and said.
keyed_codebook <- function(codebook) {
  items <- codebook$items
  items$turned <- is_turned(items)
  for (i in which(items$turned & !is.na(items$labels))) {
    labels <- parse_labels(items$labels[i])
    items$labels[i] <- labels_text(sort(turn_round(labels, items[i, ])))
  }
  items$labels[!is.na(items$answer)] <- NA
  items$missing <- NA_character_
  codebook$items <- items
  codebook
}

# A structure as YAML that `sw_structure()` reads again.
write_structure <- function(x, path, overwrite) {
  if (!tolower(tools::file_ext(path)) %in% c("yml", "yaml")) {
    stop_file(message_of("e_structure_written_yaml", path = basename(path)), hint = message_of("e_use_ending_yml"))
  }
  content <- Filter(length, list(
    factors = lapply(x$factors, as.list), pairs = lapply(x$pairs, as.list), unlinked = lapply(x$unlinked, as.list),
    higher = lapply(x$higher, as.list), fixed = lapply(x$fixed, function(f) Filter(Negate(is.null), f)),
    equal = lapply(x$equal, function(group) lapply(group, as.list)), bounds = lapply(x$bounds, function(b) Filter(Negate(is.null), b)),
    means = if (!is.null(x$means)) list(factors = as.list(x$means$factors), intercepts = x$means$intercepts, equal = lapply(x$means$equal, as.list))
  ))
  write_safely(path, overwrite, function(draft) writeLines(enc2utf8(yaml::as.yaml(content)), draft, useBytes = TRUE))
}

write_csv <- function(x, path, table, codebook, codes) write_delimited(x, path, table, codes, ",")
write_tsv <- function(x, path, table, codebook, codes) write_delimited(x, path, table, codes, "\t")

write_delimited <- function(x, path, table, codes, separator) {
  data.table::fwrite(disarmed(main_data(x, table, codes)), path, sep = separator, quote = "auto", na = "", dateTimeAs = "ISO")
}

write_json <- function(x, path, table, ...) {
  writeLines(result_json(x, table), path, useBytes = TRUE)
}

write_pages <- function(x, path, table, ...) {
  drawable <- c(
    "sw_screening", "sw_option_curves", "sw_dif", "sw_answering", "sw_reliability", "sw_retention", "sw_exploration", "sw_stability",
      "sw_confirmation", "sw_invariance", "sw_structure"
  )
  if (!inherits(x, drawable)) {
    stop_file(message_of("e_result_no_figure_write"))
  }
  pages <- if (inherits(x, "sw_option_curves")) item_pages(x) else list(autoplot(x))
  grDevices::cairo_pdf(path, width = 10.7, height = 6.7, onefile = TRUE)
  on.exit(grDevices::dev.off())
  for (page in pages) print(page)
}

# The one table a flat file holds. Without `codes`, codes for missing answers are empty in the scored
# data.
main_data <- function(x, table, codes = FALSE) {
  if (is.data.frame(x)) {
    return(x)
  }
  if (is.null(table) && inherits(x, "sw_scores")) {
    return(if (codes) augment(x) else without_codes(augment(x), x$parts$source$codebook))
  }
  result_table(x, table)
}

# Original columns of items with nothing where a code says so.
without_codes <- function(data, codebook) {
  specs <- codebook$items[codebook$items$role != "aside", ]
  for (name in intersect(specs$item, names(data))) {
    none <- stands_for_none(data[[name]], item_row(name, codebook))
    data[[name]][none] <- NA
  }
  data
}

result_json <- function(x, table = NULL) {
  content <- if (is.data.frame(x)) {
    x
  } else {
    about <- x$about
    about$title <- say(about$title, "en")
    about$time <- format(about$time, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")
    tables <- if (is.null(table)) x$tables else x$tables[check_choice(table, names(x$tables), "table")]
    list(about = about, notes = I(x$notes), tables = tables)
  }
  jsonlite::toJSON(content, dataframe = "rows", auto_unbox = TRUE, digits = NA, na = "null", null = "null", pretty = TRUE)
}
