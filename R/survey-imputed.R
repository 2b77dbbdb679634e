# Imputed answers beside a survey's own, and moments pooled over imputations.

# Are gaps of these items imputed?
has_imputations <- function(survey, items) !is.null(survey$imputed) && all(items %in% survey$imputed$items)

# Answers of the cases in use with the i-th imputation in the gaps.
imputed_rows <- function(survey, items, i, keyed = TRUE) {
  out <- source_rows(survey, items, keyed)
  keying <- keying_of(survey, items)
  used <- case_rows(survey)
  for (item in intersect(items, names(survey$imputed$cells))) {
    at <- match(survey$imputed$missing[[item]], used)
    value <- survey$imputed$cells[[item]][, i]
    j <- match(item, items)
    if (keyed && keying$sign[j] < 0) value <- keying$shift[j] - value
    fresh <- !is.na(at)
    out[at[fresh], j] <- value[fresh]
  }
  out
}

# Moments pooled over imputations as likelihood_moments() gives them: averages, and gamma from within and between (Rubin, 1987; Lee & Cai, 2012);
# pooled: list(m, within: the part of gamma within imputations).
imputed_moments <- function(survey, items, spread = FALSE) {
  weight <- survey_weight(survey, rep(TRUE, source_count(survey)$used))
  cluster <- survey_cluster(survey, rep(TRUE, source_count(survey)$used))
  each <- lapply(seq_len(survey$imputed$m), function(i) {
    moments_by_likelihood(imputed_rows(survey, items, i), length(items), weight, cluster, spread)
  })
  bad <- Filter(function(one) one$status != "ok", each)
  if (length(bad) > 0) {
    return(bad[[1]])
  }
  average <- function(part) Reduce(`+`, lapply(each, `[[`, part)) / length(each)
  out <- list(status = "ok", n = each[[1]]$n, mean = average("mean"), covariance = average("covariance"))
  if (spread) {
    lower <- vapply(each, function(one) one$covariance[lower.tri(one$covariance, diag = TRUE)], numeric(length(items) * (length(items) + 1) / 2))
    out$pooled <- list(m = length(each), within = average("gamma"))
    out$gamma <- out$pooled$within + between_imputations(lower * (out$n - 1) / out$n, out$n)
  }
  out
}

# n times what differs between imputations of a vector, a column each.
between_imputations <- function(values, n) (1 + 1 / ncol(values)) * n * stats::cov(t(values))

# Polychoric correlations and thresholds pooled over imputations, in the shape of source_pairs() with covariance.
imputed_pairs <- function(survey, items) {
  each <- lapply(seq_len(survey$imputed$m), function(i) {
    core_polychoric(named_columns(imputed_rows(survey, items, i)), complete = TRUE, covariance = TRUE)
  })
  bad <- Filter(function(one) one$status != "ok" || anyNA(one$r), each)
  if (length(bad) > 0) {
    return(bad[[1]])
  }
  out <- each[[1]]
  average <- function(part) Reduce(`+`, lapply(each, `[[`, part)) / length(each)
  theta <- vapply(each, function(one) c(unlist(one$thresholds, use.names = FALSE), one$r[lower.tri(one$r)]), numeric(nrow(out$covariance)))
  out$r <- average("r")
  out$pooled <- list(m = length(each), within = average("covariance"))
  out$covariance <- out$pooled$within + between_imputations(theta, out$cases)
  cuts <- seq_along(unlist(out$thresholds))
  out$thresholds <- utils::relist(rowMeans(theta)[cuts], out$thresholds)
  out$std_error[lower.tri(out$r)] <- sqrt(diag(out$covariance)[-cuts] / out$cases)
  out$std_error[upper.tri(out$r)] <- t(out$std_error)[upper.tri(out$r)]
  out
}
