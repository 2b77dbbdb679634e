#' How many factors
#'
#' Eigenvalues of the correlation matrix beside those of unrelated items of the
#' same number and cases (parallel analysis; Horn, 1965), and the count above
#' one (Kaiser, 1960).
#'
#' @param x A survey or [sw_moments()].
#' @param items For a survey: items or subscales to take; all scored by default.
#' @param replicates Number of random correlation matrices.
#' @param percentile Percentile of the random eigenvalues to be beaten.
#' @param missing `"listwise"` or `"pairwise"`.
#' @param seed Seed; the same seed gives the same figures.
#' @return A `sw_retention` with the tables `rules` (rule, suggestion, what it
#'   looked at) and `eigenvalues` (number, eigenvalue, mean and percentile of the
#'   random ones, share of variance).
#' @section Errors: `scalewort_error_numeric` for fewer cases than items or an
#'   item without variance; `scalewort_error_input` for fewer than three items.
#' @examples
#' sw_retention(sw_demo("plotholders"), replicates = 200)
#' @export
sw_retention <- function(x, items = NULL, replicates = 1000, percentile = .95,
                         missing = "listwise", seed = 1) {
  check_number(replicates, "replicates", 20, 1e6, whole = TRUE)
  check_number(percentile, "percentile", .5, .999)
  check_seed(seed)
  moments <- as_moments(x, items, missing)
  check_factor_input(moments)
  r <- core_correlation(moments$covariance)
  values <- core_eigenvalues(r)
  random <- core_parallel(moments$n, ncol(r), replicates, percentile, seed)
  rules <- tibble::tibble(
    rule = c("parallel analysis", "eigenvalues above 1"),
    suggestion = c(core_count_above(values, random$percentile), sum(values > 1)),
    looked_at = c(
      sprintf("%s percentile of %s random matrices (Horn, 1965)", ordinal_word(100 * percentile), format(replicates, big.mark = ",")),
      "eigenvalues of the correlations (Kaiser, 1960)"
    )
  )
  table <- tibble::tibble(
    number = seq_along(values), eigenvalue = values, random_mean = random$mean,
    random_percentile = random$percentile, share = values / length(values)
  )
  new_result("sw_retention", "How many factors",
    tables = list(rules = rules, eigenvalues = table), notes = retention_notes(rules, moments),
    n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    options = list(replicates = replicates, percentile = percentile, seed = seed)
  )
}

retention_notes <- function(rules, moments) {
  c(
    if (rules$suggestion[1] == 0) "No eigenvalue beats chance: these items may have nothing in common.",
    if (rules$suggestion[1] != rules$suggestion[2]) paste0(
      "The rules disagree (", rules$suggestion[1], " and ", rules$suggestion[2],
      "). Counting eigenvalues above 1 tends to suggest too many; look at both solutions."
    ),
    small_sample_note(moments),
    left_out_note(moments)
  )
}

small_sample_note <- function(moments) {
  p <- ncol(moments$covariance)
  if (moments$n < 5 * p) paste0("Only ", coefficient_text(moments$n / p, 1), " cases per item: expect unstable results.")
}

# Listwise deletion that costs more than a fifth of the cases.
left_out_note <- function(moments) {
  total <- moments$n + moments$n_left_out
  if (moments$missing == "listwise" && moments$n_left_out > total / 5) {
    paste0("Complete cases are only ", moments$n, " of ", total, ": compare with `missing = \"pairwise\"`.")
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
