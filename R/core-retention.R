# How many factors: the rules.

core_eigenvalues <- function(r) eigen(r, symmetric = TRUE, only.values = TRUE)$values

# Eigenvalues of the correlations with squared multiple correlations in the diagonal.
core_reduced_eigenvalues <- function(r) {
  diag(r) <- 1 - 1 / diag(chol2inv(chol(r)))
  core_eigenvalues(r)
}

# Eigenvalues of `replicates` correlation matrices of p unrelated normal items and n
# cases, a row each; `reduced` as above.
core_random_eigenvalues <- function(n, p, replicates, seed, reduced = FALSE) {
  kernel_random_eigenvalues(n, p, replicates, seed, reduced)
}

# The same with gaps: each pair's correlation from those who have both, which is what likelihood comes to for unrelated items.
# seen: n x p, which cells have answers. list(plain, reduced).
core_gapped_eigenvalues <- function(seen, replicates, seed) kernel_gapped_eigenvalues(seen + 0, replicates, seed)

# How many people would make Pearson correlations as sure as these are: covariance of the correlations (lower triangle by column).
core_worth <- function(r, covariance) {
  below <- r[lower.tri(r)]
  mean((1 - below^2)^2 / diag(covariance))
}

# The same from the answers x themselves, each column shuffled on its own.
core_shuffled_eigenvalues <- function(x, replicates, reduced = FALSE, correlate = stats::cor, random) {
  values <- if (reduced) core_reduced_eigenvalues else core_eigenvalues
  t(vapply(seq_len(replicates), function(i) values(correlate(apply(x, 2, random$sample))), numeric(ncol(x))))
}

# Parallel analysis (Horn, 1965): mean and percentile of random eigenvalues.
core_parallel <- function(values, percentile) {
  list(mean = colMeans(values), percentile = apply(values, 2, stats::quantile, probs = percentile, names = FALSE))
}

# How many eigenvalues in a row, from the first, lie above their reference.
core_count_above <- function(values, reference) {
  below <- which(values <= reference)
  if (length(below) == 0) length(values) else below[1] - 1L
}

# Minimum average partial (Velicer, 1976; fourth power: Velicer, Eaton & Fava, 2000): the
# mean power of the partial correlations left after 0, 1, ... components. list(squared,
# fourth), each from 0 components on; NA where nothing is left.
core_average_partials <- function(r, most = ncol(r) - 1L) {
  e <- eigen(r, symmetric = TRUE)
  axes <- e$vectors %*% diag(sqrt(pmax(e$values, 0)))
  at <- vapply(0:most, function(m) {
    left <- r - tcrossprod(axes[, seq_len(m), drop = FALSE])
    scale <- diag(left)
    if (any(scale < 1e-10)) {
      return(c(NA_real_, NA_real_))
    }
    partial <- (left / sqrt(outer(scale, scale)))[lower.tri(left)]
    c(mean(partial^2), mean(partial^4))
  }, numeric(2))
  list(squared = at[1, ], fourth = at[2, ])
}

# Loadings of m factors by maximum likelihood, turned by oblimin from a few starts; NULL where there are none.
core_home_pattern <- function(r, m) {
  fit <- core_extract_ml(r, m, most_starts = 1L)
  if (fit$status == "ok") core_rotate(fit$loadings, "oblimin", starts = 5L)$loadings
}

# The items of the factor on which the fewest have their largest loading; all items where nothing was found.
core_thin_factor <- function(r, m) {
  pattern <- core_home_pattern(r, m)
  if (is.null(pattern)) {
    return(colnames(r))
  }
  home <- max.col(abs(pattern), ties.method = "first")
  colnames(r)[home == which.min(tabulate(home, m))]
}

# The bend of the scree: the eigenvalue furthest below the straight line from the first
# to the last; the factors are those before it.
core_scree_bend <- function(values) {
  p <- length(values)
  line <- values[1] + (values[p] - values[1]) * (seq_len(p) - 1) / (p - 1)
  which.max(line - values) - 1L
}

# Empirical Kaiser criterion (Braeken & van Assen, 2017): the j-th eigenvalue must beat
# max(1, (1 + sqrt(p/n))^2 (p - sum of those before) / (p - j + 1)).
core_empirical_kaiser <- function(values, n) {
  p <- length(values)
  before <- c(0, cumsum(values)[-p])
  pmax(1, (1 + sqrt(p / n))^2 * (p - before) / (p - seq_len(p) + 1))
}

# Maximum likelihood fit with 0, 1, ..., most factors: a data frame, a row per number.
# AIC and BIC are -2 ln L plus 2 or ln(n) for each free parameter; noncentral_fit is CFI
# without its bounds (McDonald & Marsh, 1990).
# gamma: NULL, or n times the covariance matrix of the correlations (with rows of zero for the diagonal): the discrepancy is then
# that of the adjusted chi-square of two stages.
core_fit_per_number <- function(r, n, most, gamma = NULL, enough = most) {
  baseline <- if (is.null(gamma)) core_baseline(r, n) else core_stage_baseline(r, n, gamma)
  rows <- list()
  for (m in 0:most) {
    rows[[m + 1]] <- core_fit_of_number(r, n, m, gamma, baseline)
    if (m >= enough && core_told_enough(rows)) break
  }
  do.call(rbind, rows)
}

# Has some number fitted that is not rejected, and has BIC risen three times since its lowest?
core_told_enough <- function(rows) {
  p <- vapply(rows, `[[`, 0, "p")
  bic <- vapply(rows, `[[`, 0, "bic")
  any(p > .05, na.rm = TRUE) && isTRUE(length(bic) - which.min(bic) >= 3)
}

core_fit_of_number <- function(r, n, m, gamma, baseline) {
  p <- ncol(r)
  fit <- core_extract_ml(r, m, most_starts = 1L)
  implied <- tcrossprod(fit$loadings) + diag(fit$uniqueness)
  df <- core_exploration_df(p, m)
  if (!is.null(gamma) && df > 0 && fit$status == "ok") fit$discrepancy <- staged_discrepancy(fit, implied, n, gamma, df, baseline)
  chi_square <- n * fit$discrepancy
  figures <- core_fit_figures(chi_square, df, n, baseline)
  criteria <- core_information(core_log_likelihood(r, n, chi_square), p * (m + 1) - m * (m - 1) / 2, n)
  list2DF(list(
    factors = m, status = fit$status, chi_square = chi_square, df = df, p = figures$p.value,
    rmsea = figures$rmsea, rmsea_low = figures$rmsea.low, rmsea_high = figures$rmsea.high,
    cfi = figures$cfi, noncentral_fit = 1 - (chi_square - df) / core_excess(baseline), tli = figures$tli,
    srmr = core_srmr(r, implied), aic = criteria$aic, bic = criteria$bic,
    at_bound = paste(names(fit$uniqueness)[fit$uniqueness <= .005 * (1 + 1e-6)], collapse = " ")
  ))
}

staged_discrepancy <- function(fit, implied, n, gamma, df, baseline) {
  if (ncol(fit$loadings) == 0) {
    return(baseline$chi_square / n)
  }
  at <- core_echelon(fit$loadings, fit$uniqueness)
  jacobian <- core_structure_jacobian(at$cells, at$theta, nrow(implied), ncol(fit$loadings))
  found <- core_stage_test(n * fit$discrepancy, jacobian, implied, gamma, df)
  if (is.null(found)) NA_real_ else found$chi_square / n
}

# Hull method (Lorenzo-Seva, Timmerman & Kiers, 2011): fit (higher is better) against the
# number of free parameters. Solutions that a simpler one fits as well as leave, then those below
# the line of their neighbours; of the rest, the one after which fit stops rising most sharply,
# never the first or the last. list(factors, on_hull, sharpness); factors is NA with fewer than
# three points on the hull.
core_hull <- function(factors, fit, free) {
  at <- which(fit > c(-Inf, cummax(fit)[-length(fit)]))
  repeat {
    if (length(at) < 3) break
    sag <- which(diff(diff(fit[at]) / diff(free[at])) > 0)
    if (length(sag) == 0) break
    at <- at[-(sag[1] + 1)]
  }
  if (length(at) < 3) {
    return(list(factors = NA_integer_, on_hull = factors[at], sharpness = rep(NA_real_, length(at))))
  }
  slope <- diff(fit[at]) / diff(free[at])
  sharpness <- c(NA, slope[-length(slope)] / slope[-1], NA)
  list(factors = factors[at[which.max(sharpness)]], on_hull = factors[at], sharpness = sharpness)
}
