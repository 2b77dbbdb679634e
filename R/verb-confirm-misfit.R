# Where a confirmation misses: its tables of modifications and of missed correlations.

# What freeing one more loading or residual pair would change, largest index first.
modification_table <- function(cells, fit, basis, items, factors, options, limits) {
  candidates <- core_candidates(cells, length(items), length(factors))
  if (basis$kind == "ordinal") candidates <- rows_of(candidates, !(candidates$part == core_parts[["residual"]] & candidates$row == candidates$column))
  if (nrow(candidates) == 0 || fit$status != "ok" || is.null(fit$covariance)) {
    text <- character()
    number <- numeric()
    return(plain_table(change_of = text, what = text, item = text, with = text, index = number, p.value = number, p_holm = number,
      change = number, standard_change = number, power = number, reading_code = text, reading = text))
  }
  found <- candidate_scores(cells, fit, basis, candidates, length(factors), options)
  found$standard_change <- core_standardise(candidates, found$change, fit$matrices, fit$implied)
  found <- rows_of(found, !is.na(found$index))
  loading <- found$part == core_parts[["loading"]]
  matters <- c(limit(limits, "residual_change")$bound, limit(limits, "loading_change")$bound)[loading + 1]
  power <- core_change_power(found$index, found$standard_change, matters, limit(limits, "score_test_p")$bound / max(nrow(found), 1))
  p <- core_chi_square_p(found$index, 1)
  holm <- stats::p.adjust(p, "holm")
  large <- meets(holm, limits, "score_test_p")
  code <- c("nothing", "too_few_cases")[(!meets(power, limits, "change_power")) + 1]
  code[large] <- c("trivial", "matters")[(abs(found$standard_change[large]) >= matters[large]) + 1]
  reading <- c(nothing = "nothing", too_few_cases = "too few cases to tell", trivial = "large, yet trivial", matters = "large, and it matters")[code]
  out <- plain_table(
    change_of = c("pair", "loading")[loading + 1], what = c("two items share something", "item wants another factor")[loading + 1],
    item = items[replace(found$column, loading, found$row[loading])], with = replace(items[found$row], loading, factors[found$column[loading]]),
    index = found$index, p.value = p, p_holm = holm, change = found$change, standard_change = found$standard_change, power = power,
    reading_code = code,
      reading = reading
  )
  rows_of(out, order(-out$index))
}

# The candidates with index and change.
candidate_scores <- function(cells, fit, basis, candidates, factors, options) {
  if (!is.null(fit$quadratic)) {
    return(core_correlation_scores(cells, fit, basis$s, factors, candidates))
  }
  if (options$estimator == "uls") {
    return(core_uls_scores(cells, fit, basis$s, basis$n, factors, candidates))
  }
  if (options$estimator == "gls") {
    return(core_gls_scores(cells, fit, basis$s, basis$n, factors, candidates))
  }
  core_modifications(cells, fit$theta, basis$s, basis$mean, factors, basis$n, candidates, basis$patterns)
}

# Sample less implied correlations, largest in size first; none is called missed that chance would bring among all of them
# (Holm, 1979).
missed_correlations <- function(fit, basis, z, limits) {
  r <- stats::cov2cor(basis$s)
  left <- core_residual_r(basis$s, fit$implied)
  at <- which(lower.tri(r), arr.ind = TRUE)
  p <- stats::p.adjust(2 * stats::pnorm(-abs(z[at])), "holm")
  large <- !meets(abs(left[at]), limits, "residual_r")
  # Where no error is known nobody can tell it from chance.
  reason <- ifelse(large & is.na(p), "no_error", ifelse(large & !meets(p, limits, "score_test_p"), "chance", ""))
  out <- plain_table(
    item = colnames(r)[at[, 2]], with = rownames(r)[at[, 1]], correlation = r[at], implied = r[at] - left[at], residual = left[at],
    statistic = z[at], p_holm = p, verdict = judge_code(abs(left[at]), limits, "residual_r", reason = reason), verdict_reason = reason
  )
  judged_table(rows_of(out, order(-abs(out$residual))), verdict = "residual_r", reason = "verdict_reason")
}
