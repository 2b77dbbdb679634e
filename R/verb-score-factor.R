# Factor scores as columns of the data, with the error of each.

factor_score_columns <- function(survey, from, method) {
  if (length(method) == 0) stop_input(message_of("e_from_factor_scores"), hint = message_of("e_regression_bartlett_tenberge"))
  check_class(from, c("sw_exploration", "sw_confirmation"), "from", "`sw_explore()` or `sw_confirm()`")
  if (from$about$status != "ok") stop_numeric(message_of("e_solution_may_not"), faults = from$notes[1])
  check_items_known(score_solution(from)$items, analysed_items(survey))
  own <- if (!is.null(from$parts$keying)) keyed_as(survey, from$parts$keying)
  if (!is.null(own)) survey <- own$survey
  parts <- lapply(method, function(one) if (one == "expected") expected_columns(survey, from) else weighted_columns(survey, from, one))
  gaps <- max(0, unlist(lapply(parts, `[[`, "gaps")))
  list(
    columns = do.call(c, lapply(parts, `[[`, "columns")), about = do.call(rbind, lapply(parts, `[[`, "about")),
    scales = list(), missing = list(message_of("missing_factor_scores")),
    notes = c(keyed_by_fit_note(own$turned), if (gaps > 0) note("incomplete", message_of("incomplete_people", people = gaps), people = gaps,
      rank = 3L),
      unlist(lapply(parts, `[[`, "notes"), recursive = FALSE))
  )
}

keyed_by_fit_note <- function(turned) {
  if (length(turned) > 0) note("keyed_by_fit", message_of("keyed_by_fit", items = turned), turned, rank = 1L)
}

# Pattern, correlations, uniqueness and item correlations of a solution.
score_solution <- function(from) {
  if (inherits(from, "sw_confirmation")) {
    place <- standard_places(list(matrices = from$parts$matrices, implied = from$parts$implied), from$parts$structure)
    return(c(place, list(r = stats::cov2cor(from$parts$implied), items = rownames(from$parts$observed))))
  }
  list(pattern = from$parts$pattern, correlations = from$parts$factor_correlations, r = from$parts$correlations, items = rownames(from$parts$pattern),
    uniqueness = from$parts$uniqueness)
}

weighted_columns <- function(survey, from, method) {
  solution <- score_solution(from)
  weights <- from$parts$weights[[method]]
  if (is.null(weights)) stop_numeric(message_of("e_scores_do_not", method = method))
  found <- solution_scores(survey, from, solution, method)
  whole <- core_score_error(solution$r, solution$pattern, solution$correlations, weights)
  out <- name_score_columns(found$score, colnames(weights), method, weights, whole, apply(weights != 0, 2, sum))
  if (found$gaps > 0) out$columns <- c(out$columns, error_columns(found$error, out$about$score, solution$items))
  low <- out$about$scale[which(!meets(out$about$reliability, from$limits, "score_reliability"))]
  c(out, list(gaps = found$gaps, notes = if (length(low) > 0) note("low_reliability", message_of("low_factor_scores", scores = low,
    bound = limit(from$limits, "score_reliability")$bound), low, rank = 1L)))
}

# Scores by a solution of everyone who answered anything: list(score, error, gaps: how many left
# items out and have a score).
solution_scores <- function(survey, from, solution, method) {
  centre <- score_centre(from, survey, solution$items)
  parts <- source_by_rows(survey, solution$items, function(answers, ...) {
    z <- sweep(sweep(answers, 2, centre$mean), 2, centre$sd, "/")
    out <- core_factor_scores(z, solution$r, solution$pattern, solution$correlations, solution$uniqueness, method)
    c(out, list(gaps = sum(rowSums(is.na(answers)) > 0 & !is.na(out$score[, 1]))))
  })
  list(score = rows_joined(parts, "score"), error = rows_joined(parts, "error"), gaps = sum(vapply(parts, `[[`, 0L, "gaps")))
}

# Rows of parts below each other.
rows_joined <- function(parts, what) do.call(rbind, lapply(parts, `[[`, what))

error_columns <- function(error, scores, items) {
  stats::setNames(lapply(seq_len(ncol(error)), function(k) structure(error[, k], made_of = items)), paste0(scores, "_error"))
}

# Means and standard deviations that answers are standardised by: the fit's own (divisor n; means
# as restricted, where they are), or an exploration's (divisor n - 1); for ordered answers and
# where a published matrix says nothing of them, those of the answers themselves.
score_centre <- function(from, survey, items) {
  if (inherits(from, "sw_confirmation") && !startsWith(from$about$options$estimator, "ordinal") && !anyNA(from$parts$mean)) {
    return(list(mean = from$parts$mean, sd = sqrt(diag(from$parts$implied))))
  }
  if (inherits(from, "sw_exploration") && from$parts$moments$correlation == "pearson" && !anyNA(from$parts$moments$mean)) {
    return(list(mean = from$parts$moments$mean[items], sd = sqrt(diag(from$parts$moments$covariance))[items]))
  }
  if (!is.null(from$parts$centre)) {
    return(from$parts$centre)
  }
  answer_centre(survey, items)
}

name_score_columns <- function(scores, factors, method, made_of, found, items, sem = found$error) {
  labels <- paste(factors, method, sep = "_")
  list(
    columns = stats::setNames(lapply(seq_along(factors), function(k) structure(scores[, k], made_of = rownames(made_of))), labels),
    about = data.frame(
      score = labels, base = labels, scale = factors, method = method, form = NA_character_, items = unname(items), needed = if (method == "expected")
        1 else nrow(made_of), reliability = unname(found$reliability), sem = unname(sem),
      least = -Inf, most = Inf, step = 0,
      recipe = paste0(c(regression = "regression", bartlett = "Bartlett", tenberge = "ten Berge", expected = "expected")[[method]],
        " score of factor ", factors, " from ", nrow(made_of), " items")
    )
  )
}

expected_columns <- function(survey, from) {
  if (!inherits(from, "sw_confirmation") || !startsWith(from$about$options$estimator, "ordinal")) {
    stop_input(message_of("e_expected_scores_come"))
  }
  solution <- score_solution(from)
  cuts <- split(from$tables$thresholds$estimate, factor(from$tables$thresholds$item, solution$items))
  parts <- source_by_rows(survey, solution$items, function(answers, ...) {
    core_expected_scores(answer_codes(answers, from$parts$values), cuts, solution$pattern, solution$correlations)
  })
  found <- list(score = rows_joined(parts, "score"), error = rows_joined(parts, "error"), precision = max(vapply(parts, `[[`, 0, "precision")))
  complete <- colMeans(found$error^2, na.rm = TRUE)
  out <- name_score_columns(found$score, colnames(solution$pattern), "expected", matrix(0, length(solution$items), 1,
    dimnames = list(solution$items)), list(reliability = 1 - complete), colSums(solution$pattern != 0), sqrt(complete))
  out$columns <- c(out$columns, error_columns(found$error, out$about$score, solution$items))
  pairs <- length(from$parts$structure$pairs)
  out$notes <- c(
    note("drawn_to_mean", message_of("drawn_to_mean"), rank = 3L),
    if (found$precision > .001) note("precision", message_of("expected_precision", within = signif(found$precision, 1)), within = found$precision,
      rank = 3L),
    if (pairs > 0) note("pairs_unrelated", message_of("pairs_unrelated"), rank = 3L)
  )
  out
}

# Answers by their place among those a confirmation was made from.
answer_codes <- function(answers, values) {
  codes <- vapply(seq_len(ncol(answers)), function(j) {
    out <- match(answers[, j], values[[j]])
    if (any(!is.na(answers[, j]) & is.na(out))) {
      stop_input(message_of("e_some_answers_were", answers = colnames(answers)[j]))
    }
    as.numeric(out)
  }, numeric(nrow(answers)))
  matrix(codes, nrow(answers))
}
