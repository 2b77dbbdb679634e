# Factor scores as columns of the data, with the error of each.

factor_score_columns <- function(survey, from, method) {
  if (length(method) == 0) stop_input("`from` is for factor scores: name one of their methods, too.",
    hint = "\"regression\", \"bartlett\", \"tenberge\" or \"expected\".")
  check_class(from, c("sw_exploration", "sw_confirmation"), "from", "`sw_explore()` or `sw_confirm()`")
  if (from$about$status != "ok") stop_numeric("This solution may not be believed: there are no scores from it.", faults = from$notes[1])
  parts <- lapply(method, function(one) if (one == "expected") expected_columns(survey, from) else weighted_columns(survey, from, one))
  list(
    columns = do.call(c, lapply(parts, `[[`, "columns")), about = do.call(rbind, lapply(parts, `[[`, "about")),
    scales = list(), missing = if (all(method == "expected")) "everyone who answered anything has an expected score" else
      "factor scores need every item answered", notes = unlist(lapply(parts, `[[`, "notes"))
  )
}

# Pattern, correlations and item correlations of a solution, with means and sds of its items.
score_solution <- function(from) {
  if (inherits(from, "sw_confirmation")) {
    place <- standard_places(list(matrices = from$parts$matrices, implied = from$parts$implied), from$parts$structure)
    return(c(place, list(r = stats::cov2cor(from$parts$implied), items = rownames(from$parts$observed))))
  }
  list(pattern = from$parts$pattern, correlations = from$parts$factor_correlations, r = from$parts$correlations, items = rownames(from$parts$pattern))
}

weighted_columns <- function(survey, from, method) {
  solution <- score_solution(from)
  weights <- from$parts$weights[[method]]
  if (is.null(weights)) stop_numeric(paste0("Scores by ", method,
    " do not exist here: some item has no unique variance, or factors cannot be told apart."))
  check_items_known(solution$items, names(survey$answers))
  answers <- keyed_answers(survey, rownames(weights))
  centre <- score_centre(from, answers)
  z <- sweep(sweep(answers, 2, centre$mean), 2, centre$sd, "/")
  scores <- z %*% weights
  found <- core_score_error(solution$r, solution$pattern, solution$correlations, weights)
  name_score_columns(scores, colnames(weights), method, weights, found, apply(weights != 0, 2, sum))
}

# Means and standard deviations that answers are standardised by: those of the people the
# solution was found on, where they are known.
score_centre <- function(from, answers) {
  source <- if (inherits(from, "sw_confirmation")) from$parts$source else from$parts$source$x
  own <- if (inherits(source, "sw_survey")) keyed_answers(source, colnames(answers)) else answers
  own <- own[stats::complete.cases(own), , drop = FALSE]
  list(mean = colMeans(own), sd = apply(own, 2, stats::sd))
}

name_score_columns <- function(scores, factors, method, made_of, found, items, sem = found$error) {
  labels <- paste(factors, method, sep = "_")
  list(
    columns = stats::setNames(lapply(seq_along(factors), function(k) structure(scores[, k], made_of = rownames(made_of))), labels),
    about = data.frame(
      score = labels, base = labels, scale = factors, method = method, form = NA_character_, items = unname(items), needed = if (method == "expected")
        1 else nrow(made_of), reliability = unname(found$reliability), sem = unname(sem),
      recipe = paste0(c(regression = "regression", bartlett = "Bartlett", tenberge = "ten Berge", expected = "expected")[[method]],
        " score of factor ", factors, " from ", nrow(made_of), " items")
    )
  )
}

expected_columns <- function(survey, from) {
  if (!inherits(from, "sw_confirmation") || !startsWith(from$about$options$estimator, "ordinal")) {
    stop_input("Expected scores come from a confirmation with `estimator = \"ordinal\"`.")
  }
  solution <- score_solution(from)
  cuts <- split(from$tables$thresholds$estimate, factor(from$tables$thresholds$item, solution$items))
  values <- keyed_answers(from$parts$source, solution$items)
  answers <- keyed_answers(survey, solution$items)
  codes <- vapply(solution$items, function(item) {
    known <- sort(unique(values[, item]))
    out <- match(answers[, item], known)
    strange <- !is.na(answers[, item]) & is.na(out)
    if (any(strange)) stop_input(paste0("Some answers to ", item, " were not among those the confirmation was made from."))
    as.numeric(out)
  }, numeric(nrow(answers)))
  codes <- matrix(codes, nrow(answers))
  points <- core_score_nodes(solution$correlations)
  found <- core_expected_scores(codes, cuts, solution$pattern, solution$correlations, points$nodes, points$weights)
  complete <- colMeans(found$error^2, na.rm = TRUE)
  out <- name_score_columns(found$score, colnames(solution$pattern), "expected", matrix(0, length(solution$items), 1,
    dimnames = list(solution$items)), list(reliability = 1 - complete), colSums(solution$pattern != 0), sqrt(complete))
  errors <- stats::setNames(lapply(seq_len(ncol(found$error)), function(k) structure(found$error[, k], made_of = solution$items)),
    paste0(out$about$score, "_error"))
  out$columns <- c(out$columns, errors)
  pairs <- length(from$parts$structure$pairs)
  out$notes <- c(
    "Expected scores are drawn towards the mean, more so the fewer items were answered; each has an error of its own, in `_error`.",
    if (pairs > 0) "Residual pairs of the structure are taken as unrelated in expected scores."
  )
  out
}
