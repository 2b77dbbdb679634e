# What a test may need and a machine may lack: programs, servers, R packages. What is not there is skipped, with its name, in one way. Two words in
# the environment change that: SCALEWORT_CHECKS=required forbids it, SCALEWORT_HIDE (names, by comma) takes parts for missing.

part_checks <- list(
  chromium = function() any(nzchar(Sys.which(c("chromium", "chromium-browser", "google-chrome")))),
  postgresql = function() length(Sys.glob("/usr/lib/postgresql/*/bin/initdb")) > 0 || nzchar(Sys.which("initdb")),
  pandoc = function() requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available("2.0"),
  libreoffice = function() nzchar(Sys.which("soffice")),
  `a JSON Schema validator` = function() !is.null(python_with("jsonschema")), openpyxl = function() !is.null(python_with("openpyxl")),
  python = function() !is.null(python_with("json")),
  `python's docx` = function() !is.null(python_with("docx")),
  doctest = function() file.exists("/usr/include/doctest/doctest.h"),
  `a terminal` = function() nzchar(Sys.which("script")),
  sources = function() file.exists(testthat::test_path("..", "..", "src", "core", "types.h"))
)

has_part <- function(name) {
  if (name %in% strsplit(Sys.getenv("SCALEWORT_HIDE"), ",", fixed = TRUE)[[1]]) {
    return(FALSE)
  }
  if (is.null(part_checks[[name]])) requireNamespace(name, quietly = TRUE) else part_checks[[name]]()
}

skip_without <- function(...) {
  for (name in c(...)) {
    if (has_part(name)) next
    if (identical(Sys.getenv("SCALEWORT_CHECKS"), "required")) stop(name, " is not there, and may not be skipped")
    testthat::skip(paste(name, "is not there"))
  }
}

# Any Python that has the module; NULL for none.
python_with <- function(module) {
  pythons <- unique(c("/usr/bin/python3", Sys.which("python3")))
  asked <- paste0("'import ", module, "'")
  for (python in pythons[file.exists(pythons)]) {
    if (system2(python, c("-c", asked), stdout = FALSE, stderr = FALSE) == 0) {
      return(python)
    }
  }
}
