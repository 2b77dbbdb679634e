# Least squares fits of a structure: of covariances (uls, gls) and of polychoric correlations.

# weight: p x p. With `elementwise` the sum of weight * (s - sigma)^2 over the lower triangle is
# made least, else tr((weight (s - sigma))^2) / 2. Returns what core_fit_structure() does.
core_fit_least_squares <- function(cells, s, factors, weight, elementwise, start = core_structure_start(cells, s, factors), tolerance = 1e-15,
                                   max_iterations = 1000L) {
  one_group(kernel_fit_least_squares(cells, ncol(s), factors, list(list(share = 1, s = s, weight = weight)), start,
    core_search(cells, tolerance, max_iterations), elementwise))
}

# Unweighted least squares (Jöreskog, 1977): weights of the elements.
uls_weight <- function(p) matrix(1, p, p) - diag(.5, p)

# Covariances of the uls estimates and a chi-square, both for normal answers, at the implied
# covariances (Browne, 1984): the residuals' quadratic form in what the parameters leave free.
core_uls_inference <- function(cells, theta, s, implied, factors, n, held = integer()) {
  half <- kernel_evaluate_least_squares(cells, ncol(s), factors, list(list(share = 1, s = s, weight = implied)), theta, FALSE)
  own <- kernel_evaluate_least_squares(cells, ncol(s), factors, list(list(share = 1, s = s, weight = uls_weight(ncol(s)))), theta, TRUE)
  bread <- core_inverse_information(own$expected_hessian, held)
  list(
    covariance = if (!is.null(bread)) 2 / n * bread %*% half$expected_hessian %*% bread,
    chi_square = core_residual_test(cells, theta, s, implied, factors, n, held)
  )
}

# Residual-based chi-square for normal answers (Browne, 1984, eq. 2.20b), of any consistent fit.
core_residual_test <- function(cells, theta, s, implied, factors, n, held = integer()) {
  at <- kernel_evaluate_structure(cells, ncol(s), factors, list(list(share = 1, covariance = s, mean = numeric(ncol(s)))), theta)
  inverse <- if (at$defined) core_inverse_information(at$expected_hessian, held)
  if (is.null(inverse)) {
    return(NA_real_)
  }
  apart <- solve(implied, s - implied)
  n / 2 * (sum(apart * t(apart)) - sum(at$gradient * (inverse %*% at$gradient)))
}

# Baselines for the same tests: unrelated items.
core_uls_baseline <- function(s, n) {
  r <- stats::cov2cor(s)
  list(chi_square = n * sum(r[lower.tri(r)]^2), df = ncol(s) * (ncol(s) - 1) / 2)
}

core_gls_baseline <- function(s, n) {
  p <- ncol(s)
  inverse <- solve(s)
  # The least of tr((I - D inv(s))^2) / 2 over diagonal D.
  size <- solve(inverse * t(inverse), diag(inverse))
  product <- diag(p) - size * inverse
  list(chi_square = n * sum(product * t(product)) / 2, df = p * (p - 1) / 2)
}

# What follows from the Jacobian j (m x q) of m moments, fitted with weights w (length m), when
# m times the moments' covariance matrix is gamma (Browne, 1984; Muthén, 1993): covariances of
# estimates, and what the adjusted test and score tests need.
core_weighted_inference <- function(j, w, gamma, n, held = integer()) {
  bread <- core_inverse_information(kernel_crossproduct(sqrt(w) * j), held)
  if (is.null(bread)) {
    return(NULL)
  }
  pulled <- w * kernel_product(gamma, w * j)
  meat <- kernel_product(t(j), pulled)
  twice <- bread %*% meat
  whole <- kernel_weighted_square(gamma, w)
  list(
    covariance = twice %*% bread / n, bread = bread, pulled = pulled, meat = meat, n = n, whole = whole,
    first = sum(w * diag(gamma)) - sum(diag(twice)),
    second = whole - 2 * sum(bread * kernel_crossproduct(pulled / sqrt(w))) + sum(twice * t(twice))
  )
}

# What kernels take of a fit with weights.
weighted_fit <- function(at, j, w, gamma) c(list(j = j, gamma = gamma, w = w), at[c("pulled", "bread", "meat")])

# Mean-and-variance adjusted chi-square that keeps its degrees of freedom (Asparouhov &
# Muthén, 2010): statistic * scale + shift, where U Gamma has traces `first` and `second`
# (of its square). list(chi_square, scale, shift), unknown where sampling error leaves `second` none.
core_adjusted_test <- function(statistic, df, first, second) {
  if (df == 0) {
    return(list(chi_square = 0, scale = 1, shift = 0))
  }
  scale <- if (isTRUE(second > 0)) sqrt(df / second) else NA_real_
  shift <- df - scale * first
  list(chi_square = max(scale * statistic + shift, 0), scale = scale, shift = shift)
}

# Score tests of candidates with derivatives jc (a column each), whose rows are the moments numbered in `place`, none where that is 0; from
# the residuals e of the moments: the index allows for gamma (generalised score test; Satorra, 1989).
core_weighted_scores <- function(at, j, w, gamma, jc, e, place = seq_len(nrow(jc))) {
  found <- kernel_weighted_scores(weighted_fit(at, j, w, gamma), jc, place, e)
  known <- found$curvature > 1e-8 * found$size
  list(
    index = ifelse(known, at$n * found$slope^2 / found$spread, NA), change = ifelse(known, found$slope / found$curvature, NA)
  )
}

# n times the covariance matrix of the covariances (lower triangle with diagonal, by column)
# of normal answers.
core_normal_gamma <- function(sigma) {
  at <- which(lower.tri(sigma, diag = TRUE), arr.ind = TRUE)
  i <- at[, 1]
  j <- at[, 2]
  sigma[i, i] * sigma[j, j] + sigma[i, j] * sigma[j, i]
}

# Adjusted difference of two nested fits of the same correlations, each list(jacobian, weights,
# gamma, inference); items in the same order in both.
core_adjusted_difference <- function(strict, free, difference, df) {
  u <- function(fit) {
    weighted <- fit$weights * fit$jacobian
    diag(fit$weights) - kernel_product(kernel_product(weighted, fit$inference$bread), t(weighted))
  }
  product <- kernel_product(u(strict) - u(free), free$gamma)
  core_adjusted_test(max(difference, 0), df, sum(diag(product)), sum(product * t(product)))$chi_square
}
