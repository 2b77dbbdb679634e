# Scores that a database works out: how many people have which, and the statement that makes them. No single person is fetched.

# A `sw_scores` without anybody's score in it; sw_write() writes the scores in the database.
asked_scores <- function(survey, method, rule, form, total, weights, structure, refused, limits) {
  refuse_asked_scores(survey, method, rule, form, refused)
  scales <- score_scales(survey, structure, total)
  weights <- check_item_weights(weights, method, unlist(scales))
  moments <- scored_moments(survey, unique(unlist(scales, use.names = FALSE)))
  recipes <- unlist(lapply(names(scales), function(scale) {
    own <- own_methods(method, item_spec(survey, scales[[scale]]))
    lapply(own, function(one) asked_recipe(survey, scale, scales[[scale]], one, rule, weights, moments))
  }), recursive = FALSE)
  names(recipes) <- vapply(recipes, function(one) one$about$score, "")
  check_free_columns(names(recipes), source_names(survey), TRUE)
  base <- do.call(rbind, lapply(recipes, `[[`, "about"))
  of_shape <- function(figure) vapply(recipes, function(one) one$shape[[figure]], 0)
  centre <- data.frame(score = base$score, mean = of_shape("mean"), sd = of_shape("sd"), reliability = base$reliability, sem = base$sem)
  norms <- list(said = message_of("norms_of_everyone"), words = say(message_of("norms_of_everyone")), table = centre)
  of_forms <- lapply(recipes, function(one) lapply(names(form), function(name) asked_form(one, name, form[[name]], norms)))
  asked <- unlist(unname(Map(function(one, forms) c(list(one), forms), recipes, of_forms)), recursive = FALSE)
  names(asked) <- vapply(asked, `[[`, "", "score")
  every <- do.call(rbind, lapply(asked, `[[`, "summary"))
  survey <- log_step(survey, "scored", message_of("log_scored", recipes = base$recipe))
  new_result("sw_scores", "title_scores",
    tables = Filter(Negate(is.null), list(scales = every, correlations = asked_correlations(survey, recipes),
      verdicts = score_verdicts(base, vapply(recipes, function(one) one$shape$n, 0), .95, limits))),
    limits = limits,
    notes = c(asked_notes(every[every$score %in% base$score, ]), survey_notes(survey), design_note(survey)), n = source_count(survey)$used,
    n_left_out = source_count(survey)$aside, missing = missing_rule(rule, base$method),
    options = list(method = unique(base$method), at_least = rule$at_least, fill = rule$fill, form = form_name(form), norms = norms$words),
    parts = list(source = held_survey(survey), found = list(about = do.call(rbind, lapply(asked, `[[`, "about")), scales = scales), asked = asked)
  )
}

# Bands of such scores, cut at marks.
asked_bands <- function(scores, of, marks, labels, pass) {
  for (name in of) {
    one <- scores$parts$asked[[name]]
    place <- cut_bands(one$shape$values, name, marks)
    words <- band_labels(place$count, labels, pass)
    scores$parts$asked[[paste0(name, "_band")]] <- list(cut = one, cuts = own_marks(marks, name), labels = words)
    values <- rep(one$shape$values, one$shape$counts)
    scores$parts$found$columns[[name]] <- values
    table <- band_table(name, scores, list(band = rep(place$band, one$shape$counts)), words)
    scores$parts$found$columns <- NULL
    scores$tables$bands <- rbind(scores$tables$bands, table)
  }
  scores
}

refuse_asked_scores <- function(survey, method, rule, form, refused) {
  what <- c(names(refused)[!vapply(refused, function(one) is.null(one) || isFALSE(one), TRUE)], if (any(method %in% factor_methods)) "from",
    if (!rule$fill %in% c("person", "none")) "fill", if (any(names(form) == "stanine")) "form")
  if (identical(what[1], "from") && goes_by_rows(survey)) {
    stop_input(message_of("e_so_many_people"), hint = message_of("e_score_from_factors"))
  }
  if (length(what) > 0) {
    gives <- message_of(if (inherits(survey$source, "sums_source")) "gives_sums_only" else "gives_too_many")
    stop_database("withheld", message_of("e_scores_needs_single", what = what[1], gives = gives), hint = message_of("e_use_fetch_rows_more"))
  }
}

# list(about, shape, summary, and what score_sql() needs).
asked_recipe <- function(survey, scale, items, method, rule, weights, moments) {
  specs <- item_spec(survey, items)
  needed <- max(1, ceiling(rule$at_least * length(items) - 1e-9))
  if (is.null(moments)) moments <- source_moments(survey, items)
  covariance <- if (!identical(moments$status, "too_few_cases")) moments$covariance[items, items, drop = FALSE]
  none <- matrix(numeric(), 0, length(items), dimnames = list(NULL, items))
  about <- raw_score(scale, method, none, specs, needed, weights[items], covariance)$about
  out <- list(score = about$score, items = items, method = method, needed = needed, weights = weights[items],
    low = item_ends(specs, "lowest"), high = item_ends(specs, "highest"), by_share = has_unequal_ranges(specs))
  shape <- score_shapes(survey, out)
  about$sem <- if (!is.na(about$reliability)) shape$sd * sqrt(max(1 - about$reliability, 0)) else NA_real_
  c(out, list(about = about, shape = shape, summary = asked_summary(about, shape)))
}

asked_summary <- function(about, shape) {
  plain_table(score = about$score, scale = about$scale, method = about$method, items = about$items, needed = about$needed, n = shape$n,
    without = shape$without, mean = shape$mean, sd = shape$sd, lowest = shape$lowest, highest = shape$highest, reliability = about$reliability,
    sem = about$sem, recipe = about$recipe)
}

# A form of a score: list(score, of: the score it is made of, form, mean, sd, about, shape, summary).
asked_form <- function(recipe, name, one, norms) {
  at <- match(recipe$score, norms$table$score)
  about <- recipe$about
  about$score <- paste(recipe$score, name, sep = "_")
  about$form <- name
  about$sem <- formed_error(one, norms, at)
  about$recipe <- form_words(one, recipe$score, norms, at)
  shape <- recipe$shape
  if (identical(one, "percentile")) {
    rank <- 100 * (cumsum(shape$own) - shape$own / 2) / shape$n
    spread <- sqrt(sum(shape$own * (rank - 50)^2) / (shape$n - 1))
    shape[c("mean", "sd", "lowest", "highest")] <- c(50, spread, range(rank))
    shape$values <- rank
  } else {
    moved <- function(value) formed(one, value, norms, at)
    shape[c("mean", "lowest", "highest", "values")] <- lapply(shape[c("mean", "lowest", "highest", "values")], moved)
    shape$sd <- shape$sd * abs(moved(1) - moved(0))
  }
  list(score = about$score, of = recipe, form = one, mean = norms$table$mean[at], sd = norms$table$sd[at], about = about, shape = shape,
    summary = asked_summary(about, shape))
}

asked_notes <- function(base) {
  without <- base[base$without > 0, ]
  c(
    if (nrow(without) > 0) note("without_score", message_of("without_score", scores = messages_of("name_and_count", name = without$score,
      count = without$without)), without$score, people = max(without$without)),
    note("asked_scores", message_of("asked_scores"), rank = 1L)
  )
}

asked_correlations <- function(survey, recipes) {
  if (length(recipes) < 2) {
    return(NULL)
  }
  r <- source_score_r(survey, recipes)
  r[upper.tri(r, diag = TRUE)] <- NA
  matrix_table(r, "score")
}
