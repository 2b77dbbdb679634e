# How each column of a table is written: its header and the kind of number, from
# inst/tables/columns.csv. Kinds: text, count, coefficient (three decimals, no leading zero), value (two
# decimals), number (three decimals), p, percent, interval (as the figure that it belongs to), and code (for
# programs: not printed).

column_glossary <- function() shipped_table("columns")

column_header <- function(name) {
  name <- sub("^(share|mean)_(band)_", "\\2_", name)
  found <- match(name, column_glossary()$column)
  ifelse(is.na(found), gsub("_", " ", name), column_glossary()$header[found])
}

# A column's kind. Ends of intervals are written as the figure before them in their table is:
# `before`, the names of the columns to the left. Columns that the glossary does not know (factors,
# items, subscales by name) are whole numbers, or all alike over their table: coefficients where none
# of them exceeds one in size, which `small` says, else numbers.
column_kind <- function(name, values, before = character(), small = all_small(list(values))) {
  if (!is.numeric(values)) {
    return("text")
  }
  if (grepl("^(share|mean)_band_", name)) {
    return(if (startsWith(name, "share")) "percent" else "value")
  }
  found <- glossary_kind(name)
  if (identical(found, "interval")) {
    of <- glossary_kind(before)
    besides <- c("std.error", "statistic", "standardised", "standardised_error", "df")
    of <- of[of %in% c("coefficient", "number", "value", "percent") & !before %in% besides]
    return(if (length(of) > 0) utils::tail(of, 1) else if (small) "coefficient" else "number")
  }
  if (is.na(found) || found == "text") {
    seen <- values[is.finite(values)]
    found <- if (length(seen) > 0 && all(seen == round(seen)) && any(abs(seen) > 1)) "count" else if (small) "coefficient" else "number"
  }
  found
}

glossary_kind <- function(name) column_glossary()$kind[match(name, column_glossary()$column)]

all_small <- function(columns) all(abs(as.numeric(unlist(columns))) <= 1, na.rm = TRUE)

# The columns of a table that the glossary does not know.
unknown_columns <- function(table) table[vapply(table, is.numeric, TRUE) & is.na(glossary_kind(names(table)))]
