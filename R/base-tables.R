# Tables that come with the package as CSV files in inst/tables: `limits` (the bounds that judge figures,
# with words, source, formula and range) and `columns` (how each column of a table is headed and its
# numbers written). Each is read once a session.

shipped_table <- local({
  kept <- list()
  function(name) {
    if (is.null(kept[[name]])) {
      path <- system.file("tables", paste0(name, ".csv"), package = "scalewort", mustWork = TRUE)
      kept[[name]] <<- plain_frame(utils::read.csv(path, fileEncoding = "UTF-8", na.strings = ""))
    }
    kept[[name]]
  }
})

# A table, or columns, as a plain data frame without row names. What users get is made a tibble where it leaves the package
# (tidy(), glance(), `survey$data`), so that nothing else waits for that package.
plain_frame <- function(x) {
  if (is.list(x) && !is.data.frame(x)) {
    return(do.call(plain_table, x))
  }
  if (!is.list(x) || inherits(x, "data.table")) x <- as.data.frame(x)
  frame_of(x, .row_names_info(x, 2L), inherits(x, "judged_frame"))
}

# A list of columns of one length as a data frame without row names, unchecked: results are made of dozens.
frame_of <- function(columns, size, judged = FALSE) {
  class(columns) <- c(if (judged) "judged_frame", "data.frame")
  attr(columns, "row.names") <- .set_row_names(size)
  columns
}

# Rows of a table, by number or as TRUE and FALSE, in that order; judged as it is. As `[` does, without row names to make unique.
rows_of <- function(table, at) {
  if (is.logical(at)) at <- which(at)
  size <- length(at)
  out <- frame_of(lapply(table, `[`, at), size, inherits(table, "judged_frame"))
  for (name in c("judged", "limits")) attr(out, name) <- attr(table, name)
  out
}

# Tables with the same columns, one under another, as a plain data frame: much quicker than rbind().
stacked <- function(tables) {
  tables <- Filter(Negate(is.null), tables)
  rows <- sum(vapply(tables, function(table) length(table[[1]]), 0L))
  if (rows == 0) {
    return(if (length(tables) > 0) tables[[1]])
  }
  names <- names(tables[[1]])
  frame_of(stats::setNames(lapply(names, function(name) unlist(lapply(tables, function(table) table[[name]]), use.names = FALSE)), names), rows)
}

# Columns, recycled, as a plain data frame: much quicker to make than a tibble, into which results turn it.
plain_table <- function(...) {
  columns <- list(...)
  columns <- columns[!vapply(columns, is.null, TRUE)]
  sizes <- lengths(columns)
  size <- if (length(sizes) == 0 || any(sizes == 0)) 0L else max(sizes)
  columns[sizes != size] <- lapply(columns[sizes != size], rep_len, length.out = size)
  frame_of(lapply(columns, function(column) if (is.null(names(column))) column else unname(column)), size)
}
