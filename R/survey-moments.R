#' Sample moments: the one door to computation
#'
#' Means and covariances of items, from answers or from a published matrix.
#' Every verb that needs no single answers takes the result in place of a
#' survey.
#'
#' @param x A survey; a data frame or matrix of answers; or a published
#'   correlation or covariance matrix (square, symmetric, with item names),
#'   which needs `n`.
#' @param n Number of cases behind a published matrix.
#' @param correlation `"pearson"`; or, from answers, `"spearman"` (of ranks) or
#'   `"polychoric"` (of the normal variables behind ordered answers; Olsson, 1979;
#'   tetrachoric for two categories). The last two make `covariance` a correlation
#'   matrix.
#' @param smooth Make a matrix that is not positive definite so, by raising its smallest
#'   eigenvalues? It is noted when that happened.
#' @param items For a survey: items to take, by name or by subscale; all scored
#'   items by default.
#' @param missing `"auto"`: complete cases where nobody misses an answer, else `"fiml"`: means and covariances of normal answers by
#'   maximum likelihood from everybody who answered anything (Dempster, Laird & Rubin, 1977); for Spearman and polychoric
#'   correlations `"pairwise"`, each by those who answered both. `"listwise"`: complete cases.
#' @param also For `"fiml"`: columns of the data that tell who leaves answers out, such as age or district; gaps are then taken as
#'   random given the other answers and these. Words become groups.
#' @param sd Standard deviations that turn a published correlation matrix into a
#'   covariance matrix; optional.
#' @param mean Published means; optional.
#' @param scales Named list of item names: subscales of a published matrix or of
#'   answers without codebook. One subscale of all items by default.
#' @param level For a survey in clusters: `"within"` (pooled within clusters) or `"between"` (of the clusters' true means, by analysis of
#'   variance; each pair by those who answered both) in place of `"all"`, to explore or describe one level alone.
#' @return A `sw_moments`: a list with `n`, `n_left_out`, `mean`, `covariance`
#'   (divisor n - 1), `correlation`, `missing`, `kind` (`"answers"` or `"published"`),
#'   `scales`, `notes` and, from a survey, `origin` (which cases). Polychoric ones also
#'   hold `thresholds` and `std_error` of each correlation, from the cells that its two-way table would have under the normal
#'   model (the errors of explorations and confirmations come from the influence of each observed case instead, and differ from these where
#'   the model does not hold), those by likelihood `gamma`, n times the asymptotic covariance matrix
#'   of the covariances (lower triangle with diagonal, by column; up to 36 items): of near normal answers from the observed
#'   information, of others from the influence of single cases.
#' @section Errors: `scalewort_error_input` for a matrix that is not symmetric, a
#'   missing `n`, unknown items, or text where numbers belong;
#'   `scalewort_error_numeric` when fewer than two cases are complete, or for polychoric
#'   correlations of an item with one answer only or with more than 20 different ones.
#' @examples
#' sw_moments(sw_demo("plotholders"), items = "calm")
#' sw_moments(sw_demo("plotholders"), items = "calm", correlation = "polychoric")
#' r <- matrix(c(1, .5, .4, .5, 1, .3, .4, .3, 1), 3, dimnames = list(letters[1:3], letters[1:3]))
#' sw_moments(r, n = 200)
#' @export
sw_moments <- function(x, n = NULL, items = NULL, missing = "auto", sd = NULL, mean = NULL,
                       scales = NULL, correlation = "pearson", smooth = FALSE, also = NULL, level = "all") {
  check_choice(level, c("all", "within", "between"), "level")
  if (level != "all") {
    return(level_moments(x, items, level) |> smoothed(smooth))
  }
  out <- any_moments(x, n, items, missing, sd, mean, scales, correlation, smooth, also, spread = TRUE)
  # Of more items the matrix would be larger than most answers.
  if (ncol(out$covariance) > 36) out$gamma <- NULL
  out
}

# The same; spread: with gamma, where moments need it.
any_moments <- function(x, n = NULL, items = NULL, missing = "auto", sd = NULL, mean = NULL, scales = NULL, correlation = "pearson",
                        smooth = FALSE, also = NULL, spread = FALSE) {
  check_choice(missing, c("auto", "fiml", "listwise", "pairwise"), "missing")
  check_choice(correlation, c("pearson", "spearman", "polychoric"), "correlation")
  check_flag(smooth, "smooth")
  if (inherits(x, "sw_moments")) {
    return(narrow_moments(x, items) |> same_correlation(correlation) |> smoothed(smooth))
  }
  if (has_answers(x)) {
    return(survey_moments(x, items, missing, correlation, also, spread) |> smoothed(smooth))
  }
  x <- numeric_matrix(x)
  if (looks_published(x)) {
    return(published_moments(x, n, sd, mean, scales) |> narrow_moments(items) |> same_correlation(correlation) |> smoothed(smooth))
  }
  if (!is.null(n)) {
    stop_input(message_of("e_n_goes_published"), hint = message_of("e_leave_n_out"))
  }
  if (!is.null(also)) check_names_known(also, colnames(x), "also", "column")
  answer_moments(x, missing, scales, correlation, spread) |> narrow_moments(items) |> smoothed(smooth)
}

new_moments <- function(n, n_left_out, mean, covariance, missing, kind, scales, origin = NULL, correlation = "pearson",
                        said = list(), thresholds = NULL, std_error = NULL, gamma = NULL, pooled = NULL) {
  stopifnot(is.matrix(covariance), identical(rownames(covariance), colnames(covariance)))
  structure(list(
    n = n, n_left_out = n_left_out, mean = mean, covariance = covariance, missing = missing,
    kind = kind, scales = scales, origin = origin, correlation = correlation, notes = all_said(said), said = said,
    thresholds = thresholds, std_error = std_error,
    gamma = gamma, pooled = pooled
  ), class = "sw_moments")
}

# Moments that have more to say.
saying <- function(moments, more) {
  moments$said <- c(said_of_moments(moments), Filter(Negate(is.null), more))
  moments$notes <- all_said(moments$said)
  moments
}

# What moments say, as messages; those of former versions hold words only.
said_of_moments <- function(moments) if (is.null(moments$said)) as.list(moments$notes) else moments$said

survey_moments <- function(survey, items, missing, correlation = "pearson", also = NULL, spread = FALSE) {
  items <- pick_items(survey, items)
  scales <- Filter(length, lapply(survey_scales(survey, c("scored", "tryout")), intersect, items))
  treatment <- resolved_missing(survey, items, missing, correlation)
  grouped <- !is.null(survey$weight) || !is.null(survey$cluster)
  found <- if (correlation == "polychoric") {
    if (grouped) stop_input(message_of("e_polychoric_correlations_know"), hint = message_of("e_take_correlation_pearson"))
    list(core = polychoric_moments(polychoric_pairs(survey, items, treatment), items, empty_items(survey, items)), treatment = treatment)
  } else if (treatment == "imputed") {
    list(core = imputed_moments(survey, items, spread), treatment = treatment)
  } else if (treatment == "fiml" || (grouped && correlation == "pearson" && treatment == "listwise")) {
    likelihood_or_less(survey, items, treatment, also, spread, missing == "auto")
  } else {
    list(core = source_moments(survey, items, treatment, correlation), treatment = treatment)
  }
  out <- moments_of_core(found$core, source_count(survey)$used, found$treatment, scales, items, empty_items(survey, items), correlation)
  out$origin <- case_origin(survey)
  out$keying <- keying_behind(survey, items)
  saying(out, c(lapply(c(survey_notes(survey), design_note(survey)), `[[`, "said"),
    if (length(also) > 0 && found$treatment == "fiml") list(message_of("gaps_given", columns = also))))
}

# Polychoric correlations with gaps as treated.
polychoric_pairs <- function(survey, items, treatment, covariance = FALSE) {
  if (treatment == "imputed") imputed_pairs(survey, items) else source_pairs(survey, items, treatment == "listwise", covariance)
}

# Likelihood where it can be had; else, unless it was asked for, complete cases where they are enough, or pairs.
likelihood_or_less <- function(survey, items, treatment, also, spread, may_give_way) {
  if (treatment == "listwise") survey <- complete_survey(survey, items)
  core <- likelihood_moments(survey, items, also, spread)
  if (core$status == "ok" || treatment == "listwise") {
    return(list(core = core, treatment = treatment))
  }
  if (!may_give_way && core$status == "withheld") stop_rare_patterns(survey, core$n)
  if (!may_give_way) {
    stop_numeric(message_of("e_means_covariances_answers"), faults = empty_items(survey, items), hint = message_of("e_leave_items_out"))
  }
  complete <- source_moments(survey, items)
  enough <- complete$status == "ok" && complete$n > length(items)
  less <- if (enough) complete else source_moments(survey, items, "pairwise")
  why <- if (core$status == "withheld") message_of("rare_patterns_withheld", people = core$n) else message_of("likelihood_found_none")
  less$said <- list(message_of(if (enough) "complete_cases_taken" else "pairs_taken", why = why))
  list(core = less, treatment = if (enough) "listwise" else "pairwise")
}

# The cases that answered all of the items.
complete_survey <- function(survey, items) {
  take_cases(survey, which(unlist(source_by_rows(survey, items, function(rows, ...) stats::complete.cases(rows)))))
}

# Covariances at one level of a survey in clusters; n is that level's degrees of freedom plus one.
level_moments <- function(x, items, level) {
  if (!has_answers(x) || is.null(x$cluster)) {
    stop_input(message_of("e_level_needs_survey", level = level), hint = message_of("e_name_column_sw"))
  }
  items <- pick_items(x, items)
  sums <- cluster_sums(x, items, list)[[1]]
  levels <- core_levels_of_sums(sums, items)
  n <- if (level == "within") levels$n - levels$groups + 1 else levels$groups
  scales <- Filter(length, lapply(survey_scales(x, c("scored", "tryout")), intersect, items))
  new_moments(n, source_count(x)$used - levels$n, answer_centre(x, items)$mean, levels[[level]], paste("pairwise,", level, "clusters"), "answers",
    scales_or_all(scales, items), case_origin(x))
}

# Items that nobody answered.
empty_items <- function(survey, items) {
  count <- source_count(survey, items)
  items[count$missing %in% count$used]
}

# Polychoric correlations in the shape of other moments.
polychoric_moments <- function(found, items, empty) {
  if (found$status == "constant_item" && length(empty) == 0 && isTRUE(found$cases > 1)) {
    stop_numeric(message_of("e_some_items_do"), faults = messages_of("e_every_case_used", items = items[lengths(found$values) < 2]),
      hint = message_of("e_set_them_aside"))
  }
  if (found$status == "too_many_categories") {
    stop_numeric(message_of("e_polychoric_correlations_ordered"), hint = message_of("e_use_correlation_pearson"))
  }
  if (found$status != "ok" || found$cases < 2 || anyNA(found$r)) {
    return(list(status = "too_few_cases"))
  }
  list(
    status = "ok", n = found$cases, mean = stats::setNames(rep(NA_real_, length(items)), items), covariance = found$r,
    thresholds = found$thresholds, std_error = found$std_error, said = pair_messages(found$state)
  )
}

named_columns <- function(answers) stats::setNames(lapply(seq_len(ncol(answers)), function(j) answers[, j]), colnames(answers))

# What has to be said of single polychoric correlations.
pair_messages <- function(state) {
  of <- function(what, code) {
    at <- which(state == what & lower.tri(state), arr.ind = TRUE)
    if (nrow(at) > 0) message_of(code, pairs = messages_of("two_names", first = colnames(state)[at[, 2]], second = rownames(state)[at[, 1]]))
  }
  Filter(Negate(is.null), list(of("not_converged", "polychoric_not_converged"), of("at_bound", "polychoric_at_bound"),
    of("empty_cell", "polychoric_empty_cell"), of("too_few_cases", "polychoric_too_few")))
}

# A matrix that is there already cannot become another kind of correlation.
same_correlation <- function(moments, correlation) {
  if (correlation != "pearson" && correlation != moments$correlation) {
    stop_input(message_of("e_moments_hold_correlations", correlation = moments$correlation, correlation_too = correlation),
      hint = message_of("e_give_survey_make"))
  }
  moments
}

smoothed <- function(moments, smooth) {
  r <- core_correlation(moments$covariance)
  if (!smooth || anyNA(r) || core_definiteness(r) >= 1e-10) {
    return(moments)
  }
  sd <- sqrt(diag(moments$covariance))
  least <- min(eigen(r, symmetric = TRUE, only.values = TRUE)$values)
  moments$covariance <- core_smooth(r) * outer(sd, sd)
  saying(moments, list(message_of("smoothed", least = format(least, digits = 2))))
}

answer_moments <- function(answers, missing, scales = NULL, correlation = "pearson", spread = FALSE) {
  if (missing %in% c("auto", "fiml") && !anyNA(answers)) missing <- "listwise"
  if (missing == "auto") missing <- if (correlation == "pearson") "fiml" else "pairwise"
  if (missing == "fiml" && correlation != "pearson") stop_input(message_of("e_missing_fiml_pearson", correlation = correlation))
  listwise <- missing == "listwise"
  empty <- colnames(answers)[colSums(!is.na(answers)) == 0]
  unanswered <- sum(rowSums(!is.na(answers)) == 0)
  core <- switch(correlation,
    pearson = switch(missing,
      fiml = moments_by_likelihood(answers[rowSums(!is.na(answers)) > 0, , drop = FALSE], ncol(answers), spread = spread),
      listwise = core_complete_moments(answers), pairwise = core_pairwise_moments(answers)
    ),
    spearman = core_rank_moments(answers, listwise),
    polychoric = polychoric_moments(core_polychoric(named_columns(answers), complete = listwise), colnames(answers), empty)
  )
  moments_of_core(core, nrow(answers) - if (missing == "pairwise") unanswered else 0, missing, scales, colnames(answers), empty, correlation)
}

# What the core found, checked and named; `cases` is how many went in, `empty` (looked at
# only when it failed) the items that nobody answered.
moments_of_core <- function(core, cases, missing, scales, items, empty, correlation) {
  if (core$status != "ok" && missing == "fiml" && length(empty) == 0) {
    stop_numeric(message_of("e_means_covariances_answers"), hint = message_of("e_leave_items_out"))
  }
  if (core$status == "too_few_cases") {
    stop_numeric(message_of("e_fewer_two_cases", missing_said = if (missing == "listwise") message_of("e_all") else message_of("e_each_pair"),
      items = length(items)), faults = if (length(empty) > 0) messages_of("e_no_answers_at", empty = list(empty)),
        hint = message_of("e_leave_out_items"))
  }
  left_out <- if (missing %in% c("listwise", "fiml", "imputed")) cases - core$n else 0
  new_moments(core$n, left_out, core$mean, core$covariance, missing, "answers", scales_or_all(scales, items),
    correlation = correlation, said = as.list(core$said), thresholds = core$thresholds, std_error = core$std_error,
    gamma = core$gamma, pooled = core$pooled
  )
}

scales_or_all <- function(scales, items) {
  if (length(scales) == 0) {
    return(list(all = items))
  }
  check_names_known(unlist(scales, use.names = FALSE), items, "scales", "item")
  scales
}

# Only some items, in the order asked for.
narrow_moments <- function(moments, items) {
  if (is.null(items)) {
    return(moments)
  }
  known <- colnames(moments$covariance)
  items <- unlist(lapply(items, function(name) if (name %in% names(moments$scales)) moments$scales[[name]] else name))
  check_names_known(items, c(known), "items", "item")
  items <- unique(items)
  moments$mean <- moments$mean[match(items, known)]
  if (!is.null(moments$keying)) moments$keying <- moments$keying[match(items, moments$keying$item), ]
  of_items <- function(gamma) core_gamma_of(gamma, length(known), match(items, known))
  if (!is.null(moments$gamma)) moments$gamma <- of_items(moments$gamma)
  if (!is.null(moments$pooled)) moments$pooled$within <- of_items(moments$pooled$within)
  moments$covariance <- moments$covariance[items, items, drop = FALSE]
  if (!is.null(moments$thresholds)) {
    moments$thresholds <- moments$thresholds[items]
    moments$std_error <- moments$std_error[items, items, drop = FALSE]
  }
  scales <- lapply(moments$scales, intersect, items)
  moments$scales <- scales[lengths(scales) > 0]
  moments
}

# Items of a survey, or of moments.
known_items <- function(x) if (has_answers(x)) analysed_items(x) else colnames(x$covariance)

# Items named one by one or by subscale; scored items by default.
pick_items <- function(survey, items) {
  if (is.null(items)) {
    return(scored_items(survey))
  }
  scales <- survey_scales(survey, c("scored", "tryout"))
  known <- analysed_items(survey)
  check_names_known(items, c(names(scales), known), "items", "item or subscale")
  unique(unlist(lapply(items, function(name) {
    if (name %in% names(scales)) scales[[name]] else name
  })))
}

numeric_matrix <- function(x) {
  if (is.data.frame(x)) {
    text <- names(x)[!vapply(x, is.numeric, TRUE)]
    if (length(text) > 0) {
      stop_input(message_of("e_there_text_where"), faults = messages_of("e_column", text = text))
    }
    x <- as.matrix(x)
  }
  if (!is.matrix(x) || !is.numeric(x)) {
    stop_input(message_of("e_x_must_survey", x = what_is(x)))
  }
  if (ncol(x) == 0 || nrow(x) == 0) stop_input(message_of("e_x_empty_there"))
  if (any(is.infinite(x))) stop_input(message_of("e_x_holds_infinite"))
  if (is.null(colnames(x)) && !looks_published(x)) colnames(x) <- paste0("item", seq_len(ncol(x)))
  twice <- unique(colnames(x)[duplicated(colnames(x))])
  if (length(twice) > 0) stop_input(message_of("e_items_stand_twice", twice = twice))
  x
}

looks_published <- function(x) {
  nrow(x) == ncol(x) && nrow(x) > 1 && !anyNA(x) && max(abs(x - t(x))) <= 1e-8 * max(abs(x)) && all(diag(x) > 0)
}

# A survey or moments, as moments of scored items (or of those asked for).
as_moments <- function(x, items = NULL, missing = "auto", correlation = "pearson", smooth = FALSE, also = NULL, spread = FALSE) {
  if (!inherits(x, c("sw_survey", "sw_moments"))) {
    stop_input(message_of("e_first_argument_must", x = what_is(x)), hint = message_of("e_make_one_sw"))
  }
  any_moments(x, items = items, missing = missing, correlation = correlation, smooth = smooth, also = also, spread = spread)
}

# Items must vary before anything is made of their correlations.
check_variance <- function(moments) {
  variance <- diag(moments$covariance)
  flat <- names(variance)[is.na(variance) | variance <= 0]
  if (length(flat) > 0) {
    stop_numeric(message_of("e_some_items_do"), faults = messages_of("e_every_case_used_gives", flat = flat), hint = message_of("e_set_them_aside"))
  }
  invisible(moments)
}

check_positive_definite <- function(moments) {
  ratio <- core_definiteness(core_correlation(moments$covariance))
  if (is.na(ratio) || ratio < 1e-10) {
    p <- ncol(moments$covariance)
    few <- moments$n <= p
    stop_numeric(message_of("e_correlation_matrix_not"), faults = c(if (few) messages_of("e_only_items", n = moments$n, p = p),
      identical_pairs(moments$covariance)), hint = message_of("e_leave_out_duplicated"))
  }
  invisible(moments)
}

identical_pairs <- function(covariance) {
  r <- core_correlation(covariance)
  at <- which(abs(r) > 1 - 1e-9 & lower.tri(r) & !is.na(r), arr.ind = TRUE)
  messages_of("correlate_perfectly", first = colnames(r)[at[, 2]], second = colnames(r)[at[, 1]])
}
