#' Exploratory factor analysis
#'
#' Extraction of common factors from a correlation matrix, then rotation. Factors are
#' ordered by the variance they explain, each turned so that its loadings sum to a positive
#' number.
#'
#' @param x A survey or [sw_moments()]; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param factors Number of factors, from 1 to the largest number that leaves no
#'   negative degrees of freedom; or several, to be compared (see Value).
#' @param extraction `"ml"` (maximum likelihood; Jöreskog, 1967), `"minres"` (least
#'   squares; Harman & Jones, 1966), `"gls"` (generalised least squares; Jöreskog &
#'   Goldberger, 1972), `"paf"` (iterated principal axes, from squared multiple
#'   correlations), `"alpha"` (Kaiser & Caffrey, 1965) or `"pca"` (principal components,
#'   which are no common factors).
#' @param rotation `"varimax"`, `"quartimax"`, `"equamax"`, `"parsimax"` (orthogonal;
#'   Crawford & Ferguson, 1970), `"crawford_ferguson"` with `kappa`, `"promax"` (Hendrickson
#'   & White, 1964), `"oblimin"` with `gamma`, `"quartimin"` (Jennrich & Sampson, 1966),
#'   `"geomin"` with `epsilon` (Yates, 1987), `"infomax"` (McKeon, in Browne, 2001),
#'   `"target"` with `target`, `"bigeomin"` (a general factor first, group factors beside
#'   it, which `factors` counts, too; Jennrich & Bentler, 2012) or `"none"`.
#' @param items For a survey: items or subscales to take; all scored by default.
#' @param missing,also How missing answers are treated, see [sw_moments()]. Where likelihood treats them, the
#'   solution is found in two stages (Yuan & Bentler, 2000; Savalei & Bentler, 2009): that of the likelihood's correlations, whose
#'   standard errors, residual tests and chi-square allow for the gaps (the last adjusted by mean and variance, above 40 items by the
#'   mean; corrected for small samples as if from as many complete cases as the moments are as sure as). The chi-square of unrelated items, which
#'   CFI and TLI compare with, is adjusted by its mean alone: both come out a little higher than with that in both places.
#' @param correlation `"auto"` (polychoric for answers with up to four options, or skewed ones with up to ten; else Pearson, as the output says),
#'   `"pearson"`, `"spearman"` or `"polychoric"`; see [sw_moments()].
#' @param smooth Smooth a matrix that is not positive definite? See [sw_moments()].
#' @param normalise `"kaiser"` (rows brought to length one while rotating) or
#'   `"none"`; a target is always met as it stands.
#' @param gamma Obliqueness of oblimin; 0 is the usual choice.
#' @param epsilon Small constant of geomin and bigeomin.
#' @param kappa Weight of the columns in `"crawford_ferguson"`.
#' @param power Power of promax.
#' @param target For `"target"`: a matrix items x factors of loadings aimed at, `NA` where
#'   a loading is free.
#' @param oblique May factors correlate, where a criterion allows both
#'   (`"crawford_ferguson"`, `"geomin"`, `"infomax"`, `"target"`)?
#' @param starts Number of random starts of the rotation; from 20 on four times as many where fewer than three come to the best place.
#' @param errors Standard errors of loadings and factor correlations: `"analytic"`
#'   (Archer & Jennrich, 1973; Jennrich, 1973; for normal answers, or from the covariance
#'   matrix of polychoric correlations), `"bootstrap"` (resampled cases, factors matched and
#'   turned to the solution) or `"none"`. By default analytic ones where there is a formula.
#' @param replicates Number of resamples for `errors = "bootstrap"`.
#' @param level Level of their intervals.
#' @param multiplier `"n"`: chi-square = n F, as in a confirmation;
#'   `"bartlett"`: n - 1 - (2p + 5)/6 - 2m/3 (Bartlett, 1950).
#' @param hide Loadings smaller than this in size are left blank in print; they stay in the
#'   tables.
#' @param names Names for the factors, in their order; `F1`, `F2`, ... else.
#' @param seed Seed of all random draws.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_exploration` with the tables
#'   * `pattern`: item, a column of loadings per factor, communality, uniqueness,
#'     complexity (Hofmann, 1978), `belongs`;
#'   * `items`: what each item's loadings say, in words, with the two largest;
#'   * `structure`: correlations of items with factors; `factor_correlations`;
#'   * `general`: for correlated factors, loadings on a general factor above them and what
#'     is left for each (Schmid & Leiman, 1957), with the share of the item's common
#'     variance that is general;
#'   * `variance`: sum of squares, share of total and of common variance per factor, and
#'     the same before rotation;
#'   * `fit`: chi-square, df, p, RMSEA with 90% interval, TLI, CFI, SRMR, root mean square
#'     residual; for other methods than ml and gls the chi-square is that of the likelihood
#'     at their estimates;
#'   * `residuals`: residual correlations, largest first;
#'   * `estimates`: loading, standard error and interval, of loadings and factor
#'     correlations;
#'   * `minima`: where the random starts of the rotation ended, and how many;
#'   * `scoring`: determinacy of each factor (Guttman, 1955) and correlation of each kind
#'     of factor score with its factor;
#'   * `route`: items dropped so far with [sw_drop()] and what it changed.
#'
#'   `parts` holds the matrices. `augment()` adds factor scores to the data. With several
#'   numbers of `factors`, a `sw_solutions`: a table `comparison`, and the explorations in
#'   `parts$solutions`, to be taken out with `[[`: `solutions[[4]]`.
#' @section Errors: `scalewort_error_input` for an impossible number of factors or target;
#'   `scalewort_error_numeric` for a matrix that is not positive definite or an
#'   item without variance.
#' @examples
#' exploration <- sw_explore(sw_demo("plotholders"), factors = 4)
#' exploration
#' sw_structure(exploration)
#' sw_explore(sw_demo("plotholders"), factors = 2:5)
#' @export
sw_explore <- function(x, factors, extraction = "ml", rotation = "oblimin", items = NULL,
                       missing = "auto", correlation = "auto", smooth = FALSE, also = NULL, normalise = "kaiser",
                       gamma = 0, epsilon = .01, kappa = 0, power = 4, target = NULL, oblique = TRUE,
                       starts = 30, errors = NULL, replicates = 500, level = .95, multiplier = "n", hide = .30,
                       names = NULL, seed = 1, limits = sw_limits()) {
  x <- as_survey_or_moments(x)
  if (!missing(factors) && is.numeric(factors) && length(factors) > 1) {
    call <- as.list(environment())
    return(explore_several(call))
  }
  settings <- list(
    extraction = extraction, rotation = rotation, normalise = normalise, gamma = gamma, epsilon = epsilon, kappa = kappa, power = power,
    target = target, oblique = oblique, starts = starts, errors = errors, replicates = replicates, level = level, multiplier = multiplier,
    hide = hide, seed = seed
  )
  check_options("explore", c(settings, list(missing = missing, correlation = correlation, smooth = smooth, limits = limits)))
  chosen <- resolved_correlation(x, items, correlation, missing)
  correlation <- chosen$correlation
  moments <- as_moments(x, items, missing, correlation, smooth, also, spread = TRUE)
  check_factor_input(moments)
  check_factor_number(if (missing(factors)) NULL else factors, ncol(moments$covariance))
  settings$target <- check_target(settings, colnames(moments$covariance), factors)
  labels <- check_factor_names(names, factors)
  source <- list(x = x, items = items, missing = missing, correlation = correlation, smooth = smooth, also = also, names = names)
  r <- core_correlation(moments$covariance)
  extracted <- core_extract(r, factors, extraction)
  exploration_of(extracted, moments, factors, settings, labels, source, limits) |> with_notes(correlation_note(chosen))
}

# A whole exploration from an extraction.
exploration_of <- function(extracted, moments, factors, settings, labels, source, limits, route = NULL) {
  r <- core_correlation(moments$covariance)
  rotated <- rotate_extracted(extracted$loadings, settings)
  ordered <- ordered_solution(rotated, settings, labels)
  pairs <- correlation_spread(moments, source)
  estimates <- loading_estimates(ordered, rotated, extracted, moments, settings, source, pairs)
  scoring <- scoring_table(r, ordered, extracted$uniqueness)
  tables <- exploration_tables(ordered, extracted, r, moments$n, factors, settings, limits, pairs, estimates)
  options <- c(
    list(factors = factors, correlation = moments$correlation), settings[c("extraction")],
    list(rotation = if (factors == 1) "none" else settings$rotation), rotation_parameters(settings),
    settings["normalise"], list(starts = max(settings$starts, length(rotated$values))), settings[c("multiplier", "hide", "seed")],
    list(extraction_starts = extracted$starts, iterations = extracted$iterations, largest_gradient = extracted$largest_gradient)
  )
  new_result("sw_exploration", "title_exploration",
    tables = c(tables, list(estimates = estimates$table, minima = minima_table(rotated)), list(scoring = scoring$table), list(route = route),
      list(verdicts = exploration_verdicts(tables, limits))) |>
      Filter(f = Negate(is.null)),
    notes = exploration_notes(extracted, rotated, ordered, moments, settings, tables, estimates, limits, pairs),
    n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing, status = extracted$status, options = options,
    parts = list(
      centre = if (has_answers(source$x) && moments$correlation != "pearson") answer_centre(source$x, colnames(r)),
      pattern = ordered$loadings, structure = ordered$loadings %*% ordered$correlations,
      factor_correlations = ordered$correlations, uniqueness = extracted$uniqueness, unrotated = extracted$loadings,
      correlations = r, rotation = rotated, minima = rotated$minima, weights = scoring$weights, origin = moments$origin,
      extracted = extracted, moments = without_gamma(moments), settings = settings, source = utils::modifyList(source,
        list(x = held_survey(source$x))),
      planes = factor_planes(ordered), keying = keying_behind(source$x, colnames(r))
    ),
    limits = limits
  )
}

rotate_extracted <- function(loadings, settings, starts = settings$starts) {
  target <- if (is.null(settings$target)) matrix(0, 1, 1) else settings$target
  core_rotate(loadings, settings$rotation, settings$normalise, as.integer(starts), settings$seed, settings$power,
    gamma = settings$gamma, epsilon = settings$epsilon, kappa = settings$kappa, target = target, oblique = settings$oblique)
}

# Each pair of factors as a plane, by the pair's numbers.
factor_planes <- function(ordered) {
  m <- ncol(ordered$loadings)
  pairs <- if (m > 1) utils::combn(m, 2, simplify = FALSE) else list()
  names(pairs) <- vapply(pairs, paste, "", collapse = " ")
  lapply(pairs, function(pair) core_plane(ordered$loadings, ordered$correlations, pair))
}

# Factors in order and named; those of a target stay where the target has them, each turned towards its free loadings.
ordered_solution <- function(rotated, settings, labels) {
  m <- ncol(rotated$loadings)
  ordered <- if (settings$rotation == "target" && m > 1) {
    core_face_target(rotated$loadings, rotated$correlations, settings$target)
  } else {
    core_order_factors(rotated$loadings, rotated$correlations, fixed = if (settings$rotation == "bigeomin" && m > 2) 1 else 0)
  }
  colnames(ordered$loadings) <- labels
  diag(ordered$correlations) <- 1
  dimnames(ordered$correlations) <- list(labels, labels)
  ordered
}

# The parameters that the rotation chosen has.
rotation_parameters <- function(settings) {
  has <- list(oblimin = "gamma", geomin = c("epsilon", "oblique"), bigeomin = "epsilon", crawford_ferguson = c("kappa", "oblique"),
    promax = "power", infomax = "oblique", target = "oblique")
  settings[has[[settings$rotation]]]
}

check_target <- function(settings, items, factors) {
  target <- settings$target
  if (settings$rotation != "target") {
    return(NULL)
  }
  fine <- is.matrix(target) && is.numeric(target) && identical(dim(target), c(length(items), as.integer(factors)))
  if (!fine) {
    stop_input(message_of("e_target_must_matrix", items = length(items), factors = factors, target = what_is(target)),
      hint = message_of("e_loadings_aimed_at"))
  }
  if (!is.null(rownames(target)) && setequal(rownames(target), items)) target <- target[items, , drop = FALSE]
  if (all(is.na(target))) stop_input(message_of("e_every_cell_target"))
  target
}

check_factor_number <- function(factors, p) {
  most <- core_most_factors(p)
  if (is.null(factors)) {
    stop_input(message_of("e_factors_number_factors"), hint = message_of("e_sw_retention_suggests"))
  }
  if (most < 1) stop_input(message_of("e_items_too_few", p = p))
  check_number(factors, "factors", 1, most, whole = TRUE)
}

check_factor_names <- function(names, factors) {
  if (is.null(names)) {
    return(paste0("F", seq_len(factors)))
  }
  if (!is.character(names) || length(names) != factors || anyNA(names) || anyDuplicated(names) || any(names == "")) {
    stop_input(message_of("e_names_must_different", factors = factors, names = what_is(names)))
  }
  names
}
