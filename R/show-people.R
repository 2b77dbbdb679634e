# Who counts in a series of analyses, as messages; NULL where that is not one story.
people_counted <- function(analyses) {
  # Comparisons leave out people of no or too small a group, which is another story.
  analyses <- Filter(function(x) !inherits(x, c("sw_dif", "sw_invariance")), analyses)
  about <- lapply(analyses, `[[`, "about")
  treated <- vapply(about, function(a) c(a$missing, "")[1], "")
  left <- vapply(about, function(a) isTRUE(a$n_left_out > 0), TRUE) & treated %in% c("listwise", "listwise within each subscale")
  if (any(left)) {
    return(message_of("only_complete_count"))
  }
  if (!any(treated %in% c("fiml", "imputed"))) {
    return(NULL)
  }
  whole <- people_in(analyses)
  by_pairs <- unique(vapply(analyses[startsWith(treated, "pairwise")], function(x) class(x)[1], ""))
  pairs <- lapply(intersect(by_pairs, sub("^by_pairs_", "", pair_codes)), function(class) message_of(paste0("by_pairs_", class)))
  list(message_of(if (any(treated == "imputed")) "everybody_imputed" else "everybody_by_likelihood",
    pairs = if (length(pairs) > 0) message_of("in_these_by_pairs", what = pairs), people = whole, halves = halves_message(analyses, whole)),
    scored_message(analyses, whole))
}

pair_codes <- c("by_pairs_sw_reliability", "by_pairs_sw_factorability", "by_pairs_sw_retention", "by_pairs_sw_exploration",
  "by_pairs_sw_confirmation", "by_pairs_sw_validity")

# Scores need enough answers, so that not everybody has one.
scored_message <- function(analyses, whole) {
  scores <- Filter(function(x) inherits(x, "sw_scores"), analyses)
  scales <- if (length(scores) > 0) scores[[1]]$tables$scales
  if (any(scales$without > 0)) message_of("scores_need_answers", n = scales$n, all = scales$n[1] + scales$without[1])
}

# How many people the analyses are about: not rows, where people stand in several.
people_in <- function(analyses) {
  several <- unlist(lapply(analyses, function(x) if (inherits(x, "sw_scores")) x$parts$people$people))
  if (length(several) > 0) several[1] else max(vapply(analyses, function(x) as.numeric(c(x$about$n, 0)[1]), 0), 0, na.rm = TRUE)
}

# The exploration rests on some of them, the confirmation on others.
halves_message <- function(analyses, whole) {
  of <- function(class) unlist(lapply(analyses, function(x) if (inherits(x, class)) x$about$n))[1]
  explored <- of("sw_exploration")
  confirmed <- of("sw_confirmation")
  if (!is.null(explored) && !is.null(confirmed) && explored < whole && explored + confirmed <= whole) message_of("rests_on_halves",
    explored = explored, confirmed = confirmed)
}
