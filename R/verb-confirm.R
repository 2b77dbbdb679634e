#' Confirm a factor structure
#'
#' Maximum likelihood for complete cases (Joreskog, 1969): covariances with
#' divisor n, chi-square = n F, standard errors from the expected information.
#'
#' @param x A survey or [sw_moments()].
#' @param structure A [sw_structure()]; by default the codebook's subscales.
#' @param estimator `"ml"`, or `"robust"`: the same estimates, with a mean-adjusted test and
#'   sandwich standard errors that allow for answers that are not normal (Satorra &
#'   Bentler, 1994), and CFI, TLI and RMSEA that go with it (Brosseau-Liard & Savalei, 2014;
#'   Brosseau-Liard, Savalei & Li, 2012). Needs single answers.
#' @param missing By default `"fiml"` where `"ml"` meets missing answers, else
#'   `"listwise"` (complete cases). `"fiml"` is maximum likelihood from
#'   everyone who answered any of the items (Arbuckle, 1996; means free; standard errors
#'   from the observed information), for answers missing at random. SRMR and residuals then
#'   compare with the means and covariances of the EM algorithm.
#' @param scaling `"variance"` (factor variances 1) or `"first"` (each factor's
#'   first loading 1).
#' @param level Level of the intervals of estimates.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_confirmation` with the tables
#'   * `fit`: figure, value, interval, bound, verdict; `indices`: further indices, with their
#'     source;
#'   * `loadings`: factor, item, estimate, std.error, statistic, p.value, interval,
#'     standardised, r_squared; paths to factors below another stand there, too;
#'   * `factor_correlations`, `residuals`, `estimates` (everything);
#'   * `reliability`: composite reliability (McDonald, 1999) and average variance extracted
#'     (Fornell & Larcker, 1981) of each factor's items, determinacy of the factor;
#'   * `modifications`: what freeing a loading or a residual pair would change: modification
#'     index (Sorbom, 1989), expected change, the same standardised, power to see a change
#'     that matters (Saris, Satorra & van der Veld, 2009), and how to read them together;
#'   * `residual_correlations`: sample less implied correlation, largest first, and the
#'     residual over its standard error (Joreskog & Sorbom, 1988).
#'
#'   A fit that did not converge or is improper says so first and carries no verdict.
#'   `augment()` adds factor scores to the data.
#' @section Errors: `scalewort_error_structure` when the structure names unknown
#'   items or is not identified; `scalewort_error_numeric` when the covariances
#'   are not positive definite or an item does not vary; `scalewort_error_input` for
#'   `"robust"` or `"fiml"` without single answers, or both together.
#' @examples
#' halves <- sw_split(sw_demo("plotholders"))
#' structure <- sw_structure(halves$validation) |> sw_add_pair("craft5", "craft6")
#' sw_confirm(halves$validation, structure, estimator = "robust")
#' @export
sw_confirm <- function(x, structure = NULL, estimator = "ml", missing = NULL, scaling = "variance", level = 0.95,
                       limits = sw_limits()) {
  check_choice(estimator, c("ml", "robust"), "estimator")
  if (!is.null(missing)) check_choice(missing, c("listwise", "fiml"), "missing")
  check_choice(scaling, c("variance", "first"), "scaling")
  check_number(level, "level", .5, .999)
  check_limits(limits)
  check_class(x, c("sw_survey", "sw_moments"), "x", "`sw_survey()` or `sw_moments()`")
  check_answers_there(x, estimator, missing)
  structure <- confirm_structure(x, structure)
  items <- structure_items(structure)
  if (is.null(missing)) missing <- if (estimator == "ml" && misses_any(x, items)) "fiml" else "listwise"
  incomplete <- missing == "fiml"
  moments <- if (incomplete) em_survey_moments(x, items) else confirm_moments(x, items)
  s <- if (incomplete) moments$covariance else moments$covariance * (moments$n - 1) / moments$n
  factors <- structure_factor_names(structure)
  cells <- structure_cells(structure, items, scaling, diag(s))
  start <- core_structure_start(cells, s, length(factors))
  check_identified(structure, cells, start, s, length(factors))

  fit <- if (incomplete) incomplete_fit(x, cells, moments, factors, start) else core_fit_structure(cells, s, length(factors), start)
  fit$implied <- dimnames_like(fit$implied, s)
  fit$matrices <- core_structure_matrices(cells, fit$theta, length(items), length(factors))
  problems <- fit_problems(fit, fit$matrices, items, factors)
  robust <- if (estimator == "robust" && length(problems) == 0) robust_parts(x, s, fit, cells)
  covariance <- if (is.null(robust)) core_estimate_covariance(fit$expected_hessian, moments$n) else robust$covariance
  believed <- length(problems) == 0 && !is.null(covariance)
  figures <- confirmation_figures(fit, cells, s, moments$n, robust)
  tables <- confirmation_tables(structure, items, cells, fit, s, moments$n, covariance, figures, level, limits, believed)
  new_result("sw_confirmation", "Confirmatory factor analysis",
    tables = tables, notes = c(problems, confirmation_notes(x, structure, moments, s, fit, items, tables, limits)),
    n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    status = if (fit$status != "ok") fit$status else if (believed) "ok" else "improper",
    options = list(
      estimator = estimator, missing = missing, scaling = scaling, level = level, iterations = fit$iterations,
      decrement = fit$decrement, parameters = max(cells$free), items = length(items), factors = length(factors)
    ),
    parts = list(
      figures = figures, observed = s, implied = fit$implied, residual_r = dimnames_like(core_residual_r(s, fit$implied), s),
      structure = structure, estimates_covariance = covariance, cells = cells, theta = fit$theta,
      weights = confirmation_weights(fit, structure), origin = moments$origin, source = if (inherits(x, "sw_survey")) x
    ),
    limits = limits
  )
}

# Does anyone in use miss an answer to one of the items?
misses_any <- function(x, items) {
  inherits(x, "sw_survey") && any(vapply(intersect(items, names(x$answers)), function(item) anyNA(x$answers[[item]][x$kept]), TRUE))
}

check_answers_there <- function(x, estimator, missing) {
  asked <- c(if (estimator == "robust") "`estimator = \"robust\"`", if (identical(missing, "fiml")) "`missing = \"fiml\"`")
  if (length(asked) > 0 && !inherits(x, "sw_survey")) {
    stop_input(paste0(asked[1], " needs single answers, and moments hold none."), hint = "Give the survey.")
  }
  if (length(asked) == 2) stop_input(paste0(and_list(asked), " do not go together."), hint = "Take one of them.")
}

# Means and covariances (divisor n) by maximum likelihood of everyone who answered
# anything, in the shape of other moments.
em_survey_moments <- function(x, items) {
  check_items_known(items, analysed_items(x))
  answers <- keyed_answers(x, items)
  n <- sum(rowSums(!is.na(answers)) > 0)
  em <- core_em(answers)
  if (em$status != "ok") {
    stop_numeric("The means and covariances of the answers cannot be found: too few answers to some item, or to some pair of items.",
      hint = "Leave items out, or use `missing = \"listwise\"`.")
  }
  moments <- new_moments(n, nrow(answers) - n, em$mean, em$covariance, "fiml", "answers", list(all = items), case_origin(x))
  check_variance(moments)
  check_positive_definite(moments)
}

incomplete_fit <- function(x, cells, moments, factors, start) {
  answers <- keyed_answers(x, colnames(moments$covariance))
  patterns <- core_answer_patterns(answers)
  fit <- core_fit_incomplete(cells, patterns, moments, length(factors), start)
  fit$patterns <- patterns
  fit$baseline <- core_incomplete_baseline(answers, fit$saturated)
  fit
}

# Scale of the test, sandwich covariances, scale of the baseline.
robust_parts <- function(x, s, fit, cells) {
  answers <- complete_answers(x, colnames(s), "estimator")
  df <- ncol(s) * (ncol(s) + 1) / 2 - max(cells$free)
  out <- core_robust(answers, s, fit$implied, cells, fit$matrices, fit$expected_hessian, df)
  out$baseline_scale <- core_baseline_scale(answers, s)
  out
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
  if (any(diag(spread) <= 0) || any(diag(matrices$residual) < 0)) {
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
    if (!inherits(x, "sw_survey")) {
      stop_structure("`structure` is needed: moments do not say which item belongs to which factor.")
    }
    return(sw_structure(x))
  }
  if (!inherits(structure, "sw_structure")) structure <- structure_from(structure, .40)
  structure
}

confirm_moments <- function(x, items) {
  check_items_known(items, if (inherits(x, "sw_survey")) analysed_items(x) else colnames(x$covariance))
  moments <- as_moments(x, items)
  check_variance(moments)
  check_positive_definite(moments)
  moments
}

check_items_known <- function(items, known) {
  unknown <- setdiff(items, known)
  if (length(unknown) > 0) {
    stop_structure("The structure names items that are not in the data.",
      faults = paste0(quoted(unknown), vapply(unknown, did_you_mean, "", known = known)))
  }
}

# Counts first, then the rank of the Jacobian away from the plain start.
check_identified <- function(structure, cells, start, s, m) {
  p <- ncol(s)
  df <- p * (p + 1) / 2 - length(start)
  alone <- names(structure$factors)[lengths(structure$factors) == 1]
  advice <- if (length(alone) > 0) {
    paste0("A factor of one item cannot be told from its residual: ", and_list(alone), ".")
  } else {
    "Give each factor at least three items, or link it to another factor."
  }
  if (df < 0) {
    stop_structure(paste0("The structure is not identified: ", length(start), " parameters for ",
      p * (p + 1) / 2, " variances and covariances."), hint = advice)
  }
  away <- start
  links <- cells$part == core_parts[["factor"]] & cells$row != cells$column & cells$free > 0
  away[cells$free[links]] <- 0.3 * sqrt(factor_scale(cells, start, cells$row[links]) * factor_scale(cells, start, cells$column[links]))
  if (isFALSE(core_identified(cells, away, s, m))) {
    stop_structure("The structure is not identified: some parameters cannot be told apart.", hint = advice)
  }
}

# Variance of factors at theta.
factor_scale <- function(cells, theta, factors) {
  own <- which(cells$part == core_parts[["factor"]] & cells$row == cells$column)
  own <- own[match(factors, cells$row[own])]
  ifelse(cells$free[own] > 0, theta[pmax(cells$free[own], 1)], cells$value[own])
}
