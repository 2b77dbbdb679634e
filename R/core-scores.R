# Sums and means of answers with a rule for missing ones.

# x: n x k keyed answers. Mean of the answers given where at least `needed` of
# them are there, else NA: list(mean, sum, answered). The sum is k times the
# mean, so that an unanswered item counts as the person's own mean.
core_person_scores <- function(x, needed) {
  answered <- rowSums(!is.na(x))
  mean <- rowSums(x, na.rm = TRUE) / answered
  mean[answered < needed] <- NA_real_
  list(mean = mean, sum = ncol(x) * mean, answered = answered)
}

# Mean of the answers given, by weights, where at least `needed` of them are there.
core_person_scores_weighted <- function(x, weights, needed) {
  there <- !is.na(x)
  total <- as.vector(there %*% weights)
  value <- as.vector(ifelse(there, x, 0) %*% weights) / total
  value[rowSums(there) < needed | total == 0] <- NA_real_
  value
}
