# What a reliability says in words.

reliability_notes <- function(scales, items, found, keyed, limits, moments) {
  c(
    half_notes(found), negative_note(scales), few_cases_note(scales), identical_notes(found), unreversed_notes(scales),
    against_key_notes(items, keyed), not_computed_notes(scales, items),
    weak_item_notes(items[!items$scale %in% names(scale_cores(moments, limits)), ], keyed, limits, scales),
    meaning_notes(scales, found, limits), two_alphas_note(scales)
  )
}

# Two alphas of one subscale are told apart: that of the answers, which is the score's, and that of the variables behind them.
two_alphas_note <- function(scales) {
  apart <- scales[!is.na(scales$alpha_ordinal) & abs(scales$alpha_ordinal - scales$alpha) >= .05, ]
  note("two_alphas", messages_of("two_alphas", coefficient = apart$coefficient, scale = apart$scale, alpha = apart$alpha,
    ordinal = apart$alpha_ordinal), as.list(apart$scale), rank = 3L)
}

# Polychoric correlations know nothing of weights and clusters.
unweighted_note <- function(x) {
  if (!has_answers(x) || (is.null(x$weight) && is.null(x$cluster))) {
    return(NULL)
  }
  note("unweighted", message_of(if (is.null(x$weight)) "no_ordered_interval" else "no_polychoric_weights"), rank = 3L)
}

# Subscales of which half points one way and half the other.
half_notes <- function(found) {
  halves <- names(found)[vapply(found, function(f) f$keying$tie, TRUE)]
  note("half", messages_of("alpha_half", scale = halves), as.list(halves), rank = 1L)
}

negative_note <- function(scales) {
  negative <- scales$scale[!is.na(scales$alpha) & scales$alpha < 0]
  if (length(negative) > 0) note("negative_alpha", message_of("negative_alpha", scales = negative), negative, rank = 1L)
}

few_cases_note <- function(scales) {
  few <- scales[scales$items > 1 & scales$n > 1 & scales$n <= scales$items, ]
  note("few_cases", messages_of("alpha_few_cases", cases = few$n, items = few$items, scale = few$scale), as.list(few$scale), n = few$n, rank = 1L)
}

identical_notes <- function(found) {
  twice <- Filter(function(f) length(f$identical) > 0, found)
  note("identical_items", messages_of("identical_items", scale = names(twice), pairs = lapply(twice, `[[`, "identical")), as.list(names(twice)),
    rank = 1L)
}

# The items of each subscale that look unreversed.
unreversed_items <- function(turned) strsplit(turned$looks_unreversed, " ", fixed = TRUE)

unreversed_notes <- function(scales) {
  turned <- scales[scales$looks_unreversed != "", ]
  note("unreversed", messages_of("unreversed", items = unreversed_items(turned), scale = turned$scale, turned = turned$alpha_turned,
    alpha = turned$alpha), unreversed_items(turned), alpha = turned$alpha, turned = turned$alpha_turned, rank = 1L)
}

against_key_notes <- function(items, keyed) {
  against <- items[items$item %in% keyed & !is.na(items$item_rest_r) & items$item_rest_r < 0, ]
  note("key_looks_wrong", messages_of("against_key", item = against$item, scale = against$scale, r = against$item_rest_r), as.list(against$item),
    r = against$item_rest_r, rank = 1L)
}

not_computed_notes <- function(scales, items) {
  single <- scales$scale[scales$items < 2]
  two <- scales$scale[scales$items == 2]
  few <- scales$scale[is.na(scales$alpha) & scales$items >= 2]
  flat <- items$item[!is.na(items$sd) & items$sd == 0]
  c(
    if (length(single) > 0) note("single_item", message_of("alpha_single_item", scales = single), single),
    if (length(two) > 0) note("two_items", message_of("alpha_two_items", scales = two), two),
    if (length(few) > 0) note("no_alpha", message_of("no_alpha", scales = few), few, rank = 1L),
    if (length(flat) > 0) note("constant_items", message_of("constant_items", items = flat), flat, rank = 1L)
  )
}

# Items that hardly go with the rest; more than three of a subscale in one sentence.
weak_item_notes <- function(items, keyed, limits, scales) {
  is_test <- items$item %in% keyed
  # Surely below the bound, and not only beside items that are unreversed.
  low <- items$verdict == "missed"
  judged <- items$scale %in% scales$scale[scales$items > 2 & !is.na(scales$alpha)]
  weak <- items[low %in% TRUE & judged & !items$looks_unreversed & !(is_test & items$item_rest_r < 0), ]
  unlist(recursive = FALSE, lapply(unique(weak$scale), function(scale) {
    mine <- weak[weak$scale == scale, ]
    if (nrow(mine) > 3) {
      return(note("weak_items", message_of("weak_items", items = mine$item, scale = scale, lowest = min(mine$item_rest_r),
        highest = max(mine$item_rest_r)), mine$item, lowest = min(mine$item_rest_r), highest = max(mine$item_rest_r)))
    }
    note("weak_item", messages_of("weak_item", item = mine$item, scale = mine$scale, r = mine$item_rest_r, without = mine$alpha_without),
      as.list(mine$item), r = mine$item_rest_r, without = mine$alpha_without)
  }))
}

# Where the number means less than it seems.
meaning_notes <- function(scales, found, limits) {
  high <- scales$scale[!is.na(scales$alpha) & !meets(scales$alpha, limits, "alpha_excess")]
  # One factor surely misses: by the lower end of its RMSEA's interval.
  surely <- vapply(found, function(f) c(f$omega$rmsea_low, NA_real_)[1], 0)
  several <- scales$scale[!is.na(scales$second_eigenvalue) & scales$second_eigenvalue > 1 & !is.na(surely) & !meets(surely, limits, "rmsea")]
  unequal <- scales[scales$looks_unreversed == "" &
    !is.na(scales$omega) & !is.na(scales$alpha) & scales$alpha > 0 & !meets(scales$omega - scales$alpha, limits, "omega_gain"), ]
  improper <- names(found)[vapply(found, function(f) isTRUE(f$omega$bound), TRUE)]
  c(
    if (length(high) > 0) note("alpha_excess", message_of("alpha_excess", bound = limit(limits, "alpha_excess")$bound, scales = high), high),
    if (length(several) > 0) note("several_factors", message_of("one_factor_misfits", scales = several), several),
    note("unequal_loadings", messages_of("unequal_loadings", scale = unequal$scale, omega = unequal$omega, alpha = unequal$alpha),
      as.list(unequal$scale), omega = unequal$omega, alpha = unequal$alpha),
    if (length(improper) > 0) note("improper_omega", message_of("improper_omega", scales = improper), improper)
  )
}

short_form_note <- function() note("short_forms", message_of("short_forms"), rank = 3L)

# A bag of columns: which of them hang together, and that their ranges differ.
bag_notes <- function(x, scales, found, limits) {
  cores <- scale_cores(scales, limits)
  ranges <- if (has_answers(x)) Filter(function(name) several_ranges(x, colnames(scales[[name]]$covariance)), names(scales))
  c(
    note("core", lapply(names(cores), function(name) {
      core <- cores[[name]]
      message_of("core_of_items", all = length(core$items) + length(core$out), scale = name, count = length(core$items), items = core$items,
        alpha = core$alpha)
    }), lapply(cores, `[[`, "items"), alpha = vapply(cores, `[[`, 0, "alpha"), scale = names(cores),
      items_of = vapply(cores, function(core) length(core$items) + length(core$out), 1L), rank = 1L),
    note("ranges", messages_of("different_ranges_alpha", scale = ranges,
      alpha = lapply(ranges, function(name) core_standardised_alpha(scales[[name]]$covariance))), as.list(ranges))
  )
}

# For each subscale of which two items or more leave, one after the other the one that goes least with the rest, until each
# that is left reaches the bound: list(items, out, alpha). None where nothing of three items is left, or less than two leave.
scale_cores <- function(scales, limits) {
  bound <- limit(limits, "item_rest_r")$bound
  out <- lapply(scales, function(m) {
    s <- m$covariance
    if (ncol(s) < 5 || anyNA(core_correlation(s))) {
      return(NULL)
    }
    signs <- core_best_signs(core_correlation(s))
    left <- core_correlation(s) * outer(signs, signs)
    while (ncol(left) > 2 && min(core_item_rest_r(left)) < bound) left <- left[-which.min(core_item_rest_r(left)),
      -which.min(core_item_rest_r(left)), drop = FALSE]
    gone <- setdiff(colnames(s), colnames(left))
    surely <- rest_interval(core_item_rest_r(core_correlation(s) * outer(signs, signs)), m$n)$high < bound
    if (ncol(left) < 3 || length(gone) < 2 || sum(surely[match(gone, colnames(s))]) < 2) {
      return(NULL)
    }
    turned <- signs[match(colnames(left), colnames(s))]
    own <- s[colnames(left), colnames(left)] * outer(turned, turned)
    list(items = colnames(left), out = gone, alpha = core_alpha(own))
  })
  Filter(Negate(is.null), out)
}

several_ranges <- function(x, items) {
  specs <- item_spec(x, items)
  nrow(unique(specs[c("lowest", "highest")])) > 1
}

# What a total of everything means less than it seems; total: whether one is asked for.
whole_notes <- function(whole, scales, general, total) {
  if (is.null(whole) || length(scales) < 2) {
    return(NULL)
  }
  member <- vapply(scales, function(m) colnames(whole$covariance) %in% colnames(m$covariance), logical(ncol(whole$covariance)))
  r <- core_correlation(crossprod(member, whole$covariance %*% member))
  at <- which(r < -1.96 / sqrt(whole$n) & lower.tri(r), arr.ind = TRUE)
  c(
    if (total && nrow(at) > 0) note("negative_totals", message_of("negative_totals", pairs = messages_of("pair_r", first = names(scales)[at[, 2]],
      second = names(scales)[at[, 1]], r = r[at])), unique(names(scales)[at]), rank = 1L),
    if (nrow(general) > 0 && length(scales) == 2) note("two_groups", message_of("two_groups"), rank = 3L)
  )
}

# Which interval was taken, and why.
interval_note <- function(table, interval) {
  free <- table$scale[table$interval == "free" & interval == "auto"]
  if (length(free) > 0) note("free_interval", message_of("free_interval", scales = free), free, rank = 3L)
}
