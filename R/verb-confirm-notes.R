# What a confirmation says in words.

# Why a fit may not be believed, worst first; none when it may.
fit_problems <- function(fit, items, factors) {
  matrices <- fit$matrices
  negative <- items[diag(matrices$residual) < -1e-12]
  spread <- core_factor_covariance(matrices)
  turned <- diag(spread) < 0
  possible <- core_possible(matrices, fit$implied) > -1e-9
  c(
    if (fit$status != "ok") note("not_usable", paste0("Do not use these estimates: ", status_words(fit$status), "."), rank = 1L),
    if (length(negative) > 0) note("improper_residual", paste0("Improper solution: negative residual variance of ", and_list(negative),
      ". The structure may be wrong there, or the sample too small."), negative, rank = 1L),
    if (any(turned)) note("improper_factor", paste0("Improper solution: negative variance of factor ", and_list(factors[turned]), "."),
      factors[turned], rank = 1L),
    if (!any(turned) && !possible[["factor"]]) note("improper_correlations",
      "Improper solution: factor correlations that no data could have (one beyond 1, or at odds with the others).", rank = 1L),
    if (length(negative) == 0 && !possible[["residual"]]) impossible_residuals(matrices$residual, items),
    if (all(possible[c("residual", "factor")]) && !possible[["implied"]]) note("improper_implied",
      "Improper solution: the structure implies covariances that no data could have.", rank = 1L),
    if (fit$status == "ok" && isTRUE(fit$lower)) note("lower_impossible",
      "A lower chi-square was found only at impossible estimates; this is the best fit with possible ones.", rank = 1L),
    if (fit$status == "ok" && is.null(fit$covariance)) note("no_errors",
      "Standard errors cannot be computed: the information matrix is singular.", rank = 1L)
  )
}

# Residual correlations beyond one are named, or else all residual pairs.
impossible_residuals <- function(residual, items) {
  r <- stats::cov2cor(residual)
  at <- which(lower.tri(r) & r != 0, arr.ind = TRUE)
  beyond <- abs(r[at]) > 1
  if (any(beyond)) at <- at[beyond, , drop = FALSE]
  note("improper_pairs", paste0("Improper solution: residual correlations that no data could have: ",
    and_list(sprintf("%s and %s (%s)", items[at[, 2]], items[at[, 1]], coefficient_text(r[at])), 4), "."), unique(items[at]), rank = 1L)
}

refuse_improper <- function(problems, options) {
  improper <- Filter(function(one) startsWith(one$code, "improper"), problems)
  if (options$improper == "refuse" && length(improper) > 0) {
    stop_numeric("The solution is improper, and `improper = \"refuse\"` asks for none such.", faults = vapply(improper, `[[`, "", "words"),
      hint = "Look at the structure and at the items named; \"keep\" shows the fit, \"bound\" holds variances at zero.")
  }
}

confirmation_notes <- function(structure, basis, cells, fit, items, factors, tables, limits, options, corrected, believed) {
  overlap <- explored_overlap(structure$explored, basis$origin)
  held <- if (length(fit$held) > 0) unclear_words(cells, fit$held, items, factors)
  c(
    if (length(held) > 0) note("held_at_bound", paste0("Held at a bound: ", and_list(held), ". Errors and test take it as known."), held),
    if (!is.null(fit$scale) && is.na(fit$scale)) note("no_adjustment",
      "The test's adjustment does not exist in this sample, by its outliers: no verdict on fit. Look for careless answers, or use \"ml\".",
        rank = 1L),
    if (overlap > 0) note("explored_cases", paste0(
      count_of(overlap, "of these cases was", "of these cases were"),
      " explored to find this structure: this is no independent confirmation (`sw_split()` keeps cases back for one)."
    ), cases = overlap, rank = 1L),
    readings_note(tables$readings, any(rejected_fit(tables$fit))), twin_note(tables$factor_correlations),
    away_note(tables$loadings), if (believed && !meets(basis$n, limits, "confirmation_cases")) wide_loading_note(tables$loadings, basis$n),
    against_factor_note(tables$loadings),
    if (length(structure$left_out) > 0) note("left_out", paste(left_out_sentences(structure), collapse = " "), structure$left_out),
    if (believed && fit$df > 0 && core_scale_is_chance(fit$scale, basis$n)) note("scale_of_chance", rank = 2L, n = basis$n, words = paste0(
      "The scale of chi-square is below one, which is mostly chance with n = ", basis$n, ": verdicts on fit rest on the unscaled chi-square.")),
    if (believed && fit$df > 0) corrected_note(corrected, basis$n), if (believed) equivalent_note(structure, tables$modifications),
    if (startsWith(options$estimator, "ordinal")) note("ordinal_fit",
      "Fit of the polychoric correlations. CFI, TLI and RMSEA come from the adjusted chi-square and run higher than those of maximum likelihood.",
      rank = 3L),
    if (options$missing == "pairwise") note("pairwise",
      "Each correlation comes from everyone who answered both items: right if answers are missing completely at random (see `sw_screen()`).",
      rank = 3L),
    basis$notes
  )
}

# Items that load against the others of their factor.
against_factor_note <- function(loadings) {
  against <- loadings[which(loadings$standardised < 0 & loadings$p.value < .05), ]
  if (NROW(against) == 0) {
    return(NULL)
  }
  note("against_factor", paste0(and_list(paste(against$item, "on", against$factor)), if (nrow(against) == 1) " loads" else " load",
    " against the other items: check the keying (`sw_keying()`); a sum of items, and composite reliability, count ",
    if (nrow(against) == 1) "it" else "them", " against the rest."), against$item, rank = 1L)
}

# What the misfit can be, with what each reading gains; never as advice to free all.
readings_note <- function(readings, rejected) {
  if (!rejected) {
    return(NULL)
  }
  if (NROW(readings) == 0) {
    return(note("unexplained", paste("Exact fit is rejected, and no single change explains it: the misfit is spread out, or too small for",
      "these cases to be placed. Say so; do not search for pairs."), rank = 2L))
  }
  # Where a set of items is more than one factor, pairs and crossings are its shadows.
  of_sets <- readings$reading %in% c("scales", "split", "wording")
  shown <- utils::head(if (of_sets[1]) readings[of_sets, ] else readings, 3)
  advice <- switch(shown$reading[1],
    scales = "Make each of them a factor.", split = "Read the two sets of wordings: if they ask for different things, make two factors.",
    wording = "Report the structure with a factor of their wording beside this one (`sw_add_wording()`), and turn no item round for it.",
    "Free at most what the wordings explain, one at a time, then look again."
  )
  first <- shown[1, ]
  note("readings", paste0("What the misfit can be (gain of BIC): ", and_list(paste0(reading_text(shown), " (", decimals_text(shown$gain), ")")),
    ". With the first, CFI is ", coefficient_text(first$cfi), " and RMSEA ", coefficient_text(first$rmsea), ". ", advice), shown$name,
    gain = first$gain, rank = 2L)
}

# Factors that are hardly told apart, with what to do.
twin_note <- function(links) {
  twins <- links[links$verdict %in% "missed", ]
  if (nrow(twins) == 0) {
    return(NULL)
  }
  note("twins", paste0(and_list(paste(twins$factor, "and", twins$with)), if (nrow(twins) == 1) " measure" else " each measure",
    " nearly the same: do not interpret them apart without evidence from outside; fit them as one factor and compare (`sw_compare()`)."),
    unique(c(twins$factor, twins$with)), rank = 1L)
}

# Items whose loading is surely too small, with what to do.
away_note <- function(loadings) {
  away <- loadings[loadings$verdict %in% "missed", ]
  if (nrow(away) == 0) {
    return(NULL)
  }
  note("away", paste0("Read the wording of ", and_list(away$item, 6), ": a loading surely below the bound means that ",
    if (nrow(away) == 1) "it adds" else "they add", " little to the score. Leave ", if (nrow(away) == 1) "it" else "them",
    " out with a reason (`sw_drop()`), or say why ", if (nrow(away) == 1) "it stays." else "they stay."), away$item, rank = 2L)
}

# What few cases leave open, as the widest interval of a loading.
wide_loading_note <- function(loadings, n) {
  wide <- loadings[which.max(loadings$standard_high - loadings$standard_low), ]
  note("small_sample", if (nrow(wide) == 0) paste0("n = ", n, " is small for a confirmation.") else paste0("n = ", n,
    " leaves loadings open: that of ",
    wide$item, " on ", wide$factor, " lies between ", coefficient_text(wide$standard_low, 2), " and ", coefficient_text(wide$standard_high, 2), "."),
    n = n, rank = 2L)
}

# Where corrected figures and intervals come from.
corrected_note <- function(corrected, n) {
  pairs <- if (round(corrected$worth) < n) paste0(", of whom ", round(corrected$worth), " answered both items of a pair on average,")
  by <- c(swain = "Swain's factor (1975)", bartlett = "Bartlett's factor (1950)")
  chi_square <- if (corrected$name %in% names(by)) paste0("chi-square for n = ", n, pairs, " by ", by[[corrected$name]]) else
    "the adjusted chi-square"
  note("corrected", paste0("Verdicts on fit rest on the corrected figures: ", chi_square,
    ", CFI, TLI and RMSEA from it, SRMR without what chance adds (Maydeu-Olivares, 2017); intervals at 90%. ",
    "The p of RMSEA tests close fit."), rank = 3L)
}

# Other structures that would fit exactly as well: a factor above three, and single changes
# whose indices are the same.
equivalent_note <- function(structure, modifications) {
  linked <- length(structure$factors) == 3 && length(structure$higher) == 0 && length(structure$unlinked) == 0
  top <- utils::head(modifications[modifications$reading_code %in% "matters", ], 12)
  same <- if (nrow(top) > 1) which(abs(diff(top$index)) < 1e-6 * top$index[-1])[1] else NA
  words <- function(i) {
    if (top$change_of[i] == "pair") paste(top$item[i], "with", top$with[i]) else paste(top$with[i], "to", top$item[i])
  }
  c(
    if (linked) note("equivalent_higher",
      "One factor above the three would fit exactly as well: the answers cannot tell it from three correlated factors.", rank = 3L),
    if (!is.na(same)) note("equivalent_changes",
      paste0("These answers cannot tell apart two changes, ", words(same), " and ", words(same + 1), ": their indices are the same."), rank = 3L)
  )
}

explored_overlap <- function(explored, origin) {
  if (is.null(explored) || is.null(origin) || !identical(explored$source, origin$source)) {
    return(0L)
  }
  origins_overlap(explored, origin)
}
