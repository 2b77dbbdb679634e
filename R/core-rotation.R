# Rotation: from an unrotated loading matrix to a pattern with its factor
# correlations. Every rotation returns
# list(status, loadings, correlations, transform, value, values).

# Weights that bring each item's communality to one (Kaiser, 1958).
kaiser_weights <- function(loadings) {
  weight <- sqrt(rowSums(loadings^2))
  ifelse(weight > 0, weight, 1)
}

criterion_numbers <- c(crawford_ferguson = 0L, oblimin = 1L)

core_rotate <- function(loadings, rotation, normalise = "kaiser", starts = 30L, seed = 1,
                        gamma = 0, power = 4) {
  if (ncol(loadings) < 2 || rotation == "none") {
    return(unrotated(loadings))
  }
  weight <- if (normalise == "kaiser") kaiser_weights(loadings) else rep(1, nrow(loadings))
  a <- loadings / weight
  out <- switch(rotation,
    varimax = core_projection(a, "crawford_ferguson", 1 / nrow(a), FALSE, starts, seed),
    promax = core_promax(a, power, starts, seed),
    oblimin = core_projection(a, "oblimin", gamma, TRUE, starts, seed)
  )
  out$loadings <- out$loadings * weight
  rownames(out$loadings) <- rownames(loadings)
  out
}

unrotated <- function(loadings) {
  one <- diag(ncol(loadings))
  list(
    status = "ok", loadings = loadings, correlations = one, transform = one,
    value = NA_real_, values = numeric()
  )
}

core_projection <- function(a, criterion, parameter, oblique, starts, seed) {
  out <- kernel_rotate(a, criterion_numbers[[criterion]], parameter, oblique, starts, seed)
  out$status <- status_word(out$status)
  out
}

# Promax (Hendrickson & White, 1964): a varimax pattern, each loading raised to
# `power` with its sign kept, is the target of a least-squares oblique turn.
core_promax <- function(a, power, starts, seed) {
  start <- core_projection(a, "crawford_ferguson", 1 / nrow(a), FALSE, starts, seed)
  target <- sign(start$loadings) * abs(start$loadings)^power
  turn <- qr.solve(start$loadings, target)
  length_of_axes <- sqrt(diag(solve(crossprod(turn))))
  turn <- turn %*% diag(length_of_axes)
  start$loadings <- start$loadings %*% turn
  start$transform <- start$transform %*% t(solve(turn))
  start$correlations <- crossprod(start$transform)
  start
}

# Factors in order of the variance they explain, each turned so that its
# loadings sum to a positive number. Takes and returns list(loadings,
# correlations); `order` and `sign` say what was done.
core_order_factors <- function(loadings, correlations) {
  explained <- core_variance_explained(loadings, correlations)
  order <- order(explained, decreasing = TRUE)
  sign <- ifelse(colSums(loadings[, order, drop = FALSE]) < 0, -1, 1)
  list(
    loadings = sweep(loadings[, order, drop = FALSE], 2, sign, "*"),
    correlations = correlations[order, order, drop = FALSE] * outer(sign, sign),
    order = order, sign = sign
  )
}

# Sum over items of pattern times structure, a factor's share of the common
# variance; the shares add up to the sum of communalities.
core_variance_explained <- function(loadings, correlations) {
  colSums(loadings * (loadings %*% correlations))
}
