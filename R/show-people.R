# Who counts in a series of analyses, in one sentence; "" where that is not one story.

people_counted <- function(analyses) {
  # Comparisons leave out people of no or too small a group, which is another story.
  analyses <- Filter(function(x) !inherits(x, c("sw_dif", "sw_invariance")), analyses)
  about <- lapply(analyses, `[[`, "about")
  treated <- vapply(about, function(a) c(a$missing, "")[1], "")
  left <- vapply(about, function(a) isTRUE(a$n_left_out > 0), TRUE) & treated %in% c("listwise", "listwise within each subscale")
  if (any(left)) {
    return("Only people who answered every item count in some analyses; each table says how many.")
  }
  if (!any(treated %in% c("fiml", "imputed"))) {
    return("")
  }
  whole <- people_in(analyses)
  by_pairs <- analyses[startsWith(treated, "pairwise") & vapply(analyses, inherits, TRUE, what = names(by_pairs_words))]
  paste0("Everybody who answered anything counts, ", if (any(treated == "imputed")) "by multiple imputation" else "by maximum likelihood",
    if (length(by_pairs) > 0) paste0("; in ", and_list(unique(vapply(by_pairs, function(x) by_pairs_words[[class(x)[1]]], ""))),
      " each correlation rests on those who answered both items"),
    ": ", whole, " people", halves_words(analyses, whole), ".", scored_words(analyses, whole))
}

by_pairs_words <- c(sw_reliability = "reliability", sw_factorability = "factorability", sw_retention = "the number of factors",
  sw_exploration = "the exploration", sw_confirmation = "the confirmation", sw_validity = "validity")

# Scores need enough answers, so that not everybody has one.
scored_words <- function(analyses, whole) {
  scores <- Filter(function(x) inherits(x, "sw_scores"), analyses)
  scales <- if (length(scores) > 0) scores[[1]]$tables$scales
  if (is.null(scales) || !any(scales$without > 0)) {
    return("")
  }
  few <- min(scales$n)
  most <- max(scales$n)
  paste0(" Scores need enough answers: ", if (few == most) few else paste(few, "to", most), " of ", scales$n[1] + scales$without[1], " have one.")
}

# How many people the analyses are about: not rows, where people stand in several.
people_in <- function(analyses) {
  several <- unlist(lapply(analyses, function(x) if (inherits(x, "sw_scores")) x$parts$people$people))
  if (length(several) > 0) several[1] else max(vapply(analyses, function(x) as.numeric(c(x$about$n, 0)[1]), 0), 0, na.rm = TRUE)
}

# "; the exploration rests on 320 of them, the confirmation on 320 others"
halves_words <- function(analyses, whole) {
  of <- function(class) unlist(lapply(analyses, function(x) if (inherits(x, class)) x$about$n))[1]
  explored <- of("sw_exploration")
  confirmed <- of("sw_confirmation")
  if (is.null(explored) || is.null(confirmed) || explored >= whole || explored + confirmed > whole) {
    return("")
  }
  paste0("; the exploration rests on ", explored, " of them, the confirmation on ", confirmed, " others")
}
