# One step of invariance: its fit and figures, of normal and of ordered answers.

core_fit_normal_step <- function(plan, basis, kinds, released, start) {
  cells <- core_equal_cells(plan$cells, kinds, released)
  factors <- length(plan$factors) * basis$waves
  fit <- core_fit_occasions(cells, basis$samples, factors, start, basis$incomplete)
  fit$cells <- cells
  p <- ncol(basis$samples[[1]]$s)
  df <- basis$groups * p * (p + 3) / 2 - length(fit$theta)
  covariance <- core_estimate_covariance(fit$expected_hessian, basis$n, fit$held)
  robust <- if (basis$robust && fit$status == "ok" && !is.null(covariance)) {
    if (basis$staged) core_staged_occasions(cells, fit, basis$samples, factors, df) else
      core_robust_occasions(cells, fit, basis$samples, factors, df, basis$incomplete)
  }
  fit$covariance <- if (is.null(robust)) covariance else robust$covariance
  fit$figures <- occasion_figures(fit, df, basis, robust$scale)
  fit
}

occasion_figures <- function(fit, df, basis, scale) {
  criteria <- core_information(fit$log_likelihood, length(fit$theta), basis$n)
  c(core_fit_figures(core_chi_square(basis$n, fit$discrepancy), df, basis$n / basis$groups, basis$baseline, scale),
    srmr = core_srmr_of_samples(basis$samples, fit$implied), criteria[c("aic", "bic")])
}

# Values of all cells to start from: each group's free moments, every wave alike.
core_occasion_start <- function(plan, basis) {
  cells <- plan$cells
  value <- cells$value
  p <- length(plan$items)
  for (g in seq_len(basis$groups)) {
    for (w in seq_len(basis$waves)) {
      rows <- (w - 1) * p + seq_len(p)
      mine <- which(cells$group == g & cells$wave == w & !is.na(cells$base) & cells$base <= nrow(plan$base))
      start <- core_structure_start(plan$base, basis$samples[[g]]$s[rows, rows], length(plan$factors), basis$samples[[g]]$mean[rows])
      value[mine] <- core_cell_values(plan$base, start)[cells$base[mine]]
    }
  }
  later <- cells$kind == "factor variance" & cells$free == 0
  value[later] <- 1
  value
}

core_ordered_start <- function(plan, basis) {
  cells <- plan$cells
  value <- cells$value
  p <- length(plan$items)
  loads <- cells$kind == "loading"
  for (g in seq_len(basis$groups)) {
    for (w in seq_len(basis$waves)) {
      rows <- (w - 1) * p + seq_len(p)
      size <- numeric(p)
      for (k in seq_along(plan$factors)) {
        mine <- plan$base$row[plan$base$part == core_parts[["loading"]] & plan$base$column == k]
        size[mine] <- axis_loadings(basis$samples[[g]]$s[rows, rows], mine)
      }
      size <- pmax(pmin(size, .9), -.9)
      raw <- size / sqrt(1 - size^2)
      here <- cells$group == g & cells$wave == w
      value[here & loads] <- raw[cells$row[here & loads] - (w - 1) * p]
      cut <- here & cells$kind == "threshold"
      item <- cells$row[cut]
      value[cut] <- mapply(function(i, k) basis$samples[[g]]$thresholds[[i]][k], item, cells$column[cut]) / sqrt(1 - size[item - (w - 1) * p]^2)
    }
  }
  value[cells$kind %in% c("factor variance", "residual variance")] <- 1
  value
}

ordered_figures <- function(fit, basis) {
  df <- length(fit$weights) - length(fit$theta)
  at <- fit$inference
  if (is.null(at)) {
    none <- c("chi_square", "p.value", "cfi", "rmsea", "rmsea.low", "rmsea.high", "srmr", "aic", "bic", "scale", "chi_square_scaled", "p_scaled")
    return(c(stats::setNames(rep(list(NA_real_), length(none)), none), df = df))
  }
  adjusted <- core_adjusted_test(fit$raw, df, at$first, at$second)
  c(core_fit_figures(fit$raw, df, basis$n / basis$groups, basis$baseline, adjusted = adjusted),
    srmr = core_srmr_of_samples(basis$samples, fit$implied), aic = NA_real_, bic = NA_real_)
}

core_fit_ordered_step <- function(plan, basis, kinds, released, start) {
  cells <- core_ordered_equal(plan$cells, kinds, released, lengths(basis$values))
  items <- length(plan$items) * basis$waves
  fit <- core_fit_ordered(cells, basis$samples, items, length(plan$factors) * basis$waves, start)
  fit$cells <- cells
  fit$covariance <- fit$inference$covariance
  fit$quadratic <- fit[c("jacobian", "weights", "gamma", "inference")]
  fit$figures <- ordered_figures(fit, basis)
  fit
}

core_scale_is_noise <- function(fit, basis) !basis$ordered && core_scale_is_chance(fit$figures$scale, basis$n / basis$groups)
