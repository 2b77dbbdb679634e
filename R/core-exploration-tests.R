# Tests of an exploration: chi-square, what each residual and each fixed parameter adds.

# Adjusted test of as many factors, and that of unrelated items: list(chi_square, baseline), NULL where it has none. Polychoric correlations:
# a least squares solution, mean and variance adjusted; others, in two stages, a likelihood solution (Yuan & Bentler, 2000), adjusted alike.
core_adjusted_exploration <- function(r, m, n, pairs) {
  p <- ncol(r)
  df <- core_exploration_df(p, m)
  in_stages <- pairs$test == "ml"
  fit <- core_extract(r, m, if (in_stages) "ml" else "minres", most_starts = 1L)
  if (fit$status != "ok" || df < 1) {
    return(NULL)
  }
  at <- core_echelon(fit$loadings, fit$uniqueness)
  jacobian <- core_structure_jacobian(at$cells, at$theta, p, m)
  if (in_stages) {
    found <- core_stage_test(n * fit$discrepancy, jacobian, tcrossprod(fit$loadings) + diag(fit$uniqueness, p), pairs$whole * n, df)
    return(if (!is.null(found)) c(found, list(baseline = core_stage_baseline(r, n, pairs$whole * n))))
  }
  rows <- lower.tri(r)
  off <- rows[lower.tri(r, diag = TRUE)]
  jacobian <- jacobian[off, seq_len(ncol(jacobian) - p), drop = FALSE]
  w <- rep(1, sum(rows))
  inference <- core_weighted_inference(jacobian, w, pairs$covariance * n, n)
  if (is.null(inference)) {
    return(NULL)
  }
  left <- (r - tcrossprod(fit$loadings))[rows]
  list(
    chi_square = core_adjusted_test(n * sum(left^2), df, inference$first, inference$second)$chi_square,
    baseline = list(df = length(w), chi_square = core_adjusted_test(n * sum(r[rows]^2), length(w), n * sum(diag(pairs$covariance)),
      n^2 * sum(pairs$covariance^2))$chi_square)
  )
}

# list(z: residuals over their errors, NA where these are not known; spread: for the unbiased SRMR, or NULL; cells, theta: the
# solution as a structure; scale: of the likelihood's chi-square in two stages). pairs: as correlation_spread() gives them.
core_exploration_inference <- function(r, extracted, n, settings, pairs) {
  p <- ncol(r)
  none <- list(z = matrix(NA_real_, p, p), spread = NULL)
  known <- extracted$status == "ok" && settings$extraction %in% c("ml", "gls", "minres", "paf")
  if (!known || any(extracted$uniqueness <= .005 * (1 + 1e-6))) {
    return(none)
  }
  m <- ncol(extracted$loadings)
  at <- core_echelon(extracted$loadings, extracted$uniqueness)
  implied <- tcrossprod(extracted$loadings) + diag(extracted$uniqueness, p)
  jacobian <- function() core_structure_jacobian(at$cells, at$theta, p, m)
  ordered <- identical(pairs$test, "uls")
  rows <- lower.tri(r, diag = !ordered)
  left <- list(s = r, n = n, rows = rows, residual = (r - implied)[rows], scale = rep(1, sum(rows)))
  stage <- if (identical(pairs$test, "ml")) core_second_stage(jacobian(), implied, pairs$whole * n)
  found <- if (!is.null(stage)) {
    list(error = core_vanishing_error(diag(stage$left) / n, diag(pairs$whole)), spread = core_residual_spread(stage$left / n, left$residual))
  } else if (ordered) {
    off <- rows[lower.tri(r, diag = TRUE)]
    w <- rep(1, sum(rows))
    of_loadings <- jacobian()[off, seq_len(length(at$theta) - p), drop = FALSE]
    inference <- core_weighted_inference(of_loadings, w, pairs$covariance * n, n)
    if (!is.null(inference)) core_weighted_residuals(left, inference, of_loadings, w, pairs$covariance * n)
  } else if (settings$extraction %in% c("ml", "gls")) {
    moments <- list(list(share = 1, covariance = r, mean = numeric(p)))
    covariance <- core_estimate_covariance(kernel_evaluate_structure(at$cells, p, m, moments, at$theta)$expected_hessian, n)
    core_normal_residuals(left, covariance, implied, at$cells, at$theta, m)
  } else {
    core_uls_residuals(left, list(implied = implied, held = integer()), jacobian())
  }
  if (is.null(found)) {
    return(none)
  }
  none$z[rows] <- left$residual / found$error
  none$z <- pmax(none$z, t(none$z), na.rm = TRUE)
  c(list(z = none$z, spread = c(found$spread, list(e = left$residual)), scale = if (is.null(stage)) 1 else stage$first /
    max(core_exploration_df(p, m), 1)), at)
}

# list(chi_square, corrected, baseline); NULL for components, and where there is none.
core_exploration_test <- function(r, extracted, n, m, settings, pairs) {
  p <- ncol(r)
  if (settings$extraction == "pca") {
    return(NULL)
  }
  if (!is.null(pairs)) {
    adjusted <- core_adjusted_exploration(r, m, n, pairs)
    if (is.null(adjusted)) {
      return(NULL)
    }
    # The small-sample factor is that of likelihood, of as many people as the moments are as sure as those of.
    worth <- if (pairs$test == "ml") n / max(adjusted$scale, 1)
    small <- if (pairs$test == "ml") max(worth - 1 - (2 * p + 5) / 6 - 2 * m / 3, 1) / worth else 1
    return(c(adjusted, list(corrected = adjusted$chi_square * small)))
  }
  f <- if (settings$extraction %in% c("ml", "gls")) extracted$discrepancy else core_likelihood_discrepancy(r, extracted$loadings,
    extracted$uniqueness)
  small <- n - 1 - (2 * p + 5) / 6 - 2 * m / 3
  list(chi_square = (if (settings$multiplier == "n") n else small) * f, corrected = max(small, 1) * f, baseline = core_baseline(r, n))
}
