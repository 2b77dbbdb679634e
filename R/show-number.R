# Numbers as a journal prints them.

# digits: decimals of coefficients; descriptives get one fewer.
format_number <- function(x, kind, digits = 3) {
  out <- switch(kind,
    count = format_whole(x),
    value = decimals(x, digits - 1),
    number = decimals(x, digits),
    coefficient = drop_zero(decimals(x, digits)),
    p = ifelse(!is.na(x) & x < 10^-digits, paste0("<", drop_zero(decimals(10^-digits, digits))), drop_zero(decimals(x, digits))),
    percent = paste0(decimals(100 * x, 0), "%")
  )
  out[is.na(x)] <- ""
  out
}

# No "-0.000".
decimals <- function(x, digits) {
  text <- formatC(x, format = "f", digits = max(digits, 0))
  sub("^-(0([.,]0*)?)$", "\\1", text)
}

drop_zero <- function(text) sub("^(-?)0\\.", "\\1.", text)

format_whole <- function(x) {
  whole <- is.na(x) | x == round(x)
  ifelse(whole, formatC(x, format = "d", big.mark = ""), decimals(x, 2))
}

# A table without the columns of codes that are there for programs; words beside them say the same.
readable <- function(table) table[!column_glossary()$kind[match(names(table), column_glossary()$column)] %in% "code"]

# A table's columns as text, by the glossary; `whole` is the table with the codes that verdicts are worded by, `said` the words of verdicts.
format_columns <- function(table, digits = 3, said = NULL, whole = table) {
  small <- all_small(unknown_columns(table))
  lapply(stats::setNames(names(table), names(table)), function(name) {
    column <- table[[name]]
    if (is.logical(column)) column <- ifelse(is.na(column), "", ifelse(column, "yes", "no"))
    kind <- column_kind(name, column, names(table)[seq_len(match(name, names(table)) - 1)], small)
    if (is_judged(table, name)) {
      verdict_column(whole, name, said)
    } else if (name == "figure") {
      column_header(column)
    } else if (kind == "text") {
      ifelse(is.na(column), "", as.character(column))
    } else {
      format_number(as.numeric(column), kind, digits)
    }
  })
}
