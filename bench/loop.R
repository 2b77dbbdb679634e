# What a good R user would write: resample rows, take covariances, alpha by its formula,
# omega by minimising the one-factor maximum likelihood discrepancy over the unique
# variances with its gradient.

loop_alpha_omega <- function(x, replicates) {
  t(replicate(replicates, alpha_and_omega(cov(x[sample.int(nrow(x), replace = TRUE), ]))))
}

alpha_and_omega <- function(s) {
  k <- ncol(s)
  sd <- sqrt(diag(s))
  r <- s / outer(sd, sd)
  scaled <- function(psi, ...) eigen(r / sqrt(outer(psi, psi)), symmetric = TRUE, ...)
  loadings <- function(psi, e) sqrt(psi) * e$vectors[, 1] * sqrt(max(e$values[1] - 1, 0))
  discrepancy <- function(psi) {
    rest <- scaled(psi, only.values = TRUE)$values[-1]
    sum(rest - log(rest) - 1)
  }
  gradient <- function(psi) diag(tcrossprod(loadings(psi, scaled(psi))) + diag(psi) - r) / psi^2
  start <- (1 - .5 / k) / diag(solve(r))
  psi <- optim(start, discrepancy, gradient, method = "L-BFGS-B", lower = .005, upper = 1)$par
  common <- sum(sd * loadings(psi, scaled(psi)))^2
  c(alpha = k / (k - 1) * (1 - sum(diag(s)) / sum(s)), omega = common / (common + sum(psi * sd^2)))
}
