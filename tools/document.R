# Writes NAMESPACE and man/ from the roxygen comments, against the installed
# package (so that nothing is compiled twice).
Rcpp::compileAttributes(".")
roxygen2::roxygenise(".", load_code = "installed")
