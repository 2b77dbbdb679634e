# Scores of people at two waves: change, and how well a score comes back.

# Each person's change from the first wave to each later one.
wave_change <- function(survey, found, level) {
  if (is.null(survey$wave) || is.null(survey$id)) {
    return(NULL)
  }
  error_of <- change_errors(survey, found)
  each_wave_pair(survey, found, function(person, wave, score, about, first, second) {
    from_both <- error_of(about, wave)
    known <- !is.na(from_both)
    se <- if (known) from_both else sqrt(2) * about$sem
    # Without error there is nothing to hold a change against.
    index <- if (isTRUE(se > 0)) (second - first) / se else rep(NA_real_, length(first))
    edge <- core_normal_edge(level)
    plain_table(
      person = person, score = score, wave = wave, first = first, second = second, change = second - first, se = se,
      se_from = if (known) "both waves" else "one wave", statistic = index,
      verdict = ifelse(is.na(index), NA, ifelse(index > edge, "up", ifelse(index < -edge, "down", "within error")))
    )
  })
}

# Test-retest coefficients of each score, the first wave against each later one, over people scored at both.
retest_table <- function(survey, found, level) {
  each_wave_pair(survey, found, function(person, wave, score, about, first, second) {
    both <- !is.na(first) & !is.na(second)
    x <- cbind(first, second)[both, , drop = FALSE]
    if (nrow(x) < 4 || any(apply(x, 2, stats::sd) == 0)) {
      return(NULL)
    }
    r <- stats::cor(x)[1, 2]
    ends <- rest_interval(r, nrow(x), level)
    of <- core_retest(x, level)
    plain_table(
      score = score, wave = wave, n = nrow(x), mean_change = mean(x[, 2] - x[, 1]), change_p = paired_p(x[, 2] - x[, 1]),
      correlation = r, r_low = ends$low, r_high = ends$high, consistency = of$consistency[1], consistency_low = of$consistency[2],
      consistency_high = of$consistency[3], agreement = of$agreement[1], agreement_low = of$agreement[2], agreement_high = of$agreement[3],
      sem_retest = of$sem, real_change = of$real_change
    )
  })
}

# The p of a mean change of 0; NA where everybody changes by the same.
paired_p <- function(change) {
  if (stats::sd(change) <= 1e-12 * max(abs(change), 1)) NA_real_ else stats::t.test(change)$p.value
}

# what(person, wave, score, about: its row, first and second: its values) for each later wave and each score; NULL without waves.
each_wave_pair <- function(survey, found, what) {
  if (is.null(survey$wave) || is.null(survey$id)) {
    return(NULL)
  }
  wave <- wave_of(survey)
  person <- case_names(survey)
  waves <- survey_waves(survey)
  if (length(waves) < 2) {
    return(NULL)
  }
  first <- wave == waves[1]
  parts <- lapply(waves[-1], function(w) {
    later <- which(wave == w & person %in% person[first])
    at <- which(first)[match(person[later], person[first])]
    lapply(which(found$about$score == found$about$base), function(i) {
      value <- as.vector(found$columns[[found$about$score[i]]])
      what(person[later], w, found$about$score[i], found$about[i, ], value[at], value[later])
    })
  })
  do.call(rbind, unlist(parts, recursive = FALSE))
}
