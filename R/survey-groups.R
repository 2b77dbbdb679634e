# Groups of people: what a column, or several crossed, says of everyone in use.

# The group of each case in use as text, NA where it is not known (an empty cell); "north, grown up" for two columns. Spellings that differ in
# case or blanks only are one group, called as most people have it.
group_of <- function(survey, by, arg = "by") {
  if (!is.character(by) || length(by) == 0 || anyNA(by)) stop_input(message_of("e_must_name_column", arg = arg, by = shown(by)))
  check_names_known(by, source_names(survey), arg, "column")
  columns <- lapply(by, function(column) {
    text <- as.character(source_column(survey, column))
    text[!is.na(text) & trimws(text) == ""] <- NA
    one_spelling(text)
  })
  unknown <- Reduce(`|`, lapply(columns, is.na))
  replace(do.call(paste, c(columns, sep = ", ")), unknown, NA)
}

# The groups among the cases in use: tibble(group, n), NA where it is not known, with each group's values in the columns as `of`, a data frame.
group_values <- function(survey, by, arg = "by") {
  if (!is.character(by) || length(by) == 0 || anyNA(by)) stop_input(message_of("e_must_name_column", arg = arg, by = shown(by)))
  check_names_known(by, source_names(survey), arg, "column")
  of <- source_distinct(survey, by)
  columns <- lapply(by, function(column) {
    text <- as.character(of[[column]])
    text[!is.na(text) & trimws(text) == ""] <- NA
    one_spelling(text, of$n)
  })
  unknown <- Reduce(`|`, lapply(columns, is.na))
  list(group = replace(do.call(paste, c(columns, sep = ", ")), unknown, NA), n = of$n, of = of[by])
}

# Groups in the order that the data or the codebook give: a factor's levels, labels, numbers by size, else by alphabet; crossed ones by the first
# column, then the next.
in_group_order <- function(survey, by, groups) {
  ranks <- lapply(by, function(column) {
    of <- as.character(source_distinct(survey, column)[[column]])
    of <- of[!is.na(of) & trimws(of) != ""]
    own <- column_order(survey, column, unique(of))
    match(same_spelling(own), unique(same_spelling(own))) |> stats::setNames(trimws(own))
  })
  crossed <- do.call(expand.grid, c(lapply(ranks, names), stringsAsFactors = FALSE))
  place <- do.call(order, unname(Map(function(rank, values) rank[values], ranks, crossed)))
  sorted <- do.call(paste, c(unname(as.list(crossed)), sep = ", "))[place]
  groups[order(match(groups, sorted))]
}

column_order <- function(survey, column, values) {
  given <- given_order(survey, column)
  if (!is.null(given)) {
    return(c(intersect(given, values), sort(setdiff(values, given), method = "radix")))
  }
  number <- suppressWarnings(as.numeric(values))
  values[if (anyNA(number)) order(values, method = "radix") else order(number)]
}

# The order that somebody gave a column: that of the waves, a factor's levels, or labels in the codebook; NULL for none.
given_order <- function(survey, column) {
  if (identical(column, survey$wave)) {
    return(survey$waves)
  }
  levels <- levels(source_values(survey, column))
  if (is.null(levels)) labelled_waves(survey$codebook, column) else levels
}

# The cases of some groups: by group_of(), or by the values that group_values() found.
take_groups <- function(survey, by, groups) {
  if (gives_people(survey)) {
    return(take_cases(survey, which(group_of(survey, by) %in% groups)))
  }
  found <- group_values(survey, by)
  mine <- found$of[found$group %in% groups, , drop = FALSE]
  for (column in by) survey <- source_take(survey, column, unique(as.character(mine[[column]])))
  survey
}

# What is said of groups whose spellings were joined; NULL where none was.
spelling_note <- function(survey, by) {
  said <- unlist(lapply(by, function(column) {
    values <- unique(as.character(source_distinct(survey, column)[[column]]))
    values <- values[!is.na(values) & trimws(values) != ""]
    groups <- Filter(function(own) length(own) > 1, split(values, same_spelling(values)))
    lapply(unname(groups), function(own) message_of("spellings_of_one", names = messages_of("in_quotes", name = own)))
  }), recursive = FALSE)
  if (length(said) > 0) note("joined_spellings", message_of("joined_spellings", groups = said))
}
