# How surveys, codebooks, moments, structures and limits print.

print_lines <- function(x) {
  show_lines(format(x))
  invisible(x)
}

#' @export
print.sw_survey <- function(x, ...) {
  refuse_more(...)
  print_lines(x)
}
#' @export
print.sw_codebook <- function(x, ...) {
  refuse_more(...)
  print_lines(x)
}
#' @export
print.sw_moments <- function(x, ...) {
  refuse_more(...)
  print_lines(x)
}
#' @export
print.sw_structure <- function(x, ...) {
  refuse_more(...)
  print_lines(x)
}
#' @export
print.sw_table <- function(x, ...) {
  refuse_more(...)
  print_lines(x)
}
#' @export
print.sw_limits <- function(x, ...) {
  refuse_more(...)
  print_lines(x)
}

#' @export
format.sw_survey <- function(x, ...) {
  refuse_more(...)
  items <- analysed_items(x)
  count <- source_count(x, items)
  missing <- sum(count$missing, na.rm = TRUE)
  cells <- length(items) * count$used
  aside <- count$aside
  tests <- intersect(items, test_items(x))
  people <- repeated_people(x)
  several <- if (!is.null(people)) c(wrap_note(paste0(people$people, " people in ", count$used, " rows",
    if (is.null(x$wave)) ": if these are waves, name their column in `wave`." else ".")), "")
  skipped <- sum(vapply(tests, unanswered_count, 0, survey = x)) - sum(count$missing[tests], na.rm = TRUE)
  c(
    strwrap(paste0(
      "Answers of ", count_of(count$used, "case"), " to ", count_of(length(items), "item"), "; ",
      if (anyNA(count$missing)) "at least ", format_number(missing / cells, "percent"), " missing",
      if (skipped > 0) paste0("; ", count_of(skipped, "skipped answer counts as wrong", "skipped answers count as wrong")),
      if (aside > 0) paste0("; ", count_of(aside, "case"), " not in use"), "."
    ), output_width() - 1), "",
    format_table(scale_overview(x$codebook)), "", several,
    if (NROW(x$unmatched) > 0) c(wrap_note(paste0(count_of(nrow(x$unmatched), "person is", "people are"), " not in every wave: `x$unmatched`.")), ""),
    if (any(x$codebook$items$direction == "reversed")) "A minus marks items keyed reversed.",
    if (inherits(x$source, "table_source")) strwrap(paste0("The answers stay in ", named_table(x$source$table), "."), output_width() - 1),
    paste0("Last step: ", utils::tail(x$log$action, 1), ". All steps: sw_log(x).")
  )
}

#' @export
format.sw_codebook <- function(x, ...) {
  refuse_more(...)
  items <- x$items
  used <- sum(items$role != "aside")
  c(
    paste0("A codebook of ", count_of(used, "item"), if (used < nrow(items)) paste(" and", count_of(nrow(items) - used, "other column")), ", ",
      sum(items$direction == "reversed"), " keyed reversed."), "",
    if (nrow(scale_overview(x)) > 0) c(format_table(scale_overview(x)), ""), found_lines(x$found), guess_lines(items, x$found),
    "All fields: as.data.frame(x)."
  )
}

# What a draft found besides items, and what to look at first.
found_lines <- function(found) {
  doubts <- found$doubts
  previews <- found$previews
  lines <- c(
    if (length(doubts) > 0) c(if (length(doubts) == 1) "To be checked first:" else "To be checked first, the most doubtful guesses:",
      unlist(lapply(seq_along(doubts), function(i) strwrap(paste0(i, ". ", doubts[i]), output_width() - 1, indent = 2, exdent = 5))), "")
  )
  note <- c(
    if (!is.null(found$wide)) paste0("Waves stand side by side, called ", found$wide, "; they are read below each other."),
    if (NROW(found$totals) > 0) paste0("Left aside: ", and_list(paste0(found$totals$column, ", the ", found$totals$what, " of ", found$totals$of)),
      "."),
    if (length(found$ticked) > 0) paste0("Left aside, boxes of which several could be ticked: ", and_list(found$ticked), "."),
    if (length(found$stems) > 0) paste0("Asked in common, and left out of the wordings: ", and_list(paste0(quoted(names(found$stems)), " (",
      vapply(found$stems, function(columns) paste0(columns[1], " to ", columns[length(columns)]), ""), ")")), "."),
    if (NROW(previews) > 0) paste0(if (nrow(previews) == 1) "Row " else "Rows ", and_list(previews$row, 12), if (nrow(previews) == 1) " looks" else
      " look", " like tests or previews (", and_list(unique(previews$why), 3), "): set them aside before anything else.")
  )
  c(lines, if (length(note) > 0) c(wrap_note(note), ""))
}

# What was guessed, field by field.
guess_lines <- function(items, found = NULL) {
  fields <- unique(unlist(strsplit(items$guessed[!is.na(items$guessed)], " ")))
  if (length(fields) == 0) {
    return(NULL)
  }
  count <- vapply(fields, function(f) sum(grepl(paste0("\\b", f, "\\b"), items$guessed)), 1L)
  test <- items$item[!is.na(items$options) & is.na(items$answer)]
  unplaced <- items$item[items$role == "aside" & startsWith(items$labels, "?") %in% TRUE]
  aside <- setdiff(items$item[items$role == "aside" & !is.na(items$guessed)], c(test, unplaced, found$totals$column))
  turned <- items$item[items$direction == "reversed" & grepl("direction", items$guessed)]
  note <- c(
    paste0("Guessed, to be checked: ", paste0(fields, " (", count, ")", collapse = ", "), "."),
    if (length(turned) > 0) paste0("Guessed reversed: ", and_list(turned, 20), "."),
    if (length(test) > 0) paste0("Test items that need their right answer in `answer`, then role scored: ", and_list(test, 6), "."),
    if (length(unplaced) > 0) paste0("Answers in words whose order is not known: number them in `labels` in place of each ?, then role scored: ",
      and_list(unplaced, 6), "."),
    if (length(aside) > 0) paste0("Taken for no items: ", and_list(aside, 20), ".")
  )
  c(wrap_note(note), "")
}

# A row a subscale: its items, reversed ones marked with a minus.
scale_overview <- function(codebook) {
  items <- codebook$items[codebook$items$role != "aside", ]
  scale <- ifelse(is.na(items$scale), "(none)", items$scale)
  mark <- paste0(ifelse(items$direction == "reversed", "-", ""), items$item, ifelse(items$role == "tryout", "?", ""))
  by <- split(mark, factor(scale, unique(scale)))
  plain_table(
    scale = names(by), items = unname(lengths(by)),
    names = vapply(by, function(names) shorten(names, 48), "", USE.NAMES = FALSE)
  )
}

# As many names as fit, then how many more.
shorten <- function(names, width) {
  for (k in rev(seq_along(names))) {
    more <- length(names) - k
    text <- paste(names[seq_len(k)], collapse = " ")
    if (more > 0) text <- paste(text, "and", more, "more")
    if (nchar(text) <= width) {
      return(text)
    }
  }
  paste("and", length(names), "more")
}

#' @export
format.sw_moments <- function(x, ...) {
  refuse_more(...)
  p <- ncol(x$covariance)
  r <- core_inter_item_r(x$covariance)
  c(
    strwrap(paste0(
      if (x$correlation == "pearson") "Means and covariances" else paste(table_title(x$correlation), "correlations"),
      " of ", count_of(p, "item"), ", n = ", x$n,
      if (x$n_left_out > 0) paste0("; ", x$n_left_out, " left out"), " (", x$missing, ")."
    ), output_width() - 1),
    if (p > 1) do.call(sprintf, c("Correlations from %s to %s, mean %s.", as.list(coefficient_text(r[c("lowest", "highest", "mean")])))),
    if (length(x$notes) > 0) wrap_note(x$notes)
  )
}

#' @export
format.sw_structure <- function(x, ...) {
  refuse_more(...)
  items <- structure_items(x)
  label <- pad(names(x$factors), right = FALSE)
  pair_words <- function(pairs) vapply(pairs, function(pair) paste(pair, collapse = " and "), "")
  c(
    structure_counts(x), "",
    unlist(Map(function(name, members) {
      strwrap(paste(members, collapse = ", "), 78, initial = paste0("  ", name, "  "), prefix = strrep(" ", nchar(name) + 4))
    }, label, x$factors), use.names = FALSE),
    unlist(Map(function(name, below) paste0("  above ", and_list(below), ": ", name), names(x$higher), x$higher), use.names = FALSE),
    if (length(x$fixed) > 0) strwrap(paste("fixed:", paste(vapply(x$fixed, fixed_words, ""), collapse = "; ")), 79, indent = 2, exdent = 4),
    unlist(lapply(x$equal, equal_lines)), strwrap(bound_lines(x), 79, indent = 2, exdent = 4),
    if (length(x$pairs) > 0) paste0("  residuals covary: ", paste(pair_words(x$pairs), collapse = "; ")),
    if (length(x$unlinked) > 0) paste0("  uncorrelated: ", paste(pair_words(x$unlinked), collapse = "; ")),
    strwrap(left_out_sentences(x), 79, indent = 2),
    if (length(x$crossing) > 0) strwrap(paste0("second loadings, not taken over: ", and_list(x$crossing), "; sw_add_loading() adds one."), 79,
      indent = 2, exdent = 4)
  )
}

# Factors, items, free parameters, degrees of freedom, and whether they can be told apart.
structure_counts <- function(x) {
  start <- paste0(count_of(length(structure_factor_names(x)), "factor"), ", ", count_of(length(structure_items(x)), "item"), ".")
  found <- tryCatch(structure_identified(x), scalewort_error = function(e) NULL)
  if (is.null(found)) {
    return(start)
  }
  strwrap(paste0(
    start, " ", count_of(found$free, "free parameter"), ", ",
    if (found$df < 0) "more than there are moments to fit: not identified." else paste0(count_of(found$df, "degree", "degrees"), " of freedom",
      if (isTRUE(found$identified)) "; identified." else if (isFALSE(found$identified))
        paste0(". Not identified: ", and_list(found$unclear, 6), " cannot be told apart.") else ".")
  ), output_width() - 1)
}

# Bounds and means, in words.
bound_lines <- function(x) {
  bounds <- vapply(x$bounds, function(b) paste0(paste(c(b$one, b$other), collapse = " with "), " from ", b$low, " to ", b$high), "")
  means <- x$means
  parts <- c(
    if (length(means$factors) > 0) paste0("estimated for ", and_list(means$factors)),
    if (length(means$intercepts) > 0) paste0("intercept of ", names(means$intercepts), " at ", unlist(means$intercepts)),
    vapply(means$equal, function(group) paste0("equal intercepts of ", and_list(group, 12)), "")
  )
  c(
    if (length(bounds) > 0) paste0("within bounds: ", paste(bounds, collapse = "; ")),
    if (!is.null(means)) paste0("means: ", if (length(parts) > 0) paste(parts, collapse = "; ") else "intercepts free")
  )
}

equal_lines <- function(group) {
  strwrap(paste("equal:", paste(vapply(group, paste, "", collapse = " with "), collapse = "; ")), 79, indent = 2, exdent = 4)
}

fixed_words <- function(one) {
  value <- if (isTRUE(one$share)) paste0("residual is ", format(one$value), " of its variance") else paste("at", format(one$value))
  paste(paste(c(one$one, one$other), collapse = " with "), value)
}

#' @export
format.sw_limits <- function(x, ...) {
  refuse_more(...)
  table <- plain_table(
    figure = x$figure, bound = paste0(vapply(x$direction, bound_sign, ""), vapply(x$bound, bound_text, "")),
    stricter = ifelse(is.na(x$better), "", vapply(ifelse(is.na(x$better), 0, x$better), bound_text, "")), source = x$source
  )
  c("Bounds that judge; change one with sw_limits(figure = number).", "", format_table(table))
}

#' @export
format.sw_imputations <- function(x, ...) {
  found <- x$imputed$convergence
  largest <- suppressWarnings(max(found$reduction_mean, na.rm = TRUE))
  c(
    strwrap(paste0(x$imputed$m, " imputations ", x$imputed$how, " of ", sum(found$missing), " missing answers to ", count_of(nrow(found), "item"),
      if (is.finite(largest)) paste0("; chains ", if (largest < 1.1) "mix" else "may not have mixed: take more iterations",
        " (largest scale reduction ",
        coefficient_text(largest, 2), ")"), ". Most information is missing on ", found$item[which.max(found$information_missing)], " (",
      format_share(max(found$information_missing, na.rm = TRUE)), ")."), output_width() - 1), "",
    format.sw_survey(x, ...)
  )
}

#' @export
tidy.sw_imputations <- function(x, table = "convergence", ...) {
  check_choice(table, "convergence", "table")
  tibble::as_tibble(x$imputed$convergence)
}

#' @export
format.sw_table <- function(x, ...) {
  refuse_more(...)
  way <- if (x$fetch == "sums") {
    paste0("only counts and sums leave the database", if (!is.null(x$smallest)) paste0(", none of fewer than ", x$smallest, " people"),
      if (!is.null(asked_at_once(x))) ", and all shards are asked at the same time")
  } else {
    "single answers are fetched"
  }
  c(strwrap(paste0("Answers in a database: ", named_table(x), ", ", count_of(nrow(x$columns), "column"), "; ", way, "."), output_width() - 1),
    strwrap(and_list(x$columns$column, 20), output_width() - 1, indent = 2, exdent = 2))
}
