# Standard errors of rotated loadings and factor correlations, through the constraints
# that the rotation puts on them (Archer & Jennrich, 1973; Jennrich, 1973).

# The solution minimises a discrepancy under constraints c(theta) = 0, theta being
# loadings, factor correlations and unique variances; so a small change dR of the
# correlations moves it by
#   d theta_a = tr(G_a dR),  G_a = sum_b B_ab V (d Sigma / d theta_b) V,
# B the corner of the inverse of [[H, C'], [C, 0]], H_ab = tr(V dSigma_a V dSigma_b),
# V = Sigma^-1 (ml, gls) or I (minres, paf), C the Jacobian of c.
#
# list(status, loadings: p x m standard errors, correlations: m x m). `n` cases; for normal
# answers. `pairs`: NULL, or the covariance matrix of the correlations (lower triangle by
# column) to be used in place of that of normal answers. status "no_formula" for promax,
# components and alpha factors.
core_loading_errors <- function(n, pattern, correlations, uniqueness, extraction, rotated, pairs = NULL) {
  no_formula <- extraction %in% c("pca", "alpha") || isTRUE(rotated$stepwise)
  if (no_formula || any(uniqueness <= .005 * (1 + 1e-6))) {
    return(list(status = if (no_formula) "no_formula" else "at_bound"))
  }
  p <- nrow(pattern)
  m <- ncol(pattern)
  oblique <- isTRUE(rotated$criterion$oblique) && m > 1
  theta <- c(pattern, if (oblique) correlations[lower.tri(correlations)], uniqueness)
  sigma <- pattern %*% correlations %*% t(pattern) + diag(uniqueness, p)
  v <- if (extraction %in% c("ml", "gls")) chol2inv(chol(sigma)) else diag(p)
  slopes <- implied_slopes(pattern, correlations, oblique)
  weighted <- lapply(slopes, function(d) v %*% d %*% v)
  flat <- vapply(slopes, as.vector, numeric(p * p))
  h <- crossprod(vapply(weighted, as.vector, numeric(p * p)), flat)
  jacobian <- constraint_jacobian(theta, p, m, oblique, rotated, extraction)
  q <- length(theta)
  bordered <- rbind(cbind(h, t(jacobian)), cbind(jacobian, matrix(0, nrow(jacobian), nrow(jacobian))))
  corner <- tryCatch(solve(bordered), error = function(e) NULL)
  if (is.null(corner)) {
    return(list(status = "not_identified"))
  }
  wanted <- seq_len(q - p)
  g <- vapply(weighted, as.vector, numeric(p * p)) %*% t(corner[wanted, seq_len(q), drop = FALSE])
  variance <- if (is.null(pairs)) normal_variance(g, sigma) / n else pair_variance(g, pairs, p)
  error <- sqrt(pmax(variance, 0))
  of_factors <- matrix(0, m, m)
  if (oblique) {
    of_factors[lower.tri(of_factors)] <- error[-seq_len(p * m)]
    of_factors <- of_factors + t(of_factors)
  }
  list(status = "ok", loadings = matrix(error[seq_len(p * m)], p, m, dimnames = dimnames(pattern)), correlations = of_factors)
}

# dSigma / d theta, a symmetric matrix per parameter.
implied_slopes <- function(pattern, correlations, oblique) {
  p <- nrow(pattern)
  m <- ncol(pattern)
  structure <- pattern %*% correlations
  unit <- function(i) replace(numeric(p), i, 1)
  sym <- function(a, b) outer(a, b) + outer(b, a)
  loading <- lapply(seq_len(p * m), function(k) sym(unit((k - 1) %% p + 1), structure[, (k - 1) %/% p + 1]))
  pair <- which(lower.tri(correlations), arr.ind = TRUE)
  factor <- if (oblique) lapply(seq_len(nrow(pair)), function(k) sym(pattern[, pair[k, 1]], pattern[, pair[k, 2]]))
  unique <- lapply(seq_len(p), function(i) outer(unit(i), unit(i)))
  c(loading, factor, unique)
}

# Constraints of the rotation at theta, and their Jacobian by central differences.
constraint_jacobian <- function(theta, p, m, oblique, rotated, extraction) {
  if (m == 1) {
    return(matrix(0, 0, length(theta)))
  }
  at <- function(theta) rotation_constraints(unpack_theta(theta, p, m, oblique), rotated, extraction)
  step <- 1e-5
  vapply(seq_along(theta), function(i) {
    up <- at(replace(theta, i, theta[i] + step))
    (up - at(replace(theta, i, theta[i] - step))) / (2 * step)
  }, at(theta)) |> matrix(ncol = length(theta))
}

unpack_theta <- function(theta, p, m, oblique) {
  correlations <- diag(m)
  if (oblique) {
    correlations[lower.tri(correlations)] <- theta[p * m + seq_len(m * (m - 1) / 2)]
    correlations <- correlations + t(correlations) - diag(m)
  }
  list(pattern = matrix(theta[seq_len(p * m)], p), correlations = correlations, uniqueness = utils::tail(theta, p))
}

# What is zero at the minimum of the criterion: off-diagonal cells of L'G Phi^-1 (oblique)
# or of L'G - G'L (orthogonal), G the gradient of the criterion; without rotation, of L'L
# or (ml, gls) L' Psi^-1 L.
rotation_constraints <- function(at, rotated, extraction) {
  criterion <- rotated$criterion
  if (criterion$criterion == "none") {
    inner <- crossprod(at$pattern, if (extraction %in% c("ml", "gls")) at$pattern / at$uniqueness else at$pattern)
    return(inner[lower.tri(inner)])
  }
  l <- at$pattern
  if (rotated$normalised) l <- l / sqrt(rowSums((l %*% at$correlations) * l))
  g <- kernel_criterion(l, criterion_numbers[[criterion$criterion]], criterion$parameter, criterion$target)$gradient
  inner <- crossprod(l, g)
  if (criterion$oblique) {
    inner <- inner %*% solve(at$correlations)
    return(inner[row(inner) != col(inner)])
  }
  (inner - t(inner))[lower.tri(inner)]
}

# n times the variance of tr(G dR) for normal answers, each column of g a G: with the
# standard deviations estimated, G loses diag(G R) on its diagonal; then 2 tr(G S G S).
normal_variance <- function(g, sigma) {
  p <- nrow(sigma)
  apply(g, 2, function(column) {
    one <- matrix(column, p)
    diag(one) <- diag(one) - rowSums(one * sigma)
    through <- one %*% sigma
    2 * sum(through * t(through))
  })
}

pair_variance <- function(g, pairs, p) {
  lower <- which(lower.tri(diag(p)))
  g <- 2 * g[lower, , drop = FALSE]
  colSums(g * (pairs %*% g))
}
