#' Draft a codebook from data
#'
#' Guesses which columns are items, their lowest and highest answer, labels,
#' missing codes, subscale (by the stem of the name) and direction (by
#' correlation), and marks every guess in the field `guessed`, to be checked and
#' edited. Answers in words are numbered by their order in a table of ten languages (English, German, French, Spanish, Italian, Dutch, Portuguese,
#' Swedish, Polish, Turkish), alike over a subscale; words that it does not know by the levels of their factor, else along the first dimension of a
#' multiple correspondence analysis of the columns that share them (Greenacre, 2007), always marked as a guess.
#' What a SAV, DTA or XPT file says of itself is taken as it stands. A total among the items (their sum or mean),
#' columns that a platform adds, and questions where several boxes could be ticked are left aside; waves that
#' stand side by side are found; rows that look like tests or previews are named.
#'
#' @param data A data frame, or the path of a file that [sw_read()] reads, or of several.
#' @param most_options The most different answers a column may have to be taken
#'   for an item.
#' @param wide How columns of waves that stand side by side are called, as in [sw_survey()]; `"auto"` finds out,
#'   `NULL` takes every column as it is.
#' @param trust For RDS: read it? Such a file can run code when it is read.
#' @param codebook What somebody has written down of the columns: the path of a table (CSV, XLSX, YAML) in columns of one's own, which are told by
#'   their names in ten languages (variable, question, subscale, reversed, value labels, ...). What it says is no guess.
#' @param key Right answers of a test: the path of a table of items and answers, of a row of them under the columns' names, or of letters in order.
#' @return A `sw_codebook`. Columns that do not look like items have the role
#'   `aside`; so have test items without a key. What else was found is in
#'   `found`: `totals`, `ticked`, `checks` (items that ask for one certain answer), `previews` and `refused` (rows), `wide`, `design` (columns:
#'   `id`, `wave`, `group`, `cluster`, `stratum`, `weight`; `doubled`, rows), `orders` of words that no list knows, and `doubts`, every guess in
#'   force, the most doubtful first: each with its `question`, the items it is `on`, the `fields` of the codebook or the `key` of the plan.
#' @section Errors: those of reading; `scalewort_error_input` when no column looks
#'   like an item.
#' @examples
#' path <- system.file("extdata", "plotholders.csv", package = "scalewort")
#' sw_draft_codebook(path)
#' @export
sw_draft_codebook <- function(data, most_options = 12, wide = "auto", trust = FALSE, codebook = NULL, key = NULL) {
  check_number(most_options, "most_options", 2, 100, whole = TRUE)
  check_flag(trust, "trust")
  table <- if (is.character(data)) read_table(check_paths(data, "data"), list(header = TRUE, trust = trust)) else
    describe_labelled(check_data_frame(data), "a data frame")
  if (!is.null(codebook)) check_string(codebook, "codebook")
  if (!is.null(key)) check_string(key, "key")
  table <- told_table(table, if (is.character(data)) data, codebook, key)
  draft_table(table, most_options, wide, if (is.character(data)) data[1] else "drafted from a data frame")
}

# What relations between columns are worked out from: some thousand people tell them.
draft_people <- 4000

draft_table <- function(table, most_options, wide, source) {
  table$data <- told_apart(table$data)
  if (nrow(table$data) == 0) stop_input(message_of("e_data_no_rows"))
  previews <- find_previews(table$data)
  data <- table$data
  if (identical(wide, "auto")) wide <- find_wide(names(table$data))
  if (!is.null(wide)) table <- stacked_table(table, wide)
  frame <- table$data[setdiff(names(table$data), table$wave)]
  rows <- draft_items(frame, table$foreign, most_options, table$key)
  some <- frame[unique(round(seq(1, nrow(frame), length.out = min(nrow(frame), draft_people)))), , drop = FALSE]
  boxes <- find_ticked(rows, some, table$foreign)
  checks <- find_checks(rows)
  rows <- set_rows_aside(rows, rows$item %in% c(unlist(boxes), checks))
  ordered <- settle_orders(rows, some, table$foreign)
  rows <- settle_letters(ordered$rows)
  if (all(rows$role == "aside" & rows$options == "" & rows$labels == "")) {
    stop_input(message_of("e_no_column_looks"), hint = message_of("e_item_different_whole", most_options = most_options))
  }
  rows <- rows |>
    guess_scales(told_stems(rows, table$foreign)) |>
    apply_told(table$foreign) |>
    set_lone_aside() |>
    share_labels() |>
    share_no_answers() |>
    settle_codes(some)
  answers <- drafted_answers(rows, some)
  directed <- guess_directions(rows, answers)
  totals <- find_totals(directed$rows, some, answers)
  beside <- rows$item %in% totals$column & rows$role != "aside"
  if (any(beside)) directed <- guess_directions(set_rows_aside(rows, beside), answers)
  directed$rows <- share_ranges(directed$rows)
  book <- new_codebook(complete_codebook(directed$rows), source)
  waves <- if (!is.null(wide)) wide_columns(names(data), wide)$column
  asides <- intersect(names(data), directed$rows$item[directed$rows$role == "aside"])
  refused <- find_refusals(data[setdiff(asides, c(unlist(boxes), waves))])
  design <- find_design(data, directed$rows, table$foreign, waves)
  book$found <- list(totals = totals, ticked = boxes, checks = checks, previews = previews, refused = refused, wide = wide, design = design,
    stems = shared_stems(table$foreign), orders = ordered$orders)
  book$found$doubts <- first_doubts(directed$rows, directed$keyed, book$found)
  book
}

# A codebook row for each column. Numbers of which the file says nothing look alike where the same ones stand in them: the first of a kind is
# looked at, the others are as it is.
draft_items <- function(frame, foreign, most_options, key) {
  platform <- is_metadata(names(frame))
  one <- function(i) draft_item(names(frame)[i], frame[[i]], foreign[[names(frame)[i]]], most_options, key[[names(frame)[i]]])
  bare <- vapply(frame, function(x) is.numeric(x) && is.null(attributes(x)), TRUE) & !platform & !names(frame) %in% c(names(foreign), names(key))
  kind <- as.character(seq_along(frame))
  seen <- lapply(frame[bare], unique)
  few <- lengths(seen) <= 50
  kind[bare][few] <- vapply(seen[few], function(x) paste(c(typeof(x), sort(x)), collapse = " "), "")
  first <- which(!duplicated(kind))
  rows <- data.table::rbindlist(lapply(first, one))[match(kind, kind[first]), ]
  list2DF(replace(as.list(rows), "item", list(names(frame))))
}

# What wordings begin with: as the file's headers tell it, else as the wordings do.
told_stems <- function(rows, foreign) {
  told <- vapply(rows$item, function(item) if (is.null(foreign[[item]]$stem)) "" else foreign[[item]]$stem, "", USE.NAMES = FALSE)
  ifelse(told == "", wording_stem(rows$wording), told)
}

# What several columns ask in common, as the file's wordings have it: a stem's columns under it, list(stem = columns).
shared_stems <- function(foreign) {
  stem <- vapply(foreign, function(f) if (is.null(f$stem)) "" else f$stem, "")
  asked <- setdiff(unique(stem), "")
  stats::setNames(lapply(asked, function(one) names(foreign)[stem == one]), asked)
}

set_rows_aside <- function(rows, which) {
  rows$role[which] <- "aside"
  rows[which, c("scale", "direction", "labels")] <- ""
  rows$guessed[which] <- "role"
  rows
}

# Items that point against the rest of their subscale are guessed reversed: list(rows, keyed: by item, its correlation with the sum of the
# others of its subscale, as guessed).
guess_directions <- function(rows, answers) {
  told <- rows$direction != "" & !grepl("\\bdirection\\b", rows$guessed)
  rows$direction <- ifelse(rows$role == "aside", "", ifelse(rows$direction == "", "forward", rows$direction))
  keyed <- stats::setNames(rep(NA_real_, nrow(rows)), rows$item)
  for (scale in setdiff(unique(rows$scale), "")) {
    mine <- which(rows$scale == scale & rows$role != "aside" & rows$answer == "")
    if (length(mine) < 3) next
    covariance <- core_pairwise_moments(answers[, rows$item[mine], drop = FALSE])$covariance
    r <- core_correlation(covariance)
    if (anyNA(r)) next
    if (!any(told[mine])) {
      rows$direction[mine] <- "forward"
      rows$direction[mine[core_keying(r, nrow(answers))$turned]] <- "reversed"
      open <- mine[!grepl("\\bdirection\\b", rows$guessed[mine])]
      rows$guessed[open] <- trimws(paste(rows$guessed[open], "direction"))
    }
    back <- which(rows$direction[mine] == "reversed")
    sign <- replace(rep(1, length(mine)), back, -1)
    turned <- r * outer(sign, sign)
    keyed[mine] <- vapply(seq_along(mine), function(i) sum(turned[i, -i]) / sqrt(sum(turned[-i, -i])), 0)
  }
  list(rows = rows, keyed = keyed)
}

# Answers to its items as a drafted codebook reads them: cases x items, by name.
drafted_answers <- function(rows, frame) {
  items <- which(rows$role != "aside" & !startsWith(rows$labels, "? ="))
  # A test without its key has none yet.
  if (length(items) == 0) {
    return(matrix(0, nrow(frame), 0, dimnames = list(NULL, character())))
  }
  specs <- complete_codebook(rows[items, ])
  values <- vapply(seq_along(items), function(i) as.numeric(read_item(frame[[specs$item[i]]], spec_of(specs, i))$values), numeric(nrow(frame)))
  matrix(values, nrow(frame), dimnames = list(NULL, specs$item))
}

spec_of <- function(specs, i) lapply(unclass(specs), `[`, i)
