# How far each person's answers lie from those of the others.

# p of each person's distance from the centre of those who do not answer in straight lines and, found from these, are not far out
# themselves.
distance_p <- function(survey, items, straight, robust) {
  items <- items[(answer_centre(survey, items)$sd > 0) %in% TRUE]
  found <- distances_from(survey, items, !straight, robust)
  far <- stats::qchisq(.95, 0:length(items))[found$df + 1]
  near <- !straight & !(found$distance > far) %in% TRUE
  if (!robust && !all(is.na(found$distance)) && mean(near) >= .5) found <- distances_from(survey, items, near, robust)
  core_chi_square_p(found$distance, found$df)
}

# Of everybody, from the centre of those who count: list(distance, df), unknown where that cannot be told.
distances_from <- function(survey, items, counted, robust) {
  unknown <- list(distance = rep(NA_real_, length(counted)), df = rep(length(items), length(counted)))
  centre <- centre_of(take_cases(survey, which(counted)), items, robust)
  if (!identical(centre$status, "ok") || core_definiteness(centre$covariance) < 1e-10) {
    return(unknown)
  }
  parts <- source_by_rows(survey, items, function(keyed, ...) core_distances(keyed, centre$mean, ridged(centre$covariance)))
  list(distance = unlist(lapply(parts, `[[`, "distance")), df = unlist(lapply(parts, `[[`, "df")))
}

# Mean and spread (divisor n) of the keyed answers: by likelihood, or robust ones of complete cases. Both need more complete cases than items.
centre_of <- function(survey, items, robust) {
  if (length(items) < 2) {
    return(NULL)
  }
  counts <- source_count(survey, items)
  if (!robust && all(counts$missing %in% 0) && counts$used > length(items) + 1) {
    found <- source_moments(survey, items)
    found$covariance <- found$covariance * (found$n - 1) / found$n
    return(found)
  }
  patterns <- source_patterns(survey, items)
  complete <- sum(vapply(patterns, function(one) if (length(one$seen) == length(items)) one$n else 0, 0))
  if (complete <= length(items) + 1) {
    return(NULL)
  }
  if (robust) robust_moments(source_complete_rows(survey, items)) else core_em_patterns(patterns, items)
}

robust_moments <- function(complete) {
  if (!requireNamespace("MASS", quietly = TRUE)) {
    stop_input(message_of("e_robust_distances_need"), hint = message_of("e_comes_r_install"))
  }
  found <- with_seed(1, tryCatch(MASS::cov.mcd(complete), error = function(e) NULL))
  if (is.null(found)) list(status = "not_converged") else list(status = "ok", mean = found$center, covariance = found$cov)
}
