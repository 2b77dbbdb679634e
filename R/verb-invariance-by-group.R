# What invariance is examined on where single answers cannot be had all at once: what the source says of each group.

# As occasion_basis(); sums give moments alone, chunks thresholds, correlations and a way through the people, too.
occasion_basis_by_group <- function(x, items, by, across, missing, estimator, also) {
  if (length(also) > 0) {
    stop_input(message_of("e_helping_columns_also_need"), hint = message_of("e_leave_also_out"))
  }
  if (estimator != "ml" && !goes_by_rows(x)) stop_input(message_of("e_where_table_gives"))
  waves <- if (!is.null(across)) waves_beside(x, items, across, by)
  measured <- if (is.null(waves)) items else waves$items
  if (!is.null(waves)) x <- waves$survey
  found <- if (is.null(by)) list(group = "everyone", n = source_count(x)$used) else group_values(x, by)
  size <- vapply(split(found$n, found$group), sum, 0)
  if (!is.null(by)) size <- size[in_group_order(x, by, names(size))]
  if (!is.null(by) && length(size) < 2) {
    stop_input(message_of("e_column_names_one", by = by))
  }
  of_group <- function(label) if (is.null(by)) x else take_groups(x, by, label)
  gaps <- misses_any(x, measured)
  rare <- gaps && any(vapply(names(size), function(label) withholds_patterns(of_group(label), measured), TRUE))
  if (rare && identical(missing, "fiml")) stop_rare_patterns(x, "some")
  apart <- if (is.null(missing)) gaps && !rare else missing != "listwise"
  out <- list(items = items, robust = estimator == "robust", ordered = estimator == "ordinal", waves = max(1L, length(waves$waves)),
    wave_labels = waves$waves, other_weights = waves$other_weights, without_group = sum(found$n[is.na(found$group)]))
  out[c("staged", "incomplete", "treatment")] <- treated_gaps(gaps, apart, out$ordered, also)
  # Of people who come some at a time complete answers are fitted in two stages, too.
  out$staged <- out$robust && !apart
  small <- small_groups(size, length(measured))
  samples <- lapply(stats::setNames(nm = names(size)[!small]), function(label) group_sample(of_group(label), measured, out, label))
  n <- replace(size, names(samples), vapply(samples, `[[`, 0, "n"))
  small <- small_groups(n, length(measured))
  labels <- names(size)[!small]
  out[c("samples", "groups", "group_labels")] <- list(unname(samples[labels]), length(labels), labels)
  if (out$ordered) out$values <- shared_categories(lapply(out$samples, `[[`, "values"), labels, items, out$waves)
  out$labels <- occasion_labels(labels, waves$waves, by)
  out$n <- sum(n[!small])
  out$n_left_out <- sum(found$n) - out$n
  if (any(small)) out[c("too_small", "least")] <- list(n[small], 2 * length(measured))
  out$baseline <- if (out$ordered) core_ordered_baseline(out$samples) else core_occasion_baseline(out$samples, apart, out$robust)
  out
}

# Groups that are left out, as by groups_too_small().
small_groups <- function(n, items) {
  small <- sum(n >= 2 * items) >= 2 & n < 2 * items
  few <- n[!small] <= items
  if (any(few)) stop_small_groups(names(n)[!small][few], n[!small][few], items)
  small
}

group_sample <- function(part, items, out, label) {
  if (out$ordered) {
    return(group_thresholds(part, items, out$treatment == "listwise", label))
  }
  if (out$staged && misses_any(part, items)) part <- complete_survey(part, items)
  one <- if (out$incomplete) group_patterns(part, items, out$robust, label) else group_moments(part, items, label)
  if (out$staged) c(one, group_spread(part, items, one)) else one
}

group_thresholds <- function(part, items, whole, label) {
  found <- source_pairs(part, items, whole, covariance = TRUE)
  if (found$status == "too_many_categories") stop_many_categories()
  check_varies(lengths(found$values) < 2, items, label)
  count <- source_count(part, items)
  answered <- if (whole) rep(found$cases, length(items)) else count$used - count$missing
  c(ordered_sample(found, answered, label), list(values = unname(found$values)))
}

# Of complete cases, who alone are left where they have weights.
group_moments <- function(part, items, label) {
  if (is.null(part$weight)) {
    moments <- source_moments(part, items)
    one <- list(n = moments$n, s = moments$covariance * (moments$n - 1) / moments$n, mean = unname(moments$mean))
    known <- moments$status == "ok"
  } else {
    moments <- designed_patterns(part, items)$patterns[[1]]
    one <- list(n = moments$n, s = `dimnames<-`(moments$covariance, list(items, items)), mean = as.vector(moments$mean))
    known <- TRUE
  }
  if (known) check_varies(diag(one$s) <= 0, items, label)
  if (!known || core_definiteness(core_correlation(one$s)) < 1e-10) {
    stop_numeric(message_of("e_correlations_group_not", label = label))
  }
  one
}

# How sure they are: gamma, and sums of clusters.
group_spread <- function(part, items, one) {
  rows <- designed_rows(part, items, mean_weight = designed_patterns(part, items)$mean_weight)
  core_moments_spread_by_rows(rows, one$mean, one$s, one$n, !is.null(part$cluster))
}

group_patterns <- function(part, items, robust, label) {
  found <- designed_patterns(part, items)
  check_varies(pattern_item_moments(found$patterns, length(items))$variance %in% 0, items, label)
  em <- core_em_patterns(found$patterns, items)
  if (em$status != "ok") stop_numeric(message_of("e_means_covariances_group_cannot", label = label))
  out <- list(n = found$n, s = em$covariance, mean = unname(em$mean), patterns = found$patterns,
    em = list(mean = unname(em$mean), covariance = unname(em$covariance)))
  if (!robust) {
    return(out)
  }
  out$rows <- designed_rows(part, items, mean_weight = found$mean_weight)
  out$saturated <- occasion_saturated(out)
  out
}

check_varies <- function(flat, items, label) {
  if (any(flat)) stop_flat_items(messages_of("does_not_vary_in", item = items[flat], group = label))
}
