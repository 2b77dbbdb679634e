# What a confirmation says in words.

# Why a fit may not be believed, worst first; none when it may.
fit_problems <- function(fit, items, factors) {
  matrices <- fit$matrices
  negative <- items[diag(matrices$residual) < -1e-12]
  spread <- core_factor_covariance(matrices)
  turned <- diag(spread) < 0
  possible <- core_possible(matrices, fit$implied) > -1e-9
  c(
    if (fit$status != "ok") paste0("Do not use these estimates: ", status_words(fit$status), "."),
    if (length(negative) > 0) paste0("Improper solution: negative residual variance of ", and_list(negative),
      ". The structure may be wrong there, or the sample too small."),
    if (any(turned)) paste0("Improper solution: negative variance of factor ", and_list(factors[turned]), "."),
    if (!any(turned) && !possible[["factor"]])
      "Improper solution: factor correlations that no data could have (one beyond 1, or at odds with the others).",
    if (length(negative) == 0 && !possible[["residual"]]) impossible_residuals(matrices$residual, items),
    if (all(possible[c("residual", "factor")]) && !possible[["implied"]])
      "Improper solution: the structure implies covariances that no data could have.",
    if (fit$status == "ok" && isTRUE(fit$lower))
      "A lower chi-square was found only at impossible estimates; this is the best fit with possible ones.",
    if (fit$status == "ok" && is.null(fit$covariance)) "Standard errors cannot be computed: the information matrix is singular."
  )
}

# Residual correlations beyond one are named, or else all residual pairs.
impossible_residuals <- function(residual, items) {
  r <- stats::cov2cor(residual)
  at <- which(lower.tri(r) & r != 0, arr.ind = TRUE)
  beyond <- abs(r[at]) > 1
  if (any(beyond)) at <- at[beyond, , drop = FALSE]
  paste0("Improper solution: residual correlations that no data could have: ",
    and_list(sprintf("%s and %s (%s)", items[at[, 2]], items[at[, 1]], coefficient_text(r[at])), 4), ".")
}

refuse_improper <- function(problems, options) {
  improper <- grep("^Improper", problems, value = TRUE)
  if (options$improper == "refuse" && length(improper) > 0) {
    stop_numeric("The solution is improper, and `improper = \"refuse\"` asks for none such.", faults = improper,
      hint = "Look at the structure and at the items named; \"keep\" shows the fit, \"bound\" holds variances at zero.")
  }
}

confirmation_notes <- function(structure, basis, cells, fit, items, factors, tables, limits, options) {
  overlap <- explored_overlap(structure$explored, basis$origin)
  held <- if (length(fit$held) > 0) unclear_words(cells, fit$held, items, factors)
  missed <- tables$residual_correlations
  missed <- missed[!meets(abs(missed$residual), limits, "residual_r"), ]
  c(
    if (length(held) > 0) paste0("Held at a bound: ", and_list(held), ". Errors and test take it as known."),
    if (!is.null(fit$scale) && is.na(fit$scale))
      "The test's adjustment does not exist in this sample, by its outliers: no verdict on fit. Look for careless answers, or use \"ml\".",
    if (overlap > 0) paste0(
      count_of(overlap, "of these cases was", "of these cases were"),
      " explored to find this structure: this is no independent confirmation. Use `sw_split()`."
    ),
    if (basis$n < 200) paste0("n = ", basis$n, " is small for a confirmation: estimates and fit are uncertain."),
    against_factor_note(tables$loadings),
    if (length(structure$left_out) > 0) paste0("Left out, since no loading was clear: ", and_list(structure$left_out), "."),
    if (nrow(missed) > 0) paste0("Correlations missed by more than ", bound_text(limit(limits, "residual_r")$bound), ": ",
      and_list(sprintf("%s and %s (%s)", missed$item, missed$with, coefficient_text(missed$residual)), 4), "."),
    modification_note(tables$modifications), equivalent_note(structure, tables$modifications),
    "The interval of RMSEA is at 90%; the p beside it tests close fit, RMSEA \u2264 .05.",
    if (startsWith(options$estimator, "ordinal"))
      "Fit of the polychoric correlations. CFI, TLI and RMSEA come from the adjusted chi-square and run higher than those of maximum likelihood.",
    if (options$missing == "pairwise")
      "Each correlation comes from everyone who answered both items: right if answers are missing completely at random (see `sw_screen()`).",
    basis$notes
  )
}

# Items that load against the others of their factor.
against_factor_note <- function(loadings) {
  against <- loadings[which(loadings$standardised < 0 & loadings$p.value < .05), ]
  if (NROW(against) == 0) {
    return(NULL)
  }
  paste0(and_list(paste(against$item, "on", against$factor)), if (nrow(against) == 1) " loads" else " load",
    " against the other items: check the keying (`sw_keying()`); a sum of items, and composite reliability, count ",
    if (nrow(against) == 1) "it" else "them", " against the rest.")
}

# The changes that are large and matter, the three largest; never as advice to free all.
modification_note <- function(modifications) {
  large <- modifications[modifications$reading %in% "large, and it matters", ]
  if (nrow(large) == 0) {
    return(NULL)
  }
  shown <- utils::head(large, 3)
  words <- ifelse(shown$what == "two items share something", paste(shown$item, "and", shown$with, "share something"),
    paste(shown$item, "wants", shown$with, "too"))
  paste0("Where it misses most: ", and_list(paste0(words, " (index ", decimals_text(shown$index), ", standardised change ",
    coefficient_text(shown$standard_change, 2), ")")), ". Free at most what the wordings explain, one at a time.")
}

# Other structures that would fit exactly as well: a factor above three, and single changes
# whose indices are the same.
equivalent_note <- function(structure, modifications) {
  linked <- length(structure$factors) == 3 && length(structure$higher) == 0 && length(structure$unlinked) == 0
  top <- utils::head(modifications[modifications$reading %in% "large, and it matters", ], 12)
  same <- if (nrow(top) > 1) which(abs(diff(top$index)) < 1e-6 * top$index[-1])[1] else NA
  words <- function(i) {
    if (top$what[i] == "two items share something") paste(top$item[i], "with", top$with[i]) else paste(top$with[i], "to", top$item[i])
  }
  c(
    if (linked) "One factor above the three would fit exactly as well: the answers cannot tell it from three correlated factors.",
    if (!is.na(same)) paste0("These answers cannot tell apart two changes, ", words(same), " and ", words(same + 1), ": their indices are the same.")
  )
}

decimals_text <- function(x) formatC(x, format = "f", digits = 1)

explored_overlap <- function(explored, origin) {
  if (is.null(explored) || is.null(origin) || !identical(explored$source, origin$source)) {
    return(0L)
  }
  length(intersect(explored$rows, origin$rows))
}
