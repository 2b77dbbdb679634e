# Tables that come with the package as CSV files in inst/tables: `limits` (the bounds that judge figures,
# with words, source, formula and range) and `columns` (how each column of a table is headed and its
# numbers written). Each is read once a session.

shipped_table <- local({
  kept <- list()
  function(name) {
    if (is.null(kept[[name]])) {
      path <- system.file("tables", paste0(name, ".csv"), package = "scalewort", mustWork = TRUE)
      kept[[name]] <<- tibble::as_tibble(utils::read.csv(path, fileEncoding = "UTF-8", na.strings = ""))
    }
    kept[[name]]
  }
})
