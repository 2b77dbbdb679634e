# A confirmation's estimates and test, resampled.

resample_confirmation <- function(x, statistic, replicates, interval, level, seed) {
  statistic <- check_choice(if (is.null(statistic)) "estimates" else statistic, c("estimates", "test"), "statistic")
  check_options("resample", list(needs = "moments", replicates = replicates, interval = interval, level = level, seed = seed))
  if (interval != "percentile") stop_input(message_of("e_resampled_estimates_confirmation"), hint = message_of("e_take_interval_percentile"))
  options <- x$about$options
  plain <- options$estimator %in% c("ml", "robust") && options$missing == "listwise" && is.null(options$weights) && is.null(options$cluster)
  if (is.null(x$parts$source) || !plain || core_has_means(x$parts$cells)) {
    stop_input(message_of("e_only_confirmation_complete"), hint = message_of("e_incomplete_answers_use"))
  }
  if (x$about$status != "ok") stop_input(message_of("e_fit_may_not"), faults = x$notes[1])
  again <- fits_again(x, replicates, seed, turned = statistic == "test")
  if (statistic == "test") resampled_test(x, again) else resampled_estimates(x, again, level)
}

# The structure fitted to resamples of the people; turned: of their answers as the structure would have them.
fits_again <- function(x, replicates, seed, turned) {
  survey <- survey_behind(x)
  items <- rownames(x$parts$observed)
  p <- x$parts
  factors <- ncol(p$matrices$factor)
  if (gives_rows(survey, items) || !goes_by_rows(survey)) {
    answers <- source_complete_rows(survey, items)
    if (turned) answers <- core_turned_answers(answers, p$observed, p$implied)
    return(core_resample_structure(answers, p$cells, factors, p$theta, replicates, seed))
  }
  drawn <- chunk_resamples(survey, items, replicates, seed)$replicates
  core_refit_resamples(drawn, p$cells, factors, p$theta, x$about$n, if (turned) core_turn_to(p$observed, p$implied) else diag(length(items)))
}

resampled_test <- function(x, again) {
  f <- x$parts$figures
  seen <- again$chi_square[is.finite(again$chi_square)]
  tibble::tibble(
    chi_square = f$chi_square, df = f$df, p.value = f$p.value, p_bootstrap = (1 + sum(seen >= f$chi_square)) / (1 + length(seen)),
    n = x$about$n, replicates = length(seen)
  )
}

resampled_estimates <- function(x, again, level) {
  cells <- x$parts$cells
  factors <- ncol(x$parts$matrices$factor)
  fine <- again$status == "ok"
  estimates <- x$tables$estimates
  standard <- vapply(which(fine), function(i) {
    value <- kernel_standardise(cells, nrow(x$parts$observed), factors, again$theta[, i], FALSE, FALSE)$value[[1]]
    standard_signs(value, cells)
  }, numeric(nrow(cells)))
  rows <- which(cells$free > 0 & estimates$kind != "residual variance")
  values <- as.data.frame(t(standard[rows, , drop = FALSE]))
  bounds <- lapply(values, core_percentile_interval, level = level)
  plain_table(
    kind = estimates$kind[rows], first = estimates$first[rows], second = estimates$second[rows], estimate = estimates$standardised[rows],
    std.error = vapply(values, stats::sd, 0) |> unname(), bias = unname(colMeans(values)) - estimates$standardised[rows],
    conf.low = vapply(bounds, `[`, 0, 1) |> unname(), conf.high = vapply(bounds, `[`, 0, 2) |> unname(), n = x$about$n, replicates = sum(fine)
  )
}

# A factor may come out turned round in a resample: signs follow the sum of its loadings.
standard_signs <- function(value, cells) {
  loading <- cells$part == core_parts[["loading"]]
  sign <- tapply(value[loading], cells$column[loading], function(l) if (sum(l) < 0) -1 else 1)
  of <- function(k) {
    known <- sign[as.character(k)]
    unname(ifelse(is.na(known), 1, known))
  }
  value[loading] <- value[loading] * of(cells$column[loading])
  linked <- cells$part == core_parts[["factor"]]
  value[linked] <- value[linked] * of(cells$row[linked]) * of(cells$column[linked])
  value
}
