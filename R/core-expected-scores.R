# Expected factor scores behind ordered answers: the mean of the factors given the answers, and its
# standard deviation, under normal factors and thresholds (Bock & Mislevy, 1982).

# codes: cases x items, categories from 1, NA where missing; thresholds: list by item; loading: p x
# m standardised; phi: correlations of factors. list(score, error, cases x m; precision: how far, in
# standard deviations of a factor, scores may be from exact). NA without any answer. One or two
# factors are summed over a grid; more by importance sampling around each person's mode, with
# points of a low-discrepancy sequence (Halton, 1960) doubled until two halves agree within `within`.
core_expected_scores <- function(codes, thresholds, loading, phi, within = .01, most = 8192L) {
  model <- list(
    loading = loading, unique = sqrt(pmax(1 - diag(loading %*% phi %*% t(loading)), 1e-6)), inverse = chol2inv(chol(phi)),
    cuts = lapply(thresholds, function(cut) c(-Inf, cut, Inf))
  )
  none <- rowSums(!is.na(codes)) == 0
  out <- if (ncol(phi) <= 2) grid_scores(codes, model, phi) else sampled_scores(codes, model, phi, within, most)
  out$score[none, ] <- out$error[none, ] <- NA
  out
}

# Log of each person's probability of their answers at points (a list of matrices persons x points, by
# factor: where each stands), without the factors' own density.
answer_log_likelihood <- function(codes, model, points) {
  total <- 0
  for (j in seq_along(model$cuts)) {
    middle <- Reduce(`+`, lapply(seq_along(points), function(k) points[[k]] * model$loading[j, k]))
    code <- codes[, j]
    upper <- stats::pnorm((model$cuts[[j]][code + 1] - middle) / model$unique[j])
    lower <- stats::pnorm((model$cuts[[j]][code] - middle) / model$unique[j])
    share <- log(pmax(upper - lower, 1e-300))
    share[is.na(code), ] <- 0
    total <- total + share
  }
  total
}

# Mean and standard deviation of each factor under weights (persons x points).
weighted_moments <- function(mass, points) {
  mass <- mass / rowSums(mass)
  score <- vapply(points, function(at) rowSums(mass * at), numeric(nrow(mass)))
  square <- vapply(points, function(at) rowSums(mass * at^2), numeric(nrow(mass)))
  dim(score) <- dim(square) <- c(nrow(mass), length(points))
  list(score = score, error = sqrt(pmax(square - score^2, 0)))
}

by_rows <- function(rows, size) split(rows, ceiling(seq_along(rows) / size))

grid_scores <- function(codes, model, phi) {
  m <- ncol(phi)
  line <- seq(-6, 6, length.out = if (m == 1) 121 else 49)
  grid <- as.matrix(expand.grid(rep(list(line), m)))
  weights <- log(apply(stats::dnorm(grid), 1, prod))
  nodes <- grid %*% chol(phi)
  score <- error <- matrix(NA_real_, nrow(codes), m)
  for (rows in by_rows(seq_len(nrow(codes)), 200)) {
    points <- lapply(seq_len(m), function(k) matrix(nodes[, k], length(rows), nrow(nodes), byrow = TRUE))
    total <- answer_log_likelihood(codes[rows, , drop = FALSE], model, points) + rep(weights, each = length(rows))
    found <- weighted_moments(exp(total - apply(total, 1, max)), points)
    score[rows, ] <- found$score
    error[rows, ] <- found$error
  }
  list(score = score, error = error, precision = 1e-4)
}

sampled_scores <- function(codes, model, phi, within, most) {
  m <- ncol(phi)
  score <- error <- matrix(NA_real_, nrow(codes), m)
  left <- seq_len(nrow(codes))
  apart <- numeric(nrow(codes))
  count <- 512L
  modes <- posterior_modes(codes, model)
  repeat {
    halves <- list(halton_normal(count, m, 0L), halton_normal(count, m, count))
    for (rows in by_rows(left, max(1, 2e5 %/% count))) {
      two <- lapply(halves, function(z) sampled_moments(codes[rows, , drop = FALSE], model, lapply(modes, `[`, rows), z))
      score[rows, ] <- (two[[1]]$score + two[[2]]$score) / 2
      error[rows, ] <- sqrt((two[[1]]$error^2 + two[[2]]$error^2) / 2)
      apart[rows] <- apply(abs(two[[1]]$score - two[[2]]$score), 1, max) / 2
    }
    left <- left[apart[left] > within / 2]
    if (length(left) == 0 || count >= most) break
    count <- 2L * count
  }
  list(score = score, error = error, precision = max(apart))
}

halton_normal <- function(count, m, skip) {
  primes <- c(2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53)
  uniform <- vapply(primes[seq_len(m)], function(base) core_radical_inverse(seq_len(count) + skip + 20, base), numeric(count))
  stats::qnorm(uniform)
}

# Weighted moments of points around each person's mode, spread a little wider than the curvature there.
sampled_moments <- function(codes, model, modes, z) {
  m <- ncol(z)
  n <- nrow(codes)
  wide <- 1.15
  points <- lapply(seq_len(m), function(k) {
    step <- Reduce(`+`, lapply(seq_len(m), function(l) outer(vapply(modes$root, function(root) root[k, l], 0), z[, l])))
    vapply(modes$at, `[`, 0, k) + wide * step
  })
  prior <- 0
  for (k in seq_len(m)) for (l in seq_len(m)) prior <- prior - model$inverse[k, l] * points[[k]] * points[[l]] / 2
  total <- answer_log_likelihood(codes, model, points) + prior + rep(rowSums(z^2) / 2, each = n)
  weighted_moments(exp(total - apply(total, 1, max)), points)
}

# Mode of the factors given each person's answers, by Fisher scoring, and a root C of the inverse
# information there (C C'). list(at, root), lists by person.
posterior_modes <- function(codes, model) {
  found <- lapply(seq_len(nrow(codes)), function(i) {
    seen <- which(!is.na(codes[i, ]))
    loading <- model$loading[seen, , drop = FALSE]
    eta <- numeric(ncol(loading))
    for (round in seq_len(50)) {
      slope <- item_slopes(model, seen, codes[i, seen], as.vector(loading %*% eta))
      information <- crossprod(loading, slope$information * loading) + model$inverse
      step <- solve(information, crossprod(loading, slope$gradient) - model$inverse %*% eta)
      eta <- eta + as.vector(step) / max(1, max(abs(step)))
      if (max(abs(step)) < 1e-6) break
    }
    list(at = eta, root = t(chol(chol2inv(chol(information)))))
  })
  list(at = lapply(found, `[[`, "at"), root = lapply(found, `[[`, "root"))
}

# Derivative of the log probability of one answer to each item in its middle, and its expected
# information over all answers.
item_slopes <- function(model, seen, code, middle) {
  of <- vapply(seq_along(seen), function(a) {
    j <- seen[a]
    at <- (model$cuts[[j]] - middle[a]) / model$unique[j]
    share <- pmax(diff(stats::pnorm(at)), 1e-12)
    change <- -diff(stats::dnorm(at)) / model$unique[j]
    c(change[code[a]] / share[code[a]], sum(change^2 / share))
  }, numeric(2))
  list(gradient = of[1, ], information = of[2, ])
}

# The digits of whole numbers, mirrored behind the point.
core_radical_inverse <- function(i, base) {
  out <- numeric(length(i))
  size <- 1 / base
  while (any(i > 0)) {
    out <- out + (i %% base) * size
    i <- i %/% base
    size <- size / base
  }
  out
}

# Standard deviation of score less factor, and the squared correlation of the two, for scores that
# are weighted sums of standardised answers.
core_score_error <- function(r, pattern, correlations, weights) {
  with_factor <- diag(crossprod(weights, pattern %*% correlations))
  variance <- diag(crossprod(weights, r %*% weights))
  list(error = sqrt(pmax(variance + 1 - 2 * with_factor, 0)), reliability = with_factor^2 / variance)
}
