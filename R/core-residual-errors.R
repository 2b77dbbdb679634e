# How far chance alone moves the residuals of a confirmation: the error of each, and what the unbiased SRMR needs of them
# all together.

# list(statistic: residuals over their standard errors, a symmetric matrix, NA where these are not known; spread: of the
# standardised residuals e, as core_srmr_unbiased() takes it; NULL where it is not known).
core_residual_inference <- function(cells, fit, basis, options) {
  p <- ncol(basis$s)
  none <- list(statistic = matrix(NA_real_, p, p), spread = NULL)
  if (is.null(fit$covariance) || fit$status != "ok") {
    return(none)
  }
  ordinal <- basis$kind == "ordinal"
  rows <- lower.tri(basis$s, diag = !ordinal)
  at <- list(
    s = basis$s, n = basis$n, rows = rows, residual = (basis$s - fit$implied)[rows], scale = (1 / sqrt(outer(diag(basis$s), diag(basis$s))))[rows]
  )
  factors <- ncol(fit$matrices$factor)
  # Large, and not needed of complete normal answers.
  whole <- function() core_structure_jacobian(cells, fit$theta, p, factors)
  jacobian <- function() covariance_rows(whole(), p)
  found <- if (ordinal) {
    core_weighted_residuals(at, fit$quadratic$inference, fit$quadratic$jacobian, fit$quadratic$weights, fit$quadratic$gamma)
  } else if (!is.null(fit$left)) {
    list(error = core_vanishing_error(diag(fit$left), diag(basis$gamma)) / sqrt(at$n),
      spread = core_residual_spread(fit$left * outer(at$scale, at$scale) / at$n, at$scale * at$residual))
  } else if (options$estimator == "uls") {
    core_uls_residuals(at, fit, jacobian())
  } else if (options$estimator == "robust") {
    robust_residuals(at, cells, fit, jacobian(), basis, factors)
  } else if (basis$kind == "complete") {
    core_normal_residuals(at, if (options$estimator == "gls") likelihood_covariance(cells, fit, basis, factors) else fit$covariance, fit$implied,
      cells, fit$theta, factors)
  } else if (p * (p + 1) / 2 <= most_incomplete_moments) {
    incomplete_residuals(at, fit, whole(), basis)
  }
  if (is.null(found)) {
    return(none)
  }
  none$statistic[rows] <- at$residual / found$error
  none$statistic <- pmax(none$statistic, t(none$statistic), na.rm = TRUE)
  list(statistic = none$statistic, spread = c(found$spread, list(e = at$scale * at$residual)))
}

# The information of more free covariances than this takes too long: 36 items.
most_incomplete_moments <- 666

# The part of the Jacobian that belongs to covariances: the last rows.
covariance_rows <- function(jacobian, p) {
  before <- nrow(jacobian) - p * (p + 1) / 2
  if (before == 0) jacobian else jacobian[-seq_len(before), , drop = FALSE]
}

# Standard errors from variances, NA where these vanish beside those of the sample's moments.
core_vanishing_error <- function(spread, of_sample, least = 1e-8) sqrt(ifelse(spread > least * of_sample, spread, NA))

# Covariances of estimates as likelihood would have them at the implied covariances, which those of generalised least
# squares come near to: with them no more is explained than there is.
likelihood_covariance <- function(cells, fit, basis, factors) {
  moments <- list(list(share = 1, covariance = basis$s, mean = numeric(ncol(basis$s))))
  at <- kernel_evaluate_structure(cells, ncol(basis$s), factors, moments, fit$theta)
  core_estimate_covariance(at$expected_hessian, basis$n, fit$held)
}

core_normal_residuals <- function(at, covariance, implied, cells, theta, factors) {
  if (is.null(covariance)) {
    return(NULL)
  }
  of_sample <- (outer(diag(implied), diag(implied)) + implied^2)[at$rows]
  spread <- core_normal_residual_spread(cells, theta, factors, covariance * at$n, implied, sqrt(diag(at$s)), at$n, at$s - implied)
  list(error = core_vanishing_error(of_sample - spread$explained, of_sample) / sqrt(at$n), spread = spread[c("trace", "square", "form")])
}

core_uls_residuals <- function(at, fit, jacobian) {
  gamma <- core_normal_gamma(fit$implied)
  w <- uls_weight(ncol(at$s))[at$rows]
  inference <- core_weighted_inference(jacobian, w, gamma, at$n, fit$held)
  if (is.null(inference)) NULL else core_weighted_residuals(at, inference, jacobian, w, gamma)
}

# Of moments fitted with weights w, whose covariance matrix is gamma / n.
core_weighted_residuals <- function(at, inference, jacobian, w, gamma) {
  left <- kernel_weighted_left(weighted_fit(inference, jacobian, w, gamma), at$scale, at$scale * at$residual)
  list(
    error = core_vanishing_error(left$diagonal / at$n, diag(gamma) / at$n, 1e-10),
    spread = list(trace = sum(at$scale^2 * left$diagonal) / at$n, square = left$square / at$n^2, form = left$form / at$n)
  )
}

# Weights, clusters and answers that are not normal are allowed for.
robust_residuals <- function(at, cells, fit, jacobian, basis, factors) {
  bread <- core_inverse_information(fit$expected_hessian, fit$held)
  p <- ncol(basis$s)
  if (is.null(basis$answers)) {
    return(robust_residuals_by_rows(at, cells, fit, jacobian, basis, factors, bread))
  }
  weight <- core_case_weights(basis)
  x <- basis$answers
  if (basis$kind == "incomplete") {
    pull <- kernel_saturated_hessian(basis$patterns, basis$em$covariance, basis$em$mean)
    free <- weight * kernel_saturated_gradients(x, basis$em$covariance, basis$em$mean)
    z <- -kernel_product(free, core_inverse_information(pull))[, -seq_len(p), drop = FALSE]
  } else {
    z <- core_product_influence(x, weight)
    if (!core_has_means(cells)) x <- sweep(x, 2, basis$mean)
  }
  scores <- weight * kernel_case_gradients(cells, p, factors, x, fit$theta, 1L)
  left <- core_residual_influence(z, jacobian, sweep(scores, 2, colMeans(scores)), bread, basis$cluster)
  list(
    error = core_case_residual_errors(left, z, at$n, basis$cluster),
    spread = core_case_residual_spread(sweep(left, 2, at$scale, "*"), at$n, at$scale * at$residual)
  )
}

# The same of incomplete answers that are too many at once: the residuals' influence is linear in the scores of free and of structured moments.
robust_residuals_by_rows <- function(at, cells, fit, jacobian, basis, factors, bread) {
  p <- ncol(basis$s)
  pull <- kernel_saturated_hessian(basis$patterns, basis$em$covariance, basis$em$mean)
  of_free <- -core_inverse_information(pull)[, -seq_len(p), drop = FALSE]
  meat <- core_meats(basis$rows, at$n)$whole(function(x) {
    cbind(kernel_saturated_gradients(x, basis$em$covariance, basis$em$mean), kernel_case_gradients(cells, p, factors, x, fit$theta, 1L))
  })
  free <- seq_len(nrow(of_free))
  through <- rbind(of_free, kernel_product(bread, t(jacobian)))
  covariance <- kernel_product(t(through), kernel_product(meat, through))
  of_sample <- colSums(of_free * kernel_product(meat[free, free], of_free))
  list(
    error = core_vanishing_error(diag(covariance), of_sample) / sqrt(at$n),
    spread = core_residual_spread(covariance * outer(at$scale, at$scale) / at$n, at$scale * at$residual)
  )
}

# Of normal answers, by the observed information of free means and covariances, taken through the
# whole Jacobian, so that what the estimates explain is never more than there is.
incomplete_residuals <- function(at, fit, jacobian, basis) {
  means <- seq_len(ncol(at$s))
  information <- kernel_saturated_hessian(basis$patterns, basis$em$covariance, basis$em$mean)
  free <- core_inverse_information(information)
  bread <- core_inverse_information(crossprod(jacobian, kernel_product(information, jacobian)), fit$held)
  if (is.null(free) || is.null(bread)) {
    return(NULL)
  }
  covariance <- 2 / at$n * (free - kernel_product(kernel_product(jacobian, bread), t(jacobian)))[-means, -means]
  list(
    error = core_vanishing_error(diag(covariance), 2 / at$n * diag(free)[-means]),
    spread = core_residual_spread(covariance * outer(at$scale, at$scale), at$scale * at$residual)
  )
}
