#' Confirm a factor structure
#'
#' Maximum likelihood for complete cases (Joreskog, 1969): covariances with
#' divisor n, chi-square = n F, standard errors from the expected information.
#'
#' @param x A survey or [sw_moments()].
#' @param structure A [sw_structure()]; by default the codebook's subscales.
#' @param scaling `"variance"` (factor variances 1) or `"first"` (each factor's
#'   first loading 1).
#' @param level Level of the intervals of estimates.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_confirmation` with the tables `fit` (figure, value, interval,
#'   bound, verdict), `loadings` (factor, item, estimate, std.error, statistic,
#'   p.value, interval, standardised, r_squared), `factor_correlations`,
#'   `residuals` and `estimates` (everything). A fit that did not converge or is
#'   improper says so first and carries no verdict.
#' @section Errors: `scalewort_error_structure` when the structure names unknown
#'   items or is not identified; `scalewort_error_numeric` when the covariances
#'   are not positive definite or an item does not vary.
#' @examples
#' halves <- sw_split(sw_demo("plotholders"))
#' structure <- sw_structure(halves$validation) |> sw_add_pair("craft5", "craft6")
#' sw_confirm(halves$validation, structure)
#' @export
sw_confirm <- function(x, structure = NULL, scaling = "variance", level = 0.95,
                       limits = sw_limits()) {
  check_choice(scaling, c("variance", "first"), "scaling")
  check_number(level, "level", .5, .999)
  check_limits(limits)
  check_class(x, c("sw_survey", "sw_moments"), "x", "`sw_survey()` or `sw_moments()`")
  structure <- confirm_structure(x, structure)
  items <- structure_items(structure)
  moments <- confirm_moments(x, items)
  s <- moments$covariance * (moments$n - 1) / moments$n
  cells <- structure_cells(structure, items, scaling)
  m <- length(structure$factors)
  start <- core_structure_start(cells, s, m)
  check_identified(structure, cells, start, s, m)

  fit <- core_fit_structure(cells, s, m, start)
  matrices <- core_structure_matrices(cells, fit$theta, length(items), m)
  problems <- fit_problems(fit, matrices, items, names(structure$factors))
  covariance <- core_estimate_covariance(fit$expected_hessian, moments$n)
  believed <- length(problems) == 0 && !is.null(covariance)
  estimates <- estimate_table(structure, items, cells, fit, matrices, covariance, level)
  figures <- confirmation_figures(fit, cells, s, moments$n)
  new_result("sw_confirmation", "Confirmatory factor analysis",
    tables = list(
      fit = fit_table(figures, limits, believed), loadings = loading_table(estimates, matrices, fit$implied, items),
      factor_correlations = factor_correlation_table(estimates), residuals = residual_table(estimates),
      estimates = estimates
    ),
    notes = c(problems, confirmation_notes(x, structure, moments, s, fit, items, limits)),
    n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    status = if (fit$status != "ok") fit$status else if (believed) "ok" else "improper",
    options = list(
      estimator = "ml", scaling = scaling, level = level, iterations = fit$iterations,
      decrement = fit$decrement, parameters = max(cells$free), items = length(items), factors = m
    ),
    parts = list(
      figures = figures, sample = s, implied = dimnames_like(fit$implied, s),
      residual_r = dimnames_like(core_residual_r(s, fit$implied), s), structure = structure,
      estimates_covariance = covariance, origin = moments$origin
    ),
    limits = limits
  )
}

dimnames_like <- function(m, like) {
  dimnames(m) <- dimnames(like)
  m
}

confirm_structure <- function(x, structure) {
  if (is.null(structure)) {
    if (!inherits(x, "sw_survey")) {
      stop_structure("`structure` is needed: moments do not say which item belongs to which factor.")
    }
    return(sw_structure(x))
  }
  if (!inherits(structure, "sw_structure")) structure <- structure_from(structure, .40)
  structure
}

confirm_moments <- function(x, items) {
  known <- if (inherits(x, "sw_survey")) analysed_items(x) else colnames(x$covariance)
  unknown <- setdiff(items, known)
  if (length(unknown) > 0) {
    stop_structure("The structure names items that are not in the data.",
      faults = paste0(quoted(unknown), vapply(unknown, did_you_mean, "", known = known)))
  }
  moments <- as_moments(x, items)
  check_variance(moments)
  check_positive_definite(moments)
  moments
}

# Counts first, then the rank of the Jacobian away from the plain start.
check_identified <- function(structure, cells, start, s, m) {
  p <- ncol(s)
  df <- p * (p + 1) / 2 - length(start)
  alone <- names(structure$factors)[lengths(structure$factors) == 1]
  advice <- if (length(alone) > 0) {
    paste0("A factor of one item cannot be told from its residual: ", and_list(alone), ".")
  } else {
    "Give each factor at least three items, or link it to another factor."
  }
  if (df < 0) {
    stop_structure(paste0("The structure is not identified: ", length(start), " parameters for ",
      p * (p + 1) / 2, " variances and covariances."), hint = advice)
  }
  away <- start
  links <- cells$part == core_parts[["factor"]] & cells$row != cells$column & cells$free > 0
  away[cells$free[links]] <- 0.3 * sqrt(factor_scale(cells, start, cells$row[links]) * factor_scale(cells, start, cells$column[links]))
  if (isFALSE(core_identified(cells, away, s, m))) {
    stop_structure("The structure is not identified: some parameters cannot be told apart.", hint = advice)
  }
}

# Variance of factors at theta.
factor_scale <- function(cells, theta, factors) {
  own <- which(cells$part == core_parts[["factor"]] & cells$row == cells$column)
  own <- own[match(factors, cells$row[own])]
  ifelse(cells$free[own] > 0, theta[pmax(cells$free[own], 1)], cells$value[own])
}

# Why a fit may not be believed, worst first; none when it may.
fit_problems <- function(fit, matrices, items, factors) {
  negative <- items[diag(matrices$residual) < 0]
  spread <- core_factor_covariance(matrices)
  turned <- diag(spread) < 0
  indefinite <- !any(turned) && min(eigen(spread, symmetric = TRUE, only.values = TRUE)$values) < -1e-10
  c(
    if (fit$status != "ok") paste0("Do not use these estimates: ", status_words(fit$status), "."),
    if (length(negative) > 0) paste0("Improper solution: negative residual variance of ", and_list(negative),
      ". The structure may be wrong there, or the sample too small."),
    if (any(turned)) paste0("Improper solution: negative variance of factor ", and_list(factors[turned]), "."),
    if (indefinite) "Improper solution: factor correlations that no data could have (one beyond 1, or at odds with the others)."
  )
}

confirmation_figures <- function(fit, cells, s, n) {
  p <- ncol(s)
  df <- p * (p + 1) / 2 - max(cells$free)
  chi_square <- max(n * fit$discrepancy, 0)
  baseline <- core_baseline(s, n)
  c(
    list(
      chi_square = chi_square, df = df,
      p.value = if (df > 0) stats::pchisq(chi_square, df, lower.tail = FALSE) else NA_real_,
      baseline_chi_square = baseline$chi_square, baseline_df = baseline$df,
      cfi = core_cfi(chi_square, df, baseline), tli = core_tli(chi_square, df, baseline),
      srmr = core_srmr(s, fit$implied)
    ),
    stats::setNames(core_rmsea(chi_square, df, n), c("rmsea", "rmsea.low", "rmsea.high", "rmsea_p_close"))
  )
}

fit_table <- function(figures, limits, believed) {
  name <- c("chi_square", "cfi", "tli", "rmsea", "srmr")
  value <- unlist(figures[name])
  judged <- name != "chi_square"
  verdict <- rep(NA_character_, length(name))
  if (believed) verdict[judged] <- mapply(judge, value[judged], figure = name[judged], MoreArgs = list(limits = limits))
  bound <- rep(NA_character_, length(name))
  bound[judged] <- vapply(name[judged], function(f) bound_only(limits, f), "")
  source <- limits$source[match(name, limits$figure)]
  tibble::tibble(
    figure = name, value = unname(value), df = c(figures$df, NA, NA, NA, NA),
    p.value = c(figures$p.value, NA, NA, figures$rmsea_p_close, NA),
    conf.low = c(NA, NA, NA, figures$rmsea.low, NA), conf.high = c(NA, NA, NA, figures$rmsea.high, NA),
    bound = bound, verdict = verdict, source = source
  )
}

# Every parameter, free or fixed.
estimate_table <- function(structure, items, cells, fit, matrices, covariance, level) {
  factors <- names(structure$factors)
  part <- names(core_parts)[cells$part + 1L]
  free <- cells$free > 0
  value <- cells$value
  value[free] <- fit$theta[cells$free[free]]
  error <- rep(NA_real_, nrow(cells))
  if (!is.null(covariance)) error[free] <- sqrt(diag(covariance))[cells$free[free]]
  width <- stats::qnorm(1 - (1 - level) / 2) * error
  own <- cells$row == cells$column
  tibble::tibble(
    kind = ifelse(part == "loading", "loading", paste(part, ifelse(own, "variance", "covariance"))),
    first = ifelse(part == "residual", items[cells$column], factors[cells$column]),
    second = ifelse(part %in% c("loading", "residual"), items[cells$row], factors[cells$row]),
    estimate = value, std.error = error, statistic = value / error,
    p.value = 2 * stats::pnorm(-abs(value / error)), conf.low = value - width, conf.high = value + width,
    standardised = core_standardise(cells, value, matrices, fit$implied), free = free
  )
}

loading_table <- function(estimates, matrices, implied, items) {
  rows <- estimates[estimates$kind == "loading", ]
  explained <- 1 - diag(matrices$residual) / diag(implied)
  out <- rows[c("first", "second", "estimate", "std.error", "statistic", "p.value", "conf.low", "conf.high", "standardised")]
  names(out)[1:2] <- c("factor", "item")
  out$r_squared <- explained[match(out$item, items)]
  out
}

factor_correlation_table <- function(estimates) {
  rows <- estimates[estimates$kind == "factor covariance", ]
  out <- rows[c("first", "second", "standardised", "estimate", "std.error", "p.value", "conf.low", "conf.high")]
  names(out)[1:3] <- c("factor", "with", "correlation")
  out
}

residual_table <- function(estimates) {
  rows <- estimates[startsWith(estimates$kind, "residual"), ]
  out <- rows[c("first", "second", "estimate", "std.error", "p.value", "standardised")]
  names(out)[1:2] <- c("item", "with")
  out
}

confirmation_notes <- function(x, structure, moments, s, fit, items, limits) {
  overlap <- explored_overlap(structure$explored, moments$origin)
  residual <- core_residual_r(s, fit$implied)
  large <- which(abs(residual) > limit(limits, "residual_r")$bound & lower.tri(residual), arr.ind = TRUE)
  large <- large[order(-abs(residual[large])), , drop = FALSE]
  pairs <- sprintf("%s and %s (%s)", items[large[, 2]], items[large[, 1]], coefficient_text(residual[large]))
  c(
    if (overlap > 0) paste0(
      count_of(overlap, "of these cases was", "of these cases were"),
      " explored to find this structure: this is no independent confirmation. Use `sw_split()`."
    ),
    if (length(structure$left_out) > 0) paste0("Left out, since no loading was clear: ", and_list(structure$left_out), "."),
    if (nrow(large) > 0) paste0("Correlations missed by more than ", bound_text(limit(limits, "residual_r")$bound), ": ", and_list(pairs, 4), "."),
    "The interval of RMSEA is at 90%; the p beside it tests close fit, RMSEA \u2264 .05.",
    if (moments$n < 200) paste0("n = ", moments$n, " is small for a confirmation: estimates and fit are uncertain.")
  )
}

explored_overlap <- function(explored, origin) {
  if (is.null(explored) || is.null(origin) || !identical(explored$source, origin$source)) {
    return(0L)
  }
  length(intersect(explored$rows, origin$rows))
}
