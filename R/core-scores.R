# Sums and means of answers with a rule for missing ones.

# x: n x k keyed answers. Mean of the answers given where at least `needed` of
# them are there, else NA: list(mean, sum, answered). The sum is k times the
# mean, so that an unanswered item counts as the person's own mean. answered: how many
# answers each person gave, where x has been filled.
core_person_scores <- function(x, needed, answered = rowSums(!is.na(x))) {
  mean <- rowMeans(x, na.rm = TRUE)
  mean[answered < needed] <- NA_real_
  list(mean = mean, sum = ncol(x) * mean, answered = answered)
}

# The same answers with gaps filled by the person's own share of the way from the lowest to the
# highest answer, for items of different ranges.
core_fill_by_share <- function(x, lowest, highest) {
  width <- highest - lowest
  share <- rowMeans(sweep(sweep(x, 2, lowest), 2, width, "/"), na.rm = TRUE)
  gaps <- which(is.na(x), arr.ind = TRUE)
  x[gaps] <- lowest[gaps[, 2]] + share[gaps[, 1]] * width[gaps[, 2]]
  x
}

# Mean of the answers given, by weights, where at least `needed` of them are there.
core_person_scores_weighted <- function(x, weights, needed, answered = rowSums(!is.na(x))) {
  there <- !is.na(x)
  total <- as.vector(there %*% weights)
  value <- as.vector(ifelse(there, x, 0) %*% weights) / total
  value[answered < needed | total == 0] <- NA_real_
  value
}
