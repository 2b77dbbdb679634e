# Which way items point. The majority's direction counts as forward.

# The signs s of +1 and -1 for which s' R s, the variance of the keyed total, is
# largest: by trying all up to `exact` items; above that the best of several searches, from the
# signs of every item's correlations and of the first principal axes, each improved by turning
# one item or two as long as that helps. Ties go to fewer turned items.
core_best_signs <- function(r, exact = 15) {
  k <- ncol(r)
  if (k < 2 || all(r >= 0)) {
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

# Which items point against the majority, surely. list(turned, suspect, tie, unclear, rest, mean_r, lowest_r, negative): `turned`, of
# the minority those whose correlation with the rest of the items, all turned the best way, is above zero beyond
# chance among k items (Fisher's z, one-sided, .05 / k): a good item is hardly ever among them; `suspect`, the minority that
# these cases cannot accuse; `tie`, half against half, which accuses nobody; `unclear`, items whose correlation with the
# rest stays below `bound` even at the upper end of its 95% interval; `rest`, that correlation; then each item's mean correlation
# with the others, the lowest correlation and the number of negative ones once `turned` are turned. Needs three items.
core_keying <- function(r, n = Inf, bound = .30) {
  k <- ncol(r)
  none <- rep(FALSE, k)
  if (k < 3 || anyNA(r)) {
    return(list(turned = none, suspect = none, tie = FALSE, unclear = rep(TRUE, k), rest = rep(NA_real_, k), mean_r = rep(NA_real_, k),
      lowest_r = NA_real_, negative = NA_integer_))
  }
  signs <- core_best_signs(r)
  minority <- signs < 0
  rest <- unname(core_item_rest_r(r * outer(signs, signs)))
  z <- atanh(pmin(pmax(rest, -.9999999), .9999999))
  root <- sqrt(max(n - 3, 1))
  unclear <- tanh(z + core_normal_edge(.95) / root) < bound
  sure <- !unclear & z * root > stats::qnorm(1 - .05 / k)
  half <- sum(minority) * 2 == k
  tie <- half && all(sure[minority])
  turned <- minority & sure & !half
  final <- core_turn(r, turned)
  between <- final[lower.tri(final)]
  list(
    turned = turned, suspect = minority & !turned & !unclear, tie = tie, unclear = unclear, rest = rest,
    mean_r = unname((rowSums(final) - 1) / (k - 1)), lowest_r = min(between), negative = sum(between < 0)
  )
}

# Covariances after the items in `turned` are reversed.
core_turn <- function(covariance, turned) {
  sign <- ifelse(turned, -1, 1)
  covariance * outer(sign, sign)
}
