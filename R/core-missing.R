# Missing answers: their patterns, means and covariances by maximum likelihood,
# and whether they are missing completely at random.

# Patterns of missing cells: list(of = pattern number of each row, missing =
# logical matrix patterns x columns, n = rows of each), most frequent first, of equally frequent ones those that miss least.
core_patterns <- function(x) {
  missing <- is.na(x)
  key <- if (ncol(x) <= 50) as.vector(missing %*% 2^(seq_len(ncol(x)) - 1)) else apply(missing, 1, function(m) paste(which(m), collapse = " "))
  distinct <- unique(key)
  of <- match(key, distinct)
  n <- tabulate(of, length(distinct))
  missing <- missing[match(distinct, key), , drop = FALSE]
  order <- pattern_order(n, missing)
  list(of = match(of, order), missing = missing[order, , drop = FALSE], n = n[order])
}

pattern_order <- function(n, missing) do.call(order, c(list(-n, rowSums(missing)), unname(as.data.frame(missing))))

# Means and covariances (divisor n) of normal data with missing cells by the EM
# algorithm (Dempster, Laird & Rubin, 1977), its steps stretched (Varadhan & Roland, 2008).
# list(status, mean, covariance, iterations). Rows without any answer are left
# out. x: n x p; weight: sampling weights of the rows.
core_em <- function(x, weight = NULL, tolerance = 1e-8, max_iterations = 1000L) {
  some <- rowSums(!is.na(x)) > 0
  x <- x[some, , drop = FALSE]
  p <- ncol(x)
  mean <- colMeans(x, na.rm = TRUE)
  spread <- apply(x, 2, stats::var, na.rm = TRUE)
  if (anyNA(mean) || anyNA(spread) || any(spread <= 0)) {
    return(list(status = "too_few_cases", mean = mean, covariance = matrix(NA_real_, p, p), iterations = 0L))
  }
  if (!anyNA(x)) {
    return(complete_likelihood(x, if (is.null(weight)) rep(1, nrow(x)) else weight[some]))
  }
  named_em(kernel_em(core_answer_patterns(x, weight[some]), diag(spread, p), unname(mean), tolerance, max_iterations), colnames(x))
}

# Near a matrix that has no inverse the two halves of what was iterated come apart.
named_em <- function(found, names) {
  covariance <- (found$covariance + t(found$covariance)) / 2
  list(status = if (found$converged) "ok" else "not_converged", mean = stats::setNames(found$mean, names),
    covariance = `dimnames<-`(covariance, if (!is.null(names)) list(names, names)), iterations = found$iterations)
}

# The same without the rows of each group in turn; of: everyone's group, 1, ..., groups; near: what core_em() returned for all rows, each
# of which has an answer.
core_em_without <- function(x, of, groups, near, weight = NULL, tolerance = 1e-8, max_iterations = 1000L) {
  found <- kernel_em_without(x, if (is.null(weight)) numeric() else as.numeric(weight), as.integer(of), as.integer(groups), unname(near$covariance),
    unname(near$mean), tolerance, max_iterations)
  lapply(found, named_em, names = colnames(x))
}

# Where nothing is missing there is nothing to iterate.
complete_likelihood <- function(x, weight) {
  mean <- colSums(x * weight) / sum(weight)
  covariance <- kernel_crossproduct((x - rep(mean, each = nrow(x))) * sqrt(weight)) / sum(weight)
  list(status = "ok", mean = mean, covariance = `dimnames<-`(covariance, list(colnames(x), colnames(x))), iterations = 0L)
}

# The same from patterns alone (see core_answer_patterns()); names: of the columns.
core_em_patterns <- function(patterns, names, tolerance = 1e-8, max_iterations = 1000L) {
  p <- length(names)
  own <- pattern_item_moments(patterns, p)
  mean <- stats::setNames(own$mean, names)
  spread <- own$variance * own$n / (own$n - 1)
  if (any(own$n < 2) || any(spread <= 0)) {
    return(list(status = "too_few_cases", mean = mean, covariance = matrix(NA_real_, p, p), iterations = 0L))
  }
  named_em(kernel_em(patterns, diag(spread, p), unname(mean), tolerance, max_iterations), names)
}

# Patterns of x (cases without any answer left out) as the kernel takes them: list(n, seen, mean,
# covariance) each, covariances with divisor n. weight: of the rows; n is then their sum.
core_answer_patterns <- function(x, weight = NULL) {
  some <- rowSums(!is.na(x)) > 0
  storage.mode(x) <- "double"
  kernel_answer_patterns(if (all(some)) x else x[some, , drop = FALSE], if (is.null(weight)) numeric() else as.numeric(weight[some]))
}

# Little's (1988) test that answers are missing completely at random: the
# distance of each pattern's means from the ML means. list(status, statistic, df,
# p, patterns, crowd: people in a pattern with gaps, on average).
core_little <- function(x) {
  x <- x[rowSums(!is.na(x)) > 0, , drop = FALSE]
  little_of(core_em(x), core_answer_patterns(x), nrow(x), ncol(x))
}

# The same from patterns alone.
core_little_patterns <- function(patterns, names) {
  little_of(core_em_patterns(patterns, names), patterns, sum(vapply(patterns, `[[`, 0, "n")), length(names))
}

little_of <- function(em, groups, n, p) {
  none <- list(status = em$status, statistic = NA_real_, df = NA_real_, p = NA_real_, patterns = length(groups))
  if (em$status != "ok" || length(groups) < 2) {
    return(none)
  }
  spread <- em$covariance * n / (n - 1)
  if (core_definiteness(spread) < 1e-10) {
    none$status <- "not_positive_definite"
    return(none)
  }
  distance <- vapply(groups, function(g) {
    gap <- g$mean - em$mean[g$seen]
    g$n * sum(gap * solve(spread[g$seen, g$seen, drop = FALSE], gap))
  }, 0)
  statistic <- sum(distance)
  df <- sum(lengths(lapply(groups, `[[`, "seen"))) - p
  list(
    status = "ok", statistic = statistic, df = df, p = core_chi_square_p(statistic, df),
    patterns = length(groups), crowd = mean(vapply(Filter(function(g) length(g$seen) < p, groups), `[[`, 0, "n"))
  )
}

# Potential scale reduction of chains (Gelman & Rubin, 1992): values, iterations x chains; NA where nothing varies.
core_scale_reduction <- function(values) {
  n <- nrow(values)
  if (n < 2 || ncol(values) < 2) {
    return(NA_real_)
  }
  within <- mean(apply(values, 2, stats::var))
  if (!is.finite(within) || within <= 0) {
    return(NA_real_)
  }
  sqrt((n - 1) / n + stats::var(colMeans(values)) / within)
}
