# Groups of people: what a column, or several crossed, says of everyone in use.

# The group of each case in use as text, NA where it is not known (an empty cell); "north, grown up" for two columns. Spellings that differ in
# case or blanks only are one group, called as most people have it.
group_of <- function(survey, by, arg = "by") {
  if (!is.character(by) || length(by) == 0 || anyNA(by)) stop_input(paste0("`", arg, "` must name a column; this is ", shown(by), "."))
  check_names_known(by, source_names(survey), arg, "column")
  columns <- lapply(by, function(column) {
    text <- as.character(source_column(survey, column))
    text[!is.na(text) & trimws(text) == ""] <- NA
    one_spelling(text)
  })
  unknown <- Reduce(`|`, lapply(columns, is.na))
  replace(do.call(paste, c(columns, sep = ", ")), unknown, NA)
}

one_spelling <- function(text) {
  count <- sort(table(trimws(text)), decreasing = TRUE)
  names(count)[match(same_spelling(text), same_spelling(names(count)))]
}

# What is said of groups whose spellings were joined; NULL where none was.
spelling_note <- function(survey, by) {
  said <- unlist(lapply(by, function(column) {
    values <- unique(as.character(source_column(survey, column)))
    values <- values[!is.na(values) & trimws(values) != ""]
    groups <- Filter(function(own) length(own) > 1, split(values, same_spelling(values)))
    vapply(groups, function(own) and_list(quoted(own)), "", USE.NAMES = FALSE)
  }))
  if (length(said) > 0) note("joined_spellings", paste0("Counted as one group: ", paste(said, collapse = "; "), "."), rank = 2L)
}
