# People in clusters: how alike they are, in items and in scores.

# Items of a survey in clusters: list(items, icc, effect: design effect), NULL without clusters.
item_clustering <- function(survey, items) {
  if (is.null(survey$cluster)) {
    return(NULL)
  }
  sums <- cluster_sums(survey, items, function(answers) lapply(items, function(item) answers[, item, drop = FALSE]))
  found <- lapply(sums, core_levels_of_sums, items = NULL)
  icc <- vapply(found, function(f) f$icc[[1]], 0)
  plain_table(item = items, icc = icc, design_effect = core_design_effect(icc, vapply(found, `[[`, 0, "size")))
}

# Alpha and omega within and between clusters, of each subscale, with the intraclass correlation of its mean; NULL without clusters.
levels_table <- function(survey, scales, level, seed) {
  if (!has_answers(survey) || is.null(survey$cluster)) {
    return(NULL)
  }
  rows <- lapply(names(scales), function(name) {
    items <- colnames(scales[[name]]$covariance)
    if (length(items) < 2) {
      return(NULL)
    }
    sums <- cluster_sums(survey, items, function(answers) list(items = answers, mean = matrix(rowMeans(answers, na.rm = TRUE))))
    total <- core_levels_of_sums(sums$mean, NULL)
    levels <- core_levels_of_sums(sums$items, items)
    estimate <- core_level_coefficients(levels)
    ends <- with_seed(seed, core_level_intervals(sums$items, estimate, level, 50, random_draws))
    plain_table(
      scale = name, level = c("within", "between"), n = c(levels$n - levels$groups, levels$groups), alpha = estimate[, "alpha"],
      conf.low = ends$low[, 1], conf.high = ends$high[, 1], omega = estimate[, "omega"], omega_low = ends$low[, 2], omega_high = ends$high[, 2],
      icc = total$icc[[1]], design_effect = core_design_effect(total$icc[[1]], total$size)
    )
  })
  do.call(rbind, rows)
}

# What clusters say of subscales.
level_notes <- function(levels) {
  if (is.null(levels)) {
    return(NULL)
  }
  open <- unique(levels$scale[levels$level == "between" & is.na(levels$alpha)])
  c(
    if (length(open) > 0) note("no_between", message_of("no_between", scales = open), open),
    note("levels", message_of("levels_of_alpha"), rank = 3L)
  )
}
