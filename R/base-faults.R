# What is wrong and where, as a table: nobody who shows a fault has to search its words for the place.

# of: "codebook", "answers" or "plan"; row: of that table, counted from the first; item: the column of answers; field: of the codebook, or the plan's
# key; line: of a file. NA where a place is not known.
fault_rows <- function(text, of, row = NA, item = NA, field = NA, line = NA) {
  n <- length(text)
  plain_table(text = text, of = rep(of, n), row = rep_len(as.integer(row), n), item = rep_len(as.character(item), n),
    field = rep_len(as.character(field), n), line = rep_len(as.integer(line), n))
}

# "row 3: ...", "row 12, calm1: ...", "line 4: ...". Words alone stay what they are.
fault_words <- function(faults) {
  if (!is.data.frame(faults)) {
    return(faults)
  }
  at <- ifelse(!is.na(faults$line), sprintf(worded("at_line", line = "%s"), faults$line), ifelse(!is.na(faults$row), sprintf(worded("at_row",
    row = "%s"), faults$row), NA))
  at <- ifelse(faults$of == "answers" & !is.na(faults$item), ifelse(is.na(at), faults$item, paste0(at, ", ", faults$item)), at)
  paste0(ifelse(is.na(at), "", paste0(at, ": ")), faults$text, recycle0 = TRUE)
}
