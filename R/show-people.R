# Who counts in a series of analyses, in one sentence; "" where that is not one story.

people_counted <- function(analyses) {
  # Comparisons leave out people of no or too small a group, which is another story.
  analyses <- Filter(function(x) !inherits(x, c("sw_dif", "sw_invariance")), analyses)
  about <- lapply(analyses, `[[`, "about")
  whole <- people_in(analyses)
  gaps <- analyses[vapply(about, function(a) a$missing %in% c("fiml", "imputed"), TRUE)]
  left <- vapply(about, function(a) isTRUE(a$n_left_out > 0) && a$missing %in% c("listwise", "listwise within each subscale"), TRUE)
  if (length(gaps) > 0 && !any(left)) {
    by <- if (any(vapply(gaps, function(x) x$about$missing == "imputed", TRUE))) "by multiple imputation" else "by maximum likelihood"
    return(paste0("Everybody who answered anything counts, ", by, ": ", whole, " people from screening to scores", halves_words(analyses, whole),
      "."))
  }
  if (any(left)) paste0("Only people who answered every item count in some analyses; each table says how many.") else ""
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
