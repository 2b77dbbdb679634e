#' Would other people give the same factors?
#'
#' Draws half-samples at random, explores both halves, and compares their factors by
#' congruence (Tucker, 1951); with `by`, the factors of groups.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param factors Number of factors.
#' @param halves Number of random splits.
#' @param by Name of a grouping column: adds the table `groups`.
#' @param ... Further arguments of [sw_explore()], such as `extraction` and `rotation`.
#' @param seed Seed of the splits.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_stability` with the tables
#'   * `factors`: for each factor of the whole sample its congruence between halves: mean, the range of the middle 90% of
#'     splits, the mean to be expected of halves of this size if the solution were true (from samples of its correlations), lowest,
#'     the share of splits in which it reaches the bounds; verdict by that range, none where even a true
#'     factor would not be expected to come back;
#'   * `items`: share of half-samples in which an item loads most on the same factor;
#'   * `splits`: the congruence of each factor in each split;
#'   * `groups`: congruence of each factor between each pair of groups, with an interval for groups of these sizes and what would
#'     be expected of them if the solution were true; verdict by that interval, none where that would be too little.
#'
#'   Factors of halves and groups are matched, and turned, to those of the whole.
#' @section Errors: those of [sw_explore()]; `scalewort_error_input` for moments, which hold
#'   no cases to split.
#' @examples
#' sw_stability(sw_demo("plotholders"), factors = 4, halves = 20)
#' @export
sw_stability <- function(survey, factors, halves = 100, by = NULL, ..., seed = 1, limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("stability")
  check_passed_on(names(list(...)), ...length())
  whole <- sw_explore(survey, factors, ..., errors = "none", seed = seed, limits = limits)
  settings <- whole$parts$settings
  reference <- whole$parts$pattern
  people <- factor_sample(survey, whole)
  answers <- people$answers
  solve_for <- function(rows) cases_solution(answers[rows, , drop = FALSE], whole, settings, people$weight[rows])
  pairs <- with_seed(seed, over_series(seq_len(halves), "Split", function(i) {
    first <- sample.int(nrow(answers), nrow(answers) %/% 2)
    list(solve_for(first), solve_for(-first))
  }))
  fine <- Filter(function(pair) !is.null(pair[[1]]) && !is.null(pair[[2]]), pairs)
  if (length(fine) == 0) {
    stop_numeric(message_of("e_no_half_sample"))
  }
  alike <- t(vapply(fine, function(pair) diag(core_congruence(pair[[1]], pair[[2]])), numeric(factors)))
  if (factors == 1) alike <- t(alike)
  colnames(alike) <- colnames(reference)
  expected <- colMeans(sampled_congruence(whole, whole, rep(sample_size(people) %/% 2, 2), 15L, seed))
  groups <- if (!is.null(by)) group_congruence(survey, by, rownames(reference), whole, settings, limits, seed)
  factors_table <- stability_table(alike, expected, limits, halves)
  judged <- function(t) judge(t$congruence, limits, "congruence", t$conf.low, t$conf.high, t$verdict_reason)
  verdicts <- ranked_verdicts(verdict_rows("factor", factors_table$factor, judged(factors_table)), if (!is.null(groups)) verdict_rows("group",
    paste0(groups$factor, ", ", groups$first, " and ", groups$second), judged(groups)))
  new_result("sw_stability", "title_stability",
    tables = c(list(factors = factors_table, items = home_table(reference, fine), splits = splits_table(alike)),
      if (!is.null(groups)) list(groups = groups), list(verdicts = verdicts)),
    notes = stability_notes(factors_table, fine, halves,
      nrow(answers) %/% 2), n = nrow(answers), n_left_out = source_count(survey)$used - nrow(answers),
      missing = people$treatment,
    options = c(list(halves = halves, by = by), whole$about$options[c("factors", "extraction", "rotation", "seed")]) |> Filter(f = Negate(is.null)),
    parts = list(whole = whole), limits = limits
  )
}

# What the halves take over from an exploration of the whole.
check_passed_on <- function(given, count) {
  known <- setdiff(names(formals(sw_explore)), c("x", "survey", "factors", "errors", "level", "replicates", "names",
    "multiplier", "hide", "seed", "limits"))
  unknown <- setdiff(given, known)
  if (length(unknown) > 0 || count > length(given)) {
    stop_input(message_of("e_sw_stability_does", unknown_said = if (length(unknown) > 0) message_of("e_said_seven", unknown = unknown[1],
      unknown_too = did_you_mean(unknown[1], known)) else message_of("e_more_unnamed_arguments")), hint = message_of("e_hands_on", known = known))
  }
}

# The cases that halves are drawn from: list(answers, with helping columns behind the items; weight; treatment): everybody who answered
# anything where the exploration is of them, complete cases else.
factor_sample <- function(survey, whole) {
  items <- rownames(whole$parts$pattern)
  everyone <- whole$parts$moments$missing %in% c("fiml", "imputed")
  people <- likelihood_sample(survey, items, if (everyone) whole$parts$source$also, if (everyone) items_beside(survey, items))
  if (!everyone) people <- complete_sample_rows(people)
  c(people, treatment = if (everyone) "fiml" else "listwise")
}

# The loadings of some cases, turned and matched to the whole; NULL where there is no
# solution.
cases_solution <- function(answers, whole, settings, weight = NULL) {
  count <- nrow(whole$parts$pattern)
  r <- switch(whole$parts$moments$correlation,
    pearson = if (anyNA(answers) || !is.null(weight)) likelihood_correlations(answers, count, weight) else
      core_correlation(core_complete_moments(answers)$covariance), spearman = core_rank_moments(answers, TRUE)$covariance,
    polychoric = core_polychoric(named_columns(answers))$r
  )
  if (is.null(r) || anyNA(r) || core_definiteness(r) < 1e-10) {
    return(NULL)
  }
  found <- aligned_solution(r, ncol(whole$parts$pattern), settings, whole$parts$pattern)
  if (!is.null(found)) `dimnames<-`(found$loadings, dimnames(whole$parts$pattern))
}

likelihood_correlations <- function(answers, count, weight) {
  answers <- answers[, apply(answers, 2, function(x) isTRUE(stats::sd(x, na.rm = TRUE) > 0)), drop = FALSE]
  if (ncol(answers) < count) {
    return(NULL)
  }
  found <- moments_by_likelihood(answers, count, weight)
  if (found$status == "ok") core_correlation(found$covariance)
}

# How many people count: with gaps, as many as answered both of two items.
sample_size <- function(people) if (anyNA(people$answers)) round(core_pair_count(people$answers)) else nrow(people$answers)

# Where most splits gave no solution, those that did are no fair sample of them.
stability_table <- function(alike, expected, limits, halves) {
  rule <- limit(limits, "congruence")
  mean <- colMeans(alike)
  ends <- apply(alike, 2, stats::quantile, probs = c(.05, .95), names = FALSE)
  reason <- ifelse(!is.na(expected) & expected < rule$bound, "half_size", "")
  if (nrow(alike) < halves / 2) reason <- rep("few_solutions", length(reason))
  judged_table(verdict = "congruence", reason = "verdict_reason", table = plain_table(
    factor = colnames(alike), congruence = unname(mean), conf.low = ends[1, ], conf.high = ends[2,
      ], congruence_expected = unname(expected), congruence_lowest = unname(apply(alike, 2, min)),
    share_fair = unname(colMeans(alike >= rule$bound)), share_good = unname(colMeans(alike >= rule$better)),
    verdict = judge_code(unname(mean), limits, "congruence", ends[1, ], ends[2, ], reason), verdict_reason = reason
  ))
}

home_table <- function(reference, pairs) {
  home <- max.col(abs(reference), ties.method = "first")
  halves <- unlist(pairs, recursive = FALSE)
  same <- vapply(halves, function(l) max.col(abs(l), ties.method = "first") == home, logical(nrow(reference)))
  plain_table(item = rownames(reference), factor = colnames(reference)[home], share_same = unname(rowMeans(same)))
}

splits_table <- function(alike) {
  plain_table(split = rep(seq_len(nrow(alike)), ncol(alike)), factor = rep(colnames(alike), each = nrow(alike)), congruence = as.vector(alike))
}

group_congruence <- function(survey, by, items, whole, settings, limits, seed) {
  groups <- dif_groups(survey, by, NULL)
  everyone <- whole$parts$moments$missing %in% c("fiml", "imputed")
  answers <- source_rows(survey, items)
  some <- if (everyone) rowSums(!is.na(answers)) > 0 else stats::complete.cases(answers)
  of <- group_of(survey, groups$by)
  of <- ifelse(some & of %in% groups$names, of, NA)
  solutions <- lapply(groups$names, function(g) {
    people <- factor_sample(take_cases(survey, which(of %in% g)), whole)
    cases_solution(people$answers, whole, settings, people$weight)
  })
  sizes <- vapply(groups$names, function(g) sum(of %in% g), 1L)
  bound <- limit(limits, "congruence")$bound
  pairs <- utils::combn(length(solutions), 2)
  rows <- lapply(seq_len(ncol(pairs)), function(k) {
    at <- pairs[, k]
    two <- solutions[at]
    value <- if (any(vapply(two, is.null, TRUE))) rep(NA_real_, ncol(whole$parts$pattern)) else unname(diag(core_congruence(two[[1]], two[[2]])))
    drawn <- sampled_congruence(whole, whole, sizes[at], 50L, seed)
    ends <- congruence_interval(value, drawn)
    expected <- unname(colMeans(drawn))
    reason <- ifelse(!is.na(expected) & expected < bound, "group_size", "")
    plain_table(first = groups$names[at[1]], second = groups$names[at[2]], factor = colnames(whole$parts$pattern), congruence = value,
      conf.low = ends$low, conf.high = ends$high, congruence_expected = expected,
      verdict = judge_code(value, limits, "congruence", ends$low, ends$high, reason), verdict_reason = reason)
  })
  judged_table(do.call(rbind, rows), verdict = "congruence", reason = "verdict_reason")
}

stability_notes <- function(factors, fine, halves, size) {
  weak <- factors$factor[factors$verdict == "missed"]
  small <- factors$factor[factors$verdict_reason == "half_size"]
  c(
    if (length(small) > 0) note("halves_too_small", message_of("halves_too_small", size = size, factors = small), small),
    if (length(weak) > 0) note("not_found_again", message_of("not_found_again", factors = weak), weak, rank = 1L),
    if (length(fine) < halves) note("splits_without", message_of(if (length(fine) < halves / 2) "most_splits_without" else "splits_without",
      without = halves - length(fine), halves = halves), without = halves - length(fine), rank = if (length(fine) < halves / 2) 1L else 2L)
  )
}
