# Random numbers that leave the session's own state as they found it.

with_seed <- function(seed, code) {
  old <- get0(".Random.seed", envir = globalenv(), inherits = FALSE)
  on.exit(
    if (is.null(old)) {
      if (exists(".Random.seed", globalenv(), inherits = FALSE)) rm(".Random.seed", envir = globalenv())
    } else {
      assign(".Random.seed", old, envir = globalenv())
    }
  )
  set.seed(seed, kind = "Mersenne-Twister", normal.kind = "Inversion", sample.kind = "Rejection")
  force(code)
}

check_seed <- function(seed) check_number(seed, "seed", 0, 2^31 - 1, whole = TRUE)

# What the core takes where it needs random numbers: n normal deviates; a chi-square for each df;
# a sample of values, or of 1, 2, ..., x.
random_draws <- list(normal = stats::rnorm, chi_square = function(df) stats::rchisq(length(df), df), sample = sample, uniform = stats::runif)
