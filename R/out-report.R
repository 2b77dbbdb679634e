#' Write a report
#'
#' One self-contained HTML file with the answers first, then tables, figures,
#' notes and every decision on record, made with rmarkdown.
#'
#' @param x A result, or a named list of results (and a survey, whose log is then
#'   printed).
#' @param path Path of the file, ending in `.html`.
#' @param title Title of the report.
#' @param author Author; left out when empty.
#' @param digits Decimals of coefficients.
#' @param overwrite Replace an existing file?
#' @return The path, invisibly.
#' @section Errors: `scalewort_error_input` for anything but results;
#'   `scalewort_error_file` when the file is there already, or pandoc or
#'   rmarkdown is not.
#' @examples
#' if (requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available()) {
#'   survey <- sw_demo("plotholders")
#'   path <- tempfile(fileext = ".html")
#'   sw_report(list(screening = sw_screen(survey), reliability = sw_reliability(survey)), path)
#' }
#' @export
sw_report <- function(x, path, title = "From answers to scores", author = "", digits = 3, overwrite = FALSE) {
  if (inherits(x, c("sw_result", "sw_survey"))) x <- list(x)
  check_reportable(x)
  check_string(title, "title")
  check_number(digits, "digits", 1, 6, whole = TRUE)
  check_string(path, "path")
  if (tolower(tools::file_ext(path)) != "html") {
    stop_file(paste0("A report is an .html file; this is ", quoted(basename(path)), "."))
  }
  check_report_tools()
  write_safely(path, overwrite, function(draft) render_report(x, draft, title, author, digits))
}

check_reportable <- function(x) {
  fine <- is.list(x) && length(x) > 0 && all(vapply(x, inherits, TRUE, what = c("sw_result", "sw_survey")))
  if (!fine) {
    stop_input(paste0("A report is made of results of the verbs, one or a list of them; this is ", what_is(x), "."))
  }
}

check_report_tools <- function() {
  if (!requireNamespace("rmarkdown", quietly = TRUE) || !requireNamespace("knitr", quietly = TRUE)) {
    stop_file("A report needs the packages rmarkdown and knitr.", hint = "install.packages(\"rmarkdown\")")
  }
  if (!rmarkdown::pandoc_available("2.0")) {
    stop_file("A report needs pandoc 2.0 or later.", hint = "On Debian: apt-get install pandoc.")
  }
}

render_report <- function(x, path, title, author, digits) {
  folder <- tempfile("report-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  source <- report_file("report.Rmd")
  file.copy(source, folder)
  format <- rmarkdown::html_document(
    theme = NULL, highlight = NULL, mathjax = NULL, self_contained = TRUE, toc = TRUE, toc_depth = 2,
    css = report_file("report.css"), pandoc_args = c("--metadata", "lang=en")
  )
  rmarkdown::render(file.path(folder, "report.Rmd"),
    output_format = format, output_file = "report.html", output_dir = folder, quiet = TRUE,
    params = list(results = unname(x), title = title, author = author, digits = digits),
    envir = new.env(parent = asNamespace("scalewort"))
  )
  file.copy(file.path(folder, "report.html"), path, overwrite = TRUE)
}

report_file <- function(name) system.file("report", name, package = "scalewort", mustWork = TRUE)
