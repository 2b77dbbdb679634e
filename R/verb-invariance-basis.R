# What invariance is examined on: the answers of each group, waves side by side.

# list(samples: one a group, list(n, s, mean, answers, patterns, em); groups, waves, labels, n,
# n_left_out, treatment, incomplete, robust, baseline).
occasion_basis <- function(x, structure, by, across, missing, estimator, also = NULL) {
  items <- structure_items(structure)
  check_items_known(items, analysed_items(x))
  if (is.null(by) && is.null(across)) stop_input(message_of("e_groups_waves"), hint = message_of("e_name_column_across"))
  if (!gives_rows(x, items)) {
    return(occasion_basis_by_group(x, items, by, across, missing, estimator, also))
  }
  answers <- source_rows(x, items)
  group <- if (is.null(by)) rep("everyone", nrow(answers)) else group_of(x, by)
  design <- people_design(x, nrow(answers), helping_columns(x, setdiff(also, items)))
  out <- list(items = items, robust = estimator == "robust", ordered = estimator == "ordinal", waves = 1L, wave_labels = NULL)
  if (!is.null(across)) {
    wide <- side_by_side(x, answers, group, across, by)
    answers <- wide$answers
    group <- wide$group
    design <- design[wide$first, , drop = FALSE]
    out$waves <- length(wide$waves)
    out$wave_labels <- wide$waves
    out$other_weights <- wide$other_weights
  }
  known <- !is.na(group)
  unknown <- sum(!known)
  answers <- answers[known, , drop = FALSE]
  group <- group[known]
  design <- design[known, , drop = FALSE]
  gaps <- anyNA(answers)
  apart <- if (is.null(missing)) gaps else missing != "listwise"
  out[c("staged", "incomplete", "treatment")] <- treated_gaps(gaps, apart, out$ordered, also)
  # Moments of a first stage are not those of as many complete cases, whatever the answers' distribution.
  out$robust <- out$robust || out$staged
  use <- if (apart) rowSums(!is.na(answers)) > 0 else stats::complete.cases(answers)
  out$n_left_out <- unknown + sum(!use)
  out$without_group <- unknown
  answers <- answers[use, , drop = FALSE]
  group <- group[use]
  design <- design[use, , drop = FALSE]
  labels <- if (is.null(by)) unique(group) else in_group_order(x, by, unique(group))
  if (!is.null(by) && length(labels) < 2) stop_input(message_of("e_column_names_one", by = by))
  least <- 2 * ncol(answers)
  small <- groups_too_small(group, labels, least)
  if (length(small) > 0) {
    large <- !group %in% names(small)
    answers <- answers[large, , drop = FALSE]
    group <- group[large]
    design <- design[large, , drop = FALSE]
    labels <- setdiff(labels, names(small))
    out$n_left_out <- out$n_left_out + sum(!large)
    out$too_small <- small
    out$least <- least
  }
  check_group_answers(answers, group, labels)
  if (out$ordered) out$values <- shared_categories(lapply(labels, function(label) {
    own <- answers[group == label, , drop = FALSE]
    lapply(seq_len(ncol(own)), function(j) sort(unique(own[!is.na(own[, j]), j])))
  }), labels, items, out$waves)
  values <- rep(out$values, out$waves)
  out$samples <- lapply(labels, function(label) {
    own <- answers[group == label, , drop = FALSE]
    if (out$ordered) ordered_sample(coded_pairs(own, !apart, values), colSums(!is.na(own)), label) else
      own_sample(own, out, label, design[group == label, , drop = FALSE])
  })
  if (out$incomplete && out$robust) out$samples <- lapply(out$samples, function(one) c(one, list(saturated = occasion_saturated(one))))
  out$groups <- length(labels)
  out$group_labels <- labels
  out$labels <- occasion_labels(labels, out$wave_labels, by)
  out$n <- nrow(answers)
  out$baseline <- if (out$ordered) core_ordered_baseline(out$samples) else core_occasion_baseline(out$samples, out$incomplete, out$robust)
  out
}

# How missing answers are treated: list(staged, incomplete, treatment).
treated_gaps <- function(gaps, apart, ordered, also) {
  staged <- gaps && apart && !ordered && length(also) > 0
  list(staged = staged, incomplete = apart && !ordered && !staged, treatment = if (!apart) "listwise" else if (ordered) "pairwise" else "fiml")
}

# Sizes of groups that are left out, where two others remain: with hardly more cases than items the moments of a group are near singular.
groups_too_small <- function(group, labels, least) {
  size <- table(group)[labels]
  small <- size[size < least]
  if (length(labels) - length(small) >= 2) small else size[0]
}

# One row a person, waves side by side; `first` is everybody's row in their earliest wave, other_weights how many have another weight later.
side_by_side <- function(x, answers, group, across, by) {
  if (is.null(x$id)) stop_input(message_of("e_waves_need_know"), hint = message_of("e_name_column_sw_survey"))
  wave <- wave_of(x, across)
  person <- case_names(x)
  waves <- survey_waves(x, across)
  if (length(waves) < 2) stop_input(message_of("e_column_holds_one", across = across))
  if (anyDuplicated(paste(person, wave)) > 0) stop_input(message_of("e_somebody_two_rows"), faults = utils::head(person[duplicated(paste(person,
    wave))], 5))
  people <- unique(person)
  rows_of <- lapply(waves, function(w) match(paste(people, w), paste(person, wave)))
  parts <- lapply(seq_along(waves), function(w) {
    part <- answers[rows_of[[w]], , drop = FALSE]
    colnames(part) <- paste0(colnames(answers), " (", waves[w], ")")
    part
  })
  of_waves <- function(values) lapply(rows_of, function(rows) values[rows])
  list(answers = do.call(cbind, parts), group = if (is.null(by)) rep("everyone", length(people)) else one_of_waves(of_waves(group), by),
    waves = waves, first = earliest(rows_of), other_weights = if (!is.null(x$weight)) sum(waves_differ(of_waves(survey_weight(x, TRUE)))))
}

# Of values by wave: everybody's in the first wave that has one, and whether another wave has another.
earliest <- function(waves) Reduce(function(one, later) ifelse(is.na(one), later, one), waves)
waves_differ <- function(waves) {
  first <- earliest(waves)
  Reduce(`|`, lapply(waves, function(own) !is.na(own) & own != first))
}

# The group of each person, who has one wherever it is known.
one_of_waves <- function(groups, by) {
  moved <- sum(waves_differ(groups))
  if (moved > 0) stop_moved_people(message_of("people_moved", by = by, people = moved))
  earliest(groups)
}

check_group_answers <- function(answers, group, labels) {
  few <- labels[vapply(labels, function(l) sum(group == l), 0L) <= ncol(answers)]
  if (length(few) > 0) stop_small_groups(few, vapply(few, function(l) sum(group == l), 0L), ncol(answers))
  flat <- do.call(c, lapply(labels, function(l) {
    own <- answers[group == l, , drop = FALSE]
    same <- apply(own, 2, function(v) length(unique(v[!is.na(v)])) < 2)
    if (any(same)) messages_of("does_not_vary_in", item = colnames(own)[same], group = l)
  }))
  if (length(flat) > 0) stop_flat_items(flat)
}

stop_small_groups <- function(groups, n, items) {
  stop_input(message_of("e_some_groups_too"), faults = messages_of("e_cases_items", groups = groups, n = n, items = items),
    hint = message_of("e_join_groups_leave"))
}

stop_flat_items <- function(faults) {
  stop_numeric(message_of("e_item_needs_vary"), faults = faults, hint = message_of("e_leave_out_item"))
}

# Weights, clusters and helping columns of the cases.
people_design <- function(x, count, helping) {
  all <- rep(TRUE, count)
  out <- data.frame(row = seq_len(count), weight = if (is.null(x$weight)) NA_real_ else survey_weight(x, all),
    cluster = if (is.null(x$cluster)) NA_character_ else survey_cluster(x, all))
  out$helping <- if (is.null(helping)) matrix(0, count, 0) else helping
  out
}

own_sample <- function(answers, out, label, design) {
  if (out$staged) staged_sample(answers, label, design) else occasion_sample(answers, out$incomplete, label, design)
}

# Moments of a group with helping columns beside the items, and how sure they are.
staged_sample <- function(answers, label, design) {
  weight <- if (!anyNA(design$weight)) design$weight / mean(design$weight)
  cluster <- if (!anyNA(design$cluster)) design$cluster
  helping <- design$helping[, apply(design$helping, 2, function(v) isTRUE(stats::sd(v, na.rm = TRUE) > 0)), drop = FALSE]
  x <- unname(cbind(answers, helping))
  em <- core_em(x, weight)
  own <- seq_len(ncol(answers))
  normal <- is.null(weight) && is.null(cluster) && near_normal(answers)
  spread <- if (em$status == "ok") core_moments_spread(x, em, core_answer_patterns(x, weight), length(own), normal,
    if (is.null(weight)) rep(1, nrow(x)) else weight, cluster)
  if (is.null(spread)) stop_numeric(message_of("e_means_covariances_group", label = label), hint = message_of("e_leave_out_also"))
  s <- em$covariance[own, own]
  dimnames(s) <- list(colnames(answers), colnames(answers))
  c(list(n = nrow(x), s = s, mean = em$mean[own], answers = answers, weight = weight, cluster = cluster), spread)
}

# Weights have mean one in each group.
occasion_sample <- function(answers, incomplete, label, design) {
  n <- nrow(answers)
  weight <- if (!anyNA(design$weight)) design$weight / mean(design$weight)
  own <- list(n = n, answers = answers, weight = weight, cluster = if (!anyNA(design$cluster)) design$cluster)
  if (!incomplete) {
    found <- core_weighted_covariance(answers, if (is.null(weight)) rep(1, n) else weight)
    if (core_definiteness(core_correlation(found$covariance)) < 1e-10) {
      stop_numeric(message_of("e_correlations_group_not", label = label))
    }
    return(c(own, list(s = found$covariance, mean = unname(found$mean))))
  }
  em <- core_em(answers, weight)
  if (em$status != "ok") stop_numeric(message_of("e_means_covariances_group_cannot", label = label))
  moments <- list(mean = unname(em$mean), covariance = unname(em$covariance))
  c(own, list(s = em$covariance, mean = moments$mean, patterns = core_answer_patterns(answers, weight), em = moments))
}

# What each occasion is called, groups within waves' order: a data frame group, wave, label.
occasion_labels <- function(groups, waves, by) {
  place <- expand.grid(wave = if (is.null(waves)) "" else waves, group = groups, stringsAsFactors = FALSE)
  place$label <- if (is.null(waves)) place$group else if (is.null(by)) paste("wave", place$wave) else paste0(place$group, ", wave ", place$wave)
  place
}
