# Which way items point. The majority's direction counts as forward.

# The signs s of +1 and -1 for which s' R s, the variance of the keyed total, is
# largest: by trying all up to `exact` items; above that the best of several searches, from the
# signs of every item's correlations and of the first principal axes, each improved by turning
# one item or two as long as that helps. Ties go to fewer turned items.
core_best_signs <- function(r, exact = 15) {
  k <- ncol(r)
  if (k < 2) {
    return(rep(1, k))
  }
  sets <- if (k <= exact) cbind(1, as.matrix(expand.grid(rep(list(c(1, -1)), k - 1)))) else searched_signs(r)
  value <- rowSums((sets %*% r) * sets)
  sets <- sets[value >= max(value) - 1e-10, , drop = FALSE]
  fewest <- pmin(rowSums(sets < 0), rowSums(sets > 0))
  signs <- sets[which.min(fewest), ]
  unname(if (sum(signs) < 0) -signs else signs)
}

# Ends of the searches, a row each.
searched_signs <- function(r) {
  axes <- eigen(r, symmetric = TRUE)$vectors[, seq_len(min(5, ncol(r)))]
  starts <- rbind(ifelse(t(axes) < 0, -1, 1), ifelse(r < 0, -1, 1))
  unique(t(apply(unique(starts), 1, improved_signs, r = r)))
}

# Turning item i changes s' R s by 4 times gain[i]; turning i and j by that of both and 8 s_i s_j
# r_ij besides.
improved_signs <- function(signs, r) {
  diag(r) <- 0
  for (round in seq_len(1000)) {
    gain <- -signs * as.vector(r %*% signs)
    both <- outer(gain, gain, "+") + 2 * r * outer(signs, signs)
    diag(both) <- gain
    best <- which.max(both)
    if (both[best] <= 1e-10) break
    turned <- unique(c(row(both)[best], col(both)[best]))
    signs[turned] <- -signs[turned]
  }
  signs
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
