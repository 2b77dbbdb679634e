# A row of right answers among the rows of people: named as one in one of the first columns, it is the key and nobody's answers.

# list(data, key: by column, what stands in it, said); NULL for a table without one. Only where people are named does a row stand for none of
# them: in remarks somebody may write "correct".
leave_out_key_row <- function(data) {
  names_people <- function(column) is.character(column) && mean(duplicated(column)) < .05
  first <- Filter(names_people, data[seq_len(min(3, length(data)))])
  words <- shipped_table("column-words")
  words <- words$word[words$kind == "key"]
  rows <- unique(unlist(lapply(first, function(column) which(same_words(column) %in% words))))
  if (length(rows) != 1 || length(data) < 4) {
    return(NULL)
  }
  cells <- vapply(data, function(column) trimws(as.character(column[rows])), "")
  given <- !is.na(cells) & cells != ""
  known <- vapply(names(data), function(name) cells[[name]] %in% trimws(as.character(data[[name]][-rows])), TRUE)
  if (sum(given) < 4 || mean(known[given]) < .6) {
    return(NULL)
  }
  list(data = list2DF(lapply(data, `[`, -rows)), key = as.list(cells[given & known]), said = list(message_of("log_key_row", row = rows)))
}
