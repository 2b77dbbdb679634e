# A codebook of the columns that scoring adds, to travel with the file of scores.

# A row a column: what it is, of which items and how, its possible range, how sure it is.
scores_codebook <- function(x) {
  about <- x$parts$found$about
  columns <- names(x$parts$found$columns)
  base <- sub("_(low|high|gap)$", "", columns)
  at <- match(ifelse(columns %in% about$score, columns, base), about$score)
  part <- ifelse(columns %in% about$score, "", sub("^.*_", "", columns))
  of <- about[at, ]
  kind <- paste0(of$method, ifelse(is.na(of$form), "", paste0(", ", of$form)))
  meaning <- c(low = "lower end of the interval of measurement of ", high = "upper end of the interval of measurement of ",
    gap = "standard deviation of what unanswered items leave open of ")
  possible <- part == "" & is.na(of$form)
  plain_table(
    column = columns, label = ifelse(part == "", paste0(of$scale, " (", kind, ")"), paste0(meaning[part], of$score)), scale = of$scale,
    method = of$method, form = ifelse(is.na(of$form), "", of$form),
    items = vapply(x$parts$found$columns, function(column) paste(attr(column, "made_of"), collapse = " "), "", USE.NAMES = FALSE),
    recipe = ifelse(part == "", of$recipe, ""), items_needed = of$needed, lowest = ifelse(possible, of$least, NA_real_),
    highest = ifelse(possible, of$most, NA_real_), reliability = of$reliability, sem = ifelse(part == "", of$sem, NA_real_)
  )
}
