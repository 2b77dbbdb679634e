# The whole path in one go: from a survey to scores, each step's result kept.

# Every step a newcomer would take: screen, repair the keying where an item
# looks unreversed, reliability, split, explore one half, confirm on the other,
# score everyone. Returns a named list of results; `survey` is the survey as
# scored, with its log.
whole_path <- function(survey, seed = 1, limits = sw_limits(), progress = function(step) NULL) {
  progress("screening items")
  screening <- sw_screen(survey, limits = limits)
  keying <- if (any(lengths(survey_scales(survey)) >= 3)) sw_keying(survey, limits)
  answering <- if (length(analysed_items(survey)) >= 3) sw_answering(survey, limits = limits)
  curves <- if (length(intersect(test_items(survey), analysed_items(survey))) > 0) where_it_applies(sw_option_curves(survey, limits = limits))
  bias <- if (length(survey$group) > 0) where_it_applies(sw_dif(survey, by = survey$group[1], limits = limits))
  reliability <- sw_reliability(survey, limits = limits)
  survey <- reverse_where_needed(survey, reliability)
  progress("splitting the cases")
  halves <- sw_split(survey, seed = seed)
  progress("looking for the number of factors")
  factorability <- sw_factorability(halves$calibration, limits = limits)
  retention <- sw_retention(halves$calibration, seed = seed, limits = limits)
  progress("extracting and rotating")
  factors <- max(1, min(retention$parts$agreement$first, core_most_factors(length(scored_items(survey)))))
  exploration <- sw_explore(halves$calibration, factors = factors, seed = seed, limits = limits)
  stability <- where_it_applies(sw_stability(halves$calibration, factors, halves = 50, seed = seed, limits = limits))
  progress("confirming on the other half")
  drafted <- sw_structure(exploration, cutoff = limit(limits, "loading")$bound)
  structure <- drop_thin_factors(drafted)
  confirmation <- sw_confirm(halves$validation, structure, limits = limits)
  invariance <- if (length(survey$group) > 0) {
    progress("comparing groups")
    where_it_applies(sw_invariance(halves$validation, structure, by = survey$group[1], limits = limits))
  }
  validity <- if (confirmation$about$status == "ok") where_it_applies(sw_validity(confirmation, seed = seed, limits = limits))
  composites <- if (confirmation$about$status == "ok") where_it_applies(sw_composites(halves$validation, structure, replicates = 200, seed = seed, limits = limits))
  progress("scoring")
  Filter(Negate(is.null), list(
    survey = survey, screening = screening, keying = keying, answering = answering, option_curves = curves,
    dif = bias,
    reliability = sw_reliability(survey, limits = limits), factorability = factorability, retention = retention,
    exploration = exploration, stability = stability, confirmation = confirmation, invariance = invariance, validity = validity,
    composites = composites, scores = sw_score(survey)
  ))
}

# A step that these data may not allow (one group only, say) is left out.
where_it_applies <- function(code) tryCatch(code, scalewort_error_input = function(e) NULL, scalewort_error_numeric = function(e) NULL)

# Turns the items that look unreversed, and says so in the log.
reverse_where_needed <- function(survey, reliability) {
  scales <- reliability$tables$scales
  for (i in which(scales$looks_unreversed != "")) {
    for (item in strsplit(scales$looks_unreversed[i], " ")[[1]]) {
      survey <- sw_flip(survey, item, reason = paste0(
        "alpha of ", scales$scale[i], " ", coefficient_text(scales$alpha[i]), " before, ", coefficient_text(scales$alpha_turned[i]), " after"
      ))
    }
  }
  survey
}

# A factor of one item cannot be confirmed.
drop_thin_factors <- function(structure) {
  thin <- lengths(structure$factors) < 2
  structure$left_out <- c(structure$left_out, unlist(structure$factors[thin], use.names = FALSE))
  structure$factors <- structure$factors[!thin]
  structure
}
