# What a confirmation says in words.

# Why a fit may not be believed, worst first; none when it may.
fit_problems <- function(fit, items, factors) {
  matrices <- fit$matrices
  negative <- items[diag(matrices$residual) < -1e-12]
  spread <- core_factor_covariance(matrices)
  turned <- diag(spread) < 0
  possible <- core_possible(matrices, fit$implied) > -1e-9
  c(
    if (fit$status != "ok") note("not_usable", message_of("estimates_not_usable", why = status_message(fit$status)), rank = 1L),
    if (length(negative) > 0) note("improper_residual", message_of("improper_residual", items = negative), negative, rank = 1L),
    if (any(turned)) note("improper_factor", message_of("improper_factor", factors = factors[turned]), factors[turned], rank = 1L),
    if (!any(turned) && !possible[["factor"]]) note("improper_correlations", message_of("improper_correlations"), rank = 1L),
    if (length(negative) == 0 && !possible[["residual"]]) impossible_residuals(matrices$residual, items),
    if (all(possible[c("residual", "factor")]) && !possible[["implied"]]) note("improper_implied", message_of("improper_implied"), rank = 1L),
    if (fit$status == "ok" && isTRUE(fit$lower)) note("lower_impossible", message_of("lower_impossible"), rank = 1L),
    if (fit$status == "ok" && is.null(fit$covariance)) note("no_errors", message_of("information_singular"), rank = 1L)
  )
}

# Residual correlations beyond one are named, or else all residual pairs.
impossible_residuals <- function(residual, items) {
  r <- stats::cov2cor(residual)
  at <- which(lower.tri(r) & r != 0, arr.ind = TRUE)
  beyond <- abs(r[at]) > 1
  if (any(beyond)) at <- at[beyond, , drop = FALSE]
  note("improper_pairs", message_of("improper_pairs", pairs = messages_of("pair_and_r3", first = items[at[, 2]], second = items[at[, 1]], r = r[at])),
    unique(items[at]), rank = 1L)
}

refuse_improper <- function(problems, options) {
  improper <- Filter(function(one) startsWith(one$code, "improper"), problems)
  if (options$improper == "refuse" && length(improper) > 0) {
    stop_numeric(message_of("e_solution_improper_improper"), faults = vapply(improper, `[[`, "", "words"), hint = message_of("e_look_at_structure"))
  }
}

confirmation_notes <- function(structure, basis, cells, fit, items, factors, tables, limits, options, corrected, believed) {
  overlap <- explored_overlap(structure$explored, basis$origin)
  held <- if (length(fit$held) > 0) unclear_messages(cells, fit$held, items, factors)
  c(
    if (length(held) > 0) note("held_at_bound", message_of("held_at_bound", parameters = held), vapply(held, say, "")),
    if (!is.null(fit$scale) && is.na(fit$scale)) note("no_adjustment", message_of("no_adjustment"), rank = 1L),
    if (overlap > 0) note("explored_cases", message_of("explored_cases", cases = overlap), cases = overlap, rank = 1L),
    readings_note(tables$readings, any(rejected_fit(tables$fit))), twin_note(tables$factor_correlations),
    away_note(tables$loadings), if (believed && !meets(basis$n, limits, "confirmation_cases")) wide_loading_note(tables$loadings, basis$n),
    against_factor_note(tables$loadings),
    if (length(structure$left_out) > 0) note("left_out", list(left_out_messages(structure)), list(structure$left_out)),
    if (believed && fit$df > 0 && core_scale_is_chance(fit$scale, basis$n)) note("scale_of_chance", message_of("scale_of_chance", n = basis$n),
      n = basis$n),
    if (believed && fit$df > 0) corrected_note(corrected, basis$n), if (believed) equivalent_note(structure, tables$modifications),
    if (startsWith(options$estimator, "ordinal")) note("ordinal_fit", message_of("ordinal_fit"), rank = 3L),
    if (options$missing == "pairwise") note("pairwise", message_of("pairwise_right_if_random"), rank = 3L),
    basis$notes
  )
}

# Items that load against the others of their factor.
against_factor_note <- function(loadings) {
  against <- loadings[which(loadings$standardised < 0 & loadings$p.value < .05), ]
  if (NROW(against) == 0) {
    return(NULL)
  }
  note("against_factor", message_of("against_factor", loadings = messages_of("item_on_factor", item = against$item, factor = against$factor)),
    against$item, rank = 1L)
}

# What the misfit can be, with what each reading gains; never as advice to free all.
readings_note <- function(readings, rejected) {
  if (NROW(readings) == 0) {
    return(if (rejected) note("unexplained", message_of("unexplained")))
  }
  # Where a set of items is more than one factor, pairs and crossings are its shadows.
  of_sets <- readings$reading %in% c("scales", "split", "wording")
  shown <- utils::head(if (of_sets[1]) readings[of_sets, ] else readings_apart(readings), 3)
  advice <- switch(shown$reading[1], scales = message_of("make_factors"), split = message_of("read_two_sets"),
    wording = message_of("report_wording_factor"), merge = message_of("read_as_one"), move = message_of("read_where_it_belongs"),
    message_of("free_what_wordings_explain"))
  first <- shown[1, ]
  if (is.na(first$cfi)) {
    return(note("readings", list(list(message_of("improper_readings", readings = messages_of("reading_and_gain", reading = reading_messages(shown),
      gain = shown$gain)), advice)), list(shown$name), gain = first$gain, rank = 1L))
  }
  note("readings", list(list(message_of("readings_found", readings = messages_of("reading_and_gain", reading = reading_messages(shown),
    gain = shown$gain), cfi = first$cfi, rmsea = first$rmsea), advice)), list(shown$name), gain = first$gain)
}

# Factors that are hardly told apart, with what to do.
twin_note <- function(links) {
  twins <- links[links$verdict %in% "missed", ]
  if (nrow(twins) == 0) {
    return(NULL)
  }
  note("twins", message_of("twins", pairs = messages_of("two_names", first = twins$factor, second = twins$with)), unique(c(twins$factor, twins$with)),
    rank = 1L)
}

# Items whose loading is surely too small, with what to do.
away_note <- function(loadings) {
  away <- loadings[loadings$verdict %in% "missed", ]
  if (nrow(away) == 0) {
    return(NULL)
  }
  note("away", message_of("away", items = away$item), away$item)
}

# What few cases leave open: how wide the widest interval of a loading is. No item is named: that is chance.
wide_loading_note <- function(loadings, n) {
  width <- loadings$standard_high - loadings$standard_low
  words <- if (all(is.na(width))) message_of("small_for_confirmation", n = n) else
    message_of("wide_loadings", n = n, width = max(width, na.rm = TRUE) / 2)
  note("small_sample", words, n = n)
}

# Where corrected figures and intervals come from.
corrected_note <- function(corrected, n) {
  pairs <- if (round(corrected$worth) < n) message_of("of_whom_pairs", answered = round(corrected$worth))
  by <- switch(corrected$name, swain = message_of("corrected_by_swain", n = n, pairs = pairs),
    bartlett = message_of("corrected_by_bartlett", n = n, pairs = pairs), message_of("corrected_adjusted"))
  note("corrected", message_of("corrected_figures", chi_square = by), rank = 3L)
}

# Other structures that would fit exactly as well: a factor above three, and single changes
# whose indices are the same.
equivalent_note <- function(structure, modifications) {
  linked <- length(structure$factors) == 3 && length(structure$higher) == 0 && length(structure$unlinked) == 0
  top <- utils::head(modifications[modifications$reading_code %in% "matters", ], 12)
  same <- if (nrow(top) > 1) which(abs(diff(top$index)) < 1e-6 * top$index[-1])[1] else NA
  change <- function(i) {
    if (top$change_of[i] == "pair") message_of("change_pair", item = top$item[i], with = top$with[i]) else
      message_of("change_loading", item = top$item[i], factor = top$with[i])
  }
  c(
    if (linked) note("equivalent_higher", message_of("equivalent_higher"), rank = 3L),
    if (!is.na(same)) note("equivalent_changes", message_of("equivalent_changes", first = change(same), second = change(same + 1)), rank = 3L)
  )
}

explored_overlap <- function(explored, origin) {
  if (is.null(explored) || is.null(origin) || !identical(explored$source, origin$source)) {
    return(0L)
  }
  origins_overlap(explored, origin)
}
