# A confirmation's estimates and test, resampled.

resample_confirmation <- function(x, statistic, replicates, interval, level, seed) {
  statistic <- check_choice(if (is.null(statistic)) "estimates" else statistic, c("estimates", "test"), "statistic")
  check_options("resample", list(needs = "moments", replicates = replicates, interval = interval, level = level, seed = seed))
  if (interval != "percentile") stop_input("Resampled estimates of a confirmation have percentile intervals.",
    hint = "Take `interval = \"percentile\"`.")
  options <- x$about$options
  plain <- options$estimator %in% c("ml", "robust") && options$missing == "listwise" && is.null(options$weights) && is.null(options$cluster)
  if (is.null(x$parts$source) || !plain || core_has_means(x$parts$cells)) {
    stop_input("Only a confirmation of complete answers by \"ml\" or \"robust\", without weights, clusters or means, can be resampled.",
      hint = "For incomplete answers use `missing = \"listwise\"`.")
  }
  if (x$about$status != "ok") stop_input("This fit may not be believed: there is nothing to resample.", faults = x$notes[1])
  answers <- source_complete_rows(survey_behind(x), rownames(x$parts$observed))
  if (statistic == "test") resampled_test(x, answers, replicates, seed) else resampled_estimates(x, answers, replicates, level, seed)
}

resampled_test <- function(x, answers, replicates, seed) {
  turned <- core_turned_answers(answers, x$parts$observed, x$parts$implied)
  again <- core_resample_structure(turned, x$parts$cells, ncol(x$parts$matrices$factor), x$parts$theta, replicates, seed)
  f <- x$parts$figures
  seen <- again$chi_square[is.finite(again$chi_square)]
  tibble::tibble(
    chi_square = f$chi_square, df = f$df, p.value = f$p.value, p_bootstrap = (1 + sum(seen >= f$chi_square)) / (1 + length(seen)),
    n = nrow(answers), replicates = length(seen)
  )
}

resampled_estimates <- function(x, answers, replicates, level, seed) {
  cells <- x$parts$cells
  factors <- ncol(x$parts$matrices$factor)
  again <- core_resample_structure(answers, cells, factors, x$parts$theta, replicates, seed)
  fine <- again$status == "ok"
  estimates <- x$tables$estimates
  standard <- vapply(which(fine), function(i) {
    value <- kernel_standardise(cells, ncol(answers), factors, again$theta[, i], FALSE, FALSE)$value[[1]]
    standard_signs(value, cells)
  }, numeric(nrow(cells)))
  rows <- which(cells$free > 0 & estimates$kind != "residual variance")
  values <- as.data.frame(t(standard[rows, , drop = FALSE]))
  bounds <- lapply(values, core_percentile_interval, level = level)
  plain_table(
    kind = estimates$kind[rows], first = estimates$first[rows], second = estimates$second[rows], estimate = estimates$standardised[rows],
    std.error = vapply(values, stats::sd, 0) |> unname(), bias = unname(colMeans(values)) - estimates$standardised[rows],
    conf.low = vapply(bounds, `[`, 0, 1) |> unname(), conf.high = vapply(bounds, `[`, 0, 2) |> unname(), n = nrow(answers), replicates = sum(fine)
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
