# Scores from the answers themselves: columns, and what each is made of.

# Subscales and their items: the codebook's, or a structure's, and all of them together.
score_scales <- function(survey, structure, total) {
  scales <- if (is.null(structure)) survey_scales(survey) else structure_scales(survey, structure)
  if (length(scales) == 0) {
    stop_input(message_of("e_no_scored_item"), hint = message_of("e_fill_scale_codebook"))
  }
  if (!total) {
    return(scales)
  }
  if ("total" %in% names(scales)) stop_input(message_of("e_subscale_called_total"), hint = message_of("e_rename_codebook"))
  c(scales, list(total = unique(unlist(scales, use.names = FALSE))))
}

structure_scales <- function(survey, structure) {
  if (!inherits(structure, "sw_structure")) structure <- structure_from(structure, .40)
  check_items_known(structure_items(structure), survey$codebook$items$item)
  # A factor above others is scored by the items of these.
  above <- lapply(structure$higher, function(below) unique(unlist(structure$factors[below], use.names = FALSE)))
  Filter(length, lapply(c(structure$factors, above), intersect, scored_items(survey)))
}

# list(columns, about: a row per score, notes).
raw_scores <- function(survey, scales, method, rule, weights, also = NULL) {
  weights <- check_item_weights(weights, method, unlist(scales))
  answers <- source_rows(survey)
  people <- survey_weight(survey, rep(TRUE, nrow(answers)))
  moments <- scored_moments(survey, unique(unlist(scales, use.names = FALSE)), also)
  expected <- switch(rule$fill, expected = expected_answers(survey, answers, moments, scales, weights), imputed = imputed_answers(survey, moments))
  parts <- lapply(names(scales), function(scale) {
    items <- scales[[scale]]
    specs <- item_spec(survey, items)
    x <- answers[, items, drop = FALSE]
    needed <- max(1, ceiling(rule$at_least * length(items) - 1e-9))
    covariance <- if (is.null(moments)) listwise_covariance(x) else moments$covariance[items, items, drop = FALSE]
    lapply(own_methods(method, specs), function(one) raw_score(scale, one, x, specs, needed, weights[items], covariance, expected, people))
  })
  parts <- unlist(parts, recursive = FALSE)
  gaps <- unlist(lapply(parts, `[[`, "gap"), recursive = FALSE)
  list(columns = c(stats::setNames(lapply(parts, `[[`, "column"), vapply(parts, `[[`, "", "score")), gaps), about = do.call(rbind, lapply(parts, `[[`,
    "about")), scales = scales, weights = weights)
}

# Covariances of the complete cases, for alpha.
listwise_covariance <- function(x) {
  complete <- x[stats::complete.cases(x), , drop = FALSE]
  if (nrow(complete) < 2) NULL else stats::cov(complete)
}

# Moments of the items behind the scores, gaps as everywhere: NULL where they cannot be had, or are of very many people.
scored_moments <- function(survey, items, also = NULL) {
  if (source_count(survey)$used > 20000 || length(items) > 60) {
    return(NULL)
  }
  tryCatch(survey_moments(survey, items, "auto", also = also), scalewort_error_numeric = function(e) NULL)
}

# list(filled: answers x items within their range; error: function of the items' weights in a score).
expected_answers <- function(survey, answers, moments, scales, weights) {
  if (is.null(moments)) {
    stop_numeric(message_of("e_what_people_would"), hint = message_of("e_take_fill_person"))
  }
  items <- colnames(moments$covariance)
  x <- answers[, items, drop = FALSE]
  specs <- item_spec(survey, items)
  filled <- core_expected_answers(x, moments$mean, moments$covariance, diag(length(items)))$filled
  low <- item_ends(specs, "lowest")
  high <- item_ends(specs, "highest")
  for (j in which(!is.na(low) & !is.na(high))) filled[, j] <- pmin(pmax(filled[, j], low[j]), high[j])
  dimnames(filled) <- list(NULL, items)
  list(filled = filled, error = function(own) {
    member <- matrix(0, length(items), 1, dimnames = list(items, NULL))
    member[names(own), 1] <- own
    core_expected_answers(x, moments$mean, moments$covariance, member)$error[, 1]
  })
}

# The same from imputations: their mean in each gap, and what differs between the scores they give.
imputed_answers <- function(survey, moments) {
  items <- survey$imputed$items
  if (is.null(items)) stop_input(message_of("e_fill_imputed_needs"), hint = message_of("e_make_them_sw_impute"))
  each <- lapply(seq_len(survey$imputed$m), function(i) imputed_rows(survey, items, i))
  list(filled = Reduce(`+`, each) / length(each), error = function(own) {
    scores <- vapply(each, function(x) as.vector(x[, names(own), drop = FALSE] %*% own), numeric(nrow(each[[1]])))
    sqrt((1 + 1 / length(each)) * apply(matrix(scores, nrow(each[[1]])), 1, stats::var))
  })
}

# Weight of each item in a score.
item_weights <- function(method, specs, weights) {
  k <- nrow(specs)
  out <- switch(method, mean = rep(1 / k, k), sum = , right = rep(1, k), weighted = weights / sum(weights),
    share = rep(100 / sum(item_ends(specs, "highest") - item_ends(specs, "lowest")), k))
  stats::setNames(out, specs$item)
}

# people: sampling weights.
raw_score <- function(scale, method, x, specs, needed, weights, covariance, expected = NULL, people = NULL) {
  items <- colnames(x)
  check_method_fits(method, specs, scale)
  answered <- rowSums(!is.na(x))
  x <- if (is.null(expected)) filled_answers(x, specs) else replace(expected$filled[, items, drop = FALSE], answered < needed, NA)
  person <- core_person_scores(x, needed, answered)
  value <- switch(method,
    mean = person$mean, sum = , right = person$sum,
    share = 100 * (person$mean - mean_end(specs, "lowest")) / (mean_end(specs, "highest") - mean_end(specs, "lowest")),
    weighted = core_person_scores_weighted(x, weights, needed, answered)
  )
  reliability <- if (length(items) > 1 && !is.null(covariance)) {
    if (method == "weighted") core_alpha(covariance * outer(weights, weights)) else core_alpha(covariance)
  } else {
    NA_real_
  }
  score <- paste(scale, method, sep = "_")
  spread <- weighted_centre(value, people)[["sd"]]
  possible <- possible_scores(specs, method, weights)
  gap <- if (!is.null(expected)) replace(expected$error(item_weights(method, specs, weights)), is.na(value), NA)
  list(
    gap = if (!is.null(gap)) stats::setNames(list(structure(gap, made_of = items)), paste0(score, "_gap")),
    score = score, column = structure(value, made_of = items),
    about = data.frame(
      score = score, base = score, scale = scale, method = method, form = NA_character_, items = length(items), needed = needed,
      reliability = reliability, sem = if (!is.na(reliability)) spread * sqrt(max(1 - reliability, 0)) else NA_real_,
      least = possible$least, most = possible$most, step = possible$step, recipe = recipe_words(specs, method, needed, weights)
    )
  )
}

# Ends of the items' answers, keyed: a test item's are 0 and 1.
item_ends <- function(specs, end) ifelse(!is.na(specs$answer), if (end == "lowest") 0 else 1, specs[[end]])

has_unequal_ranges <- function(specs) {
  lowest <- item_ends(specs, "lowest")
  highest <- item_ends(specs, "highest")
  !anyNA(c(lowest, highest)) && (any(lowest != lowest[1]) || any(highest != highest[1]))
}

# Gaps of items of different ranges are filled by the person's share of the range: the plain mean of
# the others would move the score by which item was left out.
filled_answers <- function(x, specs) {
  if (has_unequal_ranges(specs) && anyNA(x)) core_fill_by_share(x, item_ends(specs, "lowest"), item_ends(specs, "highest")) else x
}

# list(least, most, step) of the scores that complete answers can have; step 0 where they have none.
possible_scores <- function(specs, method, weights) {
  lowest <- item_ends(specs, "lowest")
  highest <- item_ends(specs, "highest")
  k <- nrow(specs)
  unit <- if (all(c(lowest, highest) %% 1 == 0, na.rm = TRUE)) 1 else 0
  ends <- switch(method,
    mean = c(mean(lowest), mean(highest), unit / k), sum = , right = c(sum(lowest), sum(highest), unit),
    share = c(0, 100, 100 * unit / sum(highest - lowest)),
    weighted = c(sum(weights * lowest), sum(weights * highest), unit * common_unit(weights)) / sum(weights)
  )
  list(least = ends[1], most = ends[2], step = ends[3])
}

# The largest number of which all weights are whole multiples, to six decimals; 0 for none above .001.
common_unit <- function(weights) {
  whole <- round(weights[weights > 0] * 1e6)
  divisor <- Reduce(function(a, b) {
    while (b > 0) {
      rest <- a %% b
      a <- b
      b <- rest
    }
    a
  }, whole)
  if (divisor / 1e6 < .001) 0 else divisor / 1e6
}

# The lowest, or highest, mean of these items' answers that can be.
mean_end <- function(specs, end) mean(item_ends(specs, end))

check_method_fits <- function(method, specs, scale) {
  keyed <- !is.na(specs$answer)
  if (method == "right" && !all(keyed)) {
    stop_input(message_of("e_number_right_items", scale = scale), hint = message_of("e_use_sum_mean"))
  }
  if (method == "share" && any(!keyed & is.na(specs$lowest))) {
    stop_input(message_of("e_share_maximum_needs", scale = scale))
  }
}

check_item_weights <- function(weights, method, items) {
  if (!"weighted" %in% method) {
    return(stats::setNames(rep(1, length(unique(items))), unique(items)))
  }
  if (!is.numeric(weights) || is.null(names(weights)) || anyNA(weights) || any(weights < 0)) {
    stop_input(message_of("e_weighted_scores_need"))
  }
  check_names_known(names(weights), items, "weights", "item")
  out <- stats::setNames(rep(1, length(unique(items))), unique(items))
  out[names(weights)] <- weights
  out
}

# "mean of calm1, calm2, 6 - calm3; 4 of 5 items needed"
recipe_words <- function(specs, method, needed, weights) {
  items <- specs$item
  turned <- is_turned(specs)
  words <- ifelse(turned, paste0(turn_sum(specs), " - ", items), items)
  if (method == "weighted") words <- paste0(format(weights, trim = TRUE), " x ", ifelse(turned, paste0("(", words, ")"), words))
  ends <- c(mean_end(specs, "lowest"), mean_end(specs, "highest"))
  what <- c(
    mean = "mean of", sum = "sum of", right = "number right of", weighted = "weighted mean of",
    share = paste0("100 x (mean - ", format(ends[1]), ") / ", format(ends[2] - ends[1]), ", mean of")
  )[[method]]
  paste0(what, " ", paste(words, collapse = ", "), "; ", if (needed == length(items)) "all" else paste(needed, "of", length(items)), " needed")
}
