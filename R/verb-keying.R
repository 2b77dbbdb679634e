#' Does each item point the way the codebook says?
#'
#' For each subscale the set of reversals is sought that makes its items point one
#' way (the largest variance of the keyed total: by trying all sets up to 15 items,
#' from the first principal axis above that). The majority's direction counts as right; half against half accuses nobody.
#' An item of the minority points against the codebook where its correlation with the rest, all turned the best way,
#' is above zero beyond chance among the subscale's items: a good item is accused in at most 2 samples of 100. Where
#' the cases are too few to say so it is called suspect. An item whose item-rest correlation stays below the bound (see
#' [sw_limits()], `item_rest_r`) even at the upper end of its interval is unclear: it points nowhere.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_keying` with the tables `scales` (items that disagree with the
#'   codebook, alpha as keyed and with them turned, negative correlations left, the
#'   lowest correlation left) and `items` (codebook's direction, where the item
#'   points, whether the two agree, mean correlation with the others once turned,
#'   alpha with this item turned).
#' @section Errors: `scalewort_error_input` when no subscale has three items.
#' @examples
#' sw_keying(sw_demo("plotholders", codebook = "draft"))
#' @export
sw_keying <- function(survey, limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("keying")
  moments <- scale_moments(survey, "auto")
  moments <- moments[vapply(moments, function(m) ncol(m$covariance) >= 3, TRUE)]
  if (length(moments) == 0) stop_input(message_of("e_no_subscale_three_items_nothing"))
  tests <- test_items(survey)
  found <- lapply(moments, scale_keying, limits = limits)
  items <- do.call(rbind, lapply(names(moments), function(name) keying_items(name, moments[[name]], found[[name]], survey)))
  scales <- do.call(rbind, lapply(names(moments), function(name) keying_scale(name, moments[[name]], found[[name]])))
  new_result("sw_keying", "title_keying",
    tables = list(scales = scales, items = items, verdicts = keying_verdicts(items, scales, limits)), notes = c(keying_notes(scales, items, found,
      tests, limits), survey_notes(survey)),
    n = source_count(survey)$used, n_left_out = source_count(survey)$aside, missing = scales_treatment(moments), limits = limits
  )
}

keying_items <- function(name, moments, found, survey) {
  s <- moments$covariance
  direction <- survey$codebook$items$direction[match(colnames(s), survey$codebook$items$item)]
  other <- other_direction(direction)
  other[colnames(s) %in% test_items(survey)] <- "the wrong way"
  plain_table(
    scale = name, item = colnames(s), codebook = direction,
    points = ifelse(found$unclear, "unclear", ifelse(found$turned, other, ifelse(found$suspect, paste(other, "perhaps"), direction))),
    agrees = ifelse(found$unclear, "unclear", ifelse(found$turned, "no", ifelse(found$suspect, if (found$tie) "half" else "suspect", "yes"))),
    rest_turned = found$rest, mean_r = found$mean_r,
    alpha_turned = vapply(seq_len(ncol(s)), function(j) core_alpha(core_turn(s, seq_len(ncol(s)) == j)), 0)
  )
}

# Each item's correlation with the rest as the codebook keys it, the rest turned the best way, against 0. The code is that of
# the keying, which allows for the number of items.
keying_verdicts <- function(items, scales, limits) {
  against <- items$agrees %in% c("no", "suspect", "half")
  as_keyed <- ifelse(against, -items$rest_turned, items$rest_turned)
  ends <- rest_interval(as_keyed, scales$n[match(items$scale, scales$scale)])
  judged <- judge(as_keyed, limits, "keyed_r", ends$low, ends$high, ifelse(items$agrees == "half", "tie", ""))
  judged$code <- unname(c(yes = "met", no = "missed", suspect = "near", half = "untested", unclear = "near")[items$agrees])
  ranked_verdicts(verdict_rows("item", items$item, judged))
}

keying_scale <- function(name, moments, found) {
  s <- moments$covariance
  plain_table(
    scale = name, items = ncol(s), n = moments$n, alpha = core_alpha(s), disagree = paste(colnames(s)[found$turned], collapse = " "),
    alpha_turned = if (any(found$turned)) core_alpha(core_turn(s, found$turned)) else NA_real_,
    suspect = paste(colnames(s)[found$suspect], collapse = " "), negative = found$negative, lowest_r = found$lowest_r
  )
}

keying_notes <- function(scales, items, found, tests, limits) {
  wrong <- items[items$agrees == "no", ]
  likert <- wrong[!wrong$item %in% tests, ]
  keys <- wrong$item[wrong$item %in% tests]
  unclear <- items$item[items$agrees == "unclear" & !is.na(items$mean_r)]
  mixed <- scales[!is.na(scales$negative) & scales$negative > 0 & scales$suspect == "", ]
  unknown <- scales$scale[is.na(scales$negative)]
  c(
    if (nrow(likert) > 0) note("against_codebook", message_of("against_codebook", points = messages_of("item_points", item = likert$item,
      direction = likert$points)), likert$item, rank = 1L),
    if (length(keys) > 0) note("key_looks_wrong", message_of("weaker_choose_right", items = keys), keys, rank = 1L),
    if (length(unclear) > 0) note("unclear", message_of("keying_unclear", items = unclear, bound = limit(limits, "item_rest_r")$bound), unclear),
    suspect_notes(items, scales),
    note("mixed_signs", messages_of("mixed_signs", scale = mixed$scale, negative = mixed$negative, lowest = mixed$lowest_r), as.list(mixed$scale)),
    if (length(unknown) > 0) note("nothing_known", message_of("keying_nothing_known", scales = unknown), unknown)
  )
}

# Items that look turned where the cases cannot say so, and subscales of which half points each way.
suspect_notes <- function(items, scales) {
  suspects <- items[items$agrees == "suspect", ]
  halves <- unique(items$scale[items$agrees == "half"])
  own <- unname(split(suspects$item, factor(suspects$scale, unique(suspects$scale))))
  c(
    note("suspect", messages_of("keying_suspect", items = own, scale = unique(suspects$scale),
      cases = scales$n[match(unique(suspects$scale), scales$scale)]), own),
    note("half", messages_of("keying_half", scale = halves, items = lapply(halves,
      function(s) items$item[items$scale == s & items$agrees == "half"])),
      as.list(halves), rank = 1L)
  )
}

# The keying of a subscale; where only some of its items hang together it is judged within these, and the others
# count as unclear.
scale_keying <- function(moments, limits) {
  s <- moments$covariance
  bound <- limit(limits, "item_rest_r")$bound
  whole <- core_keying(core_correlation(s), moments$n, bound)
  core <- scale_cores(list(own = moments), limits)$own
  if (is.null(core)) {
    return(whole)
  }
  at <- match(core$items, colnames(s))
  own <- core_keying(core_correlation(s[at, at]), moments$n, bound)
  for (part in c("turned", "suspect")) whole[[part]] <- replace(rep(FALSE, ncol(s)), at, own[[part]])
  whole$unclear <- replace(rep(TRUE, ncol(s)), at, own$unclear)
  whole$tie <- own$tie
  whole
}
