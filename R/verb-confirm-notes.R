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

confirmation_notes <- function(structure, basis, cells, fit, items, factors, tables, limits, options) {
  overlap <- explored_overlap(structure$explored, basis$origin)
  held <- if (length(fit$held) > 0) unclear_words(cells, fit$held, items, factors)
  missed <- tables$residual_correlations
  missed <- missed[!meets(abs(missed$residual), limits, "residual_r"), ]
  c(
    if (length(held) > 0) note("held_at_bound", paste0("Held at a bound: ", and_list(held), ". Errors and test take it as known."), held),
    if (!is.null(fit$scale) && is.na(fit$scale)) note("no_adjustment",
      "The test's adjustment does not exist in this sample, by its outliers: no verdict on fit. Look for careless answers, or use \"ml\".",
        rank = 1L),
    if (overlap > 0) note("explored_cases", paste0(
      count_of(overlap, "of these cases was", "of these cases were"),
      " explored to find this structure: this is no independent confirmation. Use `sw_split()`."
    ), cases = overlap, rank = 1L),
    if (!meets(basis$n, limits, "confirmation_cases")) note("small_sample",
      paste0("n = ", basis$n, " is small for a confirmation: estimates and fit are uncertain."), n = basis$n, rank = 1L),
    against_factor_note(tables$loadings),
    if (length(structure$left_out) > 0) note("left_out", paste0("Left out, since no loading was clear: ", and_list(structure$left_out), "."),
      structure$left_out),
    if (nrow(missed) > 0) note("missed_correlations", paste0("Correlations missed by more than ", bound_text(limit(limits, "residual_r")$bound), ": ",
      and_list(sprintf("%s and %s (%s)", missed$item, missed$with, coefficient_text(missed$residual)), 4), "."),
      unique(c(missed$item, missed$with)), largest = missed$residual[1]),
    modification_note(tables$modifications), equivalent_note(structure, tables$modifications),
    note("rmsea_interval", "The interval of RMSEA is at 90%; the p beside it tests close fit, RMSEA \u2264 .05.", rank = 3L),
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

# The changes that are large and matter, the three largest; never as advice to free all.
modification_note <- function(modifications) {
  large <- modifications[modifications$reading_code %in% "matters", ]
  if (nrow(large) == 0) {
    return(NULL)
  }
  shown <- utils::head(large, 3)
  words <- ifelse(shown$change_of == "pair", paste(shown$item, "and", shown$with, "share something"),
    paste(shown$item, "wants", shown$with, "too"))
  note("misses_most", paste0("Where it misses most: ", and_list(paste0(words, " (index ", decimals_text(shown$index), ", standardised change ",
    coefficient_text(shown$standard_change, 2), ")")), ". Free at most what the wordings explain, one at a time."), shown$item,
    index = shown$index[1], change = shown$standard_change[1])
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
  length(intersect(explored$rows, origin$rows))
}
