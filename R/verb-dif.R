#' Does an item work the same in every group?
#'
#' Differential item functioning: compares groups item by item among people with
#' the same score on the item's subscale. Two groups and 0/1 items: Mantel-Haenszel
#' (1959), with delta = -2.35 ln(odds ratio) and the classes A (negligible), B, C
#' (large) of Zwick and Ercikan (1989). Two groups and ordered answers: Mantel's
#' (1963) test and the standardised mean difference of people with the same score,
#' with classes at .17 and .25 (Zwick, Thayer & Mazzeo, 1997). Any number of groups:
#' the generalised test, and likelihood-ratio tests of the proportional-odds model
#' for uniform and non-uniform bias with the rise in Nagelkerke's R squared (classes
#' at .035 and .070; Jodoin & Gierl, 2001).
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param by Name of the grouping column; the survey's `group` by default.
#' @param reference The reference group; by default the first of a factor's levels or of the codebook's labels, else the largest.
#' @param purify Take flagged items, the worst first, out of the matching score of
#'   the others and look again, until nothing new is flagged?
#' @param adjust Adjustment of p values for many tests: `"holm"` (Holm, 1979: the chance of any false alarm), `"BH"` (Benjamini &
#'   Hochberg, 1995: the share of false ones among those flagged) or `"none"`.
#' @param limits Bounds, from [sw_limits()]; `dif_p` is the level of the tests.
#' @return A `sw_dif` with the table `items`: scale, item, test, n, statistic, p,
#'   adjusted p, effect (delta, or standardised mean difference, focal less
#'   reference), class, whom it favours, p of the generalised test, p of uniform and
#'   non-uniform bias, R squared change, `slope_ratio` (by how much less steeply answers rise with the score in the group `less_in`), `bias_kind`
#'   (uniform, nonuniform, both), flagged, and of two groups the power to see a large difference (class C) among
#'   all these items; and `curves` (mean keyed answer by
#'   score band and group) and `groups` (everybody by group, and which is the reference). An item is flagged when its adjusted p, over the
#'   tests of both kinds of bias, passes and its class is B or C, or its slope ratio below the bound `dif_slope`.
#' @section Errors: `scalewort_error_input` for an unknown column, or fewer than
#'   two groups of 20 people; a smaller group beside these is left out, and that is noted.
#' @examples
#' sw_dif(sw_demo("plotholders"), by = "district")
#' sw_dif(sw_demo("plantcare"), by = "district")
#' @export
sw_dif <- function(survey, by = NULL, reference = NULL, purify = TRUE, adjust = "holm", limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("dif")
  groups <- dif_groups(survey, by, reference)
  scales <- Filter(function(items) length(items) > 2, survey_scales(survey, c("scored", "tryout")))
  if (length(scales) == 0) stop_input(message_of("e_no_subscale_three_items"))
  found <- lapply(names(scales), function(name) scale_dif(survey, name, scales[[name]], groups, purify, adjust, limits))
  items <- do.call(rbind, lapply(found, `[[`, "items"))
  bias <- dif_bias(items, adjust, limits)
  items <- with_columns(items, bias["p_adjusted"], after = "p.value") |>
    with_columns(bias["p_nonuniform_adjusted"], after = "p_nonuniform")
  items[c("bias_kind", "flagged")] <- list(bias$bias, bias$bias != "")
  items$power <- core_dif_power(items$effect_error, ifelse(items$test == "Mantel-Haenszel", limit(limits, "dif_delta")$bound,
    limit(limits, "dif_difference")$bound), limit(limits, "dif_p")$bound / (2 * nrow(items)))
  new_result("sw_dif", "title_dif",
    tables = list(items = items, groups = dif_group_table(groups), curves = do.call(rbind, lapply(found, `[[`, "curves")),
      verdicts = dif_verdicts(items, limits)),
    notes = c(dif_notes(items, groups, vapply(found, `[[`, TRUE, "settled"), names(scales), limits), spelling_note(survey, groups$by),
      survey_notes(survey)),
    n = sum(groups$size), n_left_out = groups$n - sum(groups$size), missing = message_of("missing_within_scales", ways = list(message_of("a_term",
      term = "listwise"))),
    options = list(by = groups$by, reference = groups$reference, purify = purify, adjust = adjust), limits = limits
  )
}

# Everybody by group, those too small to compare among them.
dif_group_table <- function(groups) {
  size <- groups$size
  as <- ifelse(names(size) == groups$reference, "reference", "compared")
  plain_table(group = names(size), n = as.vector(size), compared_as = as)
}

# list(by, size: of all groups, names, reference, focal, small).
dif_groups <- function(survey, by, reference) {
  if (is.null(by)) by <- survey$group
  if (length(by) != 1) stop_input(message_of("e_must_name_one"))
  values <- group_values(survey, by)
  known <- in_group_order(survey, by, unique(values$group[!is.na(values$group)]))
  size <- sort(vapply(known, function(group) sum(values$n[values$group %in% group]), 0), decreasing = TRUE)
  if (length(size) < 2) stop_input(message_of("e_there_only_one", by = by))
  if (length(size) > 20) stop_input(message_of("e_different_values_these", by = by, size = length(size)))
  small <- size[size < 20]
  if (length(size) - length(small) < 2) stop_input(message_of("e_group_needs_people"), faults = paste0(names(small), ": ", small))
  size <- size[size >= 20]
  given <- !is.null(given_order(survey, by))
  if (given) size <- size[intersect(known, names(size))]
  if (is.null(reference)) reference <- names(size)[1]
  check_choice(as.character(reference), names(size), "reference")
  list(by = by, size = size, n = sum(values$n), names = names(size), reference = as.character(reference),
    focal = setdiff(names(size), as.character(reference)),
    small = small)
}

# All items of a subscale over one set of complete cases. Purification takes the
# flagged item with the largest statistic out of the others' matching score, then
# looks again, until nothing new is flagged.
scale_dif <- function(survey, scale, items, groups, purify, adjust, limits) {
  scored <- items %in% scored_items(survey)
  out <- character()
  settled <- TRUE
  repeat {
    own <- lapply(items, function(item) items[scored & !(items %in% out) | items == item])
    people <- matched_people(survey, items, own, groups)
    table <- do.call(rbind, Map(item_dif, scale, items, people, MoreArgs = list(groups = groups, limits = limits)))
    bias <- dif_bias(table, adjust, limits)$bias
    new <- setdiff(table$item[bias != ""], out)
    if (!purify || length(new) == 0) break
    if (sum(scored) - length(out) <= 3) {
      settled <- FALSE
      break
    }
    at <- match(new, table$item)
    uniform <- bias[at] != "nonuniform"
    out <- c(out, if (any(uniform)) new[uniform][which.max(table$statistic[at][uniform])] else new[which.min(table$p_nonuniform[at])])
  }
  list(items = table, curves = dif_curves(survey, scale, items, groups), settled = settled)
}

# Item by item, how many people (n) gave which answer at which score in which group, of those who answered all items and whose group is
# compared. own: the items of each one's score.
matched_people <- function(survey, items, own, groups) {
  values <- group_values(survey, groups$by)
  lapply(source_crossed(survey, items, own, items, groups$by), function(found) {
    group <- values$group[match(as.character(found$value), as.character(values$of[[1]]))]
    use <- group %in% groups$names
    counts <- crossed_counts(list(answer = found$answer[use], score = found$total[use], group = group[use]), found$n[use])
    # Sums over them are the same to the last digit, wherever the answers are.
    rows_of(counts, order(counts$answer, counts$score, counts$group, method = "radix"))
  })
}

# Which bias each item has beyond chance, over the tests of both kinds of all items, and in size: uniform by its class, nonuniform by how much less
# steeply its answers rise with the score in one group. list(p_adjusted, p_nonuniform_adjusted, bias: uniform, nonuniform, both or "").
dif_bias <- function(table, adjust, limits) {
  k <- nrow(table)
  p <- stats::p.adjust(c(table$p.value, table$p_nonuniform), adjust)
  seen <- (p < limit(limits, "dif_p")$bound) %in% TRUE
  uniform <- seen[seq_len(k)] & table$class %in% c("B", "C")
  nonuniform <- seen[k + seq_len(k)] & !meets(table$slope_ratio, limits, "dif_slope") %in% TRUE
  list(p_adjusted = p[seq_len(k)], p_nonuniform_adjusted = p[k + seq_len(k)],
    bias = ifelse(uniform & nonuniform, "both", ifelse(uniform, "uniform", ifelse(nonuniform, "nonuniform", ""))))
}

# The size of each item's difference; what is not flagged is met only where a large difference would have been seen.
dif_verdicts <- function(items, limits) {
  figure <- ifelse(items$test == "Mantel-Haenszel", "dif_delta", ifelse(items$test == "Mantel", "dif_difference", "dif_r2"))
  unseen <- !items$flagged & items$power < .8
  judged <- judge(abs(items$effect), limits, figure, reason = ifelse(unseen %in% TRUE, "little_power", ""))
  uniform <- items$bias_kind %in% c("uniform", "both")
  judged$code <- ifelse(is.na(judged$value), NA, ifelse(uniform, "missed", ifelse(judged$reason == "", "met", "untested")))
  bent <- items[items$bias_kind %in% c("nonuniform", "both"), ]
  ranked_verdicts(verdict_rows("item", items$item, judged), verdict_rows("item", bent$item, judge(bent$slope_ratio, limits, "dif_slope")))
}

# people: as matched_people() counts them.
item_dif <- function(scale, item, people, groups, limits) {
  if (length(unique(people$answer)) < 2 || length(unique(people$score)) < 2) {
    general <- list(p = NA_real_)
    logistic <- list(p_uniform = NA_real_, p_nonuniform = NA_real_, r2_change = NA_real_, slope_ratio = NA_real_, flattest = "")
    main <- main_dif("none: it does not vary", NA_real_, NA_real_, NA_real_, NA_real_, NA_character_)
  } else {
    general <- core_general_association(people$answer, people$group, thick_strata(people$score, people$n), people$n)
    logistic <- core_logistic_dif(people$answer, people$group, people$score, people$n)
    main <- if (length(groups$focal) > 1) {
      several_groups(general, logistic, limits)
    } else if (all(people$answer %in% 0:1)) {
      binary_dif(people, groups, limits)
    } else {
      ordered_dif(people, groups, limits)
    }
  }
  plain_table(
    scale = scale, item = item, test = main$test, n = as.integer(sum(people$n)), statistic = main$statistic, df = main$df, p.value = main$p,
    odds_ratio = main$odds_ratio, effect = main$effect, class = main$class, favours = main$favours, p_general = general$p,
    effect_error = main$error, p_uniform = logistic$p_uniform, p_nonuniform = logistic$p_nonuniform, r2_change = logistic$r2_change,
    slope_ratio = logistic$slope_ratio, less_in = logistic$flattest
  )
}

# The test an item is judged by.
main_dif <- function(test, statistic, df, p, effect, class, odds_ratio = NA_real_, favours = "", error = NA_real_) {
  list(test = test, statistic = statistic, df = df, p = p, odds_ratio = odds_ratio, effect = effect, class = class, favours = favours, error = error)
}

binary_dif <- function(people, groups, limits) {
  mh <- core_mantel_haenszel(people$answer, people$group %in% groups$focal, people$score, people$n)
  main_dif("Mantel-Haenszel", mh$statistic, 1, mh$p, mh$delta, delta_class(mh, limits), mh$odds_ratio, favoured(mh$delta, groups),
    mh$delta_se)
}

# A: negligible, or not different from 0; C: large, and more than negligible by its interval; B between.
delta_class <- function(mh, limits) {
  rule <- limit(limits, "dif_delta")
  class <- size_class(abs(mh$delta), mh$p, limits, "dif_delta")
  # Where no stratum speaks for one of the groups delta is infinite, without an error: C cannot be shown.
  if (class %in% "C" && !isTRUE(abs(mh$delta) - 1.645 * mh$delta_se > rule$better)) "B" else class
}

# A where the stricter bound is met, or p says nothing; C where the laxer one is missed.
size_class <- function(size, p, limits, figure) {
  if (is.na(size)) {
    return(NA_character_)
  }
  seen <- is.na(p) || meets(p, limits, "test_p")
  if (!seen || meets(size, limits, figure, "better")) "A" else if (meets(size, limits, figure)) "B" else "C"
}

ordered_dif <- function(people, groups, limits) {
  focal <- people$group %in% groups$focal
  mantel <- core_mantel(people$answer, focal, people$score, people$n)
  class <- size_class(abs(mantel$difference), mantel$p, limits, "dif_difference")
  main_dif("Mantel", mantel$statistic, 1, mantel$p, mantel$difference, class, favours = favoured(mantel$difference, groups),
    error = core_matched_error(people$answer, people$score, focal, people$n))
}

several_groups <- function(general, logistic, limits) {
  class <- size_class(logistic$r2_change, NA, limits, "dif_r2")
  main_dif("generalised", general$statistic, general$df, general$p, logistic$r2_change, class)
}

favoured <- function(effect, groups) {
  if (is.na(effect) || effect == 0) "" else if (effect > 0) groups$focal else groups$reference
}

# Strata for the test over options: scores joined until each holds ten people.
thick_strata <- function(score, n) {
  values <- sort(unique(score))
  size <- rowsum(n, score)[, 1]
  stratum <- integer(length(values))
  now <- 1L
  held <- 0
  for (i in seq_along(values)) {
    stratum[i] <- now
    held <- held + size[i]
    if (held >= 10) {
      now <- now + 1L
      held <- 0
    }
  }
  if (held > 0 && now > 1) stratum[stratum == now] <- now - 1L
  stratum[match(score, values)]
}

# Mean keyed answer by fifth of the score, group by group.
dif_curves <- function(survey, scale, items, groups) {
  rows <- Map(function(item, people) {
    # Nobody answered all items of the subscale.
    if (nrow(people) == 0) return(NULL)
    at <- list(band = core_bands(people$score, 5, people$n), group = people$group)
    cells <- stats::aggregate(list(n = people$n, sum = people$n * people$answer), at, sum)
    data.frame(scale = scale, item = item, band = cells$band, group = cells$group, n = as.integer(cells$n), mean = cells$sum / cells$n)
  }, items, matched_people(survey, items, rep(list(items), length(items)), groups))
  plain_frame(do.call(rbind, unname(rows)))
}

# Which groups were too small to be compared, a named count.
small_groups_note <- function(small, least) {
  if (length(small) > 0) {
    note("too_small_groups", message_of("too_small_groups", least = least, groups = messages_of("name_aside", name = names(small),
      aside = unname(small))), names(small))
  }
}

dif_notes <- function(items, groups, settled, scales, limits) {
  flagged <- items[items$bias_kind %in% c("uniform", "both"), ]
  bent <- items[items$bias_kind %in% c("nonuniform", "both"), ]
  power <- stats::median(items$power, na.rm = TRUE)
  higher <- lapply(seq_len(nrow(flagged)), function(i) {
    if (flagged$favours[i] == "") flagged$item[i] else message_of("higher_in", item = flagged$item[i], group = flagged$favours[i])
  })
  c(
    if (!is.na(power) && power < .8) note("little_power", message_of("dif_little_power", sizes = groups$size, power = power), power = power,
      rank = 1L),
    small_groups_note(groups$small, "20"),
    if (nrow(flagged) > 0) note("works_differently", message_of("works_differently", by = groups$by, items = higher), flagged$item, rank = 1L),
    if (nrow(bent) > 0) note("not_uniform", message_of("not_uniform", items = messages_of("rises_in", item = bent$item, ratio = bent$slope_ratio,
      group = bent$less_in)), bent$item, rank = 1L),
    if (any(!settled)) note("not_purified", message_of("not_purified", scales = scales[!settled]), scales[!settled])
  )
}
