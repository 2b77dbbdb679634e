# Writes NAMESPACE and man/ from the roxygen comments, against the installed
# package (so that nothing is compiled twice).
Rcpp::compileAttributes(".")
roxygen2::roxygenise(".", load_code = "installed")

# What is generated from the package's own tables: the glossary of figures, the manual page, the schema of plans.
library(scalewort)
glossary <- getFromNamespace("figure_glossary", "scalewort")()
writeLines(c(
  "# Figures and their bounds", "", "Made by `make docs` from the table that judges (`sw_limits()`).", "",
  getFromNamespace("markdown_lines", "scalewort")(glossary, 3)
), "docs/figures.md")
dir.create("inst/manual", showWarnings = FALSE)
writeLines(getFromNamespace("man_lines", "scalewort")(), "inst/manual/scalewort.1")
writeLines(getFromNamespace("schema_text", "scalewort")(), "inst/schema/plan.json", useBytes = TRUE)
