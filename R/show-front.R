# The first page of a report: what was measured on whom, a row a subscale, what was decided, what to know. Its words
# come from the words of a language.

# Sentences on who answered.
front_people <- function(survey, analyses, words) {
  who <- described_people(survey)
  said <- words$front
  several <- who$rows > who$people
  counts <- function(of) paste0(names(of), " (", of, ")", collapse = ", ")
  panel <- if (several) fill_in(said$rows, rows = who$rows, waves = if (length(who$waves) > 1) counts(who$waves) else "")
  c(
    paste0(fill_in(said$people, n = who$people), if (several) paste0(" ", panel), if (who$aside > 0) paste0(" ", fill_in(said$aside, n = who$aside))),
    if (!is.null(who$dates)) if (who$dates[1] == who$dates[2]) fill_in(said$date, from = who$dates[1]) else
      fill_in(said$dates, from = who$dates[1], to = who$dates[2]),
    unlist(lapply(names(who$groups), function(column) fill_in(said$groups, column = column, groups = counts(who$groups[[column]])))),
    if (!is.null(who$age)) fill_in(said$age, mean = decimals(who$age$mean, 1), sd = decimals(who$age$sd, 1), low = who$age$low, high = who$age$high),
    if (!is.null(who$born)) fill_in(said$born, low = who$born[1], high = who$born[2]),
    if (!is.null(who$sex)) fill_in(said$sex, groups = counts(who$sex)),
    if (who$answered == 1) said$no_gaps else fill_in(said$gaps, share = format_number(1 - who$answered, "percent"), complete = who$complete,
      rows = who$rows), skipped_questions(analyses, said),
    if (!is.null(people_counted(analyses))) say(people_counted(analyses), words$language, "report")
  )
}

# Questions of a test that were skipped count as not right, hence are not among the missing answers.
skipped_questions <- function(analyses, said) {
  screening <- Filter(function(x) inherits(x, "sw_screening"), analyses)
  missing <- if (length(screening) > 0) screening[[1]]$tables$missing
  counted <- sum(pmax(missing$skipped - missing$missing, 0))
  if (counted > 0) fill_in(said$skipped, n = counted)
}

# One row a subscale with everything that decides: named columns of text.
front_subscales <- function(analyses, words) {
  of <- function(class) Filter(function(x) inherits(x, class), analyses)
  reliability <- utils::tail(of("sw_reliability"), 1)[1][[1]]
  if (is.null(reliability)) {
    return(NULL)
  }
  scales <- reliability$tables$scales
  parts <- front_parts(analyses)
  span <- function(value, low, high) {
    # Where decimals have commas, they part no two numbers.
    ends <- paste0(" [", coefficient_text(low, 2), if (is.null(words$decimal)) "," else ";", "\u00a0", coefficient_text(high, 2), "]")
    ifelse(is.na(value), "", paste0(coefficient_text(value, 2), ifelse(is.na(low), "", ends)))
  }
  bound_of <- function(name) if (name %in% names(scales)) scales[[name]] else NA_real_
  own <- c(words$front, list(all = words))
  column <- function(f) vapply(scales$scale, f, "", parts = parts, words = own, USE.NAMES = FALSE)
  scored <- parts$scores$tables$scales
  at <- match(scales$scale, scored$scale)
  score <- if (!is.null(scored)) ifelse(is.na(at), "", paste0(decimals(scored$mean[at], 2), " (", decimals(scored$sd[at], 2), ")"))
  out <- list(
    scale = scales$scale, items = as.character(scales$items), n = as.character(scales$n), alpha = span(scales$alpha, scales$conf.low,
      scales$conf.high),
    omega = span(scales$omega, bound_of("omega_low"), bound_of("omega_high")), fit = if (!is.null(parts$confirmation)) column(front_fit),
    distinct = if (!is.null(parts$validity)) column(front_distinct), same = if (!is.null(parts$invariance)) column(front_same),
    score = score, todo = column(front_todo)
  )
  out <- Filter(Negate(is.null), out)
  several <- !is.null(parts$scores$parts$people)
  names(out) <- sub("95", format(100 * reliability$about$options$level), unlist(words$front$columns[ifelse(names(out) == "score" & several,
    "score_rows", names(out))]), fixed = TRUE)
  out
}

# The results that the first page rests on, by what they are.
front_parts <- function(analyses) {
  of <- function(class) Filter(function(x) inherits(x, class), analyses)
  first <- c("screening", "keying", "confirmation", "validity", "invariance", "dif", "scores")
  c(lapply(stats::setNames(nm = first), function(name) of(paste0("sw_", name))[1][[1]]), list(reliability = utils::tail(of("sw_reliability"),
    1)[1][[1]]))
}

# Names in a row, in the language of the page.
front_list <- function(names, most, words) {
  language <- if (is.null(words$language)) words$all$language else words$language
  listed(as.character(names), words_of_language(language), most)
}

# The items of a factor that stands for a subscale.
front_items <- function(scale, parts) {
  own <- parts$confirmation$parts$structure$factors[[scale]]
  if (is.null(own)) parts$reliability$tables$items$item[parts$reliability$tables$items$scale == scale] else own
}

front_fit <- function(scale, parts, words) {
  found <- front_fit_state(scale, parts)
  what <- front_list(found$what, 2, words)
  switch(found$code, items = fill_in(words$fit_items, items = what), merge = fill_in(words$not_from, others = what), sets = words$fit_sets,
    improper = words$fit_improper, whole = words$fit_whole, open = words$open, fits = words$fits,
    words$not_tested)
}

# What the confirmation says of a subscale's items, from its verdicts: list(code: merge, sets, items, whole, improper, open, fits, not_tested;
# what: which subscales, or items and factors).
front_fit_state <- function(scale, parts) {
  x <- parts$confirmation
  items <- front_items(scale, parts)
  state <- function(code, what = character()) list(code = code, what = what)
  if (is.null(x) || !x$about$status %in% c("ok", "improper") || !any(items %in% structure_items(x$parts$structure))) {
    return(state("not_tested"))
  }
  found <- front_misfit(scale, items, x)
  if (!is.null(found)) {
    return(found)
  }
  if (x$about$status == "improper") return(state("improper"))
  # No degrees of freedom, no test.
  judged <- x$tables$fit[x$tables$fit$figure %in% c("cfi", "rmsea", "srmr"), ]
  if (all(judged$verdict %in% c("untested", NA))) return(state("not_tested"))
  state(if (any(judged$verdict %in% "missed")) "whole" else if (any(judged$verdict %in% c("near", "untested"))) "open" else "fits")
}

# What is claimed of a misfit here: a merge, items with factors or items, two sets; NULL for nothing.
front_misfit <- function(scale, items, x) {
  state <- function(code, what = character()) list(code = code, what = what)
  joined <- function(rows) paste0(rows$item, "\u00a0\u2194\u00a0", rows$with)
  readings <- readings_apart(x$tables$readings)
  touched <- readings[readings$item %in% items & readings$with %in% c(items, names(x$parts$structure$factors)), ]
  merged <- readings[readings$reading %in% "merge" & (readings$item %in% scale | readings$with %in% scale), ]
  if (NROW(merged) > 0) return(state("merge", setdiff(c(merged$item, merged$with), scale)))
  if (NROW(touched) > 0) return(state("items", joined(touched)))
  best <- utils::head(readings, 1)
  if (NROW(best) > 0 && best$reading %in% c("split", "scales", "wording") && any(items %in% misread_items(best, items))) return(state("sets"))
  NULL
}

# The items that readings of misfit are about: by their columns, and of sets of items by the words of the reading.
misread_items <- function(readings, items) {
  of_sets <- readings$name[readings$item == ""]
  intersect(items, c(readings$item, readings$with, unlist(strsplit(of_sets, "[,:|]? +"))))
}

front_distinct <- function(scale, parts, words) {
  pairs <- parts$validity$tables$pairs
  mine <- pairs[pairs$factor == scale | pairs$with == scale, ]
  if (NROW(mine) == 0) {
    return(words$not_tested)
  }
  other <- ifelse(mine$factor == scale, mine$with, mine$factor)
  # As the headline of validity has it: by HTMT and by the correlation of the factors.
  is <- function(code) other[mine$verdict %in% code | mine$verdict_r %in% code]
  if (length(is("missed")) > 0) {
    return(fill_in(words$not_from, others = front_list(is("missed"), 3, words)))
  }
  open <- is(c("near", "untested"))
  if (length(open) > 0) fill_in(words$open_from, others = front_list(open, 3, words)) else words$from_all
}

# Steps that hold, and the items of this subscale that do not.
front_same <- function(scale, parts, words) {
  x <- parts$invariance
  items <- front_items(scale, parts)
  steps <- x$tables$steps
  failed <- steps$step[steps$verdict %in% "missed"]
  held <- steps$step[steps$verdict %in% "met"]
  own <- unique(intersect(x$tables$named$item, items))
  if (length(own) > 0) return(fill_in(words$not_same, items = front_list(own, 3, words)))
  if (length(failed) > 0) return(words$same_but)
  if (length(held) == nrow(steps)) words$same else words$open
}

# The verdict on a subscale by a written rule: not yet, where its key, its items or its structure must be looked at first; use
# it with its interval, where its reliability or fit stays open; use it. With what to do, worst first; two things at most.
front_todo <- function(scale, parts, words) {
  found <- front_faults(scale, parts)
  said <- lapply(names(found$first), function(name) {
    what <- found$first[[name]]
    fill_in(words[[paste0("todo_", name)]], items = front_list(what, 3, words), others = front_list(what, 2, words),
      pairs = front_list(what, 2, words))
  })
  unfair <- if (length(found$unfair) > 0) fill_in(words$todo_unfair, items = front_list(found$unfair, 3, words))
  if (length(said) > 0) {
    return(fill_in(words$todo_not_yet, first = paste(utils::head(c(unlist(said), unfair), 2), collapse = "; ")))
  }
  paste(c(if (found$unsure) words$todo_open else words$todo_use, unfair, if (found$open_fit && is.null(unfair)) words$todo_open_fit), collapse = "; ")
}

# list(first: what to do first, by name, each with items or subscales; unfair: items to look at before groups are compared; unsure: is the
# reliability or the fit open?; open_fit).
front_faults <- function(scale, parts) {
  items <- parts$reliability$tables$items
  items <- items[items$scale == scale, ]
  row <- parts$reliability$tables$scales
  row <- row[row$scale == scale, ]
  own <- front_items(scale, parts)
  keying <- parts$keying$tables$items
  turned <- keying$item[keying$scale == scale & keying$agrees %in% "no" & keying$item %in% items$item[items$looks_unreversed %in% TRUE]]
  against <- setdiff(items$item[items$verdict %in% "missed" & items$item_rest_r < 0], turned)
  fit <- front_fit_state(scale, parts)
  readings <- readings_apart(parts$confirmation$tables$readings)
  elsewhere <- intersect(readings$item[readings$reading == "move"], own)
  crossing <- setdiff(intersect(readings$item[readings$reading == "loading"], own), elsewhere)
  loadings <- parts$confirmation$tables$loadings
  low <- loadings$item[loadings$verdict %in% "missed" & loadings$factor %in% scale]
  # Where a structure could be fitted its loadings tell, which do not depend on how many options the answers have.
  fitted <- identical(parts$confirmation$about$status, "ok")
  weak <- setdiff(if (fitted) low else items$item[items$verdict %in% "missed"], c(turned, against, elsewhere, crossing))
  dif <- parts$dif$tables$items
  # Where items are named one after the other these stand for the others: beside one that differs its neighbours look different.
  named <- parts$invariance$tables$named
  # A residual variance moves no mean.
  unfair <- if (is.null(parts$invariance)) dif$item[dif$scale == scale & dif$class %in% "C" & dif$flagged %in% TRUE] else
    intersect(named$item[named$kind != "residual variance"], own)
  joins <- intersect(scale, parts$scores$parts$unlike$mixed)
  first <- list(turn = turned, against = against, joins = joins, unreliable = if (row$verdict %in% "missed") scale,
    merge = if (fit$code == "merge") fit$what, weak = weak, move = elsewhere, cross = crossing,
    beside = if (fit$code == "items" && length(c(elsewhere, crossing)) == 0) fit$what,
    sets = if (fit$code == "sets") scale, improper = if (fit$code == "improper") scale, misfit = if (fit$code == "whole") scale)
  list(first = Filter(length, first), unfair = unfair, unsure = row$verdict %in% c("near", "untested") || fit$code == "open", open_fit =
    fit$code == "open")
}

# What was decided on the way, from the survey's log and the structure.
front_decisions <- function(survey, analyses, words) {
  said <- words$front
  log <- survey$log[!survey$log$action %in% c("file", "found in the file", "read", "scored", "data"), ]
  of <- function(class) Filter(function(x) inherits(x, class), analyses)[1][[1]]
  exploration <- of("sw_exploration")
  confirmation <- of("sw_confirmation")
  left <- confirmation$parts$structure$left_out
  pairs <- confirmation$parts$structure$pairs
  c(
    if (!is.null(confirmation)) front_treatment(confirmation, of("sw_invariance"), words),
    paste0(sentence_start(log_in(log, words)$action), ": ", log_in(log, words)$detail, ".", recycle0 = TRUE),
    if (!is.null(exploration) && !is.null(confirmation$parts$structure$explored)) fill_in(
      if (ncol(exploration$parts$pattern) == 1) said$factor else said$factors, factors = ncol(exploration$parts$pattern), n = exploration$about$n),
    if (!is.null(confirmation) && is.null(confirmation$parts$structure$explored)) fill_in(said$declared, n = confirmation$about$n) else if (
      !is.null(confirmation) && !is.null(exploration)) fill_in(if (confirmation$about$n < described_people(survey)$people) said$held_back else
      said$not_held_back, n = confirmation$about$n),
    if (length(left) > 0) fill_in(said$left_out, items = front_list(left, 6, words)),
    if (length(pairs) > 0) fill_in(said$pairs, pairs = front_list(vapply(pairs, paste, "", collapse = "\u00a0\u2194\u00a0"), 4, words)),
    if (any(without <- grepl(no_reason, c(log$detail, unlist(confirmation$noted$words)), fixed = TRUE))) fill_in(said$without_reason,
      n = sum(without))
  )
}

# How the answers were treated: estimator and why, gaps; and where groups had to be compared in another way, that.
front_treatment <- function(confirmation, invariance, words) {
  estimator <- function(x) x$about$options$estimator
  one <- function(x, plain, reasoned) {
    reason <- x$noted$said[x$noted$code == "auto_estimator"]
    how <- message_of(paste0("fit_", estimator(x)))
    if (length(reason) == 0) message_of(plain, how = how) else message_of(reasoned, how = how, reason = reason[[1]]$parts$reason)
  }
  differs <- !is.null(invariance) && !identical(estimator(confirmation), estimator(invariance))
  said <- list(one(confirmation, "treated_as", "treated_since"), message_of("missing_answers", how = missing_message(confirmation)),
    if (differs) one(invariance, "groups_treated_as", "groups_treated_since"))
  say(said, words$language, "report")
}

# The three notes that change the reading most: rank 1 first, and those of what is furthest from the answers first. Items are named by the verdicts
# on the subscales: what a note says of others is for its own section.
front_know <- function(survey, analyses) {
  order <- c("sw_confirmation", "sw_reliability", "sw_validity", "sw_invariance", "sw_dif", "sw_keying", "sw_answering", "sw_scores",
    "sw_exploration",
    "sw_retention", "sw_screening")
  found <- do.call(rbind, lapply(analyses, function(x) {
    if (NROW(x$noted) == 0) NULL else data.frame(rank = x$noted$rank, of = match(class(x)[1], order, length(order) + 1L),
      said = I(said_in_notes(x$noted)), code = x$noted$code, items = I(lapply(x$noted$items, as.character)))
  }))
  if (is.null(found)) {
    return(list())
  }
  found <- found[found$rank < 3 & !found$code %in% c("auto_estimator", "auto_correlation", "left_out", "explored_cases", "step_not_usable"), ]
  named <- front_named(analyses)
  # What has been turned since is no news, nor what the verdicts do not name, nor a subscale that is no more.
  known <- names_of_items(survey)
  parts <- front_parts(analyses)
  gone <- setdiff(parts$keying$tables$items$scale, parts$reliability$tables$scales$scale)
  found <- found[vapply(found$items, function(own) all(intersect(own, known) %in% named) && !any(own %in% gone), TRUE), ]
  found <- found[order(found$rank, found$of), ]
  unlike <- unlike_message(parts$scores$parts$unlike)
  # One of each result.
  utils::head(c(if (!is.null(unlike)) list(unlike), unique(unclass(found$said)[!duplicated(found$of)])), 3)
}

names_of_items <- function(survey) if (is.null(survey)) character() else survey$codebook$items$item

# Items and subscales that the verdicts tell the reader to look at.
front_named <- function(analyses) {
  parts <- front_parts(analyses)
  scales <- parts$reliability$tables$scales$scale
  unlist(lapply(scales, function(scale) {
    found <- front_faults(scale, parts)
    what <- as.character(unlist(c(found$first, found$unfair), use.names = FALSE))
    c(what, unlist(strsplit(what, "\u00a0\u2194\u00a0", fixed = TRUE)))
  }))
}
