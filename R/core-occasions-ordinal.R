# The same structure on several occasions behind ordered answers: thresholds and polychoric
# correlations of each group, diagonally weighted least squares (Muthén, 1993), identified step by
# step as Wu & Estabrook (2016) have it, residual variances one on the first occasion.

# cells: of core_occasion_cells(); categories: of each item (of one wave). Thresholds are cells of
# their own: row the item, column the number of the threshold, base after those of `base_count`.
core_ordered_cells <- function(cells, categories, base_count) {
  at_rest <- cells$kind %in% c("residual variance", "intercept")
  cells$free[at_rest] <- 0L
  cells$value[at_rest] <- (cells$kind[at_rest] == "residual variance") * 1
  items <- length(categories)
  steps <- data.frame(item = rep(seq_len(items), categories - 1L), number = sequence(categories - 1L))
  place <- unique(cells[!is.na(cells$base), c("group", "wave")])
  thresholds <- do.call(rbind, lapply(seq_len(nrow(place)), function(i) {
    same <- function(x) rep_len(x, nrow(steps))
    list2DF(list(
      part = same(core_parts[["threshold"]]), row = steps$item + (place$wave[i] - 1L) * items, column = steps$number, free = same(1L),
      value = same(0), group = same(place$group[i]), wave = same(place$wave[i]), base = base_count + seq_len(nrow(steps)), kind = same("threshold")
    ))
  }))
  open <- cells$free > 0
  cells$free[open] <- match(cells$free[open], unique(cells$free[open]))
  thresholds$free <- max(cells$free) + seq_len(nrow(thresholds))
  rbind(cells, thresholds)
}

# Makes cells of the given kinds equal over occasions, but for those released (base numbers).
# Where at least two thresholds of an item are equal its intercept and residual variance are free
# on later occasions; those of an item with one threshold, once loadings are equal, too.
core_ordered_equal <- function(cells, kinds, released, categories) {
  first <- cells$group == 1 & cells$wave == 1
  later <- !first & !is.na(cells$base)
  item <- (cells$row - 1L) %% length(categories) + 1L
  lasting <- "loading" %in% kinds
  cut <- cells$kind == "threshold"
  kept <- tabulate(item[first & cut & !cells$base %in% released], length(categories))
  joined <- "threshold" %in% kinds & (kept >= 2 | (categories == 2 & kept == 1 & lasting))
  same <- later & !cells$base %in% released & ((cut & joined[item]) | (cells$kind == "loading" & lasting))
  home <- cells$free[first][match(cells$base[same], cells$base[first])]
  cells$free[same] <- home
  open <- function(rows) {
    cells$free[rows] <<- max(cells$free) + seq_len(sum(rows))
  }
  moved <- later & cells$kind %in% c("intercept", "residual variance") & joined[item]
  stays <- (cells$kind == "intercept" & "intercept" %in% kinds) | (cells$kind == "residual variance" & "residual variance" %in% kinds)
  open(moved & (!stays | cells$base %in% released))
  if (lasting) open(later & cells$kind == "factor variance" & cells$free == 0)
  if ("intercept" %in% kinds) open(later & cells$kind == "mean")
  cells$free <- match(cells$free, c(0L, sort(unique(cells$free[cells$free > 0])))) - 1L
  cells
}

# Thresholds over standard deviations and correlations at theta, of each group: list(value,
# jacobian, r: implied correlations, sd).
core_ordered_moments <- function(cells, theta, items, factors, slopes = TRUE) {
  own_cells <- cells[cells$kind != "threshold", ]
  jacobians <- if (slopes) kernel_structure_jacobian(own_cells, items, factors, theta)
  lower <- lower.tri(diag(items), diag = TRUE)
  at <- which(lower, arr.ind = TRUE)
  own <- at[, 1] == at[, 2]
  lapply(unique(cells$group), function(g) {
    m <- core_structure_matrices(own_cells[own_cells$group == g, ], theta, items, factors)
    sigma <- m$loading %*% core_factor_covariance(m) %*% t(m$loading) + m$residual
    mean <- m$intercept + as.vector(m$loading %*% solve(diag(factors) - m$path, m$mean))
    cuts <- cells[cells$group == g & cells$kind == "threshold", ]
    cuts <- cuts[order(cuts$row, cuts$column), ]
    row <- cuts$row
    variance <- diag(sigma)
    if (any(variance <= 0)) {
      return(NULL)
    }
    sd <- sqrt(variance)
    step <- (core_cell_values(cuts, theta) - mean[row]) / sd[row]
    r <- sigma / outer(sd, sd)
    out <- list(value = c(step, r[lower][!own]), r = r, sd = sd)
    if (slopes) {
      j <- matrix(0, nrow(jacobians[[g]]), length(theta))
      j[, seq_len(ncol(jacobians[[g]]))] <- jacobians[[g]]
      spread <- j[-seq_len(items), , drop = FALSE]
      half <- spread[own, , drop = FALSE] / (2 * variance)
      steps <- -j[row, , drop = FALSE] / sd[row] - step * half[row, , drop = FALSE]
      free <- cuts$free > 0
      place <- cbind(which(free), cuts$free[free])
      steps[place] <- steps[place] + 1 / sd[row][free]
      i <- at[!own, 1]
      k <- at[!own, 2]
      pairs <- spread[!own, , drop = FALSE] / (sd[i] * sd[k]) - r[lower][!own] * (half[i, , drop = FALSE] + half[k, , drop = FALSE])
      out$jacobian <- rbind(steps, pairs)
    }
    out
  })
}

# Gauss-Newton search from `start` (values of cells). samples: a list(n, moments, gamma) a group.
# list(status, theta, moments, weights, gamma, inference, raw, implied, decrement, iterations).
core_fit_ordered <- function(cells, samples, items, factors, start, tolerance = 1e-11, max_iterations = 200L) {
  n <- vapply(samples, `[[`, 0, "n")
  observed <- unlist(lapply(samples, `[[`, "moments"))
  w <- unlist(lapply(seq_along(samples), function(g) n[g] / sum(n) / diag(samples[[g]]$gamma)))
  free <- cells$free > 0
  theta <- as.vector(tapply(start[free], factor(cells$free[free], seq_len(max(cells$free))), mean))
  own <- cells$free[free & cells$kind == "residual variance"]
  value_of <- function(theta) {
    if (any(theta[own] < 1e-4)) {
      return(Inf)
    }
    found <- core_ordered_moments(cells, theta, items, factors, FALSE)
    if (any(vapply(found, is.null, TRUE))) Inf else sum(w * (observed - unlist(lapply(found, `[[`, "value")))^2)
  }
  value <- value_of(theta)
  status <- "not_converged"
  decrement <- NA_real_
  for (iteration in seq_len(max_iterations)) {
    found <- core_ordered_moments(cells, theta, items, factors)
    j <- do.call(rbind, lapply(found, `[[`, "jacobian"))
    e <- observed - unlist(lapply(found, `[[`, "value"))
    inverse <- core_inverse_information(kernel_crossproduct(sqrt(w) * j))
    if (is.null(inverse)) {
      status <- "not_identified"
      break
    }
    slope <- as.vector(crossprod(j, w * e))
    step <- as.vector(inverse %*% slope)
    decrement <- sum(slope * step)
    if (decrement < tolerance) {
      status <- "ok"
      break
    }
    size <- 1
    while (size > 1e-6 && value_of(theta + size * step) >= value) size <- size / 2
    if (size <= 1e-6) break
    theta <- theta + size * step
    value <- value_of(theta)
  }
  gamma <- block_diagonal(lapply(seq_along(samples), function(g) samples[[g]]$gamma * sum(n) / n[g]))
  list(
    status = status, theta = theta, discrepancy = value, residuals = e, jacobian = j, weights = w, gamma = gamma, decrement = decrement,
    iterations = iteration, raw = sum(n) * value, implied = lapply(found, `[[`, "r"),
    inference = if (status == "ok") core_weighted_inference(j, w, gamma, sum(n))
  )
}

block_diagonal <- function(blocks) {
  size <- vapply(blocks, nrow, 1L)
  out <- matrix(0, sum(size), sum(size))
  before <- cumsum(c(0, size))
  for (i in seq_along(blocks)) {
    at <- before[i] + seq_len(size[i])
    out[at, at] <- blocks[[i]]
  }
  out
}

# Chi-square of unrelated items, adjusted for mean and variance, over the groups: the part of the
# moments after the thresholds. list(chi_square, df).
core_ordered_baseline <- function(samples) {
  n <- vapply(samples, `[[`, 0, "n")
  parts <- lapply(seq_along(samples), function(g) {
    at <- samples[[g]]$pairs
    gamma <- samples[[g]]$gamma[at, at] * sum(n) / n[g]
    w <- 1 / diag(gamma)
    c(raw = sum(n) * sum(w * samples[[g]]$moments[at]^2), df = length(at), second = kernel_weighted_square(gamma, w))
  })
  total <- Reduce(`+`, parts)
  list(chi_square = core_adjusted_test(total[["raw"]], total[["df"]], total[["df"]], total[["second"]])$chi_square, df = total[["df"]])
}

# Score tests of letting single cells go their own way (`rows`): index, change.
core_ordered_scores <- function(cells, fit, items, factors, rows) {
  apart <- cells
  q <- length(fit$theta)
  value <- core_cell_values(cells, fit$theta)
  apart$free[rows] <- q + seq_along(rows)
  found <- core_ordered_moments(apart, c(fit$theta, value[rows]), items, factors)
  j <- do.call(rbind, lapply(found, `[[`, "jacobian"))[, q + seq_along(rows), drop = FALSE]
  core_weighted_scores(fit$inference, fit$jacobian, fit$weights, fit$gamma, j, fit$residuals)
}

# Expected answers at factor values eta: values of the categories, thresholds between them.
core_expected_answer <- function(eta, values, thresholds, intercept, loading, residual) {
  above <- vapply(thresholds, function(cut) stats::pnorm((intercept + loading * eta - cut) / sqrt(residual)), numeric(length(eta)))
  values[1] + as.vector(matrix(above, length(eta)) %*% diff(values))
}
