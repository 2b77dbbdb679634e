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

# Lines of what is said, `most` columns wide.
said_lines <- function(said, ...) strwrap(say(said), output_width() - 1, ...)

#' @export
format.sw_survey <- function(x, ...) {
  refuse_more(...)
  in_reading(survey_lines(x))
}

survey_lines <- function(x) {
  items <- analysed_items(x)
  count <- source_count(x, items)
  tests <- intersect(items, test_items(x))
  people <- repeated_people(x)
  skipped <- sum(vapply(tests, unanswered_count, 0, survey = x)) - sum(count$missing[tests], na.rm = TRUE)
  missing <- format_number(sum(count$missing, na.rm = TRUE) / (length(items) * count$used), "percent")
  c(
    said_lines(message_of("survey_answers", cases = count$used, items = length(items), share = message_of(if (anyNA(count$missing))
      "share_at_least" else "a_text", text = missing), skipped = if (skipped > 0) message_of("survey_skipped", n = skipped),
    aside = if (count$aside > 0) message_of("survey_aside", cases = count$aside))), "",
    format_table(scale_overview(x$codebook)), "",
    if (!is.null(people)) c(wrap_note(worded("survey_rows", people = people$people, rows = count$used, waves = if (is.null(x$wave))
      message_of("survey_rows_waves"))), ""),
    if (NROW(x$unmatched) > 0) c(wrap_note(worded("survey_unmatched", people = nrow(x$unmatched))), ""),
    if (any(x$codebook$items$direction == "reversed")) worded("survey_minus"),
    if (inherits(x$source, "table_source")) said_lines(message_of("survey_in_table", table = named_table(x$source$table))),
    worded("survey_last_step", step = message_of("a_term", term = utils::tail(x$log$action, 1)))
  )
}

#' @export
format.sw_codebook <- function(x, ...) {
  refuse_more(...)
  in_reading({
    items <- x$items
    others <- sum(items$role == "aside")
    c(
      worded("codebook_of", items = nrow(items) - others, others = if (others > 0) message_of("codebook_others", columns = others),
        reversed = sum(items$direction == "reversed")), "",
      if (nrow(scale_overview(x)) > 0) c(format_table(scale_overview(x)), ""), found_lines(x$found), guess_lines(items, x$found),
      worded("codebook_fields")
    )
  })
}

# What a draft found besides items, and what to look at first.
found_lines <- function(found) {
  doubts <- found$doubts
  previews <- found$previews
  shown <- utils::head(doubts, 12)
  more <- length(doubts) - length(shown)
  lines <- if (length(doubts) > 0) c(worded("draft_check_first", doubts = length(doubts)),
    unlist(lapply(seq_along(shown), function(i) strwrap(paste0(i, ". ", say(shown[[i]]$question)), output_width() - 1, indent = 2, exdent = 5))),
    if (more > 0) paste0("  ", worded("and_more_in_codebook", n = more)), "")
  totals <- found$totals
  note <- list(
    if (!is.null(found$wide)) message_of("draft_wide", pattern = found$wide),
    if (NROW(totals) > 0) message_of("draft_totals", totals = Map(function(column, what, of) {
      message_of("draft_total", column = column, what = message_of("a_term", term = what), of = span_message(of))
    }, totals$column, totals$what, totals$of)),
    if (length(found$checks) > 0) message_of("draft_checks", items = found$checks),
    if (length(found$ticked) > 0) message_of("draft_ticked", columns = lapply(found$ticked, span_message)),
    if (length(found$stems) > 0) message_of("draft_stems", stems = Map(function(stem, columns) {
      message_of("draft_stem", stem = stem, first = columns[1], last = columns[length(columns)])
    }, names(found$stems), found$stems)),
    if (NROW(found$refused) > 0) message_of("draft_refused", rows = as.character(found$refused$row), why = unique(found$refused$why)),
    if (NROW(previews) > 0) message_of("draft_previews", rows = as.character(previews$row), why = unique(previews$why))
  )
  note <- vapply(Filter(Negate(is.null), note), say, "")
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
  told <- c(test, unplaced, found$totals$column, found$checks, unlist(found$ticked))
  aside <- setdiff(items$item[items$role == "aside" & !is.na(items$guessed)], told)
  turned <- items$item[items$direction == "reversed" & grepl("direction", items$guessed)]
  of <- function(code, items) if (length(items) > 0) message_of(code, items = items)
  note <- list(message_of("draft_guessed", fields = paste0(fields, " (", count, ")")), of("draft_reversed", turned), of("draft_tests", test),
    of("draft_unplaced", unplaced), of("draft_no_items", aside))
  c(wrap_note(vapply(Filter(Negate(is.null), note), say, "")), "")
}

# A row a subscale: its items, reversed ones marked with a minus.
scale_overview <- function(codebook) {
  items <- codebook$items[codebook$items$role != "aside", ]
  scale <- ifelse(is.na(items$scale), worded("scale_none"), items$scale)
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
    if (more > 0) text <- paste(text, worded("and_more", n = more))
    if (nchar(text) <= width) {
      return(text)
    }
  }
  worded("and_more", n = length(names))
}

#' @export
format.sw_moments <- function(x, ...) {
  refuse_more(...)
  p <- ncol(x$covariance)
  r <- core_inter_item_r(x$covariance)
  what <- if (x$correlation == "pearson") message_of("moments_and_covariances") else message_of("moments_correlations", kind = x$correlation)
  in_reading(c(
    said_lines(message_of("moments_of", what = what, items = p, n = x$n, left_out = if (x$n_left_out > 0) message_of("moments_left_out",
      n = x$n_left_out), missing = message_of("a_term", term = x$missing))),
    if (p > 1) worded("moments_range", low = r[["lowest"]], high = r[["highest"]], mean = r[["mean"]]),
    if (length(x$notes) > 0) wrap_note(vapply(said_of_moments(x), say, ""))
  ))
}

#' @export
format.sw_structure <- function(x, ...) {
  refuse_more(...)
  in_reading(structure_lines(x))
}

structure_lines <- function(x) {
  label <- pad(names(x$factors), right = FALSE)
  joined <- function(pairs) lapply(pairs, function(pair) message_of("two_names", first = pair[[1]], second = pair[[2]]))
  line <- function(code, ...) said_lines(message_of(code, ...), indent = 2, exdent = 4)
  c(
    structure_counts(x), "",
    unlist(Map(function(name, members) {
      strwrap(paste(members, collapse = ", "), 78, initial = paste0("  ", name, "  "), prefix = strrep(" ", nchar(name) + 4))
    }, label, x$factors), use.names = FALSE),
    unlist(Map(function(name, below) line("structure_above", below = below, factor = name), names(x$higher), x$higher), use.names = FALSE),
    if (length(x$fixed) > 0) line("structure_fixed", values = lapply(x$fixed, fixed_message)),
    unlist(lapply(x$equal, function(group) line("structure_equal", parts = unname(lapply(group, joined_with))))), bound_lines(x),
    if (length(x$pairs) > 0) line("structure_pairs", pairs = joined(x$pairs)),
    if (length(x$unlinked) > 0) line("structure_unlinked", pairs = joined(x$unlinked)),
    strwrap(left_out_sentences(x), output_width() - 1, indent = 2),
    if (length(x$crossing) > 0) line("structure_crossing", crossings = x$crossing)
  )
}

# Factors, items, free parameters, degrees of freedom, and whether they can be told apart.
structure_counts <- function(x) {
  found <- tryCatch(structure_identified(x), scalewort_error = function(e) NULL)
  freedom <- function() {
    if (found$df < 0) message_of("structure_too_many") else message_of("structure_freedom", df = found$df, identified =
      if (isTRUE(found$identified)) message_of("structure_identified") else if (isFALSE(found$identified))
        message_of("structure_unclear", unclear = found$unclear))
  }
  said_lines(message_of("structure_counts", factors = length(structure_factor_names(x)), items = length(structure_items(x)),
    rest = if (!is.null(found)) message_of("structure_free", free = found$free, freedom = freedom())))
}

# "calm1", or "calm1 with craft2".
joined_with <- function(names) {
  names <- as.character(unlist(names))
  if (length(names) < 2) names else message_of("one_with_other", one = names[1], other = names[2])
}

# Bounds and means, in words.
bound_lines <- function(x) {
  line <- function(code, parts) said_lines(message_of(code, parts = parts), indent = 2, exdent = 4)
  means <- x$means
  parts <- c(
    if (length(means$factors) > 0) list(message_of("means_estimated", factors = means$factors)),
    if (length(means$intercepts) > 0) messages_of("means_intercept", item = names(means$intercepts), value = unlist(means$intercepts)),
    lapply(means$equal, function(group) message_of("means_equal", items = group))
  )
  c(
    if (length(x$bounds) > 0) line("structure_bounds", lapply(x$bounds, function(b) {
      message_of("bounded_by", what = joined_with(c(b$one, b$other)), low = b$low, high = b$high)
    })),
    if (!is.null(means)) line("structure_means", if (length(parts) > 0) parts else list(message_of("means_free")))
  )
}

fixed_message <- function(one) {
  message_of(if (isTRUE(one$share)) "fixed_share" else "fixed_at", what = joined_with(c(one$one, one$other)), value = one$value)
}

#' @export
format.sw_limits <- function(x, ...) {
  refuse_more(...)
  in_reading({
    table <- plain_table(
      name = x$figure, bound = paste0(vapply(x$direction, bound_sign, ""), vapply(x$bound, bound_text, "")),
      stricter = ifelse(is.na(x$better), "", vapply(ifelse(is.na(x$better), 0, x$better), bound_text, "")), source = x$source
    )
    c(worded("limits_judge"), "", format_table(table))
  })
}

#' @export
format.sw_imputations <- function(x, ...) {
  refuse_more(...)
  found <- x$imputed$convergence
  largest <- suppressWarnings(max(found$reduction_mean, na.rm = TRUE))
  mixing <- if (is.finite(largest)) message_of(if (largest < 1.1) "chains_mix" else "chains_do_not_mix", reduction = largest)
  in_reading(c(
    said_lines(message_of("imputations_of", m = x$imputed$m, how = message_of("a_term", term = x$imputed$how), answers = sum(found$missing),
      items = nrow(found), mixing = mixing, most = found$item[which.max(found$information_missing)],
      share = format_share(max(found$information_missing, na.rm = TRUE)))), "",
    survey_lines(x)
  ))
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
    message_of("table_sums", smallest = if (!is.null(x$smallest)) message_of("table_smallest", people = x$smallest),
      shards = if (!is.null(asked_at_once(x))) message_of("table_shards"))
  } else {
    message_of("table_rows")
  }
  in_reading(c(said_lines(message_of("table_answers", table = named_table(x), columns = nrow(x$columns), way = way)),
    said_lines(message_of("table_columns", columns = x$columns$column), indent = 2, exdent = 2)))
}
