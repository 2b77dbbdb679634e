# The tables of a reliability, each from moments of the subscales.

reliability_row <- function(name, moments, found, keyed, interval, level, limits) {
  s <- moments$covariance
  back <- found$keying$turned & !colnames(s) %in% keyed
  bounds <- switch(interval, feldt = core_feldt_interval, bonett = core_bonett_interval)(found$alpha, moments$n, ncol(s), level)
  r <- core_inter_item_r(s)
  error <- sqrt(sum(s)) * sqrt(max(1 - found$alpha, 0))
  tibble::tibble(
    scale = name, coefficient = if (all(colnames(s) %in% keyed)) "KR-20" else "alpha", items = ncol(s), n = moments$n,
    n_left_out = moments$n_left_out, alpha = found$alpha, conf.low = bounds[1], conf.high = bounds[2],
    verdict = judge(found$alpha, limits, "alpha"), alpha_standardised = core_standardised_alpha(s),
    omega = found$omega$omega, omega_observed = found$omega$omega_observed, lambda1 = found$lambdas[["lambda1"]],
    lambda2 = found$lambdas[["lambda2"]], lambda4 = found$lambda4,
    lambda5 = found$lambdas[["lambda5"]], lambda6 = found$lambdas[["lambda6"]], glb = found$glb, odd_even_rulon = found$odd_even,
    odd_even_stepped = found$odd_even_stepped, split_mean = mean(found$splits), split_worst = min(found$splits),
    sem = error, reliable_change = stats::qnorm(.975) * sqrt(2) * error, inter_item_r = r[["mean"]],
    inter_item_lowest = r[["lowest"]], inter_item_highest = r[["highest"]], rmsea_one_factor = found$omega$rmsea,
    second_eigenvalue = found$second_eigenvalue, looks_unreversed = paste(colnames(s)[back], collapse = " "),
    alpha_turned = if (any(back)) core_alpha(core_turn(s, back)) else NA_real_
  )
}

# Mean, sd and range of the sum over complete cases, share at its ends.
score_shape <- function(survey, scales) {
  specs <- survey$codebook$items
  do.call(rbind, lapply(survey_scales(survey)[scales], function(items) {
    total <- rowSums(keyed_answers(survey, items))
    total <- total[!is.na(total)]
    mine <- specs[match(items, specs$item), ]
    none <- length(total) == 0
    tibble::tibble(
      sum_mean = if (none) NA_real_ else mean(total), sum_sd = if (length(total) > 1) stats::sd(total) else NA_real_,
      sum_lowest = if (none) NA_real_ else min(total), sum_highest = if (none) NA_real_ else max(total),
      at_lowest = if (none) NA_real_ else mean(total <= sum(mine$lowest)), at_highest = if (none) NA_real_ else mean(total >= sum(mine$highest))
    )
  }))
}

reliability_items <- function(name, moments, found, keyed, limits) {
  s <- moments$covariance
  r <- unname(core_item_rest_r(s))
  without <- core_alpha_without(s)
  variance <- unname(diag(s))
  mean <- unname(moments$mean)
  is_test <- colnames(s) %in% keyed
  tibble::tibble(
    scale = name, item = colnames(s), mean = mean, sd = sqrt(variance), item_rest_r = r, item_total_r = unname(core_item_total_r(s)),
    squared_multiple_r = 1 - unname(found$unexplained) / variance, alpha_without = without, change = without - found$alpha,
    omega_without = core_omega_without(s, moments$n), sum_mean_without = sum(mean) - mean,
    sum_sd_without = sqrt(pmax(sum(s) - 2 * unname(rowSums(s)) + variance, 0)),
    verdict = ifelse(is_test, judge(r, limits, "item_rest_r_keyed"), judge(r, limits, "item_rest_r")),
    looks_unreversed = found$keying$turned & !is_test
  )
}

twoway_tables <- function(twoway) {
  there <- Filter(Negate(is.null), twoway)
  if (length(there) == 0) {
    return(list())
  }
  rows <- function(part) do.call(rbind, lapply(names(there), function(name) cbind(scale = name, there[[name]][[part]])))
  anova <- tibble::as_tibble(rows("table"))
  names(anova)[names(anova) == "p"] <- "p.value"
  intraclass <- tibble::as_tibble(rows("icc"))
  names(intraclass) <- c("scale", "kind", "estimate", "conf.low", "conf.high")
  list(anova = anova, intraclass = intraclass)
}

# Stratified alpha of everything, and each difference of two subscales.
composite_table <- function(x, scales, table, missing) {
  whole <- if (inherits(x, "sw_moments")) x else tryCatch(
    survey_moments(x, unlist(lapply(scales, function(m) colnames(m$covariance))), if (missing == "em") "listwise" else missing),
    scalewort_error_numeric = function(e) NULL
  )
  empty <- tibble::tibble(what = character(), n = numeric(), reliability = numeric(), statistic = numeric(), df = numeric(), p.value = numeric())
  if (is.null(whole) || anyNA(table$alpha)) {
    return(empty)
  }
  member <- vapply(scales, function(m) colnames(whole$covariance) %in% colnames(m$covariance), logical(ncol(whole$covariance)))
  totals <- crossprod(member, whole$covariance %*% member)
  pairs <- utils::combn(length(scales), 2)
  differences <- lapply(seq_len(ncol(pairs)), function(i) {
    two <- pairs[, i]
    c2 <- totals[two, two]
    outcome <- core_compare_dependent(table$alpha[two[1]], table$alpha[two[2]], c2[1, 2] / sqrt(c2[1, 1] * c2[2, 2]), whole$n)
    tibble::tibble(
      what = paste(names(scales)[two], collapse = " less "), n = whole$n, reliability = core_composite(c2, table$alpha[two], c(1, -1)),
      statistic = outcome$statistic, df = outcome$df, p.value = outcome$p
    )
  })
  first <- tibble::tibble(
    what = "the whole instrument (stratified alpha)", n = whole$n, reliability = core_composite(totals, table$alpha),
    statistic = NA_real_, df = NA_real_, p.value = NA_real_
  )
  do.call(rbind, c(list(first), differences))
}

# Standard error of measurement by third of the score: the spread of the difference
# between odd and even halves.
error_bands <- function(survey, scales) {
  do.call(rbind, lapply(scales, function(scale) {
    items <- survey_scales(survey)[[scale]]
    answers <- keyed_answers(survey, items)
    answers <- answers[rowSums(is.na(answers)) == 0, , drop = FALSE]
    if (length(items) < 2 || nrow(answers) < 30) {
      return(NULL)
    }
    odd <- seq_along(items) %% 2 == 1
    total <- rowSums(answers)
    gap <- rowMeans(answers[, odd, drop = FALSE]) - rowMeans(answers[, !odd, drop = FALSE])
    band <- core_bands(total, 3)
    rows <- lapply(sort(unique(band)), function(b) {
      mine <- band == b
      tibble::tibble(
        scale = scale, band = b, n = sum(mine), from_score = min(total[mine]), to_score = max(total[mine]),
        sem = length(items) / 2 * stats::sd(gap[mine])
      )
    })
    do.call(rbind, rows)
  }))
}

# Items for a target, and the best short form of each length.
lengthen_tables <- function(scales, table, target) {
  lengthen <- tibble::tibble(
    scale = table$scale, items = table$items, alpha = table$alpha, target = target,
    items_needed = mapply(core_items_needed, table$items, table$alpha, target)
  )
  short <- each_scale(scales, function(name) {
    forms <- core_short_forms(scales[[name]]$covariance)
    if (is.null(forms)) NULL else cbind(scale = name, forms)
  })
  list(lengthen = lengthen, short_forms = if (is.null(short)) tibble::tibble(scale = character()) else tibble::as_tibble(short))
}

# Tests that alpha is the same in every group.
compare_groups <- function(x, by, scales) {
  check_class(x, "sw_survey", "x", "`sw_survey()`, since groups need answers")
  groups <- dif_groups(x, by, NULL)
  do.call(rbind, lapply(names(scales), function(name) {
    parts <- lapply(groups$names, function(group) {
      part <- keep_cases(x, seq_along(x$kept) %in% which(x$kept)[groups$of %in% group])
      scale_moments(part, "listwise")[[name]]
    })
    alpha <- vapply(parts, function(m) core_alpha(m$covariance), 0)
    n <- vapply(parts, function(m) as.numeric(m$n), 0)
    unknown <- list(statistic = NA_real_, df = NA_real_, df2 = NA_real_, p = NA_real_)
    outcome <- if (anyNA(alpha)) unknown else core_compare_alphas(alpha, n, ncol(scales[[name]]$covariance))
    tibble::tibble(
      scale = name, group = groups$names, n = n, alpha = alpha, test = if (length(alpha) == 2) "Feldt" else "Hakstian-Whalen",
      statistic = outcome$statistic, df = outcome$df, df2 = outcome$df2, p.value = outcome$p
    )
  }))
}
