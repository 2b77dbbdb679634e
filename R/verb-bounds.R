#' Bounds of fit for one structure, and tests of equivalence
#'
#' Bounds such as CFI \eqn{\ge} .95 were found for a few structures with high loadings. Here they are found for this one: normal
#' samples of as many cases are drawn from the structure with its estimates, where it is true, and from the same
#' structure with a little more in it, where it is slightly wrong; it is fitted to all of them (after McNeish & Wolf,
#' 2023). A bound is the value that at least 95% of samples pass where the structure is true and at most 5% where it is
#' wrong; with 90% and 10% where there is none such; and none where the two cannot be told apart.
#'
#' With two factors or more, level 1 is wrong by one crossing: an item of middling loading has one of `size`
#' on the factor that its own correlates with least; level 2 has two, of two factors, and so on, up to three. With one factor
#' level 1 has residual correlations of `size` among a third of the items, two by two, level 2 among two thirds.
#'
#' Tests of equivalence turn the question round: with 95% confidence, how bad can fit be? The size of RMSEA is the
#' value that the chi-square allows at most, that of CFI the value that it allows at least (Yuan, Chan, Marcoulides &
#' Bentler, 2016; for CFI both noncentralities are taken at 2.5%). They start from the chi-square that the verdict on fit rests on: corrected for
#' small samples, and scaled where the test is.
#'
#' @param x A result of [sw_confirm()] by `"ml"` or `"robust"`, with its degrees of freedom and a proper solution.
#' @param size Size of what is left out: a standardised loading or a residual correlation.
#' @param replicates Samples where the structure is true, and as many at each level.
#' @param seed Seed of the samples.
#' @return A `sw_bounds` with the tables `bounds` (level, figure, its 5% worst value where the structure is true, its 5% best
#'   where it is wrong, the bound, value of this fit, verdict), `samples` (level, figure, mean and percentiles, samples that
#'   converged) and `equivalence` (figure, value that holds with 95% confidence).
#' @section Errors: `scalewort_error_input` for another kind of confirmation, one without degrees of freedom or
#'   with means, or one that may not be believed.
#' @examples
#' sw_bounds(sw_confirm(sw_demo("plotholders")), replicates = 100)
#' @export
sw_bounds <- function(x, size = .30, replicates = 500, seed = 1) {
  check_class(x, "sw_confirmation", "x", "`sw_confirm()`")
  check_options("bounds")
  check_bounds_source(x)
  truth <- bounded_truth(x)
  wrong <- wrong_truths(truth, size)
  samples <- with_seed(seed, lapply(c(list(list(covariance = truth$covariance, what = "true")), wrong), function(at) {
    sampled_fit(x, at$covariance, replicates)
  }))
  here <- unlist(x$parts$figures[c("cfi", "rmsea", "srmr")])
  left_out <- lapply(wrong, `[[`, "what")
  what <- c("true", vapply(left_out, say, ""))
  bounds <- do.call(rbind, lapply(seq_along(wrong), function(level) {
    level_bounds(samples[[1]], samples[[level + 1]], here, level, what[level + 1])
  }))
  lost <- replicates - vapply(samples, nrow, 1L)
  new_result("sw_bounds", "title_bounds",
    tables = list(bounds = bounds, equivalence = equivalence_table(x), samples = do.call(rbind, Map(sampled_table, samples, what))),
    notes = c(
      if (any(lost > .05 * replicates)) note("few_converged", rank = 1L, words =
        message_of("bounds_few_converged", lost = max(lost), replicates = replicates)),
      if (length(wrong) == 0) note("no_wrong", message_of("bounds_no_wrong"), rank = 1L),
      if (!identical(x$about$missing, "listwise")) note("complete_samples", message_of("bounds_complete_samples"), rank = 2L),
      note("normal_samples", message_of("bounds_normal_samples"), rank = 3L)
    ),
    n = x$about$n, n_left_out = x$about$n_left_out, missing = x$about$missing, options = list(size = size, replicates = replicates, seed = seed),
    parts = list(left_out = left_out), limits = x$limits
  )
}

check_bounds_source <- function(x) {
  if (!is.null(x$parts$quadratic) || !x$about$options$estimator %in% c("ml", "robust")) {
    stop_input(message_of("e_bounds_found_sampling"))
  }
  if (x$about$status != "ok") stop_input(message_of("e_confirmation_may_not"), faults = x$notes[1])
  if (x$parts$figures$df == 0) stop_input(message_of("e_structure_many_parameters"))
  if (!is.null(x$parts$structure$means)) stop_input(message_of("e_take_confirmation_without"))
}

# Standardised estimates: list(pattern, correlations, residual, covariance).
bounded_truth <- function(x) {
  matrices <- x$parts$matrices
  of_items <- seq_along(x$parts$structure$factors)
  spread <- core_factor_covariance(matrices)[of_items, of_items, drop = FALSE]
  item <- 1 / sqrt(diag(x$parts$implied))
  pattern <- matrices$loading[, of_items, drop = FALSE] * outer(item, sqrt(diag(spread)))
  dimnames(pattern) <- list(colnames(x$parts$implied), names(x$parts$structure$factors))
  list(
    pattern = pattern, correlations = stats::cov2cor(spread), residual = matrices$residual * outer(item, item),
    covariance = stats::cov2cor(x$parts$implied)
  )
}

# Populations that the structure misses a little, level after level: list(covariance, what) each.
wrong_truths <- function(truth, size) {
  levels <- if (ncol(truth$pattern) > 1) crossed_truths(truth, size) else paired_truths(truth, size)
  Filter(function(at) min(eigen(at$covariance, symmetric = TRUE, only.values = TRUE)$values) > 1e-8, levels)
}

crossed_truths <- function(truth, size) {
  out <- list()
  now <- truth
  for (k in seq_len(ncol(truth$pattern))) {
    mine <- which(truth$pattern[, k] != 0 & rowSums(truth$pattern != 0) == 1)
    other <- order(abs(truth$correlations[k, ]))[seq_len(ncol(truth$pattern) - 1)][1]
    if (length(mine) == 0 || length(out) == 3) next
    item <- mine[order(abs(truth$pattern[mine, k]))[ceiling(length(mine) / 2)]]
    now$pattern[item, other] <- size
    common <- sum(now$pattern[item, ] * (truth$correlations %*% now$pattern[item, ]))
    if (common > .95) {
      now$pattern[item, other] <- 0
      next
    }
    residual <- now$residual
    diag(residual)[item] <- 1 - common
    now$residual <- residual
    out <- c(out, list(list(
      covariance = now$pattern %*% truth$correlations %*% t(now$pattern) + residual,
      what = message_of("crossings_left_out", crossings = length(out) + 1)
    )))
  }
  out
}

paired_truths <- function(truth, size) {
  items <- nrow(truth$pattern)
  own <- sqrt(diag(truth$residual))
  lapply(c(third = 1, two_thirds = 2), function(thirds) {
    residual <- truth$residual
    first <- 2 * seq_len(max(floor(items * thirds / 6), thirds)) - 1
    first <- first[first < items]
    at <- rbind(cbind(first, first + 1), cbind(first + 1, first))
    residual[at] <- residual[at] + size * own[at[, 1]] * own[at[, 2]]
    list(covariance = truth$covariance - truth$residual + residual, what = message_of("pairs_left_out", pairs = length(first)))
  })
}

# CFI, RMSEA and SRMR of the structure in samples of a population; those that did not converge are left out.
sampled_fit <- function(x, covariance, replicates) {
  n <- x$about$n
  p <- ncol(covariance)
  cells <- x$parts$cells[x$parts$cells$part < core_parts[["intercept"]], ]
  factors <- ncol(x$parts$matrices$factor)
  drawn <- core_sampled_covariances(rescaled_like(covariance, x$parts$implied), n, replicates, random_draws)
  fits <- core_refit(cells, p, factors, drawn, x$parts$theta[seq_len(max(cells$free))], n, FALSE)
  df <- p * (p + 1) / 2 - max(cells$free)
  fine <- which(fits$status == "ok")
  figures <- vapply(fine, function(i) {
    s <- matrix(drawn[, i], p)
    t <- core_chi_square(n, fits$value[i])
    implied <- core_implied(core_structure_matrices(cells, fits$theta[, i], p, factors))
    c(cfi = core_cfi(t, df, core_baseline(s, n)), rmsea = core_rmsea_estimate(t, df, n), srmr = core_srmr(s, implied))
  }, c(cfi = 0, rmsea = 0, srmr = 0))
  as.data.frame(t(figures))
}

# A correlation matrix with the variances of another matrix, at which the search begins.
rescaled_like <- function(r, covariance) r * outer(sqrt(diag(covariance)), sqrt(diag(covariance)))

# One level's bounds: the value that most true samples pass and most wrong ones do not.
level_bounds <- function(true, wrong, here, level, what) {
  figures <- names(here)
  turn <- ifelse(figures == "cfi", -1, 1)
  at <- function(samples, share) unname(turn * mapply(stats::quantile, Map(`*`, samples[figures], turn), share))
  worst <- at(true, .95)
  best <- at(wrong, .05)
  apart <- turn * worst <= turn * best
  hardly <- !apart & turn * at(true, .90) <= turn * at(wrong, .10)
  bound <- ifelse(apart, best, ifelse(hardly, at(wrong, .10), NA))
  code <- ifelse(is.na(bound), "untested", ifelse(turn * here < turn * bound, "met", "missed"))
  judged_table(plain_table(
    level = level, left_out = what, figure = figures, true_worst = worst, wrong_best = best, bound_here = bound,
    passed_by = ifelse(apart, .95, ifelse(hardly, .90, NA)), value = unname(here), verdict = code
  ), verdict = "own_bound")
}

sampled_table <- function(samples, what) {
  at <- function(q) vapply(samples, stats::quantile, 0, probs = q)
  plain_table(sample = what, figure = names(samples), mean = unname(colMeans(samples)), lowest_5 = unname(at(.05)), median = unname(at(.5)),
    highest_5 = unname(at(.95)), samples = nrow(samples))
}

# What holds of RMSEA and CFI with 95% confidence.
equivalence_table <- function(x) {
  f <- x$parts$figures
  judged <- judged_chi_square(x$tables$fit)
  tested <- judged$corrected
  scale <- if (judged$figure == "chi_square") 1 else f$scale
  excess <- function(chi_square, df, at) core_noncentrality(chi_square, df, at)
  baseline <- excess(f$baseline_chi_square, f$baseline_df, .975)
  most <- scale * excess(tested, f$df, .025)
  plain_table(
    figure = c("rmsea", "cfi"), value = c(f$rmsea, f$cfi),
    with_confidence = c(sqrt(scale * excess(tested, f$df, .05) / (f$df * x$about$n)), if (baseline > 0) max(1 - most / max(most, baseline),
      0) else NA),
    side = c("at most", "at least"), level = .95
  )
}
