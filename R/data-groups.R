# Groups of people: what a column, or several crossed, says of everyone in use.

# The group of each case in use as text, NA where it is not known (an empty cell); "north, grown up" for two columns.
group_of <- function(survey, by, arg = "by") {
  if (!is.character(by) || length(by) == 0 || anyNA(by)) stop_input(paste0("`", arg, "` must name a column; this is ", shown(by), "."))
  check_names_known(by, source_names(survey), arg, "column")
  columns <- lapply(by, function(column) {
    text <- as.character(source_column(survey, column))
    text[!is.na(text) & trimws(text) == ""] <- NA
    text
  })
  unknown <- Reduce(`|`, lapply(columns, is.na))
  replace(do.call(paste, c(columns, sep = ", ")), unknown, NA)
}
