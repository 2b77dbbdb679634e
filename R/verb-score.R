#' Score the subscales
#'
#' Mean or sum of each subscale's scored items, keyed by the codebook and added
#' to the data. A person who answered at least the stated share of a subscale's
#' items gets a score; the items left unanswered count as the person's own mean.
#'
#' @param survey A survey.
#' @param method `"mean"`, `"sum"` or both: columns `<scale>_mean`, `<scale>_sum`.
#' @param at_least Share of a subscale's items that must be answered, from above
#'   0 to 1.
#' @param overwrite Replace columns of the data that have a score's name?
#' @return A `sw_scores` with the tables `scales` (a row per score: items, rule, n
#'   scored, n without a score, mean, sd, lowest, highest, alpha) and `scores`
#'   (identifier and scores, a row per case); `augment()` gives the data with the
#'   scores. Each score column carries the attribute `made_of`.
#' @section Errors: `scalewort_error_input` when a name is taken, or no subscale
#'   has items.
#' @examples
#' scores <- sw_score(sw_demo("plotholders"))
#' scores
#' head(augment(scores))
#' @export
sw_score <- function(survey, method = "mean", at_least = .8, overwrite = FALSE) {
  check_survey(survey)
  method <- check_methods(method)
  check_number(at_least, "at_least", 0, 1)
  check_flag(overwrite, "overwrite")
  scales <- survey_scales(survey)
  if (length(scales) == 0) {
    stop_input("No scored item belongs to a subscale.", hint = "Fill in `scale` in the codebook.")
  }
  labels <- as.vector(outer(method, names(scales), function(m, s) paste(s, m, sep = "_")))
  check_free_columns(labels, names(survey$data), overwrite)
  answers <- keyed_answers(survey)
  needed <- vapply(scales, function(items) max(1, ceiling(at_least * length(items) - 1e-9)), 0)
  columns <- list()
  for (scale in names(scales)) {
    person <- core_person_scores(answers[, scales[[scale]], drop = FALSE], needed[[scale]])
    for (one in method) {
      columns[[paste(scale, one, sep = "_")]] <- structure(person[[one]], made_of = scales[[scale]])
    }
  }
  scores <- tibble::as_tibble(columns)
  new_result("sw_scores", "Subscale scores",
    tables = list(scales = score_summary(survey, scales, method, needed, scores), scores = add_identifier(survey, scores)),
    notes = score_notes(scores, needed, scales),
    n = sum(survey$kept), n_left_out = sum(!survey$kept),
    missing = missing_rule_words(at_least),
    options = list(method = method, at_least = at_least),
    parts = list(data = scored_data(survey, scores))
  )
}

missing_rule_words <- function(at_least) {
  paste0(
    "scored where at least ", round(100 * at_least), "% of a subscale's items are answered; ",
    "the rest count as the person's own mean"
  )
}

check_methods <- function(method) {
  if (!is.character(method) || length(method) == 0) check_choice(method, c("mean", "sum"), "method")
  unique(vapply(method, check_choice, "", choices = c("mean", "sum"), arg = "method"))
}

check_free_columns <- function(labels, taken, overwrite) {
  clash <- intersect(labels, taken)
  if (length(clash) > 0 && !overwrite) {
    stop_input(paste0("The data have columns of that name: ", and_list(quoted(clash)), "."),
      hint = "Use `overwrite = TRUE` to replace them.")
  }
}

score_summary <- function(survey, scales, method, needed, scores) {
  alpha <- vapply(scale_moments(survey, "listwise"), function(m) core_alpha(m$covariance), 0)
  rows <- lapply(names(scales), function(scale) {
    do.call(rbind, lapply(method, function(one) {
      value <- scores[[paste(scale, one, sep = "_")]]
      seen <- value[!is.na(value)]
      empty <- length(seen) == 0
      tibble::tibble(
        score = paste(scale, one, sep = "_"), scale = scale, method = one, items = length(scales[[scale]]),
        needed = needed[[scale]], n = length(seen), without = sum(is.na(value)),
        mean = if (empty) NA_real_ else mean(seen), sd = if (length(seen) > 1) stats::sd(seen) else NA_real_,
        lowest = if (empty) NA_real_ else min(seen), highest = if (empty) NA_real_ else max(seen),
        alpha = alpha[[scale]], recipe = recipe_words(survey, scales[[scale]], one)
      )
    }))
  })
  do.call(rbind, rows)
}

# "mean of calm1, calm2, 6 - calm3"
recipe_words <- function(survey, items, method) {
  specs <- survey$codebook$items[match(items, survey$codebook$items$item), ]
  turned <- specs$direction == "reversed"
  words <- ifelse(turned, paste0(specs$lowest + specs$highest, " - ", items), items)
  paste(method, "of", paste(words, collapse = ", "))
}

# Puts the cases' identifier (and wave), or their row, in front.
add_identifier <- function(survey, scores) {
  keys <- c(survey$id, survey$wave)
  if (is.null(keys)) {
    return(tibble::add_column(scores, row = which(survey$kept), .before = 1))
  }
  tibble::as_tibble(cbind(survey$data[survey$kept, keys], scores))
}

# The original data with the scores at the end; NA for cases set aside.
scored_data <- function(survey, scores) {
  data <- survey$data
  for (name in names(scores)) {
    column <- rep(NA_real_, nrow(data))
    column[survey$kept] <- scores[[name]]
    data[[name]] <- structure(column, made_of = attr(scores[[name]], "made_of"))
  }
  data
}

score_notes <- function(scores, needed, scales) {
  without <- vapply(scores, function(x) sum(is.na(x)), 0L)
  c(
    if (any(without > 0)) paste0("Without a score, since too few items were answered: ",
      and_list(paste0(names(without)[without > 0], " ", without[without > 0])), "."),
    if (any(lengths(scales) == 1)) paste0("A single item makes a score of unknown reliability: ",
      and_list(names(scales)[lengths(scales) == 1]), ".")
  )
}
