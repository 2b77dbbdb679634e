# What an exploration leaves over, and how much of it chance would leave: residual correlations over their standard errors,
# what freeing a residual pair would change, and a test that allows for polychoric correlations.

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
