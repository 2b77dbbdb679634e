# The tables of a reliability, each from moments of the subscales.

reliability_row <- function(name, moments, found, general, keyed, interval, level, limits) {
  s <- moments$covariance
  back <- found$keying$turned & !colnames(s) %in% keyed
  bounds <- switch(found$interval,
    feldt = core_feldt_interval(found$alpha, moments$n, ncol(s), level), bonett = core_bonett_interval(found$alpha, moments$n, ncol(s), level),
    free = , delta = core_reliability_interval(found$alpha, found$alpha_error, moments$n, level, c(found$alpha_df, Inf)[1]),
    found$resampled[["alpha"]]
  )
  omega_bounds <- if (is.null(found$resampled)) core_reliability_interval(found$omega$omega, found$omega_error, moments$n,
    level, c(found$omega_df, Inf)[1]) else
    found$resampled[["omega"]]
  shares <- general[match(name, general$what), ]
  r <- core_inter_item_r(s)
  error <- sqrt(sum(s)) * sqrt(max(1 - found$alpha, 0))
  plain_table(
    scale = name, coefficient = if (all(colnames(s) %in% keyed)) "KR-20" else "alpha", items = ncol(s), n = moments$n,
    n_left_out = moments$n_left_out, alpha = found$alpha, conf.low = bounds[1], conf.high = bounds[2],
    interval = found$interval, verdict = judge_code(found$alpha, limits, "alpha", bounds[1],
      bounds[2]), alpha_standardised = core_standardised_alpha(s),
    omega = found$omega$omega, omega_low = omega_bounds[1], omega_high = omega_bounds[2],
    omega_observed = found$omega$omega_observed, omega_hierarchical = shares$omega_hierarchical,
    explained_common = shares$explained_common, alpha_ordinal = found$alpha_ordinal, omega_ordinal = found$omega_ordinal,
    omega_sum = found$omega_sum, omega_sum_low = found$omega_sum_low, omega_sum_high = found$omega_sum_high,
    lambda1 = found$lambdas[["lambda1"]],
    lambda2 = found$lambdas[["lambda2"]], lambda4 = found$lambda4,
    lambda5 = found$lambdas[["lambda5"]], lambda6 = found$lambdas[["lambda6"]], glb = found$glb, odd_even_rulon = found$odd_even,
    odd_even_stepped = found$odd_even_stepped, split_mean = mean(found$splits), split_worst = min(found$splits),
    sem = error, reliable_change = core_normal_edge(level) * sqrt(2) * error, inter_item_r = r[["mean"]],
    inter_item_lowest = r[["lowest"]], inter_item_highest = r[["highest"]], rmsea_one_factor = found$omega$rmsea,
    second_eigenvalue = found$second_eigenvalue, looks_unreversed = paste(colnames(s)[back], collapse = " "),
    alpha_turned = if (any(back)) core_alpha(core_turn(s, back)) else NA_real_
  )
}

# Mean and sd of the sum as its reliability takes them; its range, and share at its ends, over complete cases.
score_shape <- function(survey, tallies, scales) {
  specs <- survey$codebook$items
  stacked(lapply(names(tallies), function(scale) {
    tally <- tallies[[scale]]
    mine <- specs[match(survey_scales(survey)[[scale]], specs$item), ]
    shape <- core_total_shape(tally)
    share <- function(chosen) if (shape$n == 0) NA_real_ else sum(tally$n[chosen]) / shape$n
    moments <- scales[[scale]]
    everyone <- moments$missing != "listwise" && !anyNA(moments$mean)
    plain_table(
      sum_mean = if (everyone) sum(moments$mean) else shape$mean, sum_sd = if (everyone) sqrt(max(sum(moments$covariance), 0)) else shape$sd,
        sum_lowest = shape$lowest, sum_highest = shape$highest,
      at_lowest = share(tally$total <= sum(mine$lowest)), at_highest = share(tally$total >= sum(mine$highest))
    )
  }))
}

reliability_items <- function(name, moments, found, keyed, limits, level) {
  s <- moments$covariance
  r <- unname(core_item_rest_r(s))
  without <- core_alpha_without(s)
  variance <- unname(diag(s))
  mean <- unname(moments$mean)
  is_test <- colnames(s) %in% keyed
  change_bounds <- vapply(seq_along(r), function(j) {
    if (is.null(found$resampled)) c(NA_real_, NA_real_) else found$resampled[[paste0("change_", j)]]
  }, numeric(2))
  ends <- if (is.null(found$rest_error)) rest_interval(r, moments$n, level) else r_interval(r, found$rest_error, level, found$rest_df)
  # Beside unreversed items the others look worse than they are.
  reason <- ifelse((any(found$keying$turned & !is_test) & !found$keying$turned) | found$keying$tie, "keying", "")
  plain_table(
    scale = name, item = colnames(s), mean = mean, sd = sqrt(variance), item_rest_r = r, rest_low = ends$low, rest_high = ends$high,
    item_total_r = unname(core_item_total_r(s)),
    squared_multiple_r = 1 - unname(found$unexplained) / variance, alpha_without = without, change = without - found$alpha,
    change_low = change_bounds[1, ], change_high = change_bounds[2, ],
    omega_without = core_omega_without(s), sum_mean_without = sum(mean) - mean,
    sum_sd_without = sqrt(pmax(sum(s) - 2 * unname(rowSums(s)) + variance, 0)),
    verdict = judge_code(r, limits, ifelse(is_test, "item_rest_r_keyed", "item_rest_r"), ends$low, ends$high, reason), verdict_reason = reason,
    looks_unreversed = found$keying$turned & !is_test
  )
}

# Interval of an item-rest correlation by Fisher's z.
rest_interval <- function(r, n, level = .95) {
  z <- atanh(pmin(pmax(r, -.9999999), .9999999))
  width <- core_normal_edge(level) / sqrt(max(n - 3, 1))
  list(low = tanh(z - width), high = tanh(z + width))
}

# Of a correlation with a standard error, on the same scale; df: of one pooled over imputations.
r_interval <- function(r, error, level = .95, df = NULL) {
  inner <- pmin(pmax(r, -.9999999), .9999999)
  width <- stats::qt((1 + level) / 2, if (is.null(df)) Inf else df) * error / (1 - inner^2)
  list(low = tanh(atanh(inner) - width), high = tanh(atanh(inner) + width))
}

twoway_tables <- function(twoway) {
  there <- Filter(Negate(is.null), twoway)
  if (length(there) == 0) {
    return(list())
  }
  rows <- function(part) stacked(lapply(names(there), function(name) do.call(plain_table, c(list(scale = name), there[[name]][[part]]))))
  anova <- plain_frame(rows("table"))
  names(anova)[names(anova) == "p"] <- "p.value"
  intraclass <- plain_frame(rows("icc"))
  names(intraclass) <- c("scale", "kind", "estimate", "conf.low", "conf.high")
  list(anova = anova, intraclass = intraclass)
}

# Stratified alpha of everything, the weighted sum where weights are given, and each
# difference of two subscales.
composite_table <- function(whole, scales, weights) {
  empty <- plain_table(what = character(), n = numeric(), reliability = numeric(), statistic = numeric(), df = numeric(), p.value = numeric())
  if (is.null(whole)) {
    return(empty)
  }
  # Alphas of the same people as the totals.
  alpha <- vapply(scales, function(m) core_alpha(whole$covariance[colnames(m$covariance), colnames(m$covariance), drop = FALSE]), 0)
  if (anyNA(alpha)) {
    return(empty)
  }
  member <- vapply(scales, function(m) colnames(whole$covariance) %in% colnames(m$covariance), logical(ncol(whole$covariance)))
  totals <- crossprod(member, whole$covariance %*% member)
  pairs <- utils::combn(length(scales), 2)
  differences <- lapply(seq_len(ncol(pairs)), function(i) {
    two <- pairs[, i]
    c2 <- totals[two, two]
    outcome <- core_compare_dependent(alpha[two[1]], alpha[two[2]], c2[1, 2] / sqrt(c2[1, 1] * c2[2, 2]), whole$n)
    plain_table(
      what = paste(names(scales)[two], collapse = " \u2212 "), n = whole$n, reliability = core_weighted_sum_reliability(c2, alpha[two], c(1, -1)),
      statistic = outcome$statistic, df = outcome$df, p.value = outcome$p
    )
  })
  sums <- list(sum_row("the whole instrument (stratified alpha)", whole$n, core_weighted_sum_reliability(totals, alpha)))
  if (!is.null(weights)) {
    words <- paste(format_answer(weights), names(weights), collapse = " + ")
    sums <- c(sums, list(sum_row(paste("weighted sum", words), whole$n, core_weighted_sum_reliability(totals, alpha, weights[names(scales)]))))
  }
  stacked(c(sums, differences))
}

sum_row <- function(what, n, reliability) {
  plain_table(what = what, n = n, reliability = reliability, statistic = NA_real_, df = NA_real_, p.value = NA_real_)
}

# Shares of a general factor in the whole and in each subscale. No rows where there is none.
general_table <- function(whole, scales, found) {
  names <- c(if (length(scales) > 1) "the whole instrument", names(scales))
  if (is.null(found)) {
    return(plain_table(what = character(), items = numeric(), n = numeric(), omega_total = numeric(), omega_hierarchical = numeric(),
      omega_group = numeric(), explained_common = numeric()))
  }
  members <- general_members(whole, scales)
  shares <- general_shares(whole, found, members)
  do.call(plain_table, c(list(what = names, items = as.integer(colSums(members)), n = whole$n), as.data.frame(t(shares))))
}

# Which items each row of that table is about, items x rows.
general_members <- function(whole, scales) {
  items <- colnames(whole$covariance)
  members <- vapply(scales, function(m) items %in% colnames(m$covariance), logical(length(items)))
  if (length(scales) > 1) cbind(TRUE, members) else members
}

# The general factor and the group factors, as many as the subscales, three for a single one; NULL where there is none.
general_factor <- function(whole, scales, seed) {
  groups <- if (length(scales) > 1) length(scales) else 3L
  if (is.null(whole) || !general_possible(whole, groups)) {
    return(NULL)
  }
  found <- core_general_factor(core_correlation(whole$covariance), groups, seed)
  if (found$status == "ok") found
}

general_shares <- function(whole, found, members) {
  sd <- sqrt(diag(whole$covariance))
  apply(members, 2, function(mine) core_general_shares(found$general[mine], found$group[mine, , drop = FALSE], sd[mine]))
}

general_possible <- function(whole, groups) {
  variance <- diag(whole$covariance)
  p <- length(variance)
  all(is.finite(variance) & variance > 0) && p > 2 * groups && core_exploration_df(p, groups) > 0 &&
    core_definiteness(core_correlation(whole$covariance)) > 1e-10
}

# Standard error of measurement by third of the score.
error_bands <- function(survey, tallies) {
  each_scale(tallies, function(scale) {
    items <- length(survey_scales(survey)[[scale]])
    if (items < 2 || sum(tallies[[scale]]$n) < 30) NULL else
      do.call(plain_table, c(list(scale = scale), core_band_errors(tallies[[scale]], items)))
  })
}

# Items for a target, and the best short form of each length.
lengthen_tables <- function(scales, table, target) {
  lengthen <- plain_table(
    scale = table$scale, items = table$items, alpha = table$alpha, target = target,
    items_needed = mapply(core_items_needed, table$items, table$alpha, target)
  )
  short <- each_scale(scales, function(name) {
    forms <- core_short_forms(scales[[name]]$covariance)
    if (is.null(forms)) NULL else cbind(scale = name, forms)
  })
  list(lengthen = lengthen, short_forms = if (is.null(short)) plain_table(scale = character()) else plain_frame(short))
}

# Tests that alpha is the same in every group.
compare_groups <- function(x, by, scales) {
  check_class(x, "sw_survey", "x", message_of("survey_for_groups"))
  groups <- dif_groups(x, by, NULL)
  do.call(rbind, lapply(names(scales), function(name) {
    parts <- lapply(groups$names, function(group) {
      scale_moments(take_groups(x, by, group), "listwise")[[name]]
    })
    alpha <- vapply(parts, function(m) core_alpha(m$covariance), 0)
    n <- vapply(parts, function(m) as.numeric(m$n), 0)
    unknown <- list(statistic = NA_real_, df = NA_real_, df2 = NA_real_, p = NA_real_)
    outcome <- if (anyNA(alpha)) unknown else core_compare_alphas(alpha, n, ncol(scales[[name]]$covariance))
    plain_table(
      scale = name, group = groups$names, n = n, alpha = alpha, test = if (length(alpha) == 2) "Feldt" else "Hakstian-Whalen",
      statistic = outcome$statistic, df = outcome$df, df2 = outcome$df2, p.value = outcome$p
    )
  }))
}
