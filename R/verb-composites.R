#' The same assessment for weighted composites
#'
#' Where subscales are taken as weighted sums of their items rather than as common factors: weights
#' by iterative partial least squares (Wold, 1982), with the figures that journals ask for.
#'
#' @param x A survey or [sw_moments()]; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param structure A [sw_structure()] of plain factors, each item in one of them; by default the
#'   codebook's subscales.
#' @param mode `"A"` (items reflect the composite: weights by correlation) or `"B"` (items form
#'   it: weights by regression); one for all, or a vector named by composite.
#' @param leads Which composites lead to which, as a list such as `list(calm = c("craft",
#'   "kinship"))` (craft and kinship lead to calm). By default every two are connected, without
#'   direction.
#' @param scheme Inner weights: `"path"` (without `leads` the same as `"factor"`), `"factor"`
#'   (correlations) or `"centroid"` (their signs).
#' @param consistent Correct loadings, correlations and paths of mode A composites for
#'   unreliability by rho_A (Dijkstra & Henseler, 2015)?
#' @param replicates Resamples behind intervals; 0 for none.
#' @param level Level of the intervals.
#' @param missing,also How missing answers are treated, see [sw_moments()]; where likelihood treats them, or people are weighted or in clusters,
#'   intervals come from moments drawn by their covariance matrix.
#' @param seed Seed of the resamples.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_composites` with the tables `composites` (mode, items, alpha, rho_A, composite
#'   reliability, AVE, R squared and redundancy where something leads to it, verdicts),
#'   `items` (weight and loading with intervals, variance inflation in the block),
#'   `correlations` (correlation, HTMT), `paths` (if there are directions) and `cross` (each
#'   item's correlation with every composite). `augment()` adds the composites' scores.
#' @section Errors: `scalewort_error_structure` for items in two factors or higher factors;
#'   `scalewort_error_input` for unknown modes, composites or circular directions;
#'   `scalewort_error_numeric` when the algorithm does not converge.
#' @examples
#' sw_composites(sw_demo("plotholders"), leads = list(calm = c("craft", "kinship")), replicates = 200)
#' @export
sw_composites <- function(x, structure = NULL, mode = "A", leads = NULL, scheme = "path", consistent = FALSE, replicates = 500, level = .95,
                          missing = "auto", also = NULL, seed = 1, limits = sw_limits()) {
  x <- as_survey_or_moments(x)
  check_class(x, c("sw_survey", "sw_moments"), "x", "`sw_survey()` or `sw_moments()`")
  check_options("composites")
  structure <- confirm_structure(x, structure)
  check_plain_blocks(structure)
  items <- structure_items(structure)
  check_items_known(items, known_items(x))
  moments <- check_variance(as_moments(x, items, missing, also = also, spread = TRUE))
  r <- stats::cov2cor(moments$covariance)
  blocks <- lapply(structure$factors, match, items)
  regress <- composite_modes(mode, names(blocks)) == "B"
  joins <- composite_leads(leads, names(blocks))
  # Without directions nothing leads: neighbours count by their correlations, whatever their order.
  if (is.null(leads) && scheme == "path") scheme <- "factor"
  fit <- core_block_weights(r, blocks, regress, joins, scheme)
  if (!fit$converged || anyNA(fit$weight)) {
    stop_numeric(message_of("e_weights_composites_did"), hint = message_of("e_try_another_scheme"))
  }
  dimnames(fit$weight) <- list(items, names(blocks))
  found <- core_composite_figures(r, blocks, regress, fit$weight)
  correlations <- if (consistent) core_consistent_correlations(found$correlations, found$rho_a) else found$correlations
  dimnames(correlations) <- rep(list(names(blocks)), 2)
  inner <- core_composite_paths(correlations, joins)
  bounds <- composite_bounds(x, moments, blocks, regress, joins, scheme, consistent, fit$weight, replicates, level, seed)
  directed <- !is.null(leads)
  tables <- list(
    composites = composites_table(r, moments, blocks, regress, fit$weight, found, inner, consistent, directed, limits),
    items = composite_items(r, blocks, regress, fit$weight, found, consistent, bounds),
    correlations = composite_pairs(r, blocks, correlations, bounds, limits)
  )
  if (directed) tables$paths <- composite_path_table(inner$paths, joins, bounds, length(blocks))
  tables$cross <- matrix_table(found$cross |> `dimnames<-`(dimnames(fit$weight)), "item")
  tables$verdicts <- ranked_verdicts(
    verdict_rows("factor", tables$composites$composite, judge(tables$composites$composite_reliability, limits, "composite_reliability")),
    verdict_rows("factor", tables$composites$composite, judge(tables$composites$ave, limits, "ave")),
    verdict_rows("pair", paste(tables$correlations$composite, "and", tables$correlations$with, recycle0 = TRUE),
      judge(tables$correlations$htmt, limits, "htmt"))
  )
  new_result("sw_composites", "title_composites",
    tables = tables, notes = c(repeated_items_note(tables$items), composite_notes(regress, names(blocks), consistent, correlations, bounds,
      replicates)), n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    options = list(
      mode = paste(names(blocks), ifelse(regress, "B", "A")), scheme = scheme, consistent = consistent, iterations = fit$iterations,
        replicates = replicates,
      level = level, seed = seed
    ),
    parts = list(weights = fit$weight, correlations = correlations, mean = moments$mean, sd = sqrt(diag(moments$covariance)),
      source = if (has_answers(x)) held_survey(x)), limits = limits
  )
}

check_plain_blocks <- function(structure) {
  twice <- unique(unlist(structure$factors)[duplicated(unlist(structure$factors))])
  if (length(twice) > 0 || length(structure$higher) > 0) {
    stop_structure(message_of("e_composites_plain_blocks"), faults = messages_of("e_stands_two", twice = twice))
  }
}

composite_modes <- function(mode, names) {
  if (!is.character(mode) || !all(mode %in% c("A", "B"))) stop_input(message_of("e_mode_b_vector"))
  if (is.null(names(mode))) {
    if (length(mode) != 1) stop_input(message_of("e_several_modes_need"))
    return(rep(mode, length(names)))
  }
  check_names_known(names(mode), names, "mode", "composite")
  out <- stats::setNames(rep("A", length(names)), names)
  out[names(mode)] <- mode
  out
}

# leads[j, i] is 1 when j leads to i; without directions all two-way.
composite_leads <- function(leads, names) {
  k <- length(names)
  if (is.null(leads)) {
    return(matrix(1L, k, k) - diag(1L, k))
  }
  if (!is.list(leads) || is.null(names(leads))) stop_input(message_of("e_leads_list_such"))
  check_names_known(c(names(leads), unlist(leads)), names, "leads", "composite")
  out <- matrix(0L, k, k, dimnames = list(names, names))
  for (to in names(leads)) out[leads[[to]], to] <- 1L
  reach <- out
  for (i in seq_len(k)) reach <- (reach + reach %*% out > 0) * 1L
  if (any(diag(reach) > 0)) stop_input(message_of("e_directions_leads_go"))
  out
}

# From resampled complete cases; where moments come with their covariance matrix, from moments drawn by it.
composite_bounds <- function(x, moments, blocks, regress, joins, scheme, consistent, weight, replicates, level, seed) {
  if (replicates < 20 || (!gives_rows(x, rownames(weight)) && is.null(moments$gamma))) {
    return(NULL)
  }
  drawn <- function(gamma) {
    if (is.null(gamma)) {
      answers <- source_complete_rows(x, rownames(weight))
      return(core_resample_composites(answers, blocks, regress, joins, scheme, consistent, weight, replicates, seed))
    }
    drawn <- with_seed(seed, core_drawn_covariances(moments$covariance, gamma, moments$n, replicates, random_draws))
    core_composites_of(drawn, blocks, regress, joins, scheme, consistent, weight)
  }
  found <- core_pooled_percentiles(drawn, moments$gamma, moments$pooled, moments$n - 1, level)
  values <- found$values
  list(
    ends = found$ends,
    error = apply(values, 2, stats::sd, na.rm = TRUE), used = sum(stats::complete.cases(values)), items = length(unlist(blocks)), k = length(blocks)
  )
}

# The interval of figure number `at` (weights, loadings, correlations, paths in that order).
bound_at <- function(bounds, at, end) if (is.null(bounds)) rep(NA_real_, length(at)) else bounds$ends[end, at]

composite_loadings <- function(found, blocks, weight, consistent, k) {
  b <- blocks[[k]]
  if (consistent && !is.na(found$rho_a[k])) weight[b, k] * sqrt(found$rho_a[k]) / sum(weight[b, k]^2) else found$cross[b, k]
}

composites_table <- function(r, moments, blocks, regress, weight, found, inner, consistent, directed, limits) {
  k <- seq_along(blocks)
  loadings <- lapply(k, function(i) composite_loadings(found, blocks, weight, consistent, i))
  figures <- vapply(k, function(i) if (regress[i]) c(NA_real_, NA_real_) else core_loading_reliability(loadings[[i]]), numeric(2))
  communality <- vapply(k, function(i) core_variance_extracted(found$cross[blocks[[i]], i]), 0)
  judged_table(verdict_reliability = "composite_reliability", verdict_ave = "ave", table = plain_table(
    composite = names(blocks), mode = unname(ifelse(regress, "B", "A")), items = lengths(blocks, use.names = FALSE),
    alpha = vapply(blocks, function(b) if (length(b) > 1) core_alpha(r[b, b]) else NA_real_, 0, USE.NAMES = FALSE), rho_a = found$rho_a,
    composite_reliability = figures[1, ], ave = figures[2, ], r_squared = if (directed) inner$r_squared else NA_real_,
    redundancy = if (directed) inner$r_squared * communality else NA_real_,
    verdict_reliability = ifelse(regress, NA_character_, judge_code(figures[1, ], limits, "composite_reliability")),
    verdict_ave = ifelse(regress, NA_character_, judge_code(figures[2, ], limits, "ave"))
  ))
}

composite_items <- function(r, blocks, regress, weight, found, consistent, bounds) {
  total <- length(unlist(blocks))
  before <- cumsum(c(0, lengths(blocks)))
  do.call(rbind, lapply(seq_along(blocks), function(k) {
    b <- blocks[[k]]
    at <- before[k] + seq_along(b)
    loadings <- composite_loadings(found, blocks, weight, consistent, k)
    plain_table(
      composite = names(blocks)[k], item = colnames(r)[b], weight = unname(weight[b, k]), conf.low = bound_at(bounds, at,
        1), conf.high = bound_at(bounds, at, 2),
      loading = unname(loadings),
      loading_low = if (consistent) NA_real_ else bound_at(bounds, total + at, 1), loading_high = if (consistent) NA_real_ else bound_at(bounds,
        total + at, 2),
      vif = unname(core_inflation(r[b, b, drop = FALSE]))
    )
  }))
}

composite_pairs <- function(r, blocks, correlations, bounds, limits) {
  k <- length(blocks)
  at <- which(lower.tri(correlations), arr.ind = TRUE)
  ratio <- core_htmt(r, blocks)[at]
  place <- 2 * length(unlist(blocks)) + (at[, 2] - 1) * k + at[, 1]
  judged_table(verdict = "htmt", table = plain_table(
    composite = colnames(correlations)[at[, 2]], with = rownames(correlations)[at[,
      1]], correlation = correlations[at], conf.low = bound_at(bounds, place, 1),
    conf.high = bound_at(bounds, place, 2), htmt = ratio,
    verdict = judge_code(ratio, limits, "htmt")
  ))
}

composite_path_table <- function(paths, joins, bounds, k) {
  at <- which(joins == 1, arr.ind = TRUE)
  place <- 2 * (if (is.null(bounds)) 0 else bounds$items) + k^2 + (at[, 2] - 1) * k + at[, 1]
  error <- if (is.null(bounds)) rep(NA_real_, nrow(at)) else bounds$error[place]
  plain_table(
    from = rownames(paths)[at[, 1]], to = colnames(paths)[at[, 2]], estimate = paths[at], std.error = error, statistic = paths[at] / error,
    conf.low = bound_at(bounds, place, 1), conf.high = bound_at(bounds, place, 2)
  )
}

composite_notes <- function(regress, names, consistent, correlations, bounds, replicates) {
  c(
    if (any(regress)) note("formed", message_of("composites_formed", composites = names[regress]), names[regress]),
    if (consistent && any(abs(correlations[lower.tri(correlations)]) > 1)) note("beyond_one", message_of("composites_beyond_one"), rank = 1L),
    if (!is.null(bounds) && bounds$used < replicates) note("resamples_out", message_of("resamples_out", without = replicates - bounds$used,
      replicates = replicates), without = replicates - bounds$used),
    note("errors_included", message_of("composites_errors_included"), rank = 3L)
  )
}

# The composites' scores, standardised, of those who answered all items of one.
composite_scores <- function(x) {
  survey <- survey_behind(x)
  if (is.null(survey)) stop_input(message_of("e_scores_need_answers"), hint = message_of("e_give_survey_sw"))
  answers <- source_rows(survey, rownames(x$parts$weights))
  z <- sweep(sweep(answers, 2, x$parts$mean), 2, x$parts$sd, "/")
  scores <- vapply(colnames(x$parts$weights), function(name) {
    own <- x$parts$weights[, name] != 0
    as.vector(z[, own, drop = FALSE] %*% x$parts$weights[own, name])
  }, numeric(nrow(z)))
  out <- source_everyone(survey)
  for (name in colnames(scores)) out[[paste0(name, "_composite")]] <- at_all_cases(survey, scores[, name])
  out
}
