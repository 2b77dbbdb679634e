# Which way items point. The majority's direction counts as forward.

# The signs s of +1 and -1 for which s' R s, the variance of the keyed total, is
# largest: by trying all up to `exact` items, above that from the first principal
# axis, improved by turning single items. Ties go to fewer turned items.
core_best_signs <- function(r, exact = 15) {
  k <- ncol(r)
  if (k < 2) {
    return(rep(1, k))
  }
  if (k <= exact) {
    sets <- as.matrix(expand.grid(rep(list(c(1, -1)), k - 1)))
    sets <- cbind(1, sets)
    value <- rowSums((sets %*% r) * sets)
    best <- which(value >= max(value) - 1e-10)
    signs <- sets[best, , drop = FALSE]
    signs <- signs[which.min(rowSums(signs < 0)), ]
  } else {
    axis <- eigen(r, symmetric = TRUE)$vectors[, 1]
    signs <- ifelse(axis < 0, -1, 1)
    for (round in seq_len(100)) {
      gain <- -signs * (r %*% signs - diag(r) * signs)
      if (max(gain) <= 1e-10) break
      signs[which.max(gain)] <- -signs[which.max(gain)]
    }
  }
  unname(if (sum(signs) < 0) -signs else signs)
}

# list(turned, unclear, mean_r, lowest_r, negative): which items point against
# the majority; which are not clear, since their mean correlation with the
# others stays under `clear` or under two standard errors of a correlation in n
# cases; each item's mean correlation with the others, and
# the lowest correlation and the number of negative ones once the clear ones are
# turned. Needs three items; fewer point nowhere.
core_keying <- function(r, n = Inf, clear = .10) {
  k <- ncol(r)
  if (k < 3 || anyNA(r)) {
    return(list(turned = rep(FALSE, k), unclear = rep(TRUE, k), mean_r = rep(NA_real_, k), lowest_r = NA_real_, negative = NA_integer_))
  }
  signs <- core_best_signs(r)
  keyed <- r * outer(signs, signs)
  mean_r <- (rowSums(keyed) - 1) / (k - 1)
  unclear <- mean_r < max(clear, 2 / sqrt(n))
  turned <- signs < 0 & !unclear
  final <- core_turn(r, turned)
  between <- final[lower.tri(final)]
  list(
    turned = turned, unclear = unclear, mean_r = unname((rowSums(final) - 1) / (k - 1)),
    lowest_r = min(between), negative = sum(between < 0)
  )
}

# Covariances after the items in `turned` are reversed.
core_turn <- function(covariance, turned) {
  sign <- ifelse(turned, -1, 1)
  covariance * outer(sign, sign)
}
