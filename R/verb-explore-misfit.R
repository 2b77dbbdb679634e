# What an exploration leaves over, and how much of it chance would leave: residual correlations over their standard errors,
# what freeing a residual pair would change, and a test that allows for polychoric correlations.

# list(z: residuals over their errors, NA where these are not known; spread: for the unbiased SRMR, or NULL; cells, theta: the
# solution as a structure; scale: of the likelihood's chi-square in two stages). pairs: as correlation_spread() gives them.
exploration_inference <- function(r, extracted, n, settings, pairs) {
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
    list(error = vanishing_error(diag(stage$left) / n, diag(pairs$whole)), spread = core_residual_spread(stage$left / n, left$residual))
  } else if (ordered) {
    off <- rows[lower.tri(r, diag = TRUE)]
    w <- rep(1, sum(rows))
    of_loadings <- jacobian()[off, seq_len(length(at$theta) - p), drop = FALSE]
    inference <- core_weighted_inference(of_loadings, w, pairs$covariance * n, n)
    if (!is.null(inference)) weighted_residuals(left, inference, of_loadings, w, pairs$covariance * n)
  } else if (settings$extraction %in% c("ml", "gls")) {
    moments <- list(list(share = 1, covariance = r, mean = numeric(p)))
    covariance <- core_estimate_covariance(kernel_evaluate_structure(at$cells, p, m, moments, at$theta)$expected_hessian, n)
    normal_residuals(left, covariance, implied, at$cells, at$theta, m)
  } else {
    uls_residuals(left, list(implied = implied, held = integer()), jacobian())
  }
  if (is.null(found)) {
    return(none)
  }
  none$z[rows] <- left$residual / found$error
  none$z <- pmax(none$z, t(none$z), na.rm = TRUE)
  c(list(z = none$z, spread = c(found$spread, list(e = left$residual)), scale = if (is.null(stage)) 1 else stage$first /
    max(core_exploration_df(p, m), 1)), at)
}

# Residual correlations, largest in size first; none is called missed that chance would bring among all of them (Holm, 1979).
exploration_residuals <- function(r, extracted, z, limits) {
  left <- r - tcrossprod(extracted$loadings)
  at <- which(lower.tri(r), arr.ind = TRUE)
  p <- stats::p.adjust(2 * stats::pnorm(-abs(z[at])), "holm")
  large <- !meets(abs(left[at]), limits, "residual_r")
  # Where no error is known nobody can tell it from chance.
  reason <- ifelse(large & is.na(p), "no_error", ifelse(large & !meets(p, limits, "score_test_p"), "chance", ""))
  table <- plain_table(
    item = colnames(r)[at[, 2]], with = rownames(r)[at[, 1]], correlation = r[at], residual = left[at], statistic = z[at], p_holm = p,
    verdict = judge_code(abs(left[at]), limits, "residual_r", reason = reason), verdict_reason = reason
  )
  judged_table(table[order(-abs(table$residual)), ], verdict = "residual_r", reason = "verdict_reason")
}

# What freeing a residual pair would change, by score tests of a likelihood solution; NULL for others. In two stages the indices
# are divided by the scale of the chi-square.
exploration_modifications <- function(r, found, n, m, settings, pairs, limits) {
  p <- ncol(r)
  if (settings$extraction != "ml" || identical(pairs$test, "uls") || is.null(found$cells) || core_exploration_df(p, m) < 1) {
    return(NULL)
  }
  places <- which(lower.tri(r), arr.ind = TRUE)
  candidates <- list2DF(list(
    part = rep(core_parts[["residual"]], nrow(places)), row = unname(places[, 1]), column = unname(places[, 2]), free = integer(nrow(places)),
    value = numeric(nrow(places))
  ))
  tested <- core_modifications(found$cells, found$theta, r, numeric(p), m, n, candidates)
  tested$index <- tested$index / found$scale
  own <- found$theta[length(found$theta) - p + seq_len(p)]
  out <- plain_table(
    item = colnames(r)[tested$column], with = colnames(r)[tested$row], index = tested$index,
    p.value = core_chi_square_p(tested$index, 1), change = tested$change,
    standard_change = tested$change / sqrt(own[tested$row] * own[tested$column])
  )
  out <- out[!is.na(out$index), ]
  out$p_holm <- stats::p.adjust(out$p.value, "holm")
  out[order(-out$index), ]
}

# Adjusted test of as many factors, and that of unrelated items: list(chi_square, baseline), NULL where it has none. Polychoric correlations:
# a least squares solution, mean and variance adjusted; others, in two stages, a likelihood solution (Yuan & Bentler, 2000), adjusted alike.
adjusted_exploration <- function(r, m, n, pairs) {
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
