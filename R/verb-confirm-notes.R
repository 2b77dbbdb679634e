# What a confirmation says in words.

# Why a fit may not be believed, worst first; none when it may.
fit_problems <- function(fit, matrices, items, factors) {
  negative <- items[diag(matrices$residual) < 0]
  spread <- core_factor_covariance(matrices)
  turned <- diag(spread) < 0
  indefinite <- !any(turned) && min(eigen(spread, symmetric = TRUE, only.values = TRUE)$values) < -1e-10
  c(
    if (fit$status != "ok") paste0("Do not use these estimates: ", status_words(fit$status), "."),
    if (length(negative) > 0) paste0("Improper solution: negative residual variance of ", and_list(negative),
      ". The structure may be wrong there, or the sample too small."),
    if (any(turned)) paste0("Improper solution: negative variance of factor ", and_list(factors[turned]), "."),
    if (indefinite) "Improper solution: factor correlations that no data could have (one beyond 1, or at odds with the others)."
  )
}

confirmation_notes <- function(x, structure, moments, s, fit, items, tables, limits) {
  overlap <- explored_overlap(structure$explored, moments$origin)
  missed <- tables$residual_correlations
  missed <- missed[!meets(abs(missed$residual), limits, "residual_r"), ]
  c(
    if (overlap > 0) paste0(
      count_of(overlap, "of these cases was", "of these cases were"),
      " explored to find this structure: this is no independent confirmation. Use `sw_split()`."
    ),
    if (length(structure$left_out) > 0) paste0("Left out, since no loading was clear: ", and_list(structure$left_out), "."),
    if (nrow(missed) > 0) paste0("Correlations missed by more than ", bound_text(limit(limits, "residual_r")$bound), ": ",
      and_list(sprintf("%s and %s (%s)", missed$item, missed$with, coefficient_text(missed$residual)), 4), "."),
    modification_note(tables$modifications),
    "The interval of RMSEA is at 90%; the p beside it tests close fit, RMSEA \u2264 .05.",
    if (moments$n < 200) paste0("n = ", moments$n, " is small for a confirmation: estimates and fit are uncertain.")
  )
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

decimals_text <- function(x) formatC(x, format = "f", digits = 1)

explored_overlap <- function(explored, origin) {
  if (is.null(explored) || is.null(origin) || !identical(explored$source, origin$source)) {
    return(0L)
  }
  length(intersect(explored$rows, origin$rows))
}
