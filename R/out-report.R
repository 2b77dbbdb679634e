#' Write a report
#'
#' The answers first, then tables, figures and notes of each analysis in the order of work, and an
#' appendix with every decision on record, the options, versions, and the references of the methods
#' used. As HTML: one file that asks for nothing from the network, reads well on a phone, in print and
#' by keyboard, light or dark. As DOCX: real Word tables with captions, styles from a
#' reference document. As Markdown: text, with figures in a folder beside it.
#'
#' @param x A result, or a named list of results (and a survey, whose log is then
#'   printed).
#' @param path Path of the file, ending in `.html`, `.docx` or `.md`; several paths make the same
#'   report in several forms.
#' @param title Title of the report.
#' @param author Author; left out when empty.
#' @param digits Decimals of coefficients.
#' @param language `"en"` or `"de"`: headings, tables, sentences, notes, figures and decimals; when not given that of
#'   `options(scalewort.language = )`, else English.
#' @param theme For HTML: `"auto"` (as the reader's screen is set), `"light"` or `"dark"`.
#' @param reference For DOCX: a document whose styles are taken in place of ours.
#' @param checklist Append what standards of reporting ask for, each element with where it stands or that it is missing?
#' @param plan Path of a plan file to print in the appendix.
#' @param overwrite Replace an existing file?
#' @return The path or paths, invisibly.
#' @section Errors: `scalewort_error_input` for anything but results, or an unknown language or theme;
#'   `scalewort_error_file` when the file is there already, or for DOCX without rmarkdown or pandoc.
#' @examples
#' survey <- sw_demo("plotholders")
#' path <- tempfile(fileext = ".html")
#' sw_report(list(screening = sw_screen(survey), reliability = sw_reliability(survey)), path)
#' @export
sw_report <- function(x, path, title = "From answers to scores", author = "", digits = 3, language = NULL, theme = "auto", reference = NULL,
                      plan = NULL, checklist = FALSE, overwrite = FALSE) {
  if (inherits(x, c("sw_result", "sw_survey"))) x <- list(x)
  check_reportable(x)
  check_string(title, "title")
  if (!identical(author, "")) check_string(author, "author")
  check_report_settings(list(language = language, theme = theme, reference = reference, digits = digits, checklist = checklist))
  if (!is.character(path) || length(path) == 0) stop_input(message_of("e_path_must_one", path = what_is(path)))
  for (one in path) check_report_form(one)
  for (one in path) check_place(one, overwrite)
  folder <- tempfile("figures-")
  on.exit(unlink(folder, recursive = TRUE))
  settings <- list(title = title, author = author, digits = digits, language = language, theme = theme, reference = reference, plan = plan,
    checklist = checklist)
  write_report(drawn_report(x, settings, folder), path, overwrite)
}

check_report_settings <- function(settings) {
  check_options("report", utils::modifyList(list(overwrite = FALSE), settings))
  if (!is.null(settings$reference)) check_there(settings$reference)
}

# The document of a report, its figures drawn into a folder.
drawn_report <- function(x, settings, folder) {
  usual <- list(title = "From answers to scores", author = "", digits = 3, language = reading_language(), theme = "auto")
  settings <- utils::modifyList(usual, Filter(Negate(is.null), settings))
  settings$words <- report_words(settings$language)
  if (identical(settings$title, usual$title)) settings$title <- settings$words$title
  in_language(settings$words$language, draw_document(report_document(x, settings), folder))
}

write_report <- function(document, paths, overwrite) {
  for (path in paths) {
    write_safely(path, overwrite, function(draft) {
      switch(tolower(tools::file_ext(path)),
        html = write_html_report(document, draft), md = write_markdown_report(document, draft, path), docx = write_docx_report(document, draft)
      )
    })
  }
  invisible(paths)
}

check_report_form <- function(path) {
  check_string(path, "path")
  form <- tolower(tools::file_ext(path))
  if (!form %in% c("html", "docx", "md")) {
    stop_file(message_of("e_report_html_docx", path = basename(path)))
  }
  if (form == "docx") check_pandoc()
}

check_reportable <- function(x) {
  fine <- is.list(x) && length(x) > 0 && all(vapply(x, inherits, TRUE, what = c("sw_result", "sw_survey")))
  if (!fine) {
    stop_input(message_of("e_report_made_results", x = what_is(x)))
  }
}

check_pandoc <- function() {
  if (!requireNamespace("rmarkdown", quietly = TRUE)) {
    stop_file(message_of("e_report_docx_needs"), hint = "install.packages(\"rmarkdown\"), or take .html.")
  }
  if (!rmarkdown::pandoc_available("2.0")) {
    stop_file(message_of("e_report_docx_needs_pandoc"), hint = message_of("e_on_debian_apt"))
  }
}

report_file <- function(name) system.file("report", name, package = "scalewort", mustWork = TRUE)
