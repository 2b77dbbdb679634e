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
  sigma <- pattern %*% correlations %*% t(pattern) + diag(uniqueness, p)
  v <- if (extraction %in% c("ml", "gls")) chol2inv(chol(sigma)) else diag(p)
  slopes <- implied_slopes(pattern, correlations, oblique)
  weighted <- lapply(slopes, function(side) kernel_product(v, side))
  h <- slope_products(slopes, weighted)
  jacobian <- constraint_jacobian(pattern, correlations, uniqueness, oblique, rotated, extraction)
  q <- nrow(h)
  bordered <- rbind(cbind(h, t(jacobian)), cbind(jacobian, matrix(0, nrow(jacobian), nrow(jacobian))))
  corner <- kernel_inverse(bordered, definite = FALSE, least = .Machine$double.eps)
  if (length(corner) == 0) {
    return(list(status = "not_identified"))
  }
  moved <- t(corner[seq_len(q - p), seq_len(q), drop = FALSE])
  variance <- if (is.null(pairs)) normal_variance(moved, weighted, sigma) / n else pair_variance(moved, weighted, pairs)
  error <- sqrt(pmax(variance, 0))
  of_factors <- matrix(0, m, m)
  if (oblique) {
    of_factors[lower.tri(of_factors)] <- error[-seq_len(p * m)]
    of_factors <- of_factors + t(of_factors)
  }
  list(status = "ok", loadings = matrix(error[seq_len(p * m)], p, m, dimnames = dimnames(pattern)), correlations = of_factors)
}

# dSigma / d theta_a = x y' + y x' with a column of x and of y per parameter: e_i and the structure's column for a loading, two columns
# of the pattern for a correlation, e_i and half of it for a unique variance.
implied_slopes <- function(pattern, correlations, oblique) {
  p <- nrow(pattern)
  m <- ncol(pattern)
  structure <- pattern %*% correlations
  pair <- if (oblique) which(lower.tri(correlations), arr.ind = TRUE) else matrix(0L, 0, 2)
  list(
    x = cbind(diag(p)[, rep(seq_len(p), m), drop = FALSE], pattern[, pair[, 1], drop = FALSE], diag(p)),
    y = cbind(structure[, rep(seq_len(m), each = p), drop = FALSE], pattern[, pair[, 2], drop = FALSE], diag(p) / 2)
  )
}

# tr(A_a W A_b W) of A = x y' + y x', for each two parameters; through: W times x and y.
slope_products <- function(slopes, through) {
  of <- function(one, other) kernel_product(t(slopes[[one]]), through[[other]])
  crossed <- of("x", "y")
  2 * (of("x", "x") * of("y", "y") + crossed * t(crossed))
}

# Derivative of what the rotation makes zero, in theta: at the minimum of the criterion the off-diagonal cells of L'G Phi^-1 (oblique) or
# of L'G - G'L (orthogonal), G the gradient of the criterion; without rotation L'L or (ml, gls) L' Psi^-1 L.
constraint_jacobian <- function(pattern, correlations, uniqueness, oblique, rotated, extraction) {
  p <- nrow(pattern)
  m <- ncol(pattern)
  if (m == 1) {
    return(matrix(0, 0, 2 * p))
  }
  if (rotated$criterion$criterion == "none") {
    return(unrotated_jacobian(pattern, if (extraction %in% c("ml", "gls")) uniqueness))
  }
  slopes <- kernel_constraint_slopes(unname(pattern), unname(correlations), rotated$criterion, oblique, rotated$normalised)
  cbind(slopes, matrix(0, nrow(slopes), p))
}

# Of sum_i l_ia l_ib / psi_i for factors a > b; psi: NULL where all count alike.
unrotated_jacobian <- function(pattern, psi) {
  p <- nrow(pattern)
  m <- ncol(pattern)
  weight <- if (is.null(psi)) rep(1, p) else 1 / psi
  pairs <- which(lower.tri(diag(m)), arr.ind = TRUE)
  t(vapply(seq_len(nrow(pairs)), function(k) {
    a <- pairs[k, 1]
    b <- pairs[k, 2]
    of_loadings <- matrix(0, p, m)
    of_loadings[, a] <- weight * pattern[, b]
    of_loadings[, b] <- weight * pattern[, a]
    c(of_loadings, if (is.null(psi)) numeric(p) else -pattern[, a] * pattern[, b] * weight^2)
  }, numeric(p * (m + 1))))
}

# n times the variance of tr(G dR) for normal answers, G the sum of x y' + y x' by each column of `moved`: with the standard deviations
# estimated, G loses D = diag(G R) on its diagonal; then 2 tr((G - D) S (G - D) S), S the implied covariances.
normal_variance <- function(moved, slopes, sigma) {
  through <- lapply(slopes, function(side) kernel_product(sigma, side))
  lost <- kernel_product(through$x * slopes$y + through$y * slopes$x, moved)
  spread <- kernel_product(2 * through$x * through$y, moved)
  of_g <- colSums(moved * kernel_product(slope_products(slopes, through), moved))
  2 * (of_g - 2 * colSums(lost * spread) + colSums(lost * kernel_product(sigma^2, lost)))
}

# The same where the covariance matrix of the correlations is given.
pair_variance <- function(moved, slopes, pairs) {
  at <- which(lower.tri(diag(nrow(slopes$x))), arr.ind = TRUE)
  of <- function(side, end) slopes[[side]][at[, end], , drop = FALSE]
  rows <- of("x", 1) * of("y", 2) + of("y", 1) * of("x", 2)
  g <- 2 * kernel_product(rows, moved)
  colSums(g * kernel_product(pairs, g))
}
