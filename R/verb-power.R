#' Power of a confirmation, and the cases it needs
#'
#' Two questions before answers are gathered. Of the whole structure: with n cases, how likely
#' is it that the test of close fit (RMSEA no more than .05) rejects a structure that fits
#' badly (.08), that the test of not-close fit (at least .05) lets through one that fits well
#' (.01), and that the test of exact fit sees a small misfit (.05); and how many cases give
#' the power wished (MacCallum, Browne & Sugawara, 1996). Of one parameter: the
#' share of simulated normal samples in which it differs from zero.
#'
#' @param x A [sw_structure()], a result of [sw_confirm()], or degrees of freedom.
#' @param n Numbers of cases.
#' @param power The power wished.
#' @param level Level of the tests.
#' @param parameter For the second question: what the parameter joins, such as
#'   `c("calm1", "calm")`; `x` is then a confirmation, whose estimates are taken as true, or
#'   a structure.
#' @param loading,correlation For a structure without answers: the standardised loadings (one
#'   number, or named by item) and correlations of factors to take as true; factors below
#'   another have standardised paths of .7.
#' @param replicates Simulated samples per number of cases.
#' @param seed Seed of the simulation.
#' @return A `sw_power` with the table `tests` (test, null and alternative RMSEA, n,
#'   power) and `needed` (cases for the wished power), or `parameter` (n, power with its
#'   simulation error, mean estimate, bias of the estimate and of its standard error,
#'   coverage of the interval, samples that converged).
#' @section Errors: `scalewort_error_input` for degrees of freedom below one, a parameter
#'   without a confirmation or structure; `scalewort_error_structure` for a parameter that is
#'   not there or is fixed.
#' @examples
#' sw_power(sw_structure(sw_demo("plotholders")))
#' sw_power(sw_structure(a = c("a1", "a2", "a3"), b = c("b1", "b2", "b3")), n = c(100, 200),
#'   parameter = c("a", "b"), correlation = .3, replicates = 200)
#' @export
sw_power <- function(x, n = c(100, 200, 300, 500, 1000), power = .80, level = .05, parameter = NULL, loading = .7, correlation = .3,
                     replicates = 500, seed = 1) {
  check_options("power")
  if (!is.numeric(n) || length(n) == 0 || anyNA(n) || any(n < 10)) stop_input(message_of("e_n_must_numbers"))
  if (!is.null(parameter)) {
    return(parameter_power(x, sort(n), level, power, parameter, loading, correlation, replicates, seed))
  }
  df <- power_df(x)
  tests <- expand.grid(n = sort(n), test = names(fit_tests), stringsAsFactors = FALSE)
  rmsea <- function(test, which) vapply(test, function(t) fit_tests[[t]][which], 0)
  table <- plain_table(
    test = tests$test, null = rmsea(tests$test, 1), alternative = rmsea(tests$test, 2), n = tests$n,
    power = mapply(core_rmsea_power, n = tests$n, null = rmsea(tests$test, 1), alternative = rmsea(tests$test, 2),
      MoreArgs = list(df = df, level = level), USE.NAMES = FALSE)
  )
  wished <- power
  needed <- plain_table(
    test = names(fit_tests), null = vapply(fit_tests, `[`, 0, 1), alternative = vapply(fit_tests, `[`, 0, 2), power = power,
    needed = mapply(core_rmsea_cases, null = vapply(fit_tests, `[`, 0, 1), alternative = vapply(fit_tests, `[`, 0, 2),
      MoreArgs = list(df = df, power = wished, level = level), USE.NAMES = FALSE)
  )
  new_result("sw_power", "title_power",
    tables = list(needed = needed, tests = table), notes = if (anyNA(needed$needed)) note("too_few_at_a_million",
      message_of("power_beyond_a_million")),
    options = list(df = df, level = level, power = power)
  )
}

# Null and alternative RMSEA of each test.
fit_tests <- list(`close fit` = c(.05, .08), `not-close fit` = c(.05, .01), `exact fit` = c(0, .05))

power_df <- function(x) {
  df <- if (inherits(x, "sw_confirmation")) {
    x$parts$figures$df
  } else if (inherits(x, "sw_structure")) {
    items <- structure_items(x)
    length(items) * (length(items) + 1) / 2 - max(structure_cells(x, items, "variance", rep(1, length(items)))$free)
  } else {
    x
  }
  if (!is.numeric(df) || length(df) != 1 || is.na(df) || df < 1) {
    stop_input(message_of("e_power_needs_structure"))
  }
  df
}

# What is taken as true: list(cells, theta, covariance, items, factors).
power_truth <- function(x, loading, correlation) {
  if (inherits(x, "sw_confirmation")) {
    cells <- x$parts$cells
    if (!is.null(x$parts$quadratic) || !is.null(x$parts$structure$means)) stop_input(message_of("e_take_confirmation_ml"))
    # Free intercepts come last, and say nothing here.
    cells <- cells[cells$part < core_parts[["intercept"]], ]
    return(list(cells = cells, theta = x$parts$theta[seq_len(max(cells$free))], covariance = x$parts$implied, items = rownames(x$parts$observed),
      factors = structure_factor_names(x$parts$structure)))
  }
  check_class(x, c("sw_structure", "sw_confirmation"), "x", "`sw_structure()` or `sw_confirm()`")
  structure_truth(x, loading, correlation, path = .7)
}

parameter_power <- function(x, n, level, wished, parameter, loading, correlation, replicates, seed) {
  truth <- power_truth(x, loading, correlation)
  at <- find_cell(truth$cells, parameter, truth$items, truth$factors)
  number <- truth$cells$free[at]
  if (number == 0) stop_structure(message_of("e_parameter_fixed_its", parameter = parameter))
  true <- truth$theta[number]
  table <- do.call(rbind, over_series(seq_along(n), "Number of cases", function(i) {
    drawn <- with_seed(seed + i, core_sampled_covariances(truth$covariance, n[i], replicates, random_draws))
    fit <- core_refit(truth$cells, length(truth$items), length(truth$factors), drawn, truth$theta, n[i])
    parameter_row(n[i], fit$theta[number, ], fit$error[number, ], true, level)
  }))
  new_result("sw_power", "title_power_parameter",
    tables = list(parameter = table), notes = note("normal_answers", message_of("power_normal_answers"), rank = 3L),
    options = list(parameter = paste(parameter, collapse = " and "), true = true, level = level, power = wished, replicates = replicates, seed = seed)
  )
}

parameter_row <- function(n, estimate, error, true, level) {
  seen <- is.finite(estimate) & is.finite(error)
  estimate <- estimate[seen]
  error <- error[seen]
  share <- mean(2 * stats::pnorm(-abs(estimate / error)) < level)
  plain_table(
    n = n, power = share, std.error = sqrt(share * (1 - share) / length(estimate)), true = true, mean_estimate = mean(estimate),
    bias = mean(estimate) - true, error_ratio = mean(error) / stats::sd(estimate),
    coverage = mean(abs(estimate - true) < core_normal_edge(1 - level) * error), converged = mean(seen)
  )
}
