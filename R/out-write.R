#' Write a result to a file
#'
#' The file's ending says the form: `.csv` or `.tsv` (one table, or the scored data), `.xlsx` (a sheet
#' a table), `.json` (all tables with what they are about), `.rds` (the object itself),
#' `.parquet` and `.sav` (one table, or the scored data; `.sav` with the codebook's labels), `.xml`
#' (DDI-Codebook 2.5 of the scored data), `.pdf` (the figure; option curves with a page per
#' item), `.yml` (a structure).
#'
#' @param x A result, a structure, a codebook, a survey (its identifier and its answers, keyed and
#'   scored as they are analysed: test items as 0 and 1), or a data frame.
#' @param path Path of the file.
#' @param table Which table; by default all in XLSX and JSON, else the first. For scores the
#'   default is the data with the scores added.
#' @param schema Beside CSV or TSV, also a Frictionless table schema
#'   (`<name>.schema.json`): names, titles, types and bounds of the columns?
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
sw_write <- function(x, path, table = NULL, schema = FALSE, overwrite = FALSE) {
  check_string(path, "path")
  check_flag(schema, "schema")
  if (inherits(x, "sw_structure")) {
    return(write_structure(x, path, overwrite))
  }
  codebook <- codebook_of(x)
  if (inherits(x, "sw_survey")) x <- add_identifier(x, tibble::as_tibble(keyed_answers(x, analysed_items(x))))
  if (inherits(x, "sw_codebook")) x <- tibble::as_tibble(x$items)
  if (!inherits(x, "sw_result") && !is.data.frame(x)) {
    stop_input(paste0("`x` must be a result, a codebook or a data frame; this is ", what_is(x), "."))
  }
  form <- tolower(tools::file_ext(path))
  if (!form %in% names(file_writers())) {
    stop_file(paste0("The ending of ", quoted(basename(path)), " says nothing of its form."),
      hint = paste0("Use ", and_list(paste0(".", names(file_writers())), 12), "."))
  }
  if (schema && !form %in% c("csv", "tsv")) stop_input("A table schema stands beside CSV or TSV only.")
  write_safely(path, overwrite, function(draft) file_writers()[[form]](x, draft, table, codebook))
  if (schema) write_table_schema(main_data(x, table), paste0(tools::file_path_sans_ext(path), ".schema.json"), codebook, overwrite)
  invisible(path)
}

# The codebook behind a survey or its scores; NULL elsewhere.
codebook_of <- function(x) {
  if (inherits(x, "sw_survey")) x$codebook else if (inherits(x, "sw_scores")) x$parts$survey$codebook
}

# A structure as YAML that `sw_structure()` reads again.
write_structure <- function(x, path, overwrite) {
  if (!tolower(tools::file_ext(path)) %in% c("yml", "yaml")) {
    stop_file(paste0("A structure is written as YAML; ", quoted(basename(path)), " is not."), hint = "Use the ending .yml.")
  }
  content <- Filter(length, list(
    factors = lapply(x$factors, as.list), pairs = lapply(x$pairs, as.list), unlinked = lapply(x$unlinked, as.list),
    higher = lapply(x$higher, as.list), fixed = lapply(x$fixed, function(f) Filter(Negate(is.null), f)),
    equal = lapply(x$equal, function(group) lapply(group, as.list)), bounds = lapply(x$bounds, function(b) Filter(Negate(is.null), b)),
    means = if (!is.null(x$means)) list(factors = as.list(x$means$factors), intercepts = x$means$intercepts, equal = lapply(x$means$equal, as.list))
  ))
  write_safely(path, overwrite, function(draft) writeLines(yaml::as.yaml(content), draft))
}

write_csv <- function(x, path, table, ...) write_delimited(x, path, table, ",")
write_tsv <- function(x, path, table, ...) write_delimited(x, path, table, "\t")

write_delimited <- function(x, path, table, separator) {
  data.table::fwrite(lapply(main_data(x, table), disarm), path, sep = separator, quote = "auto", na = "", dateTimeAs = "ISO")
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
    stop_file("This result has no figure to write to PDF.")
  }
  pages <- if (inherits(x, "sw_option_curves")) item_pages(x) else list(autoplot(x))
  grDevices::cairo_pdf(path, width = 10.7, height = 6.7, onefile = TRUE)
  on.exit(grDevices::dev.off())
  for (page in pages) print(page)
}

# The one table a flat file holds.
main_data <- function(x, table) {
  if (is.data.frame(x)) {
    return(x)
  }
  if (is.null(table) && inherits(x, "sw_scores")) {
    return(augment(x))
  }
  result_table(x, table)
}

result_json <- function(x, table = NULL) {
  content <- if (is.data.frame(x)) {
    x
  } else {
    about <- x$about
    about$time <- format(about$time, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")
    tables <- if (is.null(table)) x$tables else x$tables[check_choice(table, names(x$tables), "table")]
    list(about = about, notes = I(x$notes), tables = tables)
  }
  jsonlite::toJSON(content, dataframe = "rows", auto_unbox = TRUE, digits = NA, na = "null", null = "null", pretty = TRUE)
}
