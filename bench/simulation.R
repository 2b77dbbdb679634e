# Does the chi-square reject a true number of factors as often as it should, and do the
# intervals of loadings cover? Draws samples from a known structure; takes a minute.
#
#   Rscript bench/simulation.R

library(scalewort)
core <- function(name) getFromNamespace(name, "scalewort")
loadings <- kronecker(diag(3), c(.8, .7, .6, .7))
factor_r <- matrix(.3, 3, 3) + diag(.7, 3)
population <- loadings %*% factor_r %*% t(loadings)
diag(population) <- 1
root <- chol(population)
replicates <- 1000

one_sample <- function(n) {
  r <- cor(matrix(rnorm(n * 12), n) %*% root)
  fit <- core("core_extract_ml")(r, 3L)
  turned <- core("core_rotate")(core("core_procrustes")(fit$loadings, loadings), "oblimin", starts = 1L)
  errors <- core("core_loading_errors")(n, turned$loadings, turned$correlations, fit$uniqueness, "ml", turned)
  matched <- core("core_match_factors")(loadings, turned$loadings)
  estimate <- sweep(turned$loadings[, matched$order], 2, matched$sign, "*")
  covered <- abs(estimate - loadings) < qnorm(.975) * errors$loadings[, matched$order]
  df <- core("core_exploration_df")(12, 3)
  multiplier <- n - 1 - (2 * 12 + 5) / 6 - 2 * 3 / 3
  c(
    rejected = pchisq(n * fit$discrepancy, df, lower.tail = FALSE) < .05,
    rejected_bartlett = pchisq(multiplier * fit$discrepancy, df, lower.tail = FALSE) < .05, covered = mean(covered)
  )
}

set.seed(1)
for (n in c(200, 500, 1000)) {
  found <- rowMeans(replicate(replicates, one_sample(n)))
  cat(sprintf(
    "n = %4d: chi-square with n rejects %.3f, with Bartlett's multiplier %.3f (.05 +- %.3f); intervals of loadings cover %.3f (.95)\n",
    n, found[["rejected"]], found[["rejected_bartlett"]], 2 * sqrt(.05 * .95 / replicates), found[["covered"]]
  ))
}
