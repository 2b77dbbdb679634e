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
  note("two_alphas", sprintf(paste("%s of %s, %s, is of the answers as numbers, which a sum or mean of them has; ordinal alpha, %s, is of the",
    "normal variables behind them: do not report it as the reliability of the score."), ifelse(apart$coefficient == "alpha", "Alpha",
    apart$coefficient), apart$scale, coefficient_text(apart$alpha), coefficient_text(apart$alpha_ordinal)), as.list(apart$scale), rank = 3L)
}

# Polychoric correlations know nothing of weights and clusters.
unweighted_note <- function(x) {
  if (!has_answers(x) || (is.null(x$weight) && is.null(x$cluster))) {
    return(NULL)
  }
  note("unweighted", rank = 3L, words = if (!is.null(x$weight)) paste("Alpha and omega of polychoric correlations and omega of the sum of ordered",
    "answers are left out: polychoric correlations know nothing of weights.") else
    "Omega of the sum of ordered answers has no interval: the errors of polychoric correlations know nothing of clusters.")
}

# Subscales of which half points one way and half the other.
half_notes <- function(found) {
  halves <- names(found)[vapply(found, function(f) f$keying$tie, TRUE)]
  note("half", sprintf("Half of %s points one way and half the other: alpha means nothing before the keying is settled (`sw_keying()`).", halves),
    as.list(halves), rank = 1L)
}

negative_note <- function(scales) {
  negative <- scales$scale[!is.na(scales$alpha) & scales$alpha < 0]
  if (length(negative) > 0) {
    note("negative_alpha", paste0("Alpha is negative in ", and_list(negative), ": items cancel each other. Check the keying; do not report it."),
      negative, rank = 1L)
  }
}

few_cases_note <- function(scales) {
  few <- scales[scales$items > 1 & scales$n > 1 & scales$n <= scales$items, ]
  note("few_cases",
    sprintf("Only %s for %d items in %s: these figures are hardly more than chance.", vapply(few$n, count_of, "", one = "case"), few$items,
      few$scale),
    as.list(few$scale), n = few$n, rank = 1L)
}

identical_notes <- function(found) {
  twice <- Filter(function(f) length(f$identical) > 0, found)
  note("identical_items", sprintf(
    "In %s %s: the same answers counted twice raise alpha. Leave one out; omega and the lower bounds need that.",
    names(twice), vapply(twice, function(f) and_list(f$identical), "")
  ), as.list(names(twice)), rank = 1L)
}

# The items of each subscale that look unreversed, as words.
unreversed_words <- function(turned) {
  vapply(strsplit(turned$looks_unreversed, " ", fixed = TRUE), and_list, "")
}

unreversed_notes <- function(scales) {
  turned <- scales[scales$looks_unreversed != "", ]
  several <- grepl(" ", turned$looks_unreversed, fixed = TRUE)
  note("unreversed", sprintf(
    "%s in %s %s unreversed: alpha would be %s in place of %s. If the wording runs against the others, correct `direction` in the codebook.",
    unreversed_words(turned), turned$scale, ifelse(several, "look", "looks"), coefficient_text(turned$alpha_turned), coefficient_text(turned$alpha)
  ), strsplit(turned$looks_unreversed, " ", fixed = TRUE), alpha = turned$alpha, turned = turned$alpha_turned, rank = 1L)
}

against_key_notes <- function(items, keyed) {
  against <- items[items$item %in% keyed & !is.na(items$item_rest_r) & items$item_rest_r < 0, ]
  words <- sprintf("%s goes against the rest of %s (item-rest r %s): its key looks wrong.", against$item, against$scale,
    coefficient_text(against$item_rest_r))
  note("key_looks_wrong", words, as.list(against$item), r = against$item_rest_r, rank = 1L)
}

not_computed_notes <- function(scales, items) {
  single <- scales$scale[scales$items < 2]
  two <- scales$scale[scales$items == 2]
  few <- scales$scale[is.na(scales$alpha) & scales$items >= 2]
  flat <- items$item[!is.na(items$sd) & items$sd == 0]
  c(
    if (length(single) > 0) note("single_item", paste0("No alpha for a single item: ", and_list(single), "."), single),
    if (length(two) > 0) note("two_items", paste0("Only two items in ", and_list(two),
      ": report the correlation, or Spearman-Brown, rather than alpha."), two),
    if (length(few) > 0) note("no_alpha", paste0("Alpha cannot be computed for ", and_list(few),
      ": too few complete cases, a total that does not vary, or covariances that no complete answers could have."), few, rank = 1L),
    if (length(flat) > 0) note("constant_items", paste0("Everyone answers the same: ", and_list(flat), "."), flat, rank = 1L)
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
      return(note("weak_items", paste0(
        and_list(mine$item), " hardly go with the rest of ", scale, " (item-rest r from ", coefficient_text(min(mine$item_rest_r)), " to ",
        coefficient_text(max(mine$item_rest_r)), ")."
      ), mine$item, lowest = min(mine$item_rest_r), highest = max(mine$item_rest_r)))
    }
    words <- sprintf("%s hardly goes with the rest of %s (item-rest r %s); alpha without it %s.",
      mine$item, mine$scale, coefficient_text(mine$item_rest_r), coefficient_text(mine$alpha_without))
    note("weak_item", words, as.list(mine$item), r = mine$item_rest_r, without = mine$alpha_without)
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
    if (length(high) > 0) note("alpha_excess", paste0(
      "Alpha above ", bound_text(limit(limits, "alpha_excess")$bound), " in ", and_list(high), ": items may repeat each other."
    ), high),
    if (length(several) > 0) note("several_factors", paste0("One factor does not fit ", and_list(several),
      ": alpha is no sign of measuring one thing. Explore it."), several),
    note("unequal_loadings", sprintf(
      "Loadings in %s are unequal: omega (%s) says more than alpha (%s).",
      unequal$scale, coefficient_text(unequal$omega), coefficient_text(unequal$alpha)
    ), as.list(unequal$scale), omega = unequal$omega, alpha = unequal$alpha),
    if (length(improper) > 0) note("improper_omega", paste0("Omega of ", and_list(improper),
      " rests on an improper solution (a unique variance at its bound), where no formula gives an interval: `interval = \"bca\"` does."), improper)
  )
}

short_form_note <- function() {
  note("short_forms", "Short forms are the best of many in this sample: they capitalise on chance. Check the one you choose on other people.",
    rank = 3L)
}

# A bag of columns: which of them hang together, and that their ranges differ.
bag_notes <- function(x, scales, found, limits) {
  cores <- scale_cores(scales, limits)
  ranges <- if (has_answers(x)) Filter(function(name) several_ranges(x, colnames(scales[[name]]$covariance)), names(scales))
  c(
    note("core", vapply(names(cores), function(name) {
      core <- cores[[name]]
      paste0("Of ", length(core$items) + length(core$out), " items in ", name, ", ", length(core$items), " hang together (", and_list(core$items,
        12), "; alpha ",
        coefficient_text(core$alpha), "); the others do not belong to one score with them.")
    }, ""), lapply(cores, `[[`, "items"), alpha = vapply(cores, `[[`, 0, "alpha"), scale = names(cores),
      items_of = vapply(cores, function(core) length(core$items) + length(core$out), 1L), rank = 1L),
    note("ranges", sprintf("Items of %s have different ranges: those with the widest decide the sum. Alpha of standardised items is %s.", ranges,
      vapply(ranges, function(name) coefficient_text(core_standardised_alpha(scales[[name]]$covariance)), "")), as.list(ranges), rank = 2L)
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
    if (total && nrow(at) > 0) note("negative_totals", paste0("Totals that run against each other: ", and_list(paste0(names(scales)[at[, 2]], " and ",
      names(scales)[at[, 1]], " (r ", coefficient_text(r[at], 2), ")")), ". A sum of all items cancels them: score them apart, or turn one round."),
      unique(names(scales)[at]), rank = 1L),
    if (nrow(general) > 0 && length(scales) == 2) note("two_groups",
      "Hierarchical omega of two groups rests on equal loadings of both on the general factor: these answers cannot check that.", rank = 3L)
  )
}

# Which interval was taken, and why.
interval_note <- function(table, interval) {
  free <- table$scale[table$interval == "free" & interval == "auto"]
  if (length(free) > 0) note("free_interval", paste0("Intervals of ", and_list(free),
    " are free of distribution, since answers are skewed or heavy-tailed."),
    free, rank = 3L)
}
