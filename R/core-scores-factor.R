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
  # Scores that correlate as the factors do need something of every factor.
  spread <- eigen(crossprod(between), symmetric = TRUE, only.values = TRUE)$values
  tenberge <- if (min(spread) > 1e-10 * max(spread)) half %*% between %*% root(crossprod(between), -.5) %*% upper
  lapply(
    list(regression = inverse %*% structure, bartlett = bartlett, tenberge = tenberge),
    function(w) if (!is.null(w)) `dimnames<-`(w, dimnames(pattern))
  )
}

# Scores of people who may have left items out: each from what they answered. z: standardised
# answers, cases x items; the rest as core_score_weights(). For "regression" this is the mean of the
# factors given the answers seen, under normal answers. list(score, error: standard deviation of
# score less factor), cases x factors; NA where nothing was answered or no score exists.
core_factor_scores <- function(z, r, pattern, correlations, uniqueness, method) {
  score <- error <- matrix(NA_real_, nrow(z), ncol(pattern), dimnames = list(NULL, colnames(pattern)))
  seen <- !is.na(z)
  for (rows in split(seq_len(nrow(z)), apply(seen + 0L, 1, paste, collapse = ""))) {
    on <- which(seen[rows[1], ])
    if (length(on) == 0) next
    # Bartlett's scores take factors one by one: those of which nothing was answered have none.
    k <- if (method == "bartlett") which(colSums(pattern[on, , drop = FALSE] != 0) > 0) else seq_len(ncol(pattern))
    own <- pattern[on, k, drop = FALSE]
    inner <- r[on, on, drop = FALSE]
    among <- correlations[k, k, drop = FALSE]
    weights <- tryCatch(core_score_weights(inner, own, among, uniqueness[on])[[method]], error = function(e) NULL)
    if (is.null(weights) || any(!is.finite(weights))) next
    score[rows, k] <- z[rows, on, drop = FALSE] %*% weights
    error[rows, k] <- rep(core_score_error(inner, own, among, weights)$error, each = length(rows))
  }
  list(score = score, error = error)
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
