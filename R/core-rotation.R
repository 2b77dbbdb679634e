# Rotation: from an unrotated loading matrix to a pattern with its factor
# correlations.

# Weights that bring each item's communality to one (Kaiser, 1958).
kaiser_weights <- function(loadings) {
  weight <- sqrt(rowSums(loadings^2))
  ifelse(weight > 0, weight, 1)
}

# The criterion behind a rotation of p items and m factors: list(criterion, parameter,
# target, oblique). Varimax is Crawford-Ferguson with kappa 1/p, quartimax 0, equamax
# m/(2p), parsimax (m - 1)/(p + m - 2).
core_criterion <- function(rotation, p, m, gamma = 0, epsilon = .01, kappa = 0, target = NULL, oblique = TRUE) {
  orthomax <- function(kappa) list(criterion = "crawford_ferguson", parameter = kappa, target = matrix(0, 1, 1), oblique = FALSE)
  other <- function(criterion, parameter = 0, goal = matrix(0, 1, 1), turn = oblique) {
    list(criterion = criterion, parameter = parameter, target = goal, oblique = turn)
  }
  switch(rotation,
    varimax = , promax = orthomax(1 / p), quartimax = orthomax(0), equamax = orthomax(m / (2 * p)), parsimax = orthomax((m - 1) / (p + m - 2)),
    crawford_ferguson = other("crawford_ferguson", kappa), oblimin = other("oblimin", gamma, turn = TRUE),
    quartimin = other("oblimin", 0, turn = TRUE), geomin = other("geomin", epsilon), infomax = other("infomax"),
    target = other("target", goal = target), bigeomin = other("bigeomin", epsilon, turn = FALSE)
  )
}

# list(status, loadings, correlations, transform, value, values, criterion, normalised,
# stepwise, minima): `values` where each random start ended (from 20 starts on four times as many where fewer than three
# come to the best); `minima` the distinct ones, a list of
# list(value, times, loadings, correlations), lowest first. Arguments after `power` go
# to core_criterion().
core_rotate <- function(loadings, rotation, normalise = "kaiser", starts = 30L, seed = 1, power = 4, ..., threads = 0L) {
  if (ncol(loadings) < 2 || rotation == "none" || (rotation == "bigeomin" && ncol(loadings) < 3)) {
    return(unrotated(loadings))
  }
  weight <- if (normalise == "kaiser" && rotation != "target") kaiser_weights(loadings) else rep(1, nrow(loadings))
  a <- loadings / weight
  criterion <- core_criterion(rotation, nrow(a), ncol(a), ...)
  out <- core_projection(a, criterion, starts, seed, threads)
  # A place that hardly any start comes to may not be the lowest.
  if (starts >= 20 && best_times(out) < 3) out <- core_projection(a, criterion, 4 * starts, seed, threads)
  if (rotation == "promax") out <- core_promax(out, power)
  out$minima <- lapply(out$minima, function(x) within_weights(x, weight, loadings))
  out$criterion <- criterion
  out$normalised <- normalise == "kaiser" && rotation != "target"
  out$stepwise <- rotation == "promax"
  within_weights(out, weight, loadings)
}

# How many starts came to the best minimum.
best_times <- function(rotated) if (length(rotated$minima) > 0) rotated$minima[[1]]$times else 0L

within_weights <- function(x, weight, like) {
  x$loadings <- x$loadings * weight
  rownames(x$loadings) <- rownames(like)
  x
}

unrotated <- function(loadings) {
  one <- diag(ncol(loadings))
  list(
    status = "ok", loadings = loadings, correlations = one, transform = one,
    value = NA_real_, values = numeric(), minima = list(), criterion = list(criterion = "none", oblique = FALSE),
    normalised = FALSE, stepwise = FALSE
  )
}

# All starts of a gradient projection, the best kept.
core_projection <- function(a, criterion, starts, seed, threads = 0L) {
  out <- kernel_rotate(a, criterion, as.integer(starts), seed, threads)
  out$minima <- distinct_minima(a, out$values, out$transforms, criterion$oblique)
  out$transforms <- NULL
  out
}

# Minima that differ by more than a millionth, lowest first, with how many starts reached
# each.
distinct_minima <- function(a, values, transforms, oblique) {
  order <- order(values, na.last = NA)
  if (length(order) == 0) {
    return(list())
  }
  sorted <- values[order]
  group <- cumsum(c(TRUE, diff(sorted) > 1e-6 * (1 + abs(utils::head(sorted, -1)))))
  lapply(split(order, group), function(members) {
    t <- transforms[[members[1]]]
    list(
      value = values[members[1]], times = length(members), loadings = if (oblique) a %*% t(solve(t)) else a %*% t,
      correlations = crossprod(t)
    )
  }) |> unname()
}

# Promax (Hendrickson & White, 1964): a varimax pattern, each loading raised to
# `power` with its sign kept, is the target of a least-squares oblique turn.
core_promax <- function(start, power) {
  goal <- sign(start$loadings) * abs(start$loadings)^power
  turn <- qr.solve(start$loadings, goal)
  length_of_axes <- sqrt(diag(solve(crossprod(turn))))
  turn <- turn %*% diag(length_of_axes)
  start$loadings <- start$loadings %*% turn
  start$transform <- start$transform %*% t(solve(turn))
  start$correlations <- crossprod(start$transform)
  start$minima <- list()
  start
}

# Factors in order of the variance they explain, each turned so that its
# loadings sum to a positive number. Takes and returns list(loadings,
# correlations); `order` and `sign` say what was done. `fixed`: factors that keep their
# place in front (a general factor).
core_order_factors <- function(loadings, correlations, fixed = 0) {
  explained <- core_variance_explained(loadings, correlations)
  explained[seq_len(fixed)] <- Inf
  order <- order(explained, decreasing = TRUE)
  sign <- ifelse(colSums(loadings[, order, drop = FALSE]) < 0, -1, 1)
  list(
    loadings = sweep(loadings[, order, drop = FALSE], 2, sign, "*"),
    correlations = correlations[order, order, drop = FALSE] * outer(sign, sign),
    order = order, sign = sign
  )
}

# Factors of a target turned so that the loadings it leaves free sum to a positive number; where a factor's aims are not all 0 they say which way
# it is turned. Takes and returns list(loadings, correlations).
core_face_target <- function(loadings, correlations, target) {
  open <- is.na(target)
  unaimed <- colSums(target != 0, na.rm = TRUE) == 0
  sign <- ifelse(unaimed & colSums(loadings * open) < 0, -1, 1)
  list(loadings = sweep(loadings, 2, sign, "*"), correlations = correlations * outer(sign, sign))
}

# Sum over items of pattern times structure, a factor's share of the common
# variance; the shares add up to the sum of communalities.
core_variance_explained <- function(loadings, correlations) {
  colSums(loadings * (loadings %*% correlations))
}

# Two rotated factors as directions in the plane that they span, its axes being the
# principal axes of the items there (what an unrotated solution would show): list(items:
# p x 2 places, axes: 2 x 2, a factor's direction per row).
core_plane <- function(loadings, correlations, pair) {
  root <- chol(correlations[pair, pair])
  places <- loadings[, pair, drop = FALSE] %*% t(root)
  turn <- svd(places, nu = 0)$v
  turn <- sweep(turn, 2, ifelse(colSums(places %*% turn) < 0, -1, 1), "*")
  list(items = places %*% turn, axes = t(root) %*% turn)
}
