# Full information maximum likelihood from incomplete answers.

# Patterns of x (cases x items; cases without any answer left out) as the kernel takes
# them: list(n, seen, mean, covariance) each, covariances with divisor n.
core_answer_patterns <- function(x) {
  x <- x[rowSums(!is.na(x)) > 0, , drop = FALSE]
  lapply(pattern_sums(x), function(g) list(n = g$n, seen = g$seen, mean = unname(g$mean), covariance = unname(g$products) / g$n))
}

# The fit of a structure: as core_fit_structure(), with `discrepancy` that of the
# likelihood from the saturated model's (whose moments are `em`), and `expected_hessian`
# the observed one. `log_likelihood` is whole, with its constant.
core_fit_incomplete <- function(cells, patterns, em, factors, start, tolerance = 1e-13, max_iterations = 500L, threads = 2L) {
  out <- kernel_fit_incomplete(cells, length(em$mean), factors, patterns, start, tolerance, max_iterations, threads)
  out$status <- status_word(out$status)
  n <- sum(vapply(patterns, `[[`, 0, "n"))
  cells_seen <- sum(vapply(patterns, function(g) g$n * length(g$seen), 0))
  saturated <- core_pattern_value(patterns, em$covariance)
  out$discrepancy <- out$value - saturated
  out$expected_hessian <- out$observed_hessian
  out$log_likelihood <- -(n * out$value + cells_seen * log(2 * pi)) / 2
  c(out, list(n = n, saturated = saturated))
}

# Minus twice the log-likelihood per case, without its constant, at a covariance matrix
# and the means that go with it.
core_pattern_value <- function(patterns, covariance) kernel_pattern_likelihood(patterns, covariance)$value

# Chi-square of unrelated items against the saturated model, each item by its own answers.
core_incomplete_baseline <- function(x, saturated) {
  x <- x[rowSums(!is.na(x)) > 0, , drop = FALSE]
  own <- apply(x, 2, function(column) {
    seen <- column[!is.na(column)]
    length(seen) * (log(mean((seen - mean(seen))^2)) + 1)
  })
  p <- ncol(x)
  list(chi_square = sum(own) - nrow(x) * saturated, df = p * (p - 1) / 2)
}
