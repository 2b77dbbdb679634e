# Tables of a confirmation's parameters.

# Every parameter, free or fixed.
estimate_table <- function(factors, items, cells, fit, basis, options) {
  part <- names(core_parts)[cells$part + 1L]
  own <- cells$row == cells$column
  standard_by <- function(covariance) core_standardised(cells, fit$theta, length(items), length(factors), covariance, basis$kind == "ordinal")
  standard <- standard_by(fit$covariance)
  values_of <- if (options$scaling == "effects") core_effects_values else raw_values
  raw_by <- function(covariance) values_of(cells, fit$theta, covariance)
  raw <- raw_by(fit$covariance)
  # Beyond Inf only of estimates pooled over imputations.
  df_of <- function(error, by) core_pooled_df(error, if (!is.null(fit$within)) by(fit$within)$error, basis$pooled$m, basis$n - 1)
  df <- df_of(raw$error, raw_by)
  quantile <- two_sided_quantile(options$level, df)
  kind <- ifelse(part %in% c("factor", "residual"), paste(part, ifelse(own, "variance", "covariance")), part)
  of_items <- part %in% c("residual", "intercept")
  out <- plain_table(
    kind = kind, first = ifelse(of_items, items[cells$column], factors[cells$column]),
    second = ifelse(part %in% c("loading", "residual", "intercept"), items[cells$row], factors[cells$row]),
    estimate = raw$value, std.error = raw$error, statistic = raw$value / raw$error,
    p.value = 2 * stats::pt(-abs(raw$value / raw$error), df), conf.low = raw$value - quantile * raw$error,
    conf.high = raw$value + quantile * raw$error,
    standardised = standard$value, standardised_error = standard$error, free = raw$free
  )
  if (!is.null(fit$within)) out[c("df", "standardised_df")] <- list(df, df_of(standard$error, standard_by))
  alone <- part %in% c("intercept", "mean")
  out$first[alone] <- out$second[alone]
  out
}

# Half an interval of standardised values, by their own degrees of freedom where they were pooled over imputations.
standard_width <- function(rows, level) {
  two_sided_quantile(level, if (is.null(rows$standardised_df)) Inf else rows$standardised_df) * rows$standardised_error
}

raw_values <- function(cells, theta, covariance) {
  free <- cells$free > 0
  error <- rep(NA_real_, nrow(cells))
  if (!is.null(covariance)) error[free] <- sqrt(pmax(diag(covariance), 0))[cells$free[free]]
  list(value = core_cell_values(cells, theta), error = ifelse(error > 0, error, NA), free = free)
}

loading_table <- function(estimates, fit, items, factors, level, limits, believed) {
  rows <- estimates[estimates$kind %in% c("loading", "path"), ]
  shares <- explained_shares(fit)
  out <- rows[c("first", "second", "estimate", "std.error", "statistic", "p.value", "conf.low", "conf.high", "standardised", "standardised_error")]
  names(out)[1:2] <- c("factor", "item")
  width <- standard_width(rows, level)
  out$standard_low <- out$standardised - width
  out$standard_high <- out$standardised + width
  out$r_squared <- unname(ifelse(rows$kind == "path", shares$factors[match(out$item, factors)], shares$items[match(out$item, items)]))
  out$verdict <- if (believed) loading_verdicts(out, limits)$code else rep(NA_character_, nrow(out))
  judged_table(out, verdict = "loading")
}

# How much of each item, and of each factor below another, is explained.
explained_shares <- function(fit) {
  list(
    items = 1 - diag(fit$matrices$residual) / diag(fit$implied),
    factors = 1 - diag(fit$matrices$factor) / diag(core_factor_covariance(fit$matrices))
  )
}

r_squared_table <- function(fit, items, factors) {
  shares <- explained_shares(fit)
  below <- rowSums(fit$matrices$path != 0) > 0
  plain_table(of = c(items, factors[below]), r_squared = unname(c(shares$items, shares$factors[below])))
}

factor_correlation_table <- function(estimates, level, limits, believed) {
  rows <- estimates[estimates$kind == "factor covariance", ]
  width <- standard_width(rows, level)
  out <- rows[c("first", "second", "standardised")]
  names(out) <- c("factor", "with", "correlation")
  out$std.error <- rows$standardised_error
  out$p.value <- rows$p.value
  out$conf.low <- rows$standardised - width
  out$conf.high <- rows$standardised + width
  out$verdict <- if (believed) correlation_verdicts(out, limits)$code else rep(NA_character_, nrow(out))
  judged_table(out, verdict = "factor_r")
}

# Variances and covariances of factors (what is left of those below another).
factor_table <- function(estimates) {
  rows <- estimates[estimates$kind %in% c("factor variance", "factor covariance", "mean"), ]
  out <- rows[c("kind", "first", "second", "estimate", "std.error", "statistic", "p.value", "conf.low", "conf.high", "standardised",
    "standardised_error")]
  names(out)[2:3] <- c("factor", "with")
  out
}

residual_table <- function(estimates) {
  rows <- estimates[startsWith(estimates$kind, "residual"), ]
  out <- rows[c("first", "second", "estimate", "std.error", "p.value", "standardised", "standardised_error")]
  names(out)[1:2] <- c("item", "with")
  out
}

# Intercepts: the structure's, or the means where it says nothing about them.
intercept_table <- function(estimates, fit, basis, level) {
  rows <- estimates[estimates$kind == "intercept", ]
  if (nrow(rows) > 0) {
    out <- rows[c("second", "estimate", "std.error", "conf.low", "conf.high")]
    names(out)[1] <- "item"
    return(out)
  }
  if (anyNA(basis$mean)) {
    return(plain_table(item = character(), estimate = numeric(), std.error = numeric()))
  }
  error <- unname(sqrt(diag(fit$implied) / basis$n))
  width <- core_normal_edge(level) * error
  plain_table(item = colnames(basis$s), estimate = basis$mean, std.error = error, conf.low = basis$mean - width, conf.high = basis$mean + width)
}

# Thresholds between ordered answers, in standard deviations of what lies behind them.
threshold_table <- function(basis, level) {
  steps <- lengths(basis$thresholds)
  value <- unlist(basis$thresholds, use.names = FALSE)
  width <- two_sided_quantile(level, core_pooled_df(basis$threshold_error, basis$pooled$threshold_error, basis$pooled$m, basis$n - 1)) *
    basis$threshold_error
  plain_table(
    item = rep(names(basis$thresholds), steps), step = sequence(steps), estimate = value, std.error = basis$threshold_error,
    conf.low = value - width, conf.high = value + width
  )
}

# What was looked at before anything is believed.
convergence_table <- function(fit, options, items, factors) {
  possible <- core_possible(fit$matrices, fit$implied)
  residual <- diag(fit$matrices$residual)
  holds <- c(fit$status == "ok", !is.null(fit$covariance), min(residual) >= -1e-12, possible > -1e-9, length(fit$held) == 0)
  plain_table(
    check = c("the minimum was reached", "the information matrix can be inverted", "no negative residual variance", "residual covariances possible",
      "factor covariances possible", "implied covariances possible", "no parameter at a bound"),
    value = c(fit$decrement, if (is.null(fit$covariance)) NA else 1, min(residual), possible, length(fit$held)),
    what = c("decrement left", "1 if so", "smallest residual variance", rep("smallest eigenvalue over the largest", 3), "parameters held"),
    verdict = ifelse(holds, "yes", "no")
  )
}
