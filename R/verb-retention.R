#' How many factors
#'
#' Several rules side by side, the fit of every number of factors, and a sentence on how
#' far the rules agree. No rule is right by itself: read the runner-up, too.
#'
#' @param x A survey or [sw_moments()].
#' @param items For a survey: items or subscales to take; all scored by default.
#' @param replicates Number of random correlation matrices of the parallel analysis.
#' @param percentile Percentile of the random eigenvalues to be beaten.
#' @param against Beat their `"percentile"` (stricter) or their `"mean"` (as in Horn, 1965)?
#' @param draws `"normal"`: random matrices of unrelated normal items; `"shuffled"`: these
#'   very answers, each item shuffled on its own (needs a survey).
#' @param comparison Also comparison data (Ruscio & Roche, 2012)? Needs a survey, and
#'   some seconds per factor.
#' @param most Largest number of factors fitted; the largest identified by default.
#' @param missing `"listwise"` or `"pairwise"`.
#' @param correlation `"pearson"`, `"spearman"` or `"polychoric"`; see [sw_moments()].
#' @param smooth Smooth a matrix that is not positive definite? See [sw_moments()].
#' @param seed Seed; the same seed gives the same figures.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_retention` with the tables
#'   * `rules`: rule, suggestion, what it looked at. Parallel analysis (Horn, 1965) of
#'     components and of common factors; minimum average partial (Velicer, 1976, and the
#'     fourth power of Velicer, Eaton & Fava, 2000); eigenvalues above 1 (Kaiser, 1960);
#'     empirical Kaiser criterion (Braeken & van Assen, 2017); bend of the scree: the
#'     eigenvalue furthest below the line from the first to the last (after Cattell,
#'     1966); first number whose chi-square is not significant at .05; lowest BIC; hull
#'     method on the relative noncentrality index (McDonald & Marsh, 1990; Lorenzo-Seva, Timmerman & Kiers, 2011); comparison data;
#'   * `fits`: for 0, 1, ... factors by maximum likelihood: chi-square, df, p, RMSEA with
#'     90% interval, CFI, TLI, SRMR, AIC, BIC, and what is wrong with the fit;
#'   * `eigenvalues`: of the correlations and of those with squared multiple correlations
#'     in the diagonal, with mean and percentile of the random ones;
#'   * `partials`: average squared and fourth-power partial correlation after each number
#'     of components.
#' @section Errors: `scalewort_error_numeric` for an item without variance or a matrix that
#'   is not positive definite; `scalewort_error_input` for fewer than three items, or for
#'   shuffling or comparison data without single answers.
#' @examples
#' sw_retention(sw_demo("plotholders"), replicates = 200)
#' @export
sw_retention <- function(x, items = NULL, replicates = 1000, percentile = .95, against = "percentile", draws = "normal", comparison = FALSE,
  most = NULL,
                         missing = "listwise", correlation = "pearson", smooth = FALSE, seed = 1, limits = sw_limits()) {
  check_options("retention")
  moments <- as_moments(x, items, missing, correlation, smooth)
  check_factor_input(moments)
  r <- core_correlation(moments$covariance)
  p <- ncol(r)
  if (!is.null(most)) check_number(most, "most", 1, core_most_factors(p), whole = TRUE)
  answers <- if (draws == "shuffled" || comparison) complete_answers(x, colnames(r), if (comparison) "comparison" else "draws")
  random <- random_spectra(r, moments, answers, draws, replicates, percentile, seed)
  spectra <- list(values = core_eigenvalues(r), reduced = core_reduced_eigenvalues(r), random = random)
  partials <- core_average_partials(r)
  fits <- core_fit_per_number(r, moments$n, if (is.null(most)) core_most_factors(p) else most)
  compared <- if (comparison) with_seed(seed, core_comparison_data(answers, core_most_factors(p), random = random_draws))
  rules <- rules_table(spectra, partials, fits, moments$n, compared, c(percentile = percentile, draws = draws, against = against), limits)
  new_result("sw_retention", "How many factors",
    tables = list(
      rules = rules, fits = fits_table(fits, limits), eigenvalues = eigenvalue_table(spectra, moments$n),
      partials = tibble::tibble(factors = seq_along(partials$squared) - 1L, squared = partials$squared, fourth = partials$fourth)
    ),
    notes = retention_notes(rules, moments), n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    options = list(correlation = moments$correlation, replicates = replicates, percentile = percentile, against = against,
      draws = draws, seed = seed),
    parts = list(agreement = rule_agreement(rules)), limits = limits
  )
}

complete_answers <- function(x, items, arg) {
  if (!has_answers(x)) stop_input(paste0("`", arg, "` needs single answers, and moments hold none."), hint = "Give the survey.")
  answers <- source_rows(x, items)
  answers[stats::complete.cases(answers), , drop = FALSE]
}

# Random eigenvalues of the plain and the reduced matrix: list(plain, reduced), each
# list(mean, percentile).
random_spectra <- function(r, moments, answers, draws, replicates, percentile, seed) {
  one <- function(reduced) {
    values <- if (draws == "normal") {
      core_random_eigenvalues(moments$n, ncol(r), replicates, seed, reduced)
    } else {
      correlate <- if (moments$correlation == "polychoric") function(x) core_polychoric(named_columns(x))$r else stats::cor
      with_seed(seed, core_shuffled_eigenvalues(answers, replicates, reduced, correlate, random_draws))
    }
    core_parallel(values, percentile)
  }
  list(plain = one(FALSE), reduced = one(TRUE))
}

rules_table <- function(spectra, partials, fits, n, compared, how, limits) {
  random <- spectra$random
  against <- how[["against"]]
  beaten <- paste(if (against == "mean") "mean" else paste(ordinal_word(100 * as.numeric(how[["percentile"]])), "percentile"),
    if (how[["draws"]] == "normal") "of chance" else "shuffled")
  components <- core_count_above(spectra$values, random$plain[[against]])
  common <- core_count_above(spectra$reduced, random$reduced[[against]])
  fits_well <- which(!meets(fits$p, limits, "test_p"))
  up_to <- fits$factors <= max(components, common, 2) + 1
  free <- fits$factors * length(spectra$values) - fits$factors * (fits$factors - 1) / 2
  hull <- core_hull(fits$factors[up_to], fits$noncentral_fit[up_to], free[up_to])
  row <- function(rule, suggestion, looked_at) tibble::tibble(rule = rule, suggestion = as.integer(suggestion), looked_at = looked_at)
  rbind(
    row("parallel analysis", components, paste(beaten, "(Horn, 1965)")),
    row("parallel analysis, common", common, "the same, common variance only"),
    row("average partial", which.min(partials$squared) - 1, "squared partial r (Velicer, 1976)"),
    row("average partial, fourth", which.min(partials$fourth) - 1, "fourth powers (Velicer et al., 2000)"),
    row("empirical Kaiser", core_count_above(spectra$values, core_empirical_kaiser(spectra$values, n)), "Braeken & van Assen (2017)"),
    row("hull", hull$factors, if (is.na(hull$factors)) "undefined: fewer than three points" else "Lorenzo-Seva, Timmerman & Kiers (2011)"),
    row("lowest BIC", fits$factors[which.min(fits$bic)], "fit per parameter (Schwarz, 1978)"),
    row(paste("chi-square p above", bound_text(limit(limits, "test_p")$bound)), if (length(fits_well) > 0) fits$factors[fits_well[1]] else NA,
      "asks for more, the larger n"),
    row("bend of the scree", core_scree_bend(spectra$values), "after Cattell (1966)"),
    row("eigenvalues above 1", sum(spectra$values > 1), "tends to too many (Kaiser, 1960)"),
    if (!is.null(compared)) row("comparison data", compared$factors, "such populations (Ruscio & Roche, 2012)")
  )
}

fits_table <- function(fits, limits) {
  trouble <- ifelse(fits$status != "ok", status_words_of(fits$status), ifelse(fits$at_bound == "", "", paste("uniqueness at its bound:",
    fits$at_bound)))
  tibble::tibble(
    factors = fits$factors, chi_square = fits$chi_square, df = fits$df, p.value = fits$p, rmsea = fits$rmsea,
    conf.low = fits$rmsea_low, conf.high = fits$rmsea_high, cfi = fits$cfi, tli = fits$tli, srmr = fits$srmr, aic = fits$aic, bic = fits$bic,
    trouble = trouble
  )
}

status_words_of <- function(status) vapply(status, function(one) if (one == "ok") "" else status_words(one), "", USE.NAMES = FALSE)

eigenvalue_table <- function(spectra, n) {
  values <- spectra$values
  tibble::tibble(
    number = seq_along(values), eigenvalue = values, random_mean = spectra$random$plain$mean, random_percentile = spectra$random$plain$percentile,
    common = spectra$reduced, common_mean = spectra$random$reduced$mean, common_percentile = spectra$random$reduced$percentile,
    empirical_kaiser = core_empirical_kaiser(values, n), share = values / length(values)
  )
}

# Which number most rules suggest, and which comes next: list(first, votes, second,
# second_votes, rules); second is NA when all agree.
rule_agreement <- function(rules) {
  said <- rules$suggestion[!is.na(rules$suggestion)]
  votes <- sort(table(said), decreasing = TRUE)
  numbers <- as.integer(names(votes))
  # Of equals, the one parallel analysis suggests, else the smaller.
  first <- numbers[votes == votes[1]]
  first <- if (rules$suggestion[1] %in% first) rules$suggestion[1] else min(first)
  others <- votes[numbers != first]
  second <- if (length(others) > 0) {
    near <- as.integer(names(others))[others == others[1]]
    near[which.min(abs(near - first))]
  } else {
    NA_integer_
  }
  list(
    first = first, votes = sum(said == first), second = second, second_votes = if (is.na(second)) 0L else sum(said == second),
    rules = length(said)
  )
}

retention_notes <- function(rules, moments) {
  parallel <- rules$suggestion[1]
  c(
    if (parallel == 0) note("nothing_beats_chance", "No eigenvalue beats chance: these items may have nothing in common.", rank = 1L),
    if (moments$correlation == "polychoric") note("polychoric_fit",
      "Fit and its p rest on polychoric correlations as if they were observed: read them for comparison, not as tests."),
    moments_notes(moments), small_sample_note(moments), left_out_note(moments)
  )
}

# What moments say of themselves.
moments_notes <- function(moments) note("moments", moments$notes, as.list(rep("", length(moments$notes))))

small_sample_note <- function(moments) {
  p <- ncol(moments$covariance)
  if (moments$n < 5 * p) note("small_sample",
    paste0("Only ", coefficient_text(moments$n / p, 1), " cases per item: expect unstable results."), per_item = moments$n / p, rank = 1L)
}

# Listwise deletion that costs more than a fifth of the cases.
left_out_note <- function(moments) {
  total <- moments$n + moments$n_left_out
  if (moments$missing == "listwise" && moments$n_left_out > total / 5) {
    note("cases_left_out", paste0("Complete cases are only ", moments$n, " of ", total, ": compare with `missing = \"pairwise\"`."),
      n = moments$n, of = total)
  }
}

# What every factoring of a correlation matrix needs.
check_factor_input <- function(moments, least = 3) {
  p <- ncol(moments$covariance)
  if (p < least) {
    stop_input(paste0("There ", if (p == 1) "is " else "are ", count_of(p, "item"), "; factors need at least ", least, "."))
  }
  check_variance(moments)
  check_positive_definite(moments)
}

ordinal_word <- function(n) {
  last <- round(n) %% 10
  suffix <- if (last %in% 1:3 && !(round(n) %% 100) %in% 11:13) c("st", "nd", "rd")[last] else "th"
  paste0(format(n), suffix)
}
