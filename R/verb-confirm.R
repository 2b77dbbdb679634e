#' Confirm a factor structure
#'
#' Maximum likelihood for complete cases by default (Jöreskog, 1969): covariances with
#' divisor n, chi-square = n F, standard errors from the expected information.
#'
#' @param x A survey or [sw_moments()]; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param structure A [sw_structure()]; by default the codebook's subscales.
#' @param estimator `"auto"`, and the output says what was taken and why: `"ordinal"` for answers with up to four options, or
#'   skewed ones with up to ten; `"robust"` for others that are not near normal (mean skewness or excess kurtosis beyond 1), and
#'   for ordered ones of which more than a tenth is missing; else `"ml"`. `"ml"`; `"robust"`: the same estimates, with a mean-adjusted test and
#'   sandwich standard errors that allow for answers that are not normal (Satorra &
#'   Bentler, 1994; with missing answers Yuan & Bentler, 2000), and CFI, TLI and RMSEA that go
#'   with it (Brosseau-Liard & Savalei, 2014; Brosseau-Liard, Savalei & Li, 2012);
#'   `"ordinal"`: polychoric correlations, least squares weighted by their variances, robust
#'   errors (Muthén, 1993) and a mean-and-variance adjusted test (Asparouhov & Muthén,
#'   2010), for answers with few categories; `"ordinal_uls"`: the same without weights;
#'   `"gls"`, `"uls"`: generalised and unweighted least squares of the covariances (Browne,
#'   1984). Robust and ordinal ones need single answers.
#' @param missing `"auto"`: `"fiml"` where `"ml"` or `"robust"` meets missing answers,
#'   `"pairwise"` where an ordinal estimator does (each correlation from everyone who
#'   answered both items: for answers missing completely at random), else `"listwise"`
#'   (complete cases). `"fiml"` is maximum likelihood from
#'   everyone who answered any of the items (Arbuckle, 1996; standard errors
#'   from the observed information), for answers missing at random. SRMR and residuals then
#'   compare with the means and covariances of the EM algorithm.
#' @param scaling `"variance"` (factor variances 1), `"first"` (each factor's
#'   first loading 1) or `"effects"` (each factor's loadings average 1; Little, Slegers &
#'   Card, 2006).
#' @param improper What to do about a negative residual or factor variance: `"keep"` it (the
#'   fit says so first and carries no verdict), `"bound"` variances at zero, or
#'   `"refuse"` with an error.
#' @param weights,cluster For `"robust"`: columns of the data with sampling weights, and with the
#'   cluster (class, household, ...) each case is from; errors and
#'   test allow for both. Those of the survey where it has them.
#' @param also Columns of the data that tell who leaves answers out. The structure is then fitted in two stages: to the means and
#'   covariances that likelihood finds with these columns beside the items, with errors and test that allow for the gaps (Yuan &
#'   Bentler, 2000; Savalei & Bentler, 2009). So are moments by likelihood, see [sw_moments()].
#' @param level Level of the intervals of estimates.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_confirmation` with the tables
#'   * `fit`: figure, value, the same corrected for few cases, from which the verdict comes (chi-square by the factor of Swain, 1975, or
#'     below three cases an item of Bartlett, 1950; with gaps, of as many cases as answered both items of a pair; below 100 cases not
#'     raised by a scale below one), interval, bound, verdict; `indices`: further indices, with their
#'     source (AIC and BIC count every free parameter and the means of all items, whether the
#'     structure speaks of means or not; ECVI leaves out as many as there are items); `convergence`: what was checked before anything is believed;
#'   * `loadings`: factor, item, estimate, std.error, statistic, p.value, interval,
#'     standardised, r_squared; paths to factors below another stand there, too;
#'   * `factors` (variances, covariances), `factor_correlations` (with intervals by the delta
#'     method), `residuals`, `intercepts` (or `thresholds` of ordered answers), `r_squared`,
#'     `estimates` (everything, the standardised value with an error of its own);
#'   * `reliability`: composite reliability (McDonald, 1999) and average variance extracted
#'     (Fornell & Larcker, 1981) of each factor's items, determinacy of the factor;
#'   * `modifications`: what freeing a loading or a residual pair would change: modification
#'     index (Sörbom, 1989; for least squares of correlations the generalised score test,
#'     Satorra, 1989), expected change, the same standardised, power to see a change
#'     that matters (Saris, Satorra & van der Veld, 2009), and how to read them together;
#'   * `readings`, where one is claimed: another structure (a crossing, a pair, an item moved, two factors as one, a factor as two, a
#'     factor of wording) whose BIC is lower by more than 8 (a merge: at all; Schwarz, 1978; Chen & Chen, 2008) and, of a single parameter,
#'     whose score test stands out among all; of an improper solution against the same structure within its bounds (van Driel, 1978);
#'   * `power`: of the tests of close, not-close and exact fit, with as many people (MacCallum, Browne & Sugawara, 1996);
#'   * `residual_correlations`: sample less implied correlation, largest first, and the
#'     residual over its standard error (Jöreskog & Sörbom, 1988; with missing answers up to 36
#'     items, unless robust).
#'
#'   A fit that did not converge or is improper says so first and carries no verdict.
#'   `augment()` adds factor scores to the data.
#' @section Errors: `scalewort_error_structure` when the structure names unknown
#'   items or is not identified; `scalewort_error_numeric` when the covariances
#'   are not positive definite, an item does not vary, or `improper = "refuse"` has something
#'   to refuse; `scalewort_error_input` for an estimator without the answers it needs, or
#'   options that do not go together.
#' @examples
#' halves <- sw_split(sw_demo("plotholders"))
#' structure <- sw_structure(halves$validation) |> sw_add_pair("craft5", "craft6")
#' sw_confirm(halves$validation, structure, estimator = "robust")
#' @export
sw_confirm <- function(x, structure = NULL, estimator = "auto", missing = "auto", scaling = "variance", improper = "keep",
                       weights = NULL, cluster = NULL, also = NULL, level = 0.95, limits = sw_limits()) {
  check_options("confirm")
  confirmed(x, structure, estimator, missing, scaling, improper, weights, cluster, also, level, limits)
}

# The codebook's structure, fitted to complete cases for what bare fits have.
quick_confirmation <- function(x, estimator = "auto") {
  confirmed(x, NULL, estimator, "listwise", "variance", "keep", NULL, NULL, NULL, .95, sw_limits(), read = FALSE, bare = TRUE)
}

# The confirmation; with `read` FALSE without looking for what its misfit is made of, which takes several fits more; with `bare` only its
# status and what a test against another fit needs.
confirmed <- function(x, structure, estimator, missing, scaling, improper, weights, cluster, also, level, limits, read = TRUE, bare = FALSE) {
  x <- as_survey_or_moments(x)
  check_class(x, c("sw_survey", "sw_moments"), "x", "`sw_survey()` or `sw_moments()`")
  structure <- confirm_structure(x, structure)
  if (identical(missing, "auto")) missing <- NULL
  if (has_answers(x) && is.null(weights)) weights <- x$weight
  if (has_answers(x) && is.null(cluster)) cluster <- x$cluster
  needs <- robust_needs(x, structure, missing, weights, cluster, also)
  chosen <- resolved_estimator(x, structure_items(structure), estimator, missing, !is.null(structure$means), needs, !identical(missing, "fiml"))
  estimator <- chosen$estimator
  options <- confirm_options(x, estimator, missing, scaling, improper, weights, cluster, level, also)
  items <- structure_items(structure)
  factors <- structure_factor_names(structure)
  check_means_allowed(structure, options)
  basis <- confirm_sample(x, items, options)
  basis$keying <- keying_behind(x, items)
  options$missing <- basis$treatment
  cells <- confirm_cells(structure, basis, options)
  start <- core_structure_start(cells, basis$s, length(factors), basis$mean)
  check_identified(structure, cells, start, basis, factors)

  fit <- fit_sample(basis, cells, length(factors), start, options, structure)
  problems <- fit_problems(fit, items, factors)
  refuse_improper(problems, options)
  believed <- length(problems) == 0 && !is.null(fit$covariance)
  figures <- c(core_confirmation_figures(fit, basis), pooled_figures(x, basis, cells, fit, length(factors)))
  if (bare) {
    status <- if (fit$status != "ok") fit$status else if (believed) "ok" else "improper"
    return(list(about = list(status = status, options = options), parts = list(figures = figures, quadratic = fit$quadratic)))
  }
  tables <- confirmation_tables(structure, items, cells, fit, basis, figures, options, limits, believed)
  readings <- if (read) readings_of(x, structure, basis, cells, fit, tables, options, limits, problems)
  if (NROW(readings$table) > 0 || any(rejected_fit(tables$fit))) tables$readings <- readings$table
  tables$verdicts <- confirmation_verdicts(tables, figures, fit, believed, limits)
  new_result("sw_confirmation", "title_confirmation",
    tables = tables, notes = c(problems, confirmation_notes(structure, basis, cells, fit, items, factors, tables, limits, options,
      attr(tables$fit, "correction"), believed), estimator_note(chosen),
      if (is.null(cluster)) survey_notes(x), design_note(designed(x, weights, cluster))),
    n = basis$n, n_left_out = basis$n_left_out, missing = basis$missing,
    status = if (fit$status != "ok") fit$status else if (believed) "ok" else "improper",
    options = c(options, list(
      iterations = fit$iterations, starts = fit$starts, reached = fit$reached, decrement = fit$decrement, parameters = fit$parameters,
      items = length(items), factors = length(factors)
    )),
    parts = list(
      figures = figures, observed = basis$s, implied = fit$implied, residual_r = dimnames_like(core_residual_r(basis$s, fit$implied), basis$s),
      implied_mean = fit$implied_mean, mean = if (core_has_means(cells)) fit$implied_mean else basis$mean, structure = structure,
      estimates_covariance = fit$covariance, readings = readings$structures, cells = cells, theta = fit$theta,
      matrices = fit$matrices, weights = confirmation_weights(fit, structure), origin = basis$origin,
      source = if (has_answers(x)) held_survey(x), gamma = if (!has_answers(x)) basis$gamma, centre = basis$centre, values = basis$values,
        quadratic = fit$quadratic, keying = basis$keying
    ),
    limits = limits
  )
}

# Weights of standardised answers for factor scores, as in an exploration; NULL where the
# solution does not allow them.
confirmation_weights <- function(fit, structure) {
  place <- standard_places(fit, structure)
  if (is.null(place)) NULL else core_score_weights(stats::cov2cor(fit$implied), place$pattern, place$correlations, place$uniqueness)
}

# Standardised loadings on the factors of items: list(pattern, correlations, uniqueness),
# or NULL for an improper solution.
standard_places <- function(fit, structure) {
  matrices <- fit$matrices
  spread <- core_factor_covariance(matrices)
  impossible <- is.null(tryCatch(chol(fit$implied), error = function(e) NULL))
  if (impossible || any(diag(spread) <= 0) || any(diag(matrices$residual) < 0)) {
    return(NULL)
  }
  of_items <- seq_along(structure$factors)
  pattern <- (matrices$loading * outer(1 / sqrt(diag(fit$implied)), sqrt(diag(spread))))[, of_items, drop = FALSE]
  dimnames(pattern) <- list(colnames(fit$implied), names(structure$factors))
  list(pattern = pattern, correlations = stats::cov2cor(spread)[of_items, of_items, drop = FALSE],
    uniqueness = diag(matrices$residual) / diag(fit$implied))
}

dimnames_like <- function(m, like) {
  dimnames(m) <- dimnames(like)
  m
}

confirm_structure <- function(x, structure) {
  if (is.null(structure)) {
    if (!has_answers(x)) {
      stop_structure(message_of("e_structure_needed_moments"))
    }
    return(sw_structure(x))
  }
  if (!inherits(structure, "sw_structure")) structure <- structure_from(structure, .40)
  structure
}

check_items_known <- function(items, known) {
  unknown <- setdiff(items, known)
  if (length(unknown) > 0) {
    stop_structure(message_of("e_structure_names_items"), faults = paste0(quoted(unknown), vapply(unknown, did_you_mean, "", known = known)))
  }
}

# Why only the robust estimator will do: "design" (weights, clusters, helping columns), "stages" (moments with their own covariance matrix), or "".
robust_needs <- function(x, structure, missing, weights, cluster, also) {
  of_moments <- inherits(x, "sw_moments") && !is.null(x$gamma)
  staged <- of_moments || imputed_gaps(x, structure_items(structure), missing)
  if ((staged || length(also) > 0) && !is.null(structure$means)) stop_structure(message_of("e_structured_means_not"),
    hint = message_of("e_leave_out_also"))
  if (!is.null(weights) || !is.null(cluster) || length(also) > 0) "design" else if (staged) "stages" else ""
}

# Are there gaps that are imputed, and no other treatment asked for?
imputed_gaps <- function(x, items, missing) {
  is.null(missing) && has_answers(x) && has_imputations(x, items) && misses_any(x, items)
}

# The survey as weighted, and in the clusters, that this verb was told of.
designed <- function(x, weights, cluster) {
  if (has_answers(x)) {
    x["weight"] <- list(weights)
    x["cluster"] <- list(cluster)
  }
  x
}

# Another confirmation as this one was made, its misfit not read unless asked.
confirm_again <- function(x, source, structure = x$parts$structure, read = FALSE, bare = FALSE) {
  of <- x$about$options
  answered <- has_answers(source)
  confirmed(source, structure, estimator = of$estimator, missing = if (answered && of$missing != "imputed") of$missing else "auto",
    scaling = of$scaling, improper = of$improper, weights = if (answered) of$weights, cluster = if (answered) of$cluster,
    also = if (answered) of$also, level = of$level, limits = x$limits, read = read, bare = bare)
}

# The likelihood ratio over imputations (Meng & Rubin, 1992); NULL where there are none, or people are weighted or in clusters.
pooled_figures <- function(x, basis, cells, fit, factors) {
  if (basis$treatment != "imputed" || basis$kind != "complete" || fit$status != "ok" || !is.null(x$weight) || !is.null(x$cluster)) {
    return(NULL)
  }
  samples <- lapply(seq_len(x$imputed$m), function(i) {
    rows <- imputed_rows(x, colnames(basis$s), i)
    list(covariance = unname(stats::cov(rows)) * (nrow(rows) - 1) / nrow(rows), mean = unname(colMeans(rows)))
  })
  found <- core_pooled_ratio(samples, basis$n, cells, factors, fit$theta, fit$df)
  if (!is.null(found)) list(pooled_ratio = found$statistic, pooled_ratio_p = found$p, pooled_rise = found$rise)
}
