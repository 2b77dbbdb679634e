# print, summary, format, tidy and glance of results: they lay out and never
# compute.

#' Look at results
#'
#' `print()` gives the answer in a sentence, the table people look at first,
#' then what to know; `summary()` prints every table and, where a result has them,
#' sentences ready for a methods section. `tidy()` returns one table
#' as a tibble, `glance()` one row, `augment()` the data with case-level columns
#' where a result has them, `as.data.frame()` the first table.
#'
#' A result that judges has the table `verdicts`, a row per figure: `where` (whole, item, factor, pair, step or
#' subscale), `name`, `figure` (a row of [sw_limits()]), `value` with `low` and `high` where it has an interval,
#' the `bound` with its `direction` and `source`, a `code`, the `reason` where nothing can be tested, and `rank`: 1 is
#' what to look at first. Codes, there and in columns called `verdict`, are `met` (the bound, or the stricter one where
#' there are two), `between` (the two bounds), `near` (the figure's interval holds the bound), `missed` and `untested`;
#' print and reports say them in words. What to know stands in `notes`, and as records (code, rank, words, items,
#' numbers) in `noted`. A result refers to the answers it was made from without holding them: a saved one is small, and
#' finds them when they are read again in the session.
#'
#' @param x,object A result of a verb.
#' @param table Name of a table; the first by default. `"sentences"` gives all that is said of a result: `code`, `place` (headline, note, paper)
#'   and `text`. Of moments: `"correlation"` (the default),
#'   `"covariance"`, or `"items"` (n, mean and standard deviation of each).
#' @param language Of `"sentences"`: `"en"` or `"de"`; when not given that of `options(scalewort.language = )`, in which results print, too,
#'   else English.
#' @param digits Decimals of coefficients; descriptives get one fewer.
#' @param more Last lines: where the rest is to be found.
#' @param row.names,optional,stringsAsFactors Not used; there because `data.frame()` gives them.
#' @param ... Nothing else is taken: what is not known is refused.
#' @return `print()` and `summary()` the object, invisibly; `format()` lines of
#'   text; `tidy()`, `glance()` and `augment()` a tibble.
#' @section Errors: `scalewort_error_input` for an unknown table.
#' @examples
#' reliability <- sw_reliability(sw_demo("plotholders"))
#' tidy(reliability, "items")
#' tidy(reliability, "sentences")$text[1]
#' glance(reliability)
#' @name results
NULL

as_tables <- function(x) if (is.data.frame(x)) list(x) else x

#' @rdname results
#' @export
print.sw_result <- function(x, digits = 3, ...) {
  refuse_more(...)
  show_lines(format(x, digits = digits))
  invisible(x)
}

#' @rdname results
#' @export
format.sw_result <- function(x, digits = 3, more = more_line(x), ...) {
  refuse_more(...)
  in_reading(c(
    said_lines(headline(x)), "",
    unlist(lapply(as_tables(first_look(x)), function(table) c(format_table(table, digits), ""))),
    case_line(x),
    if (length(x$notes) > 0) c("", first_notes(x)),
    "", more
  ))
}

# The three notes that matter most, and how many more there are.
first_notes <- function(x) {
  said <- said_notes(x)[order(x$noted$rank)]
  rest <- length(said) - shown_notes
  c(wrap_note(utils::head(said, shown_notes)), if (rest > 0) paste0("  ", worded("more_notes", n = rest)))
}

# Notes in the language that is read.
said_notes <- function(x) vapply(said_in_notes(x$noted), say, "")

shown_notes <- 3

#' @rdname results
#' @export
summary.sw_result <- function(object, digits = 3, ...) {
  refuse_more(...)
  structure(list(lines = in_reading(summary_lines(object, digits)), result = object), class = "sw_summary")
}

# What is assigned is not printed.
#' @rdname results
#' @export
print.sw_summary <- function(x, ...) {
  refuse_more(...)
  show_lines(x$lines)
  invisible(x)
}

summary_lines <- function(x, digits = 3) {
  # What `verdicts` holds stands in the other tables, in words.
  tables <- lapply(setdiff(names(x$tables), "verdicts"), function(name) c(table_title(name), format_table(x$tables[[name]], digits), ""))
  words <- sentences(x)
  c(
    said_lines(headline(x)), "", unlist(tables), case_line(x), if (length(x$notes) > 0) c("", wrap_note(said_notes(x))),
    if (length(words) > 0) c("", worded("for_methods"), strwrap(say(words), output_width() - 3, prefix = "  ")),
    "", said_lines(message_of("options_and_version", options = option_words(x$about$options), version = x$about$version))
  )
}

#' @rdname results
#' @export
tidy.sw_result <- function(x, table = NULL, language = NULL, ...) {
  refuse_more(...)
  language <- if (is.null(language)) reading_language() else check_choice(language, names(offered_languages()), "language")
  tibble::as_tibble(if (identical(table, "sentences")) sentence_table(x, language) else result_table(x, table))
}

# All that is said of a result: code, place (headline, note, paper) and text; notes with their most important first.
sentence_table <- function(x, language) {
  text <- function(said) say(said, language, if (language == "en") "print" else "report")
  answer <- headline(x)
  order <- order(x$noted$rank)
  paper <- sentences(x)
  plain_table(
    code = c("answer", x$noted$code[order], rep("paper", length(paper))),
    place = rep(c("headline", "note", "paper"), c(1, length(order), length(paper))),
    text = c(text(answer), vapply(said_in_notes(x$noted)[order], text, ""), vapply(paper, text, "", USE.NAMES = FALSE))
  )
}

#' @rdname results
#' @export
glance.sw_result <- function(x, ...) {
  refuse_more(...)
  first <- x$tables[[1]]
  counts <- plain_table(n = x$about$n, n_left_out = x$about$n_left_out, missing = x$about$missing, status = x$about$status)
  tibble::as_tibble(c(glance_figures(x), counts[setdiff(names(counts), names(glance_figures(x)))]))
}

# The few figures that stand for a result.
glance_figures <- function(x) UseMethod("glance_figures")
#' @export
glance_figures.default <- function(x) list()
#' @export
glance_figures.sw_exploration <- function(x) c(list(factors = x$about$options$factors), as.list(x$tables$fit))
#' @export
glance_figures.sw_confirmation <- function(x) {
  judged <- judged_chi_square(x$tables$fit)
  c(Filter(Negate(is.null), x$parts$figures), list(chi_square_corrected = judged$corrected, p_corrected = judged$corrected_p))
}
#' @export
glance_figures.sw_retention <- function(x) {
  c(list(factors = x$parts$agreement$first), as.list(stats::setNames(x$tables$rules$suggestion, gsub("[^a-z0-9]+", "_",
    tolower(x$tables$rules$rule)))))
}
#' @export
glance_figures.sw_comparison <- function(x) list(models = nrow(x$tables$models), best_by_bic = x$tables$models$model[which.min(x$tables$models$bic)])
#' @export
glance_figures.sw_stability <- function(x) list(factors = nrow(x$tables$factors), lowest_congruence = min(x$tables$factors$congruence))
#' @export
glance_figures.sw_factorability <- function(x) {
  overall <- x$tables$overall
  c(stats::setNames(as.list(overall$value), overall$figure), list(p.value = overall$p.value[2]))
}
#' @export
glance_figures.sw_reliability <- function(x) {
  list(scales = nrow(x$tables$scales), lowest_alpha = least_known(x$tables$scales$alpha))
}
#' @export
glance_figures.sw_screening <- function(x) list(items = nrow(x$tables$items), flags = nrow(x$tables$flags))
#' @export
glance_figures.sw_keying <- function(x) {
  list(items = nrow(x$tables$items), disagree = sum(x$tables$items$agrees == "no"), unclear = sum(x$tables$items$agrees == "unclear"))
}
#' @export
glance_figures.sw_option_curves <- function(x) list(items = length(unique(x$tables$curves$item)), flags = nrow(x$tables$flags))
#' @export
glance_figures.sw_dif <- function(x) list(items = nrow(x$tables$items), flagged = sum(x$tables$items$flagged %in% TRUE))
#' @export
glance_figures.sw_answering <- function(x) {
  list(cases = nrow(x$parts$flags), flagged_once = sum(rowSums(x$parts$flags) > 0), flagged = length(x$parts$flagged_rows))
}
#' @export
glance_figures.sw_scores <- function(x) list(scores = nrow(x$tables$scales))

least_known <- function(x) if (all(is.na(x))) NA_real_ else min(x, na.rm = TRUE)

#' @rdname results
#' @export
augment.sw_scores <- function(x, ...) {
  refuse_more(...)
  tibble::as_tibble(scored_data(x))
}

#' @param method For an exploration: the kind of factor score, `"regression"`, `"bartlett"`
#'   or `"tenberge"`.
#' @rdname results
#' @export
augment.sw_exploration <- function(x, method = "regression", ...) {
  refuse_more(...)
  tibble::as_tibble(exploration_scores(x, method))
}

#' @rdname results
#' @export
augment.sw_confirmation <- function(x, method = "regression", ...) {
  refuse_more(...)
  tibble::as_tibble(confirmation_scores(x, method))
}

#' @rdname results
#' @export
as.data.frame.sw_result <- function(x, row.names = NULL, optional = FALSE, ..., stringsAsFactors = FALSE) {
  refuse_more(...)
  as.data.frame(x$tables[[1]])
}

# How many cases went in, how many did not, and what was done about missing answers; people: how many stand behind the rows, if not as many.
case_message <- function(x, people = NULL) {
  about <- x$about
  if (!is.na(about$n)) message_of("case_line", n = about$n, people = if (!is.null(people)) message_of("rows_of_people", people = people),
    left_out = if (isTRUE(about$n_left_out > 0)) message_of("and_left_out", cases = about$n_left_out), missing = missing_message(x))
}

case_line <- function(x) {
  said <- if (!is.na(x$about$n)) say(list(case_message(x), convergence_message(x)))
  if (length(said) > 0) strwrap(said, output_width() - 1)
}

# How a search ended, where there was one.
convergence_message <- function(x) UseMethod("convergence_message")
#' @export
convergence_message.default <- function(x) NULL
#' @export
convergence_message.sw_exploration <- function(x) {
  options <- x$about$options
  if (is.na(options$largest_gradient)) {
    return(NULL)
  }
  minima <- x$tables$minima
  what <- if (options$extraction %in% c("paf", "alpha")) "last change" else "largest gradient"
  list(
    message_of(if (x$about$status == "ok") "converged_after" else "did_not_converge", iterations = options$iterations,
      what = message_of("a_term", term = what), size = formatC(options$largest_gradient, format = "e", digits = 0)),
    if (!is.null(minima)) message_of("rotation_starts", reached = minima$starts[1], starts = options$starts)
  )
}

more_line <- function(x) {
  names <- setdiff(names(x$tables), names(x$tables)[1])
  others <- if (length(names) > 1) message_of("more_tables", names = quoted(names[-1]))
  said_lines(message_of("more_line", tables = if (length(names) > 0) message_of("more_table", name = names[1], others = others)))
}

# A table's name as a heading.
table_title <- function(name) {
  known <- words_of_language(reading_language())$.tables
  vapply(name, function(one) if (is.null(known[[one]])) sentence_start(gsub("_", " ", one)) else known[[one]], "", USE.NAMES = FALSE)
}

option_words <- function(options) {
  options <- Filter(length, options)
  words <- vapply(options, function(x) {
    paste(if (is.numeric(x)) format(x, digits = 3) else if (is.logical(x)) ifelse(x, "yes", "no") else x, collapse = ", ")
  }, "")
  paste(gsub("_", " ", names(options)), words, collapse = "; ")
}

#' @rdname results
#' @export
tidy.sw_moments <- function(x, table = "correlation", ...) {
  refuse_more(...)
  tibble::as_tibble(moments_tables(x)[[check_choice(table, c("correlation", "covariance", "items"), "table")]])
}

moments_tables <- function(x) {
  list(
    correlation = matrix_table(core_correlation(x$covariance), "item"), covariance = matrix_table(x$covariance, "item"),
    items = plain_table(item = colnames(x$covariance), n = x$n, mean = unname(x$mean), sd = unname(sqrt(diag(x$covariance))))
  )
}
