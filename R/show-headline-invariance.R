# The answer of invariance, and what to look at first.

#' @export
headline.sw_invariance <- function(x) {
  steps <- x$tables$steps
  options <- x$about$options
  if (steps$why[1] == "not_usable") {
    return("The structure could not be fitted to all occasions: nothing can be compared.")
  }
  what <- if (is.null(options$across)) "groups" else if (is.null(options$by)) "waves" else "groups and waves"
  over <- paste0("over ", options$occasions, " ", what)
  if (steps$verdict[1] == "missed") {
    return(paste0("The structure does not fit ", over, " even with nothing equal (CFI ", coefficient_text(steps$cfi[1]), ", RMSEA ",
      coefficient_text(steps$rmsea[1]), "): no step is judged. Mend the structure first."))
  }
  paste0(steps_answer(steps, over), culprit_words(x), freed_words(x$tables$effects),
    mean_words(x$tables$means, c(groups = "group", waves = "wave", `groups and waves` = "occasion")[[what]], x))
}

# What holds, what is open, what does not hold, what is not tested.
steps_answer <- function(steps, over) {
  words <- function(which) and_list(paste0(step_meaning[steps$step[which]], ifelse(steps$why[which] == "in_part", " in part", "")))
  later <- seq_len(nrow(steps)) > 1
  holds <- which(steps$verdict == "met" & later)
  open <- which(steps$verdict == "near" & later)
  fails <- which(steps$verdict == "missed" & later)
  untested <- which(steps$why == "before")
  paste0(
    if (steps$verdict[1] == "near") "Whether the structure fits is open; if it does, " else "",
    if (length(holds) > 0) paste0(words(holds), " hold ", over) else
      if (length(open) > 0) paste("nothing is surely equal", over) else paste("nothing is shown to be equal", over),
    if (length(open) > 0) paste0("; ", words(open), " stay open"),
    if (length(fails) > 0) paste0("; ", words(fails), " do not hold"),
    if (length(untested) > 0) paste0(" (not tested then: ", words(untested), ")"), "."
  ) |> sentence_start()
}

culprit_words <- function(x) {
  culprit <- x$tables$culprits[1, ]
  if (!any(x$tables$steps$verdict[-1] == "missed") || is.null(culprit) || !isTRUE(meets(culprit$p_holm, x$limits, "score_test_p"))) {
    return("")
  }
  paste0(" The first to look at is ", culprit$item, " (", culprit$kind, ", ", quoted(culprit$occasion), ").")
}

freed_words <- function(effects) if (!is.null(effects)) paste0(" Freed: ", and_list(unique(effects$item)), ".") else ""

# Latent means that differ, with both groups by name and size.
mean_words <- function(means, what, x) {
  if (is.null(means)) {
    return("")
  }
  sizes <- x$tables$groups
  named <- function(label) {
    n <- sizes$n[match(label, sizes$group)]
    ifelse(is.na(n), quoted(label), paste0(quoted(label), " (n = ", n, ")"))
  }
  apart <- means[meets(means$p.value, x$limits, "test_p") %in% TRUE, ]
  if (nrow(apart) == 0) {
    return(paste0(" No latent mean is seen to differ from that of ", named(means$against[1]), "."))
  }
  paste0(" Latent means against ", named(apart$against[1]), ": ", and_list(paste0(apart$factor, " of ", named(apart$occasion), " ",
    ifelse(apart$effect > 0, "higher", "lower"), " by ", coefficient_text(abs(apart$effect), 2), " sd")), ".")
}

#' @export
first_look.sw_invariance <- function(x) {
  failed <- any(x$tables$steps$verdict[-1] %in% c("missed", "near"))
  c(
    list(x$tables$steps[c("step", "chi_square", "df", "cfi", "rmsea", "srmr", "cfi_change", "rmsea_change", "srmr_change", "p_difference",
      "verdict")]),
    if (failed && !is.null(x$tables$culprits)) list(utils::head(x$tables$culprits[c("kind", "item", "occasion", "index", "p.value", "change")], 5)),
    if (!is.null(x$tables$means)) list(x$tables$means[c("factor", "occasion", "mean", "std.error", "p.value", "effect", "conf.low", "conf.high")]),
    if (!is.null(x$tables$effects)) list(x$tables$effects), if (!is.null(x$tables$anchors)) list(x$tables$anchors),
    if (!is.null(x$tables$aligned)) x$tables[c("aligned", "alignment")]
  )
}

#' @export
glance_figures.sw_invariance <- function(x) {
  steps <- x$tables$steps
  list(steps = nrow(steps), last_that_holds = c(utils::tail(steps$step[steps$verdict %in% c("met", "between")], 1), NA)[1])
}

estimator_words <- function(estimator) {
  c(ml = " by maximum likelihood", robust = " by maximum likelihood with robust tests",
    ordinal = paste(" by diagonally weighted least squares from polychoric correlations, with tests adjusted for mean and variance",
      "(Muth\u00e9n, 1993;",
      "Satorra, 2000) and each step identified by its categories (Wu & Estabrook, 2016),"))[[estimator]]
}

# ": north n = 383, south n = 257", of twelve groups at most.
group_sizes <- function(x) {
  groups <- x$tables$groups
  if (NROW(groups) < 2 || NROW(groups) > 12) "" else paste0(": ", paste0(groups$group, " n = ", groups$n, collapse = ", "))
}

#' @export
sentences.sw_invariance <- function(x) {
  steps <- x$tables$steps
  options <- x$about$options
  few <- function(figure) paste0(figure, if (x$about$n <= 300) "_few" else "")
  c(
    paste0("Measurement invariance over ", if (!is.null(options$by)) paste0("groups (", paste(options$by, collapse = " by "), group_sizes(x), ")"),
      if (!is.null(options$by) && !is.null(options$across))
      " and ", if (!is.null(options$across)) paste0("waves (", options$across, "; residuals of the same item were allowed to covary)"),
      " was examined in ", count_of(nrow(steps), "step"), estimator_words(options$estimator),
        " (n = ", x$about$n, ").",
      " The first step was judged by its fit; each other was taken not to hold when CFI fell by more than ", bound_text(limit(x$limits,
        few("cfi_change"))$bound),
      ", RMSEA rose by more than ", bound_text(limit(x$limits, few("rmsea_change"))$bound), " or SRMR by more than ",
      bound_text(limit(x$limits, few("srmr_change_loadings"))$bound), " (loadings) or ", bound_text(limit(x$limits, few("srmr_change"))$bound),
      " (others; Chen, 2007), and the test of the difference saw it; after a step that did not hold none was judged."),
    paste0(paste0(sentence_start(steps$step), ": chi-square(", steps$df, ") = ", decimals(steps$chi_square, 2),
      ", CFI = ",
      coefficient_text(steps$cfi), ", RMSEA = ", coefficient_text(steps$rmsea), ", SRMR = ", coefficient_text(steps$srmr),
      ifelse(is.na(steps$cfi_change), "", paste0(", change of CFI ", coefficient_text(steps$cfi_change), ", difference p ",
        vapply(steps$p_difference, p_words, "")))),
      collapse = "; ") |> paste0("."),
    if (!is.null(x$tables$effects)) paste0("Equality was lifted for ", and_list(unique(x$tables$effects$item)),
      if (identical(options$release, "auto")) ", found from these answers", ".")
  )
}
