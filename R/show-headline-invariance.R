# The answer of invariance, and what to look at first.

#' @export
headline.sw_invariance <- function(x) {
  steps <- x$tables$steps
  meaning <- c(
    configural = "the same pattern", thresholds = "equal thresholds", metric = "equal loadings", paths = "equal paths", scalar = "equal intercepts",
      levels = "equal levels", strict = "equal residual variances",
    variances = "equal factor variances", covariances = "equal factor covariances", means = "equal factor means"
  )
  holds <- steps$verdict == "met"
  fails <- steps$step[steps$verdict == "missed"]
  usable <- steps$why != "not_usable"
  if (!usable[1]) {
    return("The structure could not be fitted to all occasions: nothing can be compared.")
  }
  words <- function(which) and_list(paste0(meaning[steps$step[which]], ifelse(steps$why[which] == "in_part", " in part", "")))
  what <- if (is.null(x$about$options$across)) "groups" else if (is.null(x$about$options$by)) "waves" else "groups and waves"
  culprit <- x$tables$culprits
  freed <- x$tables$effects
  paste0(
    if (any(holds)) paste0("Over ", x$about$options$occasions, " ", what, " these hold: ", words(which(holds)), ".") else
      paste0("Over ", x$about$options$occasions, " ", what, " nothing is shown to be equal."),
    if (length(fails) > 0) paste0(" What does not hold: ", and_list(meaning[fails]), "."),
    if (length(fails) > 0 && !is.null(culprit) && isTRUE(meets(culprit$p.value[1], x$limits, "score_test_p")))
      paste0(" The first to look at is ", culprit$item[1], " (", culprit$kind[1], ", ", quoted(culprit$occasion[1]), ")."),
    if (!is.null(freed)) paste0(" Freed: ", and_list(unique(freed$item)), "."),
    mean_words(x$tables$means, c(groups = "group", waves = "wave", `groups and waves` = "occasion")[[what]], x$limits)
  )
}

mean_words <- function(means, what, limits) {
  if (is.null(means)) {
    return(NULL)
  }
  apart <- means[meets(means$p.value, limits, "test_p") %in% TRUE, ]
  if (nrow(apart) == 0) {
    return(paste0(" No latent mean differs from the first ", what, "'s."))
  }
  paste0(" Latent means that differ: ", and_list(paste0(apart$factor, " (", quoted(apart$occasion), " ",
    ifelse(apart$effect > 0, "higher", "lower"), " by ", coefficient_text(abs(apart$effect), 2), " sd)")), ".")
}

#' @export
first_look.sw_invariance <- function(x) {
  failed <- any(x$tables$steps$verdict == "missed")
  c(
    list(x$tables$steps[c("step", "chi_square", "df", "cfi", "rmsea", "srmr", "cfi_change", "rmsea_change", "p_difference", "verdict")]),
    if (failed && !is.null(x$tables$culprits)) list(utils::head(x$tables$culprits[c("kind", "item", "occasion", "index", "p.value", "change")], 5)),
    if (!is.null(x$tables$means)) list(x$tables$means[c("factor", "occasion", "mean", "std.error", "p.value", "effect", "conf.low", "conf.high")]),
    if (!is.null(x$tables$effects)) list(x$tables$effects),
    if (!is.null(x$tables$aligned)) x$tables[c("aligned", "alignment")]
  )
}

#' @export
glance_figures.sw_invariance <- function(x) {
  steps <- x$tables$steps
  list(steps = nrow(steps), last_that_holds = c(utils::tail(steps$step[steps$verdict == "met"], 1), NA)[1])
}

estimator_words <- function(estimator) {
  c(ml = " by maximum likelihood", robust = " by maximum likelihood with robust tests",
    ordinal = paste(" by diagonally weighted least squares from polychoric correlations, with tests adjusted for mean and variance (Muthen, 1993;",
      "Satorra, 2000) and each step identified by its categories (Wu & Estabrook, 2016),"))[[estimator]]
}

#' @export
sentences.sw_invariance <- function(x) {
  steps <- x$tables$steps
  options <- x$about$options
  c(
    paste0("Measurement invariance over ", if (!is.null(options$by)) paste0("groups (", paste(options$by, collapse = " by "), ")"),
      if (!is.null(options$by) && !is.null(options$across))
      " and ", if (!is.null(options$across)) paste0("waves (", options$across, "; residuals of the same item were allowed to covary)"),
      " was examined in ", count_of(nrow(steps), "step"), estimator_words(options$estimator),
        " (n = ", x$about$n, ").",
      " A step was taken to hold when CFI fell by no more than ", bound_text(limit(x$limits, "cfi_change")$bound), " and RMSEA rose by no more than ",
      bound_text(limit(x$limits, "rmsea_change")$bound), " (Cheung & Rensvold, 2002; Chen, 2007)."),
    paste0(paste0(toupper(substr(steps$step, 1, 1)), substring(steps$step, 2), ": chi-square(", steps$df, ") = ", decimals(steps$chi_square, 2),
      ", CFI = ",
      coefficient_text(steps$cfi), ", RMSEA = ", coefficient_text(steps$rmsea), ", SRMR = ", coefficient_text(steps$srmr),
      ifelse(is.na(steps$cfi_change), "", paste0(", change of CFI ", coefficient_text(steps$cfi_change), ", difference p ",
        vapply(steps$p_difference, p_words, "")))),
      collapse = "; ") |> paste0("."),
    if (!is.null(x$tables$effects)) paste0("Equality was lifted for ", and_list(unique(x$tables$effects$item)),
      if (identical(options$release, "auto")) ", found from these answers", ".")
  )
}
