# How alike the factors of two explorations are.

congruence_table <- function(x, y, turn, limits) {
  a <- loadings_of(x, "x")
  b <- loadings_of(y, "y")
  if (ncol(a) != ncol(b)) stop_input(message_of("e_x_y_they", a = ncol(a), b = ncol(b)))
  items <- intersect(rownames(a), rownames(b))
  if (length(items) < 3) stop_input(message_of("e_x_y_common", items = length(items)))
  a <- a[items, , drop = FALSE]
  b <- b[items, , drop = FALSE]
  if (turn) b <- `dimnames<-`(core_procrustes(b, a), list(items, colnames(a)))
  to <- core_match_factors(a, b)
  value <- unname(diag(core_congruence(a, sweep(b[, to$order, drop = FALSE], 2, to$sign, "*"))))
  ends <- if (inherits(x, "sw_exploration") && inherits(y, "sw_exploration")) congruence_interval(value, sampled_congruence(x, y, c(x$about$n,
    y$about$n), 100L, x$about$options$seed, turn)) else list(low = NA_real_, high = NA_real_)
  tibble::tibble(factor = colnames(a), matched = colnames(b)[to$order], congruence = value, conf.low = ends$low, conf.high = ends$high,
    items = length(items), verdict = judge_code(value, limits, "congruence", ends$low, ends$high))
}

# Congruence of pairs of samples from two explorations' own correlations, pairs x factors of the first; rows that gave no
# solution are left out, a row of NA where none did. n: their two numbers of people.
sampled_congruence <- function(x, y, n, pairs, seed, turn = FALSE) {
  items <- intersect(rownames(x$parts$pattern), rownames(y$parts$pattern))
  drawn <- list(sampled_loadings(x, n[1], pairs, seed), sampled_loadings(y, n[2], pairs, seed + 1))
  alike <- Map(function(a, b) {
    if (is.null(a) || is.null(b)) {
      return(NULL)
    }
    a <- a[items, , drop = FALSE]
    b <- b[items, , drop = FALSE]
    if (turn) b <- core_procrustes(b, a)
    to <- core_match_factors(a, b)
    diag(core_congruence(a, sweep(b[, to$order, drop = FALSE], 2, to$sign, "*")))
  }, drawn[[1]], drawn[[2]])
  found <- do.call(rbind, alike)
  if (is.null(found)) matrix(NA_real_, 1, ncol(x$parts$pattern)) else found
}

# Loadings of samples of n people from an exploration's correlations, each matched to it.
sampled_loadings <- function(x, n, count, seed) {
  pattern <- x$parts$pattern
  implied <- pattern %*% x$parts$factor_correlations %*% t(pattern)
  diag(implied) <- 1
  if (core_definiteness(implied) < 1e-8 || n <= ncol(implied)) {
    return(vector("list", count))
  }
  drawn <- with_seed(seed, core_sampled_covariances(implied, n, count, random_draws))
  lapply(seq_len(count), function(i) {
    r <- stats::cov2cor(matrix(drawn[, i], nrow(implied)))
    dimnames(r) <- rep(list(rownames(pattern)), 2)
    aligned_solution(r, ncol(pattern), x$parts$settings, pattern)$loadings
  })
}

congruence_interval <- function(value, drawn) {
  if (anyNA(drawn)) {
    return(list(low = NA_real_, high = NA_real_))
  }
  spread <- sweep(drawn, 2, colMeans(drawn))
  list(low = value + apply(spread, 2, stats::quantile, .025, names = FALSE),
    high = pmin(value + apply(spread, 2, stats::quantile, .975, names = FALSE), 1))
}

loadings_of <- function(x, arg) {
  if (inherits(x, "sw_exploration")) {
    return(x$parts$pattern)
  }
  if (!is.matrix(x) || !is.numeric(x) || anyNA(x) || is.null(rownames(x))) {
    stop_input(message_of("e_must_exploration_matrix", arg = arg, x = what_is(x)))
  }
  if (is.null(colnames(x))) colnames(x) <- paste0("F", seq_len(ncol(x)))
  x
}
