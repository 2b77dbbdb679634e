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

# Tables with the same columns, one under another, as a plain data frame: much quicker than rbind().
stacked <- function(tables) {
  tables <- Filter(Negate(is.null), tables)
  rows <- sum(vapply(tables, function(table) length(table[[1]]), 0L))
  if (rows == 0) {
    return(if (length(tables) > 0) tables[[1]])
  }
  names <- names(tables[[1]])
  list2DF(stats::setNames(lapply(names, function(name) unlist(lapply(tables, `[[`, name), use.names = FALSE)), names), rows)
}

# Columns, recycled, as a plain data frame: much quicker to make than a tibble, into which results turn it.
plain_table <- function(...) {
  columns <- lapply(list(...), unname)
  size <- if (any(lengths(columns) == 0)) 0L else max(lengths(columns))
  list2DF(lapply(columns, rep_len, length.out = size), size)
}
