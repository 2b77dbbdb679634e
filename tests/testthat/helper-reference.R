# Slow, obvious twins of the kernels, and small data worked out by hand.

# Six persons, three items. Row means, item means and sums of squares are in
# test-core-alpha.R.
six_by_three <- matrix(
  c(
    1, 2, 1,
    2, 3, 3,
    3, 3, 4,
    4, 5, 4,
    5, 4, 5,
    3, 1, 1
  ), 6,
  byrow = TRUE, dimnames = list(NULL, c("a", "b", "c"))
)

core <- function(name) getFromNamespace(name, "scalewort")

# The answer of a result in English.
headline_of <- function(x) core("say")(core("headline")(x))
sentences_of <- function(x) core("say")(core("sentences")(x))

# Words in a long text, a page or a report: testthat's own expectation escapes all of it, which takes seconds.
expect_holds <- function(text, words) {
  testthat::expect_true(grepl(words, paste(as.character(text), collapse = "\n"), fixed = TRUE), label = paste0("\"", words, "\" is in the text"))
}

# Numeric gradient and Hessian by central differences.
differences <- function(f, x, step = 1e-5) {
  vapply(seq_along(x), function(i) {
    move <- replace(numeric(length(x)), i, step)
    (f(x + move) - f(x - move)) / (2 * step)
  }, f(x))
}

# ML discrepancy as it is defined.
ml_discrepancy <- function(s, sigma) {
  as.numeric(determinant(sigma)$modulus - determinant(s)$modulus) + sum(diag(s %*% solve(sigma))) - ncol(s)
}

# Answers of n people from loadings (items x factors), factor correlations and
# unit item variances.
simulate_answers <- function(n, loadings, factor_r = diag(ncol(loadings)), seed = 1) {
  set.seed(seed)
  scores <- matrix(rnorm(n * ncol(loadings)), n) %*% chol(factor_r)
  common <- loadings %*% factor_r %*% t(loadings)
  error <- matrix(rnorm(n * nrow(loadings)), n) * rep(sqrt(1 - diag(common)), each = n)
  out <- scores %*% t(loadings) + error
  colnames(out) <- rownames(loadings)
  out
}

# Two factors, three clear items each.
two_factor_loadings <- matrix(
  c(.8, .7, .6, 0, 0, 0, 0, 0, 0, .75, .65, .55), 6,
  dimnames = list(paste0("i", 1:6), c("one", "two"))
)
two_factor_r <- matrix(c(1, .4, .4, 1), 2)
two_factor_implied <- local({
  sigma <- two_factor_loadings %*% two_factor_r %*% t(two_factor_loadings)
  diag(sigma) <- 1
  sigma
})

# A small clean survey: n people, answers 1 to 5 from the two factors.
small_survey <- function(n = 300, seed = 2) {
  x <- simulate_answers(n, two_factor_loadings, two_factor_r, seed)
  answers <- as.data.frame(apply(x, 2, function(v) findInterval(v, c(-1.2, -.4, .4, 1.2)) + 1L))
  codebook <- data.frame(item = names(answers), scale = rep(c("one", "two"), each = 3), lowest = 1, highest = 5)
  sw_survey(answers, codebook)
}

# Runs the command line as its own process: list(status, out, err).
run_process <- function(..., folder = tempdir()) {
  script <- system.file("exec", "scalewort", package = "scalewort")
  out <- tempfile()
  err <- tempfile()
  status <- withr::with_dir(folder, system2(
    file.path(R.home("bin"), "Rscript"), shQuote(c(script, ...)), stdout = out, stderr = err
  ))
  list(status = status, out = readLines(out, warn = FALSE), err = paste(readLines(err, warn = FALSE), collapse = "\n"))
}

# The same within this session, without what it takes to begin a process.
run_cli <- function(..., folder = tempdir()) {
  paths <- c(tempfile(), tempfile())
  status <- local({
    withr::local_output_sink(paths[1])
    # Where tests run side by side, messages go elsewhere already, and must again.
    heard <- file(paths[2], "w")
    before <- sink.number(type = "message")
    withr::defer({
      sink(getConnection(before), type = "message")
      close(heard)
    })
    sink(heard, type = "message")
    withr::local_dir(folder)
    withr::with_preserve_seed(core("cli_main")(c(...)))
  })
  list(status = status, out = readLines(paths[1], warn = FALSE), err = paste(readLines(paths[2], warn = FALSE), collapse = "\n"))
}

# n cases whose covariances are exactly s.
exact_sample <- function(s, n) {
  z <- scale(matrix(rnorm(n * ncol(s)), n), scale = FALSE)
  z %*% solve(chol(cov(z))) %*% chol(s)
}

# Keyed answers of a survey as a data frame.
pick_keyed <- function(survey) as.data.frame(core("source_rows")(survey))
