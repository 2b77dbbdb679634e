#' Internal consistency of every subscale
#'
#' Coefficient alpha (Cronbach, 1951), k/(k-1) (1 - sum of item variances /
#' variance of the total), its interval, and the coefficients that do not assume
#' equal loadings; what each item does; the two-way table behind it all. An item that
#' points against the others is named, with alpha as it would be if it were reversed.
#'
#' @param x A survey or [sw_moments()]; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param missing `"auto"`: complete cases where nobody misses anything, else `"fiml"`: means and covariances of all items by maximum likelihood
#'   from everybody who answered anything (see [sw_moments()]), with intervals by the delta method from the covariance matrix
#'   of these moments. `"listwise"`: complete cases of each subscale; `"pairwise"`. For a survey.
#' @param interval `"auto"`: `"free"` where a subscale's answers are not near normal (mean absolute skewness of its items
#'   above .5, or mean excess kurtosis above 1), which column `interval` then says, else `"feldt"`. `"free"`: for answers of any
#'   distribution (Yuan, Guarnaccia & Hayslip, 2003; Maydeu-Olivares, Coffman & Hartmann, 2007), on the scale of log(1 - alpha); needs single
#'   answers. Where likelihood treats gaps, or people are weighted or in clusters, both are taken from the covariance matrix of the
#'   moments on the same scale (`"delta"`). `"feldt"` (Feldt, 1965) or `"bonett"`
#'   (Bonett, 2002): for normal answers; or,
#'   from resampled cases, `"percentile"` (Efron, 1979) or `"bca"` (bias-corrected and
#'   accelerated; Efron, 1987) for alpha, omega and the change of alpha without an item.
#' @param replicates Number of resamples for the last two.
#' @param level Level of the intervals.
#' @param target A reliability to be reached: adds the tables `lengthen` and
#'   `short_forms`.
#' @param by Name of a grouping column: adds the table `compare`, tests that alpha is
#'   the same in all groups.
#' @param weights Named weights of the subscales, for the reliability of their weighted
#'   sum in the table `composite`.
#' @param items Items or subscales to take, whatever their role in the codebook; all scored ones by default.
#'   Items that belong to no subscale make one, `items`.
#' @param also For likelihood: columns of the data that tell who leaves answers out (see [sw_moments()]).
#' @param seed Seed for resampling, for the sample of split halves above 16 items and for
#'   the starts of the rotation behind the general factor.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_reliability` with the tables
#'   * `scales`: a row per subscale: items, n, n left out, alpha (`coefficient` says
#'     KR-20 where all answers are 0 or 1), interval, standardised alpha; omega from
#'     the one-factor maximum likelihood solution over the implied and over the
#'     observed variance (McDonald, 1999); hierarchical omega and explained common
#'     variance from the general factor of the whole instrument; alpha and omega of the
#'     polychoric correlations, for ordered answers with at most ten categories (Zumbo,
#'     Gadermann & Zeisser, 2007; they describe the variables behind the answers, not the
#'     sum of the answers); omega of the sum of such answers, `omega_sum`, with its interval (Green & Yang, 2009: from thresholds, polychoric
#'     correlations and the one-factor solution; the variance of the sum follows from the correlations themselves); Guttman's (1945) lambda 1 to 6,
#'     where lambda
#'     4 is the best split; the greatest lower bound (Jackson & Agunwamba, 1977); the
#'     odd-even split by Rulon (1939) and stepped up by Spearman-Brown (unequal halves:
#'     Horst, 1951); mean and worst of all splits (sampled above 16 items; unequal
#'     halves by Raju, 1970, so that the mean is alpha); standard
#'     error of measurement sd sqrt(1 - alpha) and the smallest reliable change 1.96
#'     sqrt(2) times it, both in units of the sum; mean, lowest and highest inter-item
#'     r; mean, sd and range of the sum, share at its floor and ceiling; RMSEA of one
#'     factor and the second eigenvalue; verdict; items that look unreversed and alpha
#'     with them turned;
#'   * `items`: mean, sd, item-rest and item-total r, squared multiple r, alpha and
#'     omega without the item, mean and sd of the sum without it;
#'   * `anova`: persons x items without replication, with Tukey's (1949) test for
#'     additivity; `intraclass`: consistency and agreement (McGraw & Wong, 1996);
#'   * `composite`: stratified alpha of the whole, reliability of each difference
#'     between two subscales, and a test that their alphas are equal (Feldt, 1980);
#'   * `general`: a general factor beside group factors (Schmid & Leiman, 1957), as many
#'     as there are subscales: omega total, hierarchical omega (share of the sum's
#'     variance due to the general factor; McDonald, 1999), the same of the group
#'     factors, explained common variance (Reise, Moore & Haviland, 2010);
#'   * `levels`, of a survey with clusters: alpha and omega within and between clusters (Geldhof, Preacher & Zyphur, 2014), from
#'     the pooled covariances within and from those of the clusters' true means by analysis of variance, each pair of items over
#'     those who answered both; intervals by the jackknife over clusters; the intraclass correlation of the mean score and its design
#'     effect 1 + (size - 1) ICC (Kish, 1965), size being the mean cluster size weighted by size;
#'   * `bands`: standard error of measurement by band of the score, from the difference
#'     of odd and even halves (Thorndike, 1951).
#'
#'   Alpha is at most 1, has no lower bound, and is `NA` for a single item.
#' @section Errors: `scalewort_error_input` for another first argument, no subscale to
#'   work on, an unknown column in `by`, weights that do not name every subscale, or
#'   resampling without single answers.
#' @examples
#' sw_reliability(sw_demo("plotholders"))
#' sw_reliability(sw_demo("plotholders", codebook = "draft"))
#' sw_reliability(sw_demo("plotholders"), items = c("calm1", "calm2", "calm3"))
#' summary(sw_reliability(sw_demo("plotholders"), interval = "bca", replicates = 500))
#' tidy(sw_reliability(sw_demo("plotholders"), target = .90), "lengthen")
#' @export
sw_reliability <- function(x, missing = "auto", interval = "auto", level = 0.95, replicates = 2000, target = NULL,
                           by = NULL, weights = NULL, items = NULL, also = NULL, seed = 1, limits = sw_limits()) {
  check_options("reliability")
  asked <- items
  x <- as_survey_or_moments(x)
  if (inherits(x, c("sw_survey", "sw_moments"))) x <- only_items(x, items)
  resampled <- interval %in% c("percentile", "bca")
  missing <- treatment_for(x, missing, interval)
  whole <- whole_moments(x, missing, also)
  scales <- scale_moments(x, missing, whole, also)
  check_weights(weights, names(scales))
  answered <- has_answers(x)
  keyed <- if (answered) test_items(x) else character()
  found <- lapply(scales, scale_coefficients, seed = seed, limits = limits)
  if (resampled) {
    found <- Map(function(one, m) c(one, list(resampled = resampled_bounds(x, m, interval, level, replicates, seed))), found, scales)
  }
  found <- Map(function(one, m) c(one, ordinal_coefficients(x, m, level)), found, scales)
  found <- Map(function(one, m) c(one, interval_errors(x, m, one, interval)), found, scales)
  factor <- general_factor(whole, scales, seed)
  general <- with_general_interval(general_table(whole, scales, factor), factor, x, whole, scales, seed, level, also)
  table <- each_scale(scales, function(name) {
    reliability_row(name, scales[[name]], found[[name]], general, keyed, interval, level, limits)
  })
  tallies <- if (answered) lapply(survey_scales(x)[names(scales)], function(items) source_totals(x, items))
  if (answered) table <- cbind(table, score_shape(x, tallies, scales))
  items <- each_scale(scales, function(name) reliability_items(name, scales[[name]], found[[name]], keyed, limits, level))
  rules <- ifelse(items$item %in% keyed, "item_rest_r_keyed", "item_rest_r")
  table <- judged_table(table, verdict = "alpha")
  items <- judged_table(items, verdict = stats::setNames(rules, items$item), by = "item", reason = "verdict_reason")
  verdicts <- ranked_verdicts(
    verdict_rows("subscale", table$scale, judge(table$alpha, limits, "alpha", table$conf.low, table$conf.high)),
    verdict_rows("subscale", table$scale, judge(table$omega, limits, "omega", table$omega_low, table$omega_high)),
    verdict_rows("item", items$item, judge(items$item_rest_r, limits, rules, items$rest_low, items$rest_high, items$verdict_reason))
  )
  twoway <- lapply(scales, function(m) if (ncol(m$covariance) > 1 && m$n > 2) core_twoway(m$covariance, m$mean, m$n, level))
  several <- length(scales) > 1
  levels <- levels_table(x, scales, level, seed)
  new_result("sw_reliability", "title_reliability",
    tables = Filter(Negate(is.null), c(
      list(scales = known_columns(table, c("omega_low", "omega_high", "omega_sum", "omega_sum_low", "omega_sum_high")),
        items = known_columns(items, c("change_low", "change_high"))),
      twoway_tables(twoway),
      if (several) list(composite = composite_table(whole, scales, weights)),
      if (nrow(general) > 0) list(general = general), list(levels = levels),
      if (answered) list(bands = error_bands(x, tallies)),
      if (!is.null(target)) lengthen_tables(scales, table, target),
      if (!is.null(by)) list(compare = compare_groups(x, by, scales)), list(verdicts = verdicts)
    )),
    notes = c(reliability_notes(table, items, found, keyed, limits, scales), bag_notes(x, scales, found, limits),
      whole_notes(whole, scales, general, !is.null(weights)), interval_note(table, interval), survey_notes(x), design_note(x), unweighted_note(x),
        level_notes(levels),
        if (!is.null(target)) short_form_note()),
    n = if (answered) source_count(x)$used else x$n, n_left_out = if (answered) 0 else x$n_left_out,
    missing = scales_treatment(scales),
    options = c(list(level = level, interval = interval), if (!is.null(asked)) list(items = asked), if (resampled) list(replicates = replicates),
      list(seed = seed)),
    parts = list(splits = lapply(found, `[[`, "splits")), limits = limits
  )
}

# How missing answers were treated: by likelihood over all items, else within each subscale.
scales_treatment <- function(scales) {
  of <- unique(vapply(scales, `[[`, "", "missing"))
  if (identical(of, "fiml") || identical(of, "imputed")) {
    return(of)
  }
  message_of("missing_within_scales", ways = lapply(of, function(one) way_message(one)))
}

# Alpha and omega of the polychoric correlations (Zumbo, Gadermann & Zeisser, 2007), each by those who answered both items where
# some are missing, and omega of the sum of these answers (Green & Yang, 2009); NA where the answers are not ordered categories, or people are
# weighted, of which polychoric correlations know nothing; without interval where they come in clusters.
ordinal_coefficients <- function(x, moments, level) {
  none <- list(alpha_ordinal = NA_real_, omega_ordinal = NA_real_, omega_sum = NA_real_, omega_sum_low = NA_real_, omega_sum_high = NA_real_)
  items <- colnames(moments$covariance)
  if (!has_answers(x) || length(items) < 2 || moments$n < 20 || !is.null(x$weight)) {
    return(none)
  }
  small <- is.null(x$cluster) && source_count(x)$used <= 20000 && length(items) <= 30
  found <- pairs_or_none(x, items, moments$missing, covariance = small && length(items) > 2 && goes_by_rows(x))
  if (found$status != "ok" || any(lengths(found$values) > 10) || anyNA(found$r)) {
    return(none)
  }
  c(list(alpha_ordinal = core_alpha(found$r), omega_ordinal = core_omega(found$r, moments$n)$omega), sum_reliability(found, level))
}

# Omega of the sum of ordered answers with its interval, from their polychoric correlations.
sum_reliability <- function(found, level) {
  error_by <- function(gamma) core_ordered_reliability(found$r, found$thresholds, lapply(found$values, diff), gamma, found$cases)
  all <- error_by(found$covariance)
  within <- if (!is.null(found$pooled)) error_by(found$pooled$within)$error
  df <- core_pooled_df(all$error, within, found$pooled$m, found$cases - 1)
  ends <- core_reliability_interval(all$omega, all$error, found$cases, level, df)
  list(omega_sum = all$omega, omega_sum_low = ends[1], omega_sum_high = ends[2])
}

# Polychoric correlations; where a table of a database withholds them, a status in place of an error.
pairs_or_none <- function(x, items, treatment, covariance) {
  unless_withheld(polychoric_pairs(x, items, treatment, covariance), list(status = "withheld"))
}

check_weights <- function(weights, scales) {
  if (is.null(weights)) {
    return(invisible())
  }
  ok <- is.numeric(weights) && all(is.finite(weights)) && setequal(names(weights), scales) && length(weights) == length(scales)
  if (!ok || all(weights == 0)) {
    stop_input(message_of("e_weights_must_number", scales = scales, weights = what_is(weights)))
  }
}

# A table without those of `columns` that hold nothing.
known_columns <- function(table, columns) {
  table[Filter(function(name) all(is.na(table[[name]])), columns)] <- NULL
  table
}

each_scale <- function(scales, row) stacked(lapply(names(scales), row))

# Everything that follows from a subscale's covariances alone.
scale_coefficients <- function(moments, seed, limits) {
  s <- moments$covariance
  k <- ncol(s)
  sets <- if (k > 1) with_seed(seed, core_split_sets(k, random = random_draws))
  rulon <- if (k > 1 && is.finite(sum(s)) && sum(s) > 0) core_split_coefficients(s, sets) else NA_real_
  odd <- seq_len(k) %% 2 == 1
  r <- core_correlation(s)
  list(
    alpha = core_alpha(s), lambdas = core_lambdas(s), glb = core_glb(s), omega = core_omega(s, moments$n),
    lambda4 = if (anyNA(rulon)) NA_real_ else max(rulon), splits = rulon / core_split_balance(k),
    odd_even = if (k > 1) core_rulon(s, odd) else NA_real_, odd_even_stepped = if (k > 1) core_stepped_up(s, odd) else NA_real_,
    second_eigenvalue = if (k > 1 && !anyNA(r)) core_eigenvalues(r)[2] else NA_real_, keying = scale_keying(moments, limits),
    unexplained = core_unexplained(s), exact = k <= 16, identical = if (moments$n > k) identical_pairs(s)
  )
}

# Resampled intervals and those that count everybody as complete are of complete cases.
treatment_for <- function(x, missing, interval) {
  complete <- interval %in% c("percentile", "bca", "feldt", "bonett")
  if (missing == "auto" && complete) missing <- "listwise"
  if (interval %in% c("percentile", "bca") || (interval == "free" && missing == "pairwise")) check_resampling(x, missing)
  if (interval %in% c("feldt", "bonett") && missing == "fiml") stop_input(message_of("e_interval_counts_everybody", interval = interval),
    hint = message_of("e_take_interval_auto"))
  missing
}

# Moments of all items of the subscales together; NULL where too few cases have all.
whole_moments <- function(x, missing, also = NULL) {
  if (inherits(x, "sw_moments")) {
    return(x)
  }
  check_class(x, "sw_survey", "x", "`sw_survey()` or `sw_moments()`")
  items <- unlist(survey_scales(x), use.names = FALSE)
  if (is.null(items)) stop_input(message_of("e_no_scored_item"), hint = message_of("e_fill_scale_codebook"))
  # How sure they are is asked of the subscales alone.
  spread <- length(items) <= most_by_likelihood || resolved_missing(x, items, missing) == "listwise"
  tryCatch(survey_moments(x, items, missing, also = also, spread = spread), scalewort_error_numeric = function(e) NULL)
}

# Moments of each subscale: by likelihood over all items together where that can be had, so that gaps are random given the other
# subscales too; else on its own complete cases, which are a part of the whole's where nobody misses anything.
scale_moments <- function(x, missing, whole = NULL, also = NULL) {
  if (inherits(x, "sw_moments")) {
    return(lapply(x$scales, function(items) narrow_moments(x, items)))
  }
  by_likelihood <- !is.null(whole) && whole$missing %in% c("fiml", "imputed") && ncol(whole$covariance) <= most_by_likelihood
  part_of_whole <- by_likelihood || (!is.null(whole) && whole$missing == "listwise" && whole$n_left_out == 0)
  lapply(survey_scales(x), function(items) {
    if (part_of_whole) narrow_moments(whole, items) else loose_moments(x, items, missing, also)
  })
}

# Moments that say nothing where there are none, in place of an error: other subscales may have some.
loose_moments <- function(x, items, missing, also = NULL) {
  tryCatch(survey_moments(x, items, missing, also = also, spread = TRUE), scalewort_error_numeric = function(e) {
    treatment <- resolved_missing(x, items, missing)
    core <- source_moments(x, items, if (treatment == "listwise") treatment else "pairwise")
    left_out <- if (treatment == "listwise") source_count(x)$used - core$n else 0
    new_moments(core$n, left_out, core$mean, core$covariance, treatment, "answers", list(items))
  })
}

# Which interval alpha has, and the standard errors behind it and behind omega's: from the covariance matrix of the moments where
# some answers are missing, or people weighted or in clusters; by the complete answers themselves where these
# are not near normal, or where it is asked for. list(interval, alpha_error, omega_error, rest_error).
interval_errors <- function(x, moments, found, interval) {
  s <- moments$covariance
  known <- ncol(s) > 1 && !is.na(found$alpha)
  if (!is.null(moments$gamma) && known) {
    return(gamma_errors(moments, found, interval))
  }
  by_rows <- goes_by_rows(x) && moments$missing == "listwise" && moments$n >= 20 && known
  if (!by_rows || (interval != "free" && near_normal_complete(x, colnames(s), moments$mean))) {
    return(list(interval = if (interval == "auto") "feldt" else interval, alpha_error = NA_real_,
      omega_error = core_omega_error(found$omega, s, moments$n)))
  }
  free <- if (interval == "auto") "free" else interval
  if (!gives_rows(x, colnames(s))) {
    gamma <- source_gamma(x, colnames(s))
    return(list(interval = free, alpha_error = core_alpha_error_of(s, gamma, moments$n),
      omega_error = core_omega_error(found$omega, s, moments$n, gamma = gamma)))
  }
  answers <- source_complete_rows(x, colnames(s))
  list(interval = free, alpha_error = core_alpha_error(answers), omega_error = core_omega_error(found$omega, s, moments$n, answers))
}

gamma_errors <- function(moments, found, interval) {
  n <- moments$n
  errors_by <- function(gamma) {
    delta <- function(of) core_delta_error(of, moments$covariance, gamma, n)
    list(alpha_error = delta(core_alpha), omega_error = core_omega_error(found$omega, moments$covariance, n, gamma = gamma),
      rest_error = delta(core_item_rest_r))
  }
  out <- errors_by(moments$gamma)
  if (!is.null(moments$pooled)) {
    within <- errors_by(moments$pooled$within)
    df <- Map(core_pooled_df, out, within, moments$pooled$m, n - 1)
    out <- c(out, stats::setNames(df, sub("error", "df", names(df))))
  }
  c(list(interval = if (interval %in% c("auto", "free")) "delta" else interval), out)
}

# Intervals of hierarchical omega by the jackknife over twenty groups of people (Tukey, 1958), or over clusters joined to twenty
# groups, where there are answers.
with_general_interval <- function(general, factor, x, whole, scales, seed, level, also = NULL) {
  items <- colnames(whole$covariance)
  if (nrow(general) == 0 || !goes_by_rows(x) || whole$missing == "pairwise" || whole$n < 100) {
    return(general)
  }
  less <- if (gives_rows(x, items)) moments_without_each(x, items, whole$missing == "listwise", seed, also) else
    moments_without_by_rows(x, items, whole$missing == "listwise", 20, seed)
  groups <- length(less)
  if (groups < 2) {
    return(general)
  }
  members <- general_members(whole, scales)
  possible <- vapply(less, function(m) m$status == "ok" && general_possible(m, ncol(factor$pattern)), TRUE)
  again <- core_general_near(lapply(less[possible], function(m) core_correlation(m$covariance)), factor)
  drawn <- matrix(NA_real_, nrow(general), groups)
  drawn[, possible] <- vapply(seq_along(again), function(i) {
    found <- again[[i]]
    if (found$status != "ok") rep(NA_real_, nrow(general)) else general_shares(less[possible][[i]], found, members)["omega_hierarchical", ]
  }, numeric(nrow(general)))
  width <- stats::qt((1 + level) / 2, groups - 1) * sqrt((groups - 1) / groups * rowSums((drawn - rowMeans(drawn))^2))
  ends <- list(hierarchical_low = pmax(general$omega_hierarchical - width, 0), hierarchical_high = pmin(general$omega_hierarchical + width, 1))
  with_columns(general, ends, after = "omega_hierarchical")
}

# Moments without each of twenty groups of people, or of clusters, of one size.
moments_without_each <- function(x, items, complete, seed, also) {
  groups_of <- function(cluster, people) {
    unit <- if (is.null(cluster)) seq_len(people) else match(cluster, unique(cluster))
    count <- min(20, max(unit))
    list(count = count, of = with_seed(seed, random_draws$sample(rep_len(seq_len(count), max(unit))))[unit])
  }
  counts <- source_count(x, items)
  if (complete && is.null(x$weight) && all(counts$missing %in% 0)) {
    groups <- groups_of(survey_cluster(x, rep(TRUE, counts$used)), counts$used)
    if (min(tabulate(groups$of, groups$count)) > 1) {
      return(source_left_out(x, items, groups$of, groups$count))
    }
  }
  people <- likelihood_sample(x, items, also, if (!complete) items_beside(x, items))
  if (complete) people <- complete_sample_rows(people)
  groups <- groups_of(people$cluster, nrow(people$answers))
  moments_without(people, length(items), groups$of, groups$count)
}
