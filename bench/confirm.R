# Confirmation: 50 items on five factors by several estimators, resampled, and how the cost
# grows with items and factors. Sourced by bench/run.R, which makes sample_1000, unit, ratio
# and report.

moments <- sw_moments(as.data.frame(sample_1000))
structure <- do.call(sw_structure, split(colnames(sample_1000), rep(paste0("f", 1:5), each = 10)))
book_50 <- data.frame(item = colnames(sample_1000), scale = rep(paste0("f", 1:5), each = 10), lowest = -99, highest = 99)
confirmed <- function(data, ...) {
  survey <- sw_survey(as.data.frame(data), book_50)
  function() sw_confirm(survey, structure, ...)
}
against <- "one eigen() of 50 x 50"
report("confirmation of 50 items on five factors, everything", against, ratio(function() sw_confirm(moments, structure), unit, times = c(5, 50)), 45)
five_points <- sapply(as.data.frame(sample_1000), function(v) findInterval(v, c(-1.2, -.4, .4, 1.2)) + 1L)
report("the same, ordinal, from raw answers", against, ratio(confirmed(five_points, estimator = "ordinal"), unit, rounds = 3, times = c(1, 50)), 700)
gaps <- sample_1000
set.seed(3)
gaps[matrix(runif(length(gaps)) < .10, nrow(gaps))] <- NA
report("the same, fiml, 10% missing", against, ratio(confirmed(gaps), unit, rounds = 3, times = c(1, 50)), 1800)
fitted_50 <- confirmed(sample_1000)()
report("1,000 resamples of its estimates", against, ratio(function() sw_resample(fitted_50, replicates = 1000), unit, rounds = 3,
  times = c(1, 50)), 8000)

# Items and factors doubled, and doubled again.
for (size in list(c(25, 5), c(50, 5), c(100, 10), c(200, 10))) {
  per <- size[1] / size[2]
  population <- kronecker(diag(size[2]), matrix(.7, per, 1))
  s <- population %*% (matrix(.3, size[2], size[2]) + diag(.7, size[2])) %*% t(population)
  diag(s) <- 1
  dimnames(s) <- rep(list(paste0("i", seq_len(size[1]))), 2)
  set.seed(4)
  published <- sw_moments(cov(matrix(rnorm(1500 * size[1]), 1500) %*% chol(s)) |> `dimnames<-`(dimnames(s)), n = 1500)
  wide <- do.call(sw_structure, split(colnames(s), rep(paste0("f", seq_len(size[2])), each = per)))
  report(sprintf("confirmation of %d items on %d factors, everything", size[1], size[2]), against,
    ratio(function() sw_confirm(published, wide), unit, rounds = 3, times = c(if (size[1] > 100) 1 else 3, 50)),
    if (size[1] == 200) 3000 else NA)
}

# Invariance over two groups, the heterotrait-monotrait ratio, composites.
set.seed(5)
population_30 <- kronecker(diag(5), matrix(.7, 6, 1))
s_30 <- population_30 %*% factor_r %*% t(population_30)
diag(s_30) <- 1
x_30 <- matrix(rnorm(1000 * 30), 1000) %*% chol(s_30)
colnames(x_30) <- paste0("i", 1:30)
survey_30 <- sw_survey(
  cbind(as.data.frame(x_30), place = rep(c("a", "b"), 500)),
  data.frame(item = colnames(x_30), scale = rep(paste0("f", 1:5), each = 6), lowest = -99, highest = 99), group = "place"
)
report("four steps of invariance, two groups, 30 items on five factors", against,
  ratio(function() sw_invariance(survey_30, by = "place"), unit, rounds = 3, times = c(2, 50)), 250)
blocks_50 <- split(1:50, rep(1:5, each = 10))
report("HTMT of five factors of ten items, 2,000 resamples", against,
  ratio(function() core("core_resample_htmt")(sample_1000, blocks_50, 2000, 1), unit, rounds = 3, times = c(1, 50)), 1000)
survey_50 <- sw_survey(as.data.frame(sample_1000), book_50)
report("composites of the same, 1,000 resamples", against,
  ratio(function() sw_composites(survey_50, structure, replicates = 1000), unit, rounds = 3, times = c(1, 50)), 600)

# Gaps: about 300 patterns of 30 items, six of which are left out together or alone.
thirty <- sample_1000[, 1:30]
patterns_300 <- unique(matrix(runif(3000 * 30) < .04, 3000))[1:300, ]
gappy_30 <- replace(thirty, patterns_300[sample(300, 1000, TRUE), ], NA)
structure_30 <- do.call(sw_structure, stats::setNames(split(colnames(thirty), rep(1:3, each = 10)), c("a", "b", "c")))
survey_30 <- sw_survey(as.data.frame(gappy_30), data.frame(item = colnames(thirty), lowest = -99, highest = 99))
report(
  "saturated likelihood and its covariance matrix, 30 items, 300 patterns", "FIML fit of three factors to the same",
  ratio(function() core("moments_by_likelihood")(gappy_30, 30, spread = TRUE), function() sw_confirm(survey_30, structure_30, estimator = "ml"),
    rounds = 3), 3
)
five_point <- gappy_30
five_point[] <- findInterval(gappy_30, c(-1.5, -.5, .5, 1.5)) + 1
survey_five <- sw_survey(as.data.frame(five_point), data.frame(item = colnames(thirty), scale = "s", lowest = 1, highest = 5))
# The bound is about fifteen seconds where one eigen() takes .8 ms.
if (requireNamespace("mice", quietly = TRUE)) {
  report("20 imputations of 1,000 x 30 five-point answers", against, ratio(function() sw_impute(survey_five, seed = 1), unit, rounds = 1,
    times = c(1, 200)), 19000)
}
