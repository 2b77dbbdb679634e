# Comparison data (Ruscio & Roche, 2012): does a population with one factor more, and the
# very distributions of these answers, give eigenvalues more like theirs?

# A population of `size` cases with `m` common factors whose columns are distributed like
# those of x and correlate nearly as they do: ranks of m-factor normal data are given the
# answers of x; the correlations aimed at are corrected until the result is as near as it
# gets. list(population, error).
core_comparison_population <- function(x, m, size = 10000, patience = 5, random) {
  p <- ncol(x)
  goal <- stats::cor(x)
  sorted <- apply(x, 2, function(column) sort(random$sample(column, size, replace = TRUE)))
  shared <- matrix(random$normal(size * m), size)
  alone <- matrix(random$normal(size * p), size)
  aim <- goal
  best <- list(error = Inf)
  tries <- 0
  step <- 1
  while (tries < patience) {
    found <- core_extract(clip_r(aim), m, "minres", max_iterations = 100L)
    made <- shared %*% t(found$loadings) + alone %*% diag(sqrt(found$uniqueness))
    for (j in seq_len(p)) made[order(made[, j]), j] <- sorted[, j]
    reached <- stats::cor(made)
    error <- sqrt(mean((goal - reached)[lower.tri(goal)]^2))
    if (error < best$error - 1e-5) {
      best <- list(population = made, error = error, aim = aim, gap = goal - reached)
      tries <- 0
      step <- 1
    } else {
      tries <- tries + 1
      step <- step / 2
    }
    aim <- best$aim + step * best$gap
    diag(aim) <- 1
  }
  best
}

clip_r <- function(r) {
  r[] <- pmin(pmax(r, -.999), .999)
  diag(r) <- 1
  r
}

# Number of factors: one more is kept as long as `samples` comparison samples with it
# come nearer to the eigenvalues of x (root mean square difference) by a one-sided rank
# test at `level`. list(factors, error, p), error and p per number tried.
core_comparison_data <- function(x, most, samples = 200, level = .30, size = 10000, random) {
  values <- core_eigenvalues(stats::cor(x))
  misses <- function(m) {
    population <- core_comparison_population(x, m, size, random = random)$population
    vapply(seq_len(samples), function(i) {
      drawn <- population[random$sample(nrow(population), nrow(x), replace = TRUE), ]
      sqrt(mean((core_eigenvalues(stats::cor(drawn)) - values)^2))
    }, 0)
  }
  before <- misses(1)
  error <- mean(before)
  p <- NA_real_
  factors <- 1
  while (factors < most) {
    now <- misses(factors + 1)
    p <- c(p, stats::wilcox.test(now, before, alternative = "less", exact = FALSE)$p.value)
    error <- c(error, mean(now))
    if (utils::tail(p, 1) >= level) break
    before <- now
    factors <- factors + 1
  }
  list(factors = factors, error = error, p = p)
}
