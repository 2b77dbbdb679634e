# What scores are fit for, and whether they are those of the structure that was confirmed.

# Verdicts on the reliability of each score: alpha by its interval (Feldt, 1965), a factor score's by its value. about: a row a score; people: how
# many each is worth.
score_verdicts <- function(about, people, level, limits) {
  rows <- lapply(seq_len(nrow(about)), function(i) {
    raw <- about$method[i] %in% raw_methods
    ends <- if (raw) core_feldt_interval(about$reliability[i], people[i], about$items[i], level) else c(NA_real_, NA_real_)
    reason <- if (is.na(about$reliability[i])) "no_reliability" else ""
    verdict_rows("score", about$score[i], judge(about$reliability[i], limits, if (raw) "alpha" else "score_reliability", ends[1], ends[2], reason))
  })
  ranked_verdicts(do.call(rbind, rows))
}

base_scores <- function(about) about[about$score == about$base, ]

# As how many people of equal weight, each drawn alone, those who have a score are worth: Kish (1965), with the intraclass correlation of the score.
equal_people <- function(survey, value) {
  seen <- which(!is.na(value))
  weight <- survey_weight(survey, seq_along(value) %in% seen)
  cluster <- survey_cluster(survey, seen)
  effect <- if (is.null(weight)) 1 else core_weight_effect(weight)
  if (!is.null(cluster)) {
    levels <- core_levels_of_sums(core_cluster_sums(matrix(value[seen]), cluster, mean(value[seen])), "score")
    if (!is.na(levels$icc)) effect <- effect * core_design_effect(levels$icc, levels$size)
  }
  max(2, length(seen) / max(effect, 1))
}

# What of the scores differs from the confirmed structure, as below, and against: items keyed against their loading. NULL where nothing does.
unlike_confirmed <- function(scores, confirmation) {
  if (is.null(confirmation) || !any(scores$parts$found$about$method %in% raw_methods)) {
    return(NULL)
  }
  structure <- confirmation$parts$structure
  scales <- scores$parts$found$scales
  # A general score joins all on purpose.
  general <- names(structure$factors)[vapply(structure$factors, setequal, TRUE, y = structure_items(structure))]
  scales <- scales[setdiff(names(scales), c("total", names(structure$higher), if (length(structure$factors) > 1) general))]
  out <- c(unlike_structure(scales, structure), list(against = against_loading(confirmation, unlist(scales))))
  if (sum(lengths(out)) > 0) out
}

# list(beyond: items that scores of these scales count and the structure does not have; without: items that it has and no score counts; mixed:
# scores that join factors).
unlike_structure <- function(scales, structure) {
  counted <- unique(unlist(scales, use.names = FALSE))
  confirmed <- structure_items(structure)
  # An item of two factors tells of neither alone.
  shared <- unlist(structure$factors)[duplicated(unlist(structure$factors))]
  alone <- lapply(structure$factors, setdiff, y = shared)
  joins <- vapply(scales, function(own) sum(vapply(alone, function(home) any(own %in% home), TRUE)) > 1, TRUE)
  list(beyond = setdiff(counted, confirmed), without = setdiff(confirmed, counted), mixed = names(scales)[joins])
}

# Items whose loading on their first factor is surely below zero while most of that factor's are not: as keyed they go against it.
against_loading <- function(confirmation, counted) {
  loadings <- confirmation$tables$loadings
  loadings <- loadings[loadings$item %in% counted & !duplicated(loadings$item), ]
  unlist(lapply(split(loadings, loadings$factor), function(own) {
    surely <- ifelse(own$conf.high < 0, -1, ifelse(own$conf.low > 0, 1, 0))
    most <- sign(sum(own$standardised))
    own$item[surely == -most & most != 0]
  }), use.names = FALSE)
}
