#' Is it the same scale for everyone?
#'
#' Fits one structure to several groups, to several waves, or to both, first freely and then
#' with more and more of it equal: `configural` (same pattern), `metric` (equal loadings),
#' `scalar` (equal intercepts, too: means may be compared), `strict` (equal residual
#' variances), and if asked `variances`, `covariances` and `means` of the factors.
#'
#' The first step is judged by its own fit, by the intervals of CFI and RMSEA: where it surely does not fit, nothing
#' is built on it. Each further step is held against the last one that holds, as long as none before
#' has failed; after one that fails, steps are fitted and shown but not judged (release what differs to go on). A step does not hold
#' when the (scaled) test of the difference sees it, corrected for small groups (Bartlett, 1950) and for the number of steps (Holm, 1979), *and* an
#' item can be named that differs by enough (bounds `loading_difference`, `intercept_difference`, `residual_difference`, in the item's standard
#' deviations): the equality of which the score tests are surest among all (Holm) is lifted, the step fitted again and the rest tested, until none is
#' sure or two items of a factor are left equal. Where only one of the two is so, the verdict is open. Changes of CFI, RMSEA and SRMR are shown and
#' decide nothing: in small or unequal groups they move by chance. RMSEA has the factor root of the number of groups (Steiger, 1998). The first
#' occasion has factor variances 1 and means 0.
#'
#' @param x A survey; or a data frame of answers and groups.
#' @param structure A [sw_structure()]; by default the codebook's subscales. With higher factors
#'   (over groups, one layer) there are the steps `paths` (equal loadings of the factors on those
#'   above) and `levels` (equal means that the lower factors have of their own), before the means
#'   of the higher factors can be compared.
#' @param by Column of groups, or several columns whose groups are crossed; none for waves alone. The first group in the order of a factor's
#'   levels, the codebook's labels, numbers or the alphabet is what the others are held against. The survey's own column of waves, where its `id`
#'   joins the rows, is taken for `across`.
#' @param across Column of waves, in data with a row per person and wave; the survey's `id`
#'   joins the rows. Residuals of the same item covary over waves.
#' @param steps The steps, in order; by default the four (with `"ordinal"` five) first ones.
#' @param estimator `"auto"`: as in [sw_confirm()], `"ordinal"` for answers of up to four options or skewed ones, where every group gives each
#'   answer at least five times, no weights, clusters, waves, higher factors or alignment are asked for and at most a tenth is missing; else
#'   `"robust"` where answers are not near normal, else `"ml"`. Or one of these. Ordered answers have the
#'   step `thresholds` before `metric`, identified by their number of categories (Wu &
#'   Estabrook, 2016): with three the step tells nothing, with two it goes together
#'   with loadings and intercepts. All occasions must use the same answers.
#' @param missing As in [sw_confirm()] (`"pairwise"` with `"ordinal"`); people who miss a wave stay in with `"fiml"`.
#' @param release Items whose equality is lifted: their names (loading and intercept, or thresholds, of each); or a list such as `list(intercept =
#' "soil5",
#'   loading = "kin2")`, with `residual` for residual variances and `threshold` for ordered answers; or `"auto"`: where a step
#'   does not hold, what differs goes, one equality after the other, as long as two of a factor's items stay equal. What was
#'   freed by looking is reported as such.
#' @param twins Do residuals of the same item covary over waves?
#' @param align Align the means of groups from the configural step, letting a few loadings and
#'   intercepts differ much and most of them hardly (Asparouhov & Muthén, 2014)? For many groups,
#'   where no step with equal intercepts can be hoped for.
#' @param also Columns of the data that tell who leaves answers out: groups are then compared by moments that likelihood finds with these beside the
#'   items, in two stages (see [sw_confirm()]).
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_invariance` with the tables
#'   * `steps`: chi-square, df, p, CFI, RMSEA with its 90\\% interval, SRMR, AIC, BIC, the
#'     changes, the (scaled) difference test corrected for small groups, its p among the steps, the difference of one item that would be seen with
#'     probability .8 (`detectable`, in the item's standard deviations), a verdict;
#'   * `named`: the items that differ at steps that do not hold, found one after the other, with the difference in the item's
#'     standard deviations and p among all (Holm);
#'   * `culprits`: of the first step that does not hold (or else the last), each equality's
#'     score test by itself and the expected change of the parameter, largest first: beside an item that differs others look different, too;
#'   * `means`: latent means of each occasion against the first, with variance, standardised
#'     difference and interval, from the last step that holds with equal intercepts;
#'   * `effects`: what unequal items do: difference of the expected answer, its standardised
#'     size (Nye & Drasgow, 2011), and what it does to the subscale's mean;
#'   * with `align`: `aligned`, each group's mean and standard deviation in units of the first
#'     group, with interval (delta method) and rank; `alignment`, how far each item's loading and
#'     intercept still differ, its share of all difference, and how much of its raw variation
#'     over groups the means and variances explain;
#'   * `anchors`, where half of a factor's intercepts or more were released: each mean difference as it is with the items left equal,
#'     and as it would be with the others left equal in their place;
#'   * `parameters`: every parameter by step, group and wave; `groups`: cases of each.
#' @section Errors: `scalewort_error_input` for one group, groups with no more cases than items
#'   (where two larger ones remain they are left out, and that is noted), waves
#'   without `id`; `scalewort_error_numeric` for an item that does not vary in a group;
#'   `scalewort_error_structure` for unknown items, statements on means, or higher factors
#'   where they cannot be examined.
#' @examples
#' survey <- sw_demo("plotholders")
#' four <- sw_drop(sw_structure(survey), items = "calm6")
#' sw_invariance(survey, four, by = "district", missing = "listwise")
#' @export
sw_invariance <- function(x, structure = NULL, by = NULL, across = NULL, steps = NULL, estimator = "auto",
                          missing = "auto", release = NULL, twins = TRUE, align = FALSE, also = NULL, limits = sw_limits()) {
  x <- as_survey(x, "x")
  check_options("invariance")
  structure <- confirm_structure(x, structure)
  # The same people at several waves are no strangers.
  if (is.null(across) && identical(by, x$wave) && !is.null(x$id)) {
    across <- by
    by <- NULL
  }
  if (is.null(by) && is.null(across)) by <- x$group
  if (missing == "auto") missing <- NULL
  chosen <- occasion_estimator(x, structure, estimator, missing, also, by, compares_thresholds(structure, by, across, align, steps))
  estimator <- chosen$estimator
  if (!is.null(missing)) check_choice(missing, c("listwise", if (estimator == "ordinal") "pairwise" else "fiml"), "missing")
  check_occasion_structure(structure, across, estimator)
  check_occasion_identified(structure, estimator)
  kinds <- if (estimator == "ordinal") ordered_step_kinds else if (length(structure$higher) > 0) higher_step_kinds else step_kinds
  steps <- check_steps(if (is.null(steps)) intersect(names(kinds), default_steps) else steps, kinds)
  basis <- occasion_basis(x, structure, by, across, missing, estimator, also)
  plan <- occasion_plan(structure, basis, release, twins, kinds)
  if (basis$ordered) steps <- ordered_steps(steps, lengths(basis$values))
  fits <- invariance_fits(plan, basis, steps, limits, identical(release, "auto"))
  tables <- invariance_tables(fits, plan, basis, limits)
  if (align) tables <- c(tables, alignment_tables(fits$configural, plan, basis))
  new_result("sw_invariance", "title_invariance",
    tables = tables, notes = c(if (is.null(across)) survey_notes(x) else waves_note(x, across), invariance_notes(fits, basis, tables),
      estimator_note(chosen), could_show_note(fits), design_note(x), if (!is.null(by)) spelling_note(x, by)),
    n = basis$n, n_left_out = basis$n_left_out, missing = basis$treatment,
    status = if (all(vapply(fits, `[[`, TRUE, "believed"))) "ok" else "improper",
    options = list(
      by = by, across = across, estimator = estimator, missing = basis$treatment, occasions = nrow(basis$labels), steps = names(fits),
      release = if (identical(release, "auto")) "auto" else if (!is.null(release)) "given"
    ),
    parts = list(fits = fits, structure = structure, labels = basis$labels), limits = limits
  )
}

# The estimator that "auto" stands for, and why: as a confirmation of the same answers has it, where ordered answers can be compared as such.
occasion_estimator <- function(x, structure, estimator, missing, also, by, ordinal) {
  items <- structure_items(structure)
  designed <- !is.null(x$weight) || !is.null(x$cluster)
  needs <- if (designed || length(also) > 0) "design" else ""
  chosen <- resolved_estimator(x, items, estimator, missing, needs_robust = needs, ordinal = ordinal)
  if (estimator == "auto" && chosen$estimator == "ordinal" && !categories_shared(x, items, by)) {
    chosen <- list(estimator = "robust", reason = message_of("but_categories_differ", reason = chosen$reason))
  }
  if (designed && chosen$estimator != "robust") stop_input(message_of("e_weights_clusters_survey"))
  refuse_also(also, chosen$estimator)
  chosen
}

# Can what is asked for be done of ordered answers? Not over waves side by side, since pairs would leave out who misses one.
compares_thresholds <- function(structure, by, across, align, steps) {
  !is.null(by) && is.null(across) && length(structure$higher) == 0 && !align && all(steps %in% names(ordered_step_kinds))
}

# Does every group use every answer, so that each has the same thresholds, and by five people at least, so that they can be estimated?
categories_shared <- function(x, items, by) {
  if (!gives_rows(x, c(items, by))) {
    return(FALSE)
  }
  answers <- source_rows(x, items)
  group <- group_of(x, by)
  large <- group %in% names(which(table(group) >= 2 * length(items)))
  all(vapply(items, function(item) all(table(answers[large, item], group[large]) >= 5), TRUE))
}

step_kinds <- list(
  configural = character(), metric = "loading", scalar = c("loading", "intercept"), strict = c("loading", "intercept", "residual variance"),
  variances = c("loading", "intercept", "residual variance", "factor variance"),
  covariances = c("loading", "intercept", "residual variance", "factor variance", "factor covariance"),
  means = c("loading", "intercept", "residual variance", "factor variance", "factor covariance", "mean")
)

# With factors above others, whose loadings are paths.
higher_step_kinds <- list(
  configural = character(), metric = "loading", paths = c("loading", "path"), scalar = c("loading", "path", "intercept"),
  levels = c("loading", "path", "intercept", "level"), strict = c("loading", "path", "intercept", "level", "residual variance")
)

default_steps <- c("configural", "thresholds", "metric", "paths", "scalar", "levels", "strict")

check_occasion_structure <- function(structure, across, estimator) {
  if (!is.null(structure$means)) stop_structure(message_of("e_invariance_examined_structures"))
  if (length(structure$higher) == 0) {
    return(invisible())
  }
  if (!is.null(across) || estimator == "ordinal") {
    stop_structure(message_of("e_structures_higher_factors"))
  }
  thin <- names(structure$higher)[lengths(structure$higher) < 3]
  if (length(thin) > 0) {
    stop_structure(message_of("e_two_factors_do", thin = thin), hint = message_of("e_higher_factor_needs_three"))
  }
  if (any(unlist(structure$higher) %in% names(structure$higher))) {
    stop_structure(message_of("e_invariance_examined_one"))
  }
}

# Each occasion's own structure must be identified, as in a confirmation; at any positive definite
# correlations.
check_occasion_identified <- function(structure, estimator) {
  items <- structure_items(structure)
  s <- .3 + diag(.7, length(items))
  dimnames(s) <- list(items, items)
  cells <- structure_cells(structure, items, "variance", diag(s))
  if (estimator == "ordinal") cells <- ordinal_cells(cells)
  factors <- structure_factor_names(structure)
  check_identified(structure, cells, core_structure_start(cells, s, length(factors)), list(s = s, kind = if (estimator == "ordinal") "ordinal" else
    "complete"), factors)
}

check_steps <- function(steps, kinds) {
  unknown <- setdiff(steps, names(kinds))
  if (length(unknown) > 0 || length(steps) == 0) {
    stop_input(message_of("e_unknown_steps_invariance"), faults = paste0(quoted(unknown), vapply(unknown, did_you_mean, "", known = names(kinds))),
      hint = message_of("e_steps", kinds = names(kinds)))
  }
  intersect(names(kinds), union("configural", steps))
}

# The cells of all occasions before anything is equal, and which are released.
occasion_plan <- function(structure, basis, release, twins, kinds) {
  items <- basis$items
  factors <- structure_factor_names(structure)
  base <- core_free_intercepts(structure_cells(structure, items, "variance", rep(1, length(items))), length(items))
  base <- base[c("part", "row", "column", "free", "value")]
  cells <- core_occasion_cells(base, basis$groups, basis$waves, length(items), length(factors), twins)
  plan <- list(cells = cells, base = base, items = items, factors = factors, kinds = kinds)
  if (basis$ordered) plan <- ordered_plan(plan, basis)
  plan$released <- released_cells(release, plan$base, items, structure, basis$ordered)
  plan
}

released_cells <- function(release, base, items, structure, ordered) {
  if (is.null(release) || identical(release, "auto")) {
    return(integer())
  }
  kinds <- c(if (ordered) c(threshold = "threshold"), loading = "loading", intercept = "intercept", residual = "residual variance")
  if (is.character(release) && is.null(names(release))) {
    check_in_structure(release, items, "item")
    # An item by its name: what the steps up to equal means hold equal of it.
    return(which(cell_kinds(base) %in% kinds[names(kinds) != "residual"] & base$row %in% match(release, items)))
  }
  if (!is.list(release) || is.null(names(release)) || !all(names(release) %in% names(kinds))) {
    stop_input(message_of("e_release_auto_items"))
  }
  check_in_structure(unlist(release), items, "item")
  unlist(lapply(names(release), function(name) which(cell_kinds(base) == kinds[[name]] & base$row %in% match(release[[name]], items))))
}

# One fit a step; with `auto` what a step names is released, and the step fitted once more.
invariance_fits <- function(plan, basis, steps, limits, auto) {
  fits <- list()
  # The first step that does not hold: nothing after it is judged.
  blocked <- NULL
  released <- plan$released
  rejected <- 0
  start <- if (basis$ordered) core_ordered_start(plan, basis) else core_occasion_start(plan, basis)
  for (step in steps) {
    kinds <- plan$kinds[[step]]
    held <- last_that_holds(fits)
    family <- max(length(steps) - 1 - rejected, 1)
    fit <- fit_step(plan, basis, kinds, released, start, held, limits, family)
    freed <- integer()
    if (auto && is.null(blocked) && fit$code == "missed" && length(fit$turn$freed) > 0) {
      freed <- fit$turn$freed
      released <- c(released, freed)
      fit <- fit_step(plan, basis, kinds, released, start, held, limits, family)
    }
    fit$blocked <- blocked
    if (fit$rejected) rejected <- rejected + 1
    if (is.null(blocked) && !step_holds(fit)) blocked <- step
    fit$freed <- freed
    fit$released <- intersect(released, which(cell_kinds(plan$base) %in% kinds))
    fits[[step]] <- fit
  }
  fits
}

last_that_holds <- function(fits) {
  good <- names(fits)[vapply(fits, function(f) step_holds(f) && is.null(f$blocked), TRUE)]
  if (length(good) > 0) fits[[good[length(good)]]] else if (length(fits) > 0 && fits[[1]]$believed) fits[[1]]
}

# family: among how many steps the level of the difference test is held.
fit_step <- function(plan, basis, kinds, released, start, before, limits, family) {
  fit <- fitted_step(plan, basis, kinds, released, start)
  fit$problems <- c(occasion_problems(fit, fit$cells, plan, basis), if (anyNA(fit$figures$scale)) list(message_of("no_scaled_test")))
  fit$believed <- fit$status == "ok" && length(fit$problems) == 0 && !is.null(fit$covariance)
  fit$test <- if (!is.null(before) && fit$believed) step_difference(fit, before, small_groups_factor(plan, basis), family)
  fit$rejected <- isTRUE(meets(fit$test$p_adjusted, limits, "test_p"))
  fit$turn <- if (!is.null(before)) released_in_turn(plan, basis, fit, kinds, released, start, limits)
  change <- function(figure) if (is.null(before)) NA_real_ else fit$figures[[figure]] - before$figures[[figure]]
  fit$fall <- -change("cfi")
  fit$rise <- change("rmsea")
  fit$srmr_rise <- change("srmr")
  fit$before <- before$figures
  fit$code <- if (!fit$believed) "untested" else if (is.null(before)) ground_code(fit, plan, basis, limits) else
    step_code(fit, utils::tail(kinds, 1) %in% names(item_sizes))
  fit
}

# Does the first step fit? The worst code of CFI and RMSEA by their intervals, from chi-square corrected for small groups.
ground_code <- function(fit, plan, basis, limits) {
  df <- fit$figures$df
  if (df == 0) {
    return("untested")
  }
  small <- ground_correction(plan, basis, length(fit$theta))
  noise <- core_scale_is_noise(fit, basis)
  scaled <- !is.null(fit$figures$chi_square_scaled) && !noise
  tested <- if (scaled) fit$figures$chi_square_scaled else fit$figures$chi_square
  robust <- scaled && !basis$ordered
  own <- core_fit_intervals(small * tested, df, basis$n / basis$groups, basis$baseline, if (robust) fit$figures$scale else 1,
    if (robust) basis$baseline$scale else 1)
  own <- own[own$figure != "tli", ]
  codes <- judge_code(own$value, limits, own$figure, own$low, own$high)
  c(intersect(c("missed", "near", "between", "met"), codes), "untested")[1]
}

# What chi-square of the first step is multiplied by, from the groups' mean size; with gaps that of complete cases who would have
# answered as many pairs.
ground_correction <- function(plan, basis, parameters) {
  if (basis$ordered) {
    return(1)
  }
  p <- length(plan$items) * basis$waves
  worth <- vapply(basis$samples, function(one) if (is.null(one$patterns)) one$n + 0 else pairs_of_patterns(one$patterns, p), 0)
  core_small_sample(p, length(plan$factors) * basis$waves, parameters / basis$groups - p, mean(worth))$factor
}

# Does a step hold against the last that does? It does not where the difference test sees it and items can be named that differ by enough; where only
# one of the two is so, that stays open. Of what has no items the test alone decides.
step_code <- function(fit, of_items) {
  named <- NROW(fit$turn$named) > 0
  if (!of_items) return(if (fit$rejected) "missed" else "met")
  if (fit$rejected && named) "missed" else if (fit$rejected || named) "near" else "met"
}

step_holds <- function(fit) fit$believed && fit$code %in% c("met", "between", "near", "untested")

# The difference test, corrected for small groups and among the steps. One that adds nothing (thresholds of items with three answers) has no test.
step_difference <- function(fit, before, small, family) {
  if (fit$figures$df == before$figures$df) {
    return(NULL)
  }
  df <- fit$figures$df - before$figures$df
  scale <- (fit$figures$df * c(fit$figures$scale, NA)[1] - before$figures$df * c(before$figures$scale, NA)[1]) / df
  # A scale of the difference that chance has made too small is replaced by that of the freer step.
  statistic <- small * if (isTRUE(scale < .5) && is.null(fit$quadratic)) max(fit$figures$chi_square - before$figures$chi_square, 0) /
    before$figures$scale else chi_square_difference(fit[c("figures", "quadratic")], before[c("figures", "quadratic")])$statistic
  p <- if (is.na(statistic)) NA_real_ else core_chi_square_p(statistic, df)
  list(statistic = statistic, p = p, p_adjusted = min(1, p * family))
}

occasion_problems <- function(fit, cells, plan, basis) {
  if (fit$status != "ok") {
    return(list(status_message(fit$status)))
  }
  value <- core_cell_values(cells, fit$theta)
  low <- which(cells$kind %in% c("residual variance", "factor variance") & value < 0)
  if (length(low) > 0) unique(occasion_messages(cells[low, ], plan, basis))
}
