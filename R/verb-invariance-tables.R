# The tables and notes of invariance.

invariance_tables <- function(fits, plan, basis, limits) {
  doubtful <- setdiff(names(fits)[vapply(fits, function(f) f$believed && f$code %in% c("missed", "near"), TRUE)], names(fits)[1])
  asked <- if (length(doubtful) > 0) doubtful[1] else names(fits)[length(fits)]
  out <- list(steps = step_table(fits, plan, basis),
    named = do.call(rbind, unname(lapply(fits, function(f) if (is.null(f$blocked) && identical(f$code, "missed")) f$turn$named))),
    culprits = culprit_table(fits, asked, plan, basis))
  means <- mean_step(fits, plan)
  if (!is.null(means)) {
    out$means <- latent_means(fits[[means]], means, plan, basis)
    out$effects <- if (any(plan$cells$kind == "path")) NULL else if (basis$ordered) ordered_effects(fits[[means]], plan, basis) else
      effect_table(fits[[means]], plan, basis)
  }
  out$anchors <- if (!is.null(means)) anchor_table(out$means, fits[[means]], means, plan, basis)
  out$parameters <- do.call(rbind, lapply(names(fits), function(step) parameter_table(fits[[step]], step, plan, basis)))
  out$verdicts <- step_verdicts(out$steps, limits)
  out$groups <- plain_table(group = basis$group_labels, n = vapply(basis$samples, `[[`, 0, "n"), compared_as = c("reference",
    rep("compared", length(basis$samples) - 1)))
  Filter(Negate(is.null), out)
}

# The verdict of each step beside the figure that decides it: CFI of the first, p of the difference of the others.
step_verdicts <- function(steps, limits) {
  figure <- c("cfi", rep("test_p", nrow(steps) - 1))
  judged <- judge(c(steps$cfi[1], steps$p_adjusted[-1]), limits, figure, reason = ifelse(steps$verdict == "untested", steps$why, ""))
  judged$code <- steps$verdict
  ranked_verdicts(verdict_rows("step", steps$step, judged))
}

step_table <- function(fits, plan, basis) {
  figure <- function(name) vapply(fits, function(f) as.numeric(c(f$figures[[name]], NA)[1]), 0, USE.NAMES = FALSE)
  scaled <- basis$robust || basis$ordered
  plain_table(
    step = names(fits), chi_square = figure(if (scaled) "chi_square_scaled" else "chi_square"), df = figure("df"),
    p.value = figure(if (scaled) "p_scaled" else "p.value"), cfi = figure("cfi"), rmsea = figure("rmsea"), conf.low = figure("rmsea.low"),
    conf.high = figure("rmsea.high"), srmr = figure("srmr"), aic = figure("aic"), bic = figure("bic"),
    difference = vapply(fits, function(f) as.numeric(c(f$test$statistic, NA)[1]), 0, USE.NAMES = FALSE),
    df_difference = vapply(fits, function(f) if (is.null(f$test)) NA_real_ else f$figures$df - f$before$df, 0, USE.NAMES = FALSE),
    p_difference = vapply(fits, function(f) as.numeric(c(f$test$p, NA)[1]), 0, USE.NAMES = FALSE),
    p_adjusted = vapply(fits, function(f) as.numeric(c(f$test$p_adjusted, NA)[1]), 0, USE.NAMES = FALSE),
    cfi_change = -vapply(fits, `[[`, 0, "fall", USE.NAMES = FALSE), rmsea_change = vapply(fits, `[[`, 0, "rise", USE.NAMES = FALSE),
    srmr_change = vapply(fits, `[[`, 0, "srmr_rise", USE.NAMES = FALSE),
    detectable = vapply(fits, function(f) as.numeric(c(f$turn$detectable, NA)[1]), 0, USE.NAMES = FALSE),
    verdict = vapply(fits, function(f) step_verdict(f)[["code"]], "", USE.NAMES = FALSE),
    why = vapply(fits, function(f) step_verdict(f)[["reason"]], "", USE.NAMES = FALSE)
  ) |> judged_table(verdict = "step", by = "step", reason = vapply(fits, function(f) step_verdict(f)[["reason"]], ""),
    detail = vapply(fits, function(f) {
      ground <- identical(f$blocked, names(fits)[1])
      if (is.null(f$blocked) || !f$believed) say(message_of("two_at_most", parts = f$problems)) else
        say(message_of(if (ground) "ground_does_not_fit" else "equality_does_not_hold", step = f$blocked))
    }, ""))
}

# The code of a step with its reason: the first is the ground of the others; none is judged after one that failed; a step
# may hold only in part.
step_verdict <- function(fit) {
  if (!fit$believed) {
    return(c(code = "untested", reason = "not_usable"))
  }
  if (!is.null(fit$blocked)) {
    return(c(code = "untested", reason = "before"))
  }
  c(code = fit$code, reason = if (is.null(fit$before)) "ground" else if (length(fit$released) > 0) "in_part" else "")
}

# How mean differences depend on the items that anchor them, where half of a factor's intercepts or more were released: the
# step once more, with the items that were left equal released in place of the others. NULL where fewer were.
anchor_table <- function(means, fit, step, plan, basis) {
  if (basis$ordered || any(plan$cells$kind == "path")) {
    return(NULL)
  }
  loads <- plan$base$part == core_parts[["loading"]]
  intercepts <- which(plan$base$part == core_parts[["intercept"]])
  home <- plan$base$column[loads][match(plan$base$row[intercepts], plan$base$row[loads])]
  lifted <- intercepts %in% fit$released
  rows <- lapply(seq_along(plan$factors), function(k) {
    mine <- home == k
    if (!any(mine & lifted) || sum(mine & lifted) < sum(mine) / 2 || all(lifted[mine])) {
      return(NULL)
    }
    turned <- c(setdiff(fit$released, intercepts[mine]), intercepts[mine & !lifted])
    other <- core_fit_normal_step(plan, basis, plan$kinds[[step]], turned, core_occasion_start(plan, basis))
    if (other$status != "ok" || is.null(other$covariance)) {
      return(NULL)
    }
    there <- latent_means(other, step, plan, basis)
    own <- means[means$factor == plan$factors[k], ]
    there <- there[match(paste(own$factor, own$occasion), paste(there$factor, there$occasion)), ]
    names_of <- function(which) paste(plan$items[plan$base$row[intercepts[which]]], collapse = " ")
    plain_table(factor = own$factor, occasion = own$occasion, anchors = names_of(mine & !lifted), effect = own$effect, conf.low = own$conf.low,
      conf.high = own$conf.high, other_anchors = there$effect, other_low = there$conf.low, other_high = there$conf.high)
  })
  do.call(rbind, rows)
}

# Score tests of the equalities that a step adds.
culprit_table <- function(fits, step, plan, basis) {
  fit <- fits[[step]]
  if (!fit$believed || length(plan$kinds[[step]]) == 0) {
    return(NULL)
  }
  found <- equality_scores(plan, basis, fit, utils::tail(plan$kinds[[step]], 1))
  if (is.null(found)) NULL else plain_frame(found[order(-found$index), setdiff(names(found), "base")])
}

# Of each equality of one kind: index, p, expected change, where.
equality_scores <- function(plan, basis, fit, kind) {
  cells <- fit$cells
  rows <- if (basis$ordered) ordered_equalities(fit, kind) else shared_cells(cells, kind)
  if (length(rows) == 0) {
    return(NULL)
  }
  factors <- length(plan$factors) * basis$waves
  found <- if (basis$ordered) core_ordered_scores(cells, fit, length(plan$items) * basis$waves, factors, rows) else
    core_release_scores(cells, fit, basis$samples, factors, rows, basis$incomplete)
  found$index <- found$index * score_factor(plan, basis, fit)
  base <- plan$base[pmin(cells$base[rows], nrow(plan$base)), ]
  part <- names(core_parts)[base$part + 1L]
  data.frame(
    kind = kind, item = ifelse(part %in% c("factor", "path"), plan$factors[base$row], plan$items[base$row]),
    factor = ifelse(part %in% c("loading", "factor", "path"), plan$factors[pmin(base$column, length(plan$factors))], NA),
    occasion = occasion_of(cells[rows, ], basis), index = found$index, p.value = core_chi_square_p(found$index, 1),
    p_holm = stats::p.adjust(core_chi_square_p(found$index, 1), "holm"), change = found$change, base = cells$base[rows]
  )
}

# Cells of later occasions that share a number with others.
shared_cells <- function(cells, kind) {
  later <- (cells$group > 1 | cells$wave > 1) & !is.na(cells$base)
  which(later & cells$kind == kind & cells$free > 0 & cells$free %in% cells$free[duplicated(cells$free)])
}

# The equality to lift next: the score test that is surest among all, in a factor of which two items stay equal. A row, or NULL when none is left.
largest_culprit <- function(plan, basis, fit, kinds, released, limits) {
  found <- equality_scores(plan, basis, fit, utils::tail(kinds, 1))
  found <- found[!is.na(found$index) & meets(found$p_holm, limits, "score_test_p"), ]
  found <- found[order(-found$index), ]
  home <- vapply(seq_along(plan$items), function(item) home_of(plan, item), 1L)
  lifted <- plan$base$row[released[cell_kinds(plan$base)[released] %in% utils::tail(kinds, 1)]]
  for (i in seq_len(NROW(found))) {
    item <- plan$base$row[found$base[i]]
    left <- setdiff(which(home == home[item]), c(lifted, item))
    if (length(left) >= 2) return(found[i, ])
  }
  NULL
}

occasion_of <- function(cells, basis) {
  at <- (cells$group - 1) * basis$waves + cells$wave
  basis$labels$label[at]
}

occasion_messages <- function(cells, plan, basis) {
  item <- plan$items[(cells$row - 1) %% length(plan$items) + 1]
  factor <- plan$factors[(cells$row - 1) %% length(plan$factors) + 1]
  messages_of("negative_variance_in", kind = cells$kind, of = ifelse(startsWith(cells$kind, "factor"), factor, item),
    occasion = occasion_of(cells, basis))
}

parameter_table <- function(fit, step, plan, basis) {
  cells <- fit$cells
  p <- length(plan$items)
  m <- length(plan$factors)
  items <- if (basis$waves == 1) plan$items else as.vector(outer(plan$items, basis$wave_labels, function(i, w) paste0(i, " (", w, ")")))
  factors <- if (basis$waves == 1) plan$factors else as.vector(outer(plan$factors, basis$wave_labels, function(i, w) paste0(i, " (", w, ")")))
  cut <- cells$kind == "threshold"
  standard <- rep(NA_real_, nrow(cells))
  standard[!cut] <- core_standardised(cells[!cut, ], padded(fit$theta, cells[!cut, ]), p * basis$waves, m * basis$waves)$value
  free <- cells$free > 0
  error <- rep(NA_real_, nrow(cells))
  if (!is.null(fit$covariance)) error[free] <- sqrt(pmax(diag(fit$covariance), 0))[cells$free[free]]
  value <- core_cell_values(cells, fit$theta)
  of_items <- cells$kind %in% c("residual variance", "residual covariance", "intercept", "threshold")
  plain_table(
    step = step, group = basis$group_labels[cells$group], wave = if (basis$waves > 1) basis$wave_labels[cells$wave],
    kind = cells$kind, first = ifelse(cells$kind == "mean", factors[cells$row], ifelse(of_items, items[ifelse(cells$kind %in% c("intercept",
      "threshold"),
      cells$row, cells$column)], factors[cells$column])),
    second = ifelse(cut, paste("threshold", cells$column), ifelse(of_items | cells$kind == "loading", items[cells$row], factors[cells$row])),
    estimate = value, std.error = error, conf.low = value - core_normal_edge(.95) * error, conf.high = value + core_normal_edge(.95) * error,
    standardised = standard, free = free
  )
}

# As many of the parameters as these cells name.
padded <- function(theta, cells) theta[seq_len(max(cells$free))]

# The last step with equal intercepts (and levels) that holds, perhaps in part.
mean_step <- function(fits, plan) {
  good <- names(fits)[vapply(fits, function(f) step_holds(f) && is.null(f$blocked) && !is.null(f$before), TRUE)]
  enough <- if (any(plan$cells$kind == "path")) c("levels", "strict") else c("scalar", "strict", "variances", "covariances")
  good <- intersect(good, enough)
  if (length(good) == 0) NULL else good[length(good)]
}

latent_means <- function(fit, step, plan, basis) {
  cells <- fit$cells
  value <- core_cell_values(cells, fit$theta)
  m <- length(plan$factors)
  of <- function(kind, occasion, k) {
    there <- cells$row == k + (occasion$w - 1) * m & cells$group == occasion$g
    which(cells$kind == kind & !is.na(cells$base) & there & (cells$row == cells$column | kind == "mean"))
  }
  sizes <- vapply(basis$samples, `[[`, 0, "n")
  upper <- unique(cells$column[cells$kind == "path" & cells$wave == 1])
  place <- expand.grid(k = if (length(upper) > 0) upper else seq_len(m), w = seq_len(basis$waves), g = seq_len(basis$groups))
  place <- place[!(place$g == 1 & place$w == 1), ]
  rows <- lapply(seq_len(nrow(place)), function(i) {
    at <- place[i, ]
    cell <- of("mean", at, at$k)
    mean <- value[cell]
    error <- if (cells$free[cell] > 0) sqrt(fit$covariance[cells$free[cell], cells$free[cell]]) else NA_real_
    variance <- value[of("factor variance", at, at$k)]
    pooled <- sqrt((sizes[1] + sizes[at$g] * variance) / (sizes[1] + sizes[at$g]))
    plain_table(
      factor = plan$factors[at$k], occasion = occasion_of(data.frame(group = at$g, wave = at$w), basis), against = basis$labels$label[1], mean = mean,
      std.error = error, statistic = mean / error, p.value = 2 * stats::pnorm(-abs(mean / error)), variance = variance, effect = mean / pooled,
      conf.low = (mean - core_normal_edge(.95) * error) / pooled, conf.high = (mean + core_normal_edge(.95) * error) / pooled, step = step
    )
  })
  do.call(rbind, rows)
}

# What released items do, in answer units.
effect_table <- function(fit, plan, basis) {
  cells <- fit$cells
  value <- core_cell_values(cells, fit$theta)
  items <- unique(plan$base$row[fit$released[plan$base$part[fit$released] %in% core_parts[c("loading", "intercept")]]])
  if (length(items) == 0) {
    return(NULL)
  }
  m <- length(plan$factors)
  p <- length(plan$items)
  place <- expand.grid(i = items, w = seq_len(basis$waves), g = seq_len(basis$groups))
  place <- place[!(place$g == 1 & place$w == 1), ]
  one <- function(kind, g, w, i) value[cells$kind == kind & cells$group == g & cells$wave == w & !is.na(cells$base) & cells$row == i + (w - 1) * p]
  do.call(rbind, lapply(seq_len(nrow(place)), function(r) {
    at <- place[r, ]
    k <- plan$base$column[plan$base$part == core_parts[["loading"]] & plan$base$row == at$i][1]
    own <- function(kind) {
      factor <- k + (at$w - 1) * m
      there <- cells$group == at$g & cells$wave == at$w & !is.na(cells$base) & cells$row == factor
      value[cells$kind == kind & there & (kind == "mean" | cells$column == factor)]
    }
    here <- function(kind) one(kind, at$g, at$w, at$i)[1] - one(kind, 1, 1, at$i)[1]
    spread <- c(basis$samples[[1]]$s[at$i, at$i], diag(basis$samples[[at$g]]$s)[at$i + (at$w - 1) * p])
    sizes <- c(basis$samples[[1]]$n, basis$samples[[at$g]]$n)
    found <- core_item_difference(here("intercept"), here("loading"), own("mean"), own("factor variance"), sqrt(sum(sizes * spread) / sum(sizes)))
    on_scale <- sum(plan$base$part == core_parts[["loading"]] & plan$base$column == k)
    plain_table(
      item = plan$items[at$i], factor = plan$factors[k], occasion = occasion_of(data.frame(group = at$g, wave = at$w), basis),
      difference = found$signed, effect = found$size, on_mean = found$signed / on_scale
    )
  }))
}

invariance_notes <- function(fits, basis, tables) {
  bad <- Filter(function(f) !f$believed, fits)
  freed <- unlist(lapply(fits, `[[`, "freed"))
  small <- basis$group_labels[vapply(basis$samples, `[[`, 0, "n") < 100]
  sizes <- vapply(basis$samples, `[[`, 0, "n")
  c(
    note("step_not_usable", lapply(names(bad), function(step) message_of("step_not_usable", step = step, why = bad[[step]]$problems)),
      as.list(names(bad)), rank = 1L),
    if (length(freed) > 0) note("freed_by_looking", message_of("freed_by_looking"), rank = 1L),
    small_groups_note(basis$too_small, basis$least),
    if (basis$without_group > 0) note("without_group", message_of("without_group", cases = basis$without_group), cases = basis$without_group),
    if (isTRUE(basis$other_weights > 0)) note("other_weights", message_of("other_weights", people = basis$other_weights),
      people = basis$other_weights),
    if (length(small) > 0) note("small_groups", small_group_message(small, vapply(fits, `[[`, "", "code")), small, rank = 1L),
    if (core_scale_is_noise(fits[[1]], basis)) note("scale_of_chance", message_of("scale_of_chance_groups")),
    if (max(sizes) > 3 * min(sizes)) note("unequal_groups", message_of("unequal_groups")),
    if (basis$ordered) note("adjusted_differences", message_of("adjusted_differences"), rank = 3L),
    if (basis$ordered && any(lengths(basis$values) == 3)) note("three_answers", message_of("three_answers",
      items = names(basis$values)[lengths(basis$values) == 3]), rank = 3L),
    if (basis$ordered && all(lengths(basis$values) == 2)) note("two_answers", message_of("two_answers"), rank = 3L),
    if (is.null(tables$means)) note("no_means", message_of(if (all(names(fits) %in% c("configural", "thresholds", "metric", "paths")))
      "means_not_asked" else "means_not_held")),
    release_note(fits, tables$named), anchor_note(tables$anchors)
  )
}

# Mean differences that other anchors would change.
anchor_note <- function(anchors) {
  if (is.null(anchors)) {
    return(NULL)
  }
  note("anchors", messages_of("anchors", factor = anchors$factor, items = strsplit(anchors$anchors, " "), occasion = anchors$occasion,
    effect = anchors$effect, other = anchors$other_anchors), as.list(anchors$factor), effect = anchors$effect, rank = 1L)
}

# What to do about a step that does not hold.
release_note <- function(fits, named) {
  failed <- names(fits)[vapply(fits, function(f) is.null(f$blocked) && !is.null(f$before) && f$code == "missed", TRUE)]
  if (length(failed) == 0 || is.null(named)) {
    return(NULL)
  }
  note("release", message_of("release", item = named$item[1], occasion = named$occasion[1]), named$item[1])
}

# What these groups could have shown, where steps are not seen to fail: the difference of one item that four of five such samples would show.
could_show_note <- function(fits) {
  size <- function(step) if (!is.null(fits[[step]]) && fits[[step]]$code %in% c("met", "near")) fits[[step]]$turn$detectable
  loading <- size("metric")
  intercept <- size("scalar")
  known <- c(loading, intercept)
  if (length(known) == 0 || anyNA(known)) {
    return(NULL)
  }
  note("could_show", message_of(if (is.null(intercept)) "could_show_loading" else if (is.null(loading)) "could_show_intercept" else "could_show",
    loading = loading, intercept = intercept))
}

# What small groups mean for steps with these codes: never that steps can hardly fail beside one that did.
small_group_message <- function(groups, codes) {
  message_of(if (codes[1] %in% "missed") "small_groups_misfit" else if (any(codes %in% "missed")) "small_groups_failed" else "small_groups_hold",
    groups = groups)
}
