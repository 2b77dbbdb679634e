# Factor scores: weights for standardised answers, and how well they do.

# r: correlations; pattern (p x m), correlations of factors, uniqueness. list of weight
# matrices p x m by method: regression (Thurstone, 1935), bartlett (Bartlett, 1937),
# tenberge (correlations of scores equal those of factors; ten Berge, Krijnen, Wansbeek &
# Shapiro, 1999); NULL where a method does not exist.
core_score_weights <- function(r, pattern, correlations, uniqueness) {
  structure <- pattern %*% correlations
  inverse <- chol2inv(chol(r))
  root <- function(x, power) {
    e <- eigen(x, symmetric = TRUE)
    e$vectors %*% (pmax(e$values, 1e-12)^power * t(e$vectors))
  }
  half <- root(r, -.5)
  upper <- root(correlations, .5)
  between <- half %*% pattern %*% upper
  bartlett <- if (all(uniqueness > 1e-8)) {
    weighted <- pattern / uniqueness
    precision <- crossprod(pattern, weighted)
    if (rcond(precision) > 1e-12) weighted %*% solve(precision)
  }
  lapply(
    list(
      regression = inverse %*% structure, bartlett = bartlett, tenberge = half %*% between %*% root(crossprod(between), -.5) %*% upper
    ),
    function(w) if (!is.null(w)) `dimnames<-`(w, dimnames(pattern))
  )
}

# Correlation of each score with its own factor.
core_score_validity <- function(r, pattern, correlations, weights) {
  structure <- pattern %*% correlations
  diag(crossprod(weights, structure)) / sqrt(diag(crossprod(weights, r %*% weights)))
}

# Determinacy: the multiple correlation of each factor with all items (Guttman, 1955),
# the most that any score can reach.
core_determinacy <- function(r, pattern, correlations) {
  structure <- pattern %*% correlations
  sqrt(pmin(diag(crossprod(structure, solve(r, structure))), 1))
}
