#' How many factors
#'
#' Two rules decide: parallel analysis of common factors (Humphreys & Montanelli, 1975) against the 95th percentile
#' of chance (Glorfeld, 1995), and the empirical Kaiser criterion (Braeken & van Assen, 2017). In simulations they were right
#' more often than any other, and where they agree, in nine samples of ten (`vignette("how-far-to-trust")`). Before either is
#' believed its last factor is looked at: one on which at most one item has its largest loading is no
#' factor, and one of two items that goes when either is left out is a pair of items. Where the
#' two rules differ, both solutions are shown, and parallel analysis of components (the middle of the three) says which
#' comes first. All other rules are shown and not counted.
#'
#' @param x A survey or [sw_moments()]; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param items For a survey: items or subscales to take; all scored by default.
#' @param replicates Number of random correlation matrices of the parallel analysis.
#' @param percentile Percentile of the random eigenvalues to be beaten.
#' @param against Beat their `"percentile"` (stricter) or their `"mean"` (as in Horn, 1965)?
#' @param draws `"normal"`: random matrices of unrelated normal items; `"shuffled"`: these
#'   very answers, each item shuffled on its own (needs a survey).
#' @param comparison Also comparison data (Ruscio & Roche, 2012)? Needs a survey, and
#'   some seconds per factor.
#' @param most Largest number of factors fitted. By default as many as any rule asks for, and on until one is not rejected and BIC has risen
#'   three times since its lowest.
#' @param missing,also How missing answers are treated, see [sw_moments()]. Where likelihood treats them, chance is drawn with the same
#'   gaps, and chi-squares are those of two stages (see [sw_explore()]).
#' @param correlation `"auto"` (Pearson: the chance of polychoric ones is not known), `"pearson"`, `"spearman"` or `"polychoric"`; see [sw_moments()].
#' @param smooth Smooth a matrix that is not positive definite? See [sw_moments()].
#' @param seed Seed; the same seed gives the same figures.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_retention` with the tables
#'   * `rules`: rule, suggestion, how it counts, what it looked at. Parallel analysis of common factors and of
#'     components (Horn, 1965); empirical Kaiser criterion (Braeken & van Assen, 2017); minimum average partial (Velicer,
#'     1976); eigenvalues above 1 (Kaiser, 1960); the codebook's subscales; bend of the scree: the
#'     eigenvalue furthest below the line from the first to the last (after Cattell,
#'     1966); first number whose chi-square is not significant at .05; lowest BIC; hull
#'     method on the relative noncentrality index (McDonald & Marsh, 1990; Lorenzo-Seva, Timmerman & Kiers, 2011); comparison data;
#'   * `fits`: for 0, 1, ... factors by maximum likelihood: chi-square, df, p, RMSEA with
#'     90% interval, CFI, TLI, SRMR, AIC, BIC, and what is wrong with the fit;
#'   * `eigenvalues`: of the correlations and of those with squared multiple correlations
#'     in the diagonal, with mean and percentile of the random ones;
#'   * `partials`: average squared partial correlation, and its fourth power (Velicer, Eaton & Fava, 2000), after each
#'     number of components;
#'   * `suspects`: last factors that were looked at and are none: rule, factors before and after, items;
#'   * `solutions`, where the two rules or the codebook differ: each item's factor and loading with each number.
#' @section Errors: `scalewort_error_numeric` for an item without variance or a matrix that
#'   is not positive definite; `scalewort_error_input` for fewer than three items, or for
#'   shuffling or comparison data without single answers.
#' @examples
#' sw_retention(sw_demo("plotholders"), replicates = 200)
#' @export
sw_retention <- function(x, items = NULL, replicates = 1000, percentile = .95, against = "percentile", draws = "normal", comparison = FALSE,
  most = NULL,
                         missing = "auto", correlation = "auto", smooth = FALSE, also = NULL, seed = 1, limits = sw_limits()) {
  check_options("retention")
  x <- as_survey_or_moments(x)
  ordered <- correlation == "auto" && are_ordered(x, items)
  if (correlation == "auto") correlation <- if (inherits(x, "sw_moments")) x$correlation else "pearson"
  moments <- as_moments(x, items, missing, correlation, smooth, also, spread = TRUE)
  check_factor_input(moments)
  r <- core_correlation(moments$covariance)
  p <- ncol(r)
  if (!is.null(most)) check_number(most, "most", 1, core_most_factors(p), whole = TRUE)
  answers <- if (draws == "shuffled" || comparison) complete_answers(x, colnames(r), if (comparison) "comparison" else "draws")
  pairs <- if (moments$correlation == "polychoric" && gives_rows(x, colnames(r))) polychoric_spread(moments, list(x = x))
  beside <- beside_chance(x, moments, answers, pairs, list(draws = draws, replicates = replicates, percentile = percentile, seed = seed))
  n <- beside$n
  spectra <- beside$spectra
  partials <- core_average_partials(r)
  known <- codebook_number(x, colnames(r))
  gamma <- if (!is.null(moments$gamma)) core_correlation_gamma(moments$gamma, moments$covariance, moments$n)
  fits <- if (is.null(most)) core_fit_per_number(r, moments$n, core_most_factors(p), gamma, enough_factors(spectra, n, known, against)) else
    core_fit_per_number(r, moments$n, most, gamma)
  if (!is.null(pairs)) fits <- polychoric_fits(fits, r, moments$n, pairs)
  compared <- if (comparison) with_seed(seed, core_comparison_data(answers, core_most_factors(p), random = random_draws))
  deciding <- deciding_rules(spectra, n, c(percentile = percentile, draws = draws, against = against))
  rules <- rbind(deciding, shown_rules(spectra, partials, fits, compared, max(deciding$suggestion[startsWith(deciding$rule, "parallel")]), limits))
  if (!is.na(known)) rules <- rbind(rules, rule_row("the codebook's subscales", known, "shown", "as the scales were made"))
  number <- decided_number(deciding, known, r, n, function(rest) beside$chance(rest)[[against]])
  # What is left of a number once its last factor has been looked at.
  rules <- with_columns(rules, list(stands = as.integer(number$after[rules$rule])), after = "suggestion")
  new_result("sw_retention", "title_retention",
    tables = list(
      rules = rules, fits = fits_table(fits, limits), eigenvalues = eigenvalue_table(spectra, n),
      partials = plain_table(factors = seq_along(partials$squared) - 1L, squared = partials$squared, fourth = partials$fourth),
      suspects = number$suspects, solutions = solutions_beside(r, c(number$first, number$second, number$known))
    ) |> Filter(f = Negate(is.null)),
    notes = c(retention_notes(number, rules, moments, !is.null(pairs)),
      if (ordered) pearson_note()), n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    options = list(correlation = moments$correlation, replicates = replicates, percentile = percentile, against = against,
      draws = draws, seed = seed),
    parts = list(agreement = number[c("first", "second", "known", "said", "after")]), limits = limits
  )
}

are_ordered <- function(x, items) inherits(x, "sw_survey") && !is.null(ordered_reason(answer_kind(x, pick_items(x, items))))

# How many factors the rules that decide find in answers, by the defaults of sw_retention().
decided_factors <- function(x, replicates, seed) {
  x <- as_survey_or_moments(x)
  moments <- as_moments(x, NULL, "auto", "pearson", FALSE)
  check_factor_input(moments)
  beside <- beside_chance(x, moments, NULL, NULL, list(draws = "normal", replicates = replicates, percentile = .95, seed = seed))
  deciding <- deciding_rules(beside$spectra, beside$n, c(percentile = .95, draws = "normal", against = "percentile"))
  decided_number(deciding, NA_integer_, core_correlation(moments$covariance), beside$n, function(rest) beside$chance(rest)$percentile)$first
}

# Eigenvalues of the correlations and of random ones: list(spectra, n: as many people as the correlations are worth, chance: random ones of
# the reduced matrix of some items).
beside_chance <- function(x, moments, answers, pairs, how) {
  r <- core_correlation(moments$covariance)
  incomplete <- moments$missing %in% c("fiml", "imputed") && has_answers(x)
  gaps <- if (incomplete && gives_rows(x, colnames(r))) source_rows(x, colnames(r))
  n <- if (!is.null(pairs)) core_worth(r, pairs$covariance) else if (incomplete) gapped_size(x, colnames(r), gaps) else moments$n
  random <- function(r, answers, gaps) {
    random_spectra(r, n, moments$correlation, answers, gaps, how$draws, how$replicates, how$percentile, how$seed)
  }
  list(
    spectra = list(values = core_eigenvalues(r), reduced = core_reduced_eigenvalues(r), random = random(r, answers, gaps)), n = n,
    chance = function(rest) random(r[rest, rest], answers[, rest, drop = FALSE], gaps[, rest, drop = FALSE])$reduced
  )
}

# As many people as answered both of two items; gaps: the answers, where they can be had.
gapped_size <- function(x, items, gaps) {
  if (is.null(gaps)) pairs_of_patterns(source_patterns(x, items), length(items)) else core_pair_count(gaps)
}

# No rule that others go by looks at fits of more factors.
enough_factors <- function(spectra, n, known, against) {
  random <- spectra$random
  max(core_count_above(spectra$values, random$plain[[against]]), core_count_above(spectra$reduced, random$reduced[[against]]),
    core_count_above(spectra$values, core_empirical_kaiser(spectra$values, n)), known, 2, na.rm = TRUE) + 1
}

complete_answers <- function(x, items, arg) {
  if (!has_answers(x)) stop_input(message_of("e_needs_single_answers_moments", arg = arg), hint = message_of("e_give_survey"))
  answers <- source_rows(x, items)
  answers[stats::complete.cases(answers), , drop = FALSE]
}

# Random eigenvalues of the plain and the reduced matrix: list(plain, reduced), each
# list(mean, percentile). gaps: answers whose gaps the draws get too; of more than these many cells draws are complete, with as many cases as
# answered both of two
# items.
random_spectra <- function(r, n, correlation, answers, gaps, draws, replicates, percentile, seed) {
  if (draws == "normal" && !is.null(gaps) && length(gaps) * replicates <= 1e8) {
    drawn <- core_gapped_eigenvalues(!is.na(gaps[rowSums(!is.na(gaps)) > 0, , drop = FALSE]), replicates, seed)
    return(lapply(drawn, function(values) core_parallel(known_draws(values), percentile)))
  }
  one <- function(reduced) {
    values <- if (draws == "normal") {
      core_random_eigenvalues(round(n), ncol(r), replicates, seed, reduced)
    } else {
      correlate <- if (correlation == "polychoric") function(x) core_polychoric(named_columns(x))$r else stats::cor
      with_seed(seed, core_shuffled_eigenvalues(answers, replicates, reduced, correlate, random_draws))
    }
    core_parallel(known_draws(values), percentile)
  }
  list(plain = one(FALSE), reduced = one(TRUE))
}

# Random eigenvalues without draws that gave none, a row each.
known_draws <- function(values) {
  fine <- rowSums(!is.finite(values)) == 0
  if (mean(fine) < .5) {
    stop_numeric(message_of("e_what_chance_alone"), hint = message_of("e_leave_out_items_people"))
  }
  values[fine, , drop = FALSE]
}

deciding_rules <- function(spectra, n, how) {
  random <- spectra$random
  against <- how[["against"]]
  beaten <- paste(if (against == "mean") "mean" else paste(ordinal_word(100 * as.numeric(how[["percentile"]])), "percentile"),
    if (how[["draws"]] == "normal") "of chance" else "shuffled")
  components <- core_count_above(spectra$values, random$plain[[against]])
  common <- core_count_above(spectra$reduced, random$reduced[[against]])
  rbind(
    rule_row("parallel analysis, common", common, "decides", paste(beaten, "(Glorfeld, 1995)")),
    rule_row("empirical Kaiser", core_count_above(spectra$values, core_empirical_kaiser(spectra$values, n)), "decides",
      "Braeken & van Assen (2017)"),
    rule_row("parallel analysis, components", components, "breaks a tie", paste(beaten, "(Horn, 1965)"))
  )
}

# most: of the two parallel analyses.
shown_rules <- function(spectra, partials, fits, compared, most, limits) {
  fits_well <- which(!meets(fits$p, limits, "test_p"))
  up_to <- fits$factors <= max(most, 2) + 1
  free <- fits$factors * length(spectra$values) - fits$factors * (fits$factors - 1) / 2
  hull <- core_hull(fits$factors[up_to], fits$noncentral_fit[up_to], free[up_to])
  row <- rule_row
  rbind(
    row("average partial", which.min(partials$squared) - 1, "shown", "squared partial r (Velicer, 1976)"),
    row("hull", hull$factors, "shown", if (is.na(hull$factors)) "undefined: fewer than three points" else "Lorenzo-Seva, Timmerman & Kiers (2011)"),
    row("lowest BIC", fits$factors[which.min(fits$bic)], "shown", "fit per parameter (Schwarz, 1978)"),
    row(paste("chi-square p above", bound_text(limit(limits, "test_p")$bound)), if (length(fits_well) > 0) fits$factors[fits_well[1]] else NA,
      "shown", "asks for more, the larger n"),
    row("bend of the scree", core_scree_bend(spectra$values), "shown", "after Cattell (1966)"),
    row("eigenvalues above 1", sum(spectra$values > 1), "shown", "tends to too many (Kaiser, 1960)"),
    if (!is.null(compared)) row("comparison data", compared$factors, "shown", "such populations (Ruscio & Roche, 2012)")
  )
}

rule_row <- function(rule, suggestion, counts, looked_at) {
  plain_table(rule = rule, suggestion = as.integer(suggestion), counts = counts, looked_at = looked_at)
}

# The tests of polychoric correlations in place of likelihood's.
polychoric_fits <- function(fits, r, n, pairs) {
  for (i in which(fits$factors > 0 & fits$df > 0)) {
    found <- core_adjusted_exploration(r, fits$factors[i], n, pairs)
    if (is.null(found)) next
    df <- fits$df[i]
    figures <- core_fit_figures(found$chi_square, df, n, found$baseline)
    before <- fits$chi_square[i]
    fits$chi_square[i] <- found$chi_square
    fits[i, c("p", "rmsea", "rmsea_low", "rmsea_high", "cfi", "tli")] <- figures[c("p.value", "rmsea", "rmsea.low", "rmsea.high", "cfi", "tli")]
    fits$noncentral_fit[i] <- 1 - (found$chi_square - df) / core_excess(found$baseline)
    fits[i, c("aic", "bic")] <- fits[i, c("aic", "bic")] + found$chi_square - before
    none <- fits$factors == 0
    fits[none, c("aic", "bic")] <- fits[none, c("aic", "bic")] + found$baseline$chi_square - fits$chi_square[none]
    fits$chi_square[none] <- found$baseline$chi_square
  }
  fits
}

# How many subscales of the codebook the items are from; NA where it has none.
codebook_number <- function(x, items) {
  if (!has_answers(x) || !is.null(x$assumed)) {
    return(NA_integer_)
  }
  count <- sum(vapply(survey_scales(x), function(own) sum(own %in% items) > 1, TRUE))
  if (count == 0) NA_integer_ else count
}

# The number that the two rules give once their last factors have been looked at: list(first, second, known, suspects, said: what each gives
# before, after: and after); second is the other number where they differ, else NA. chance: reduced eigenvalues to be beaten, without some item.
decided_number <- function(rules, known, r, n, chance) {
  of <- function(rule) rules$suggestion[match(rule, rules$rule)]
  said <- pmin(c(common = of("parallel analysis, common"), kaiser = of("empirical Kaiser")), core_most_factors(ncol(r)))
  again <- list(
    common = function(rest) core_count_above(core_reduced_eigenvalues(r[rest, rest]), chance(rest)),
    kaiser = function(rest) core_count_above(core_eigenvalues(r[rest, rest]), core_empirical_kaiser(core_eigenvalues(r[rest, rest]), n))
  )
  looked <- lapply(names(said), function(rule) looked_at_last(r, said[[rule]], again[[rule]]))
  after <- vapply(looked, `[[`, 0, "factors")
  suspects <- do.call(rbind, Map(function(at, before, rule) {
    if (at$why != "") plain_table(rule = rule, before = before, after = as.integer(at$factors), why = at$why, items = paste(at$items,
      collapse = " "))
  }, looked, as.list(said), rules$rule[1:2]))
  first <- stats::median(c(after, of("parallel analysis, components")))
  second <- after[after != first]
  list(first = as.integer(first), second = if (length(second) > 0) as.integer(second[1]) else NA_integer_,
    known = known, suspects = suspects, said = unname(said), after = stats::setNames(after, rules$rule[1:2]))
}

# Is the last of so many factors one? list(factors, why, items): one fewer where some factor has the largest loading of at most
# one item ("thin"), or of two items without one of which there is one fewer ("pair").
looked_at_last <- function(r, factors, again) {
  fine <- list(factors = factors, why = "", items = character())
  if (factors < 2) {
    return(fine)
  }
  homes <- core_thin_factor(r, factors)
  if (length(homes) > 2) {
    return(fine)
  }
  if (length(homes) < 2) {
    return(list(factors = factors - 1, why = "thin", items = homes))
  }
  without <- again(setdiff(colnames(r), homes[1]))
  if (without < factors) list(factors = without, why = "pair", items = homes) else fine
}

# Where each item stands in each solution that is spoken for, rotated by oblimin; NULL where all say one number.
solutions_beside <- function(r, numbers) {
  numbers <- sort(unique(numbers[!is.na(numbers) & numbers > 0 & numbers <= core_most_factors(ncol(r))]))
  if (length(numbers) < 2) {
    return(NULL)
  }
  columns <- lapply(numbers, function(m) {
    pattern <- core_home_pattern(r, m)
    if (is.null(pattern)) pattern <- matrix(NA_real_, ncol(r), m)
    home <- apply(abs(pattern), 1, function(row) if (anyNA(row)) NA_integer_ else which.max(row))
    stats::setNames(list(paste0("F", home), pattern[cbind(seq_along(home), home)]), paste0(c("factor_of_", "loading_of_"), m))
  })
  plain_frame(c(list(item = colnames(r)), do.call(c, columns)))
}

fits_table <- function(fits, limits) {
  trouble <- ifelse(fits$status != "ok", status_words_of(fits$status), ifelse(fits$at_bound == "", "", paste("uniqueness at its bound:",
    fits$at_bound)))
  plain_table(
    factors = fits$factors, chi_square = fits$chi_square, df = fits$df, p.value = fits$p, rmsea = fits$rmsea,
    conf.low = fits$rmsea_low, conf.high = fits$rmsea_high, cfi = fits$cfi, tli = fits$tli, srmr = fits$srmr, aic = fits$aic, bic = fits$bic,
    trouble = trouble
  )
}

status_words_of <- function(status) vapply(status, function(one) if (one == "ok") "" else status_words(one), "", USE.NAMES = FALSE)

eigenvalue_table <- function(spectra, n) {
  values <- spectra$values
  plain_table(
    number = seq_along(values), eigenvalue = values, random_mean = spectra$random$plain$mean, random_percentile = spectra$random$plain$percentile,
    common = spectra$reduced, common_mean = spectra$random$reduced$mean, common_percentile = spectra$random$reduced$percentile,
    empirical_kaiser = core_empirical_kaiser(values, n), share = values / length(values)
  )
}

retention_notes <- function(number, rules, moments, adjusted) {
  suspects <- number$suspects
  pairs <- suspects[suspects$why %in% "pair", ]
  c(
    if (number$first == 0) note("nothing_beats_chance", message_of("nothing_beats_chance"), rank = 1L),
    if (!is.na(number$second)) note("rules_differ", message_of("rules_differ"), rank = 1L, first = number$first, second = number$second),
    if (NROW(pairs) > 0) note("pair_not_factor", message_of("pair_not_factor", pairs = messages_of("two_names", first = sub(" .*$", "",
      unique(pairs$items)), second = sub("^.* ", "", unique(pairs$items)))), strsplit(pairs$items[1], " ")[[1]]),
    if (any(suspects$why %in% "thin")) note("thin_not_factor", message_of("thin_not_factor", rules = messages_of("a_term",
      term = suspects$rule[suspects$why == "thin"]))),
    if (!is.na(number$known) && number$first > 0 && !number$known %in% c(number$first, number$second)) note("codebook_number",
      message_of("codebook_number", known = number$known), known = number$known),
    if (moments$correlation == "polychoric") note("polychoric_fit", message_of(if (adjusted) "polychoric_fits_adjusted" else
      "polychoric_fits_compare"), rank = 3L),
    moments_notes(moments), left_out_note(moments)
  )
}

# Why the number of factors is looked for in Pearson correlations of ordered answers.
pearson_note <- function() note("auto_correlation", message_of("pearson_for_number"))

# What moments say of themselves.
moments_notes <- function(moments) note("moments", said_of_moments(moments), as.list(rep("", length(said_of_moments(moments)))))

# Listwise deletion that costs more than a fifth of the cases.
left_out_note <- function(moments) {
  total <- moments$n + moments$n_left_out
  if (moments$missing == "listwise" && moments$n_left_out > total / 5) {
    note("cases_left_out", message_of("cases_left_out", n = moments$n, all = total), n = moments$n, of = total)
  }
}

# What every factoring of a correlation matrix needs.
check_factor_input <- function(moments, least = 3) {
  p <- ncol(moments$covariance)
  if (p < least) {
    stop_input(message_of("e_there_factors_need", p_said = if (p == 1) message_of("e_said_four") else message_of("e_said_five"), p = p,
      least = least))
  }
  check_variance(moments)
  check_positive_definite(moments)
}
