# Saturated moments with gaps: their covariance matrix and what follows in a second stage.

lower <- function(m) m[lower.tri(m, diag = TRUE)]

gapped <- function(n = 80, seed = 3) {
  x <- withr::with_seed(seed, matrix(rnorm(n * 3), n) %*% chol(matrix(c(1, .5, .3, .5, 1, .4, .3, .4, 1), 3)))
  colnames(x) <- c("a", "b", "c")
  x[1:15, 1] <- NA
  x[20:30, 2:3] <- NA
  x
}

test_that("of complete answers gamma is the covariance of the products, and correlations follow by the delta method", {
  x <- stats::na.omit(gapped())
  n <- nrow(x)
  d <- sweep(x, 2, colMeans(x))
  z <- t(apply(d, 1, function(row) lower(outer(row, row))))
  z <- sweep(z, 2, colMeans(z))
  em <- core("core_em")(x)
  found <- core("core_meat")(core("core_moment_influence")(x, em, core("core_answer_patterns")(x)))
  expect_equal(unname(found), unname(crossprod(z) / n))
  s <- crossprod(d) / n
  # Jacobian by differences, entry by entry.
  at <- which(lower.tri(s, diag = TRUE), arr.ind = TRUE)
  jacobian <- sapply(seq_len(nrow(at)), function(k) {
    moved <- function(h) {
      s[at[k, 1], at[k, 2]] <- s[at[k, 1], at[k, 2]] + h
      s[at[k, 2], at[k, 1]] <- s[at[k, 1], at[k, 2]]
      lower(cov2cor(s))
    }
    (moved(1e-6) - moved(-1e-6)) / 2e-6
  })
  expect_equal(unname(core("core_correlation_gamma")(found, s * n / (n - 1), n)), jacobian %*% found %*% t(jacobian),
    tolerance = 1e-6, ignore_attr = TRUE)
  # Part of it for some items.
  expect_equal(core("core_gamma_of")(found, 3, c(3, 1)), found[c(6, 3, 1), c(6, 3, 1)])
})

test_that("with gaps the observed information is the curvature of the likelihood, row by row", {
  x <- gapped()
  em <- core("core_em")(x)
  minus_two <- function(theta) {
    s <- matrix(0, 3, 3)
    s[lower.tri(s, diag = TRUE)] <- theta[4:9]
    s <- s + t(s) - diag(diag(s))
    sum(apply(x, 1, function(row) {
      seen <- !is.na(row)
      d <- row[seen] - theta[1:3][seen]
      log(det(s[seen, seen, drop = FALSE])) + sum(d * solve(s[seen, seen, drop = FALSE], d))
    }))
  }
  theta <- c(em$mean, lower(em$covariance))
  h <- 1e-3
  hessian <- outer(1:9, 1:9, Vectorize(function(i, j) {
    step <- function(a, b) {
      moved <- theta
      moved[i] <- moved[i] + a * h
      moved[j] <- moved[j] + b * h
      minus_two(moved)
    }
    (step(1, 1) - step(1, -1) - step(-1, 1) + step(-1, -1)) / (4 * h^2)
  }))
  covariance <- solve(hessian / 2)[4:9, 4:9]
  found <- core("core_observed_gamma")(em, core("core_answer_patterns")(x))
  expect_equal(unname(found) / nrow(x), unname(covariance), tolerance = 1e-3)
})

test_that("a second stage with normal gamma gives back what likelihood says of complete answers", {
  fit <- sw_confirm(sw_demo("plotholders"), sw_structure(calm = paste0("calm", 1:5), craft = paste0("craft", 1:5)), estimator = "ml",
    missing = "listwise")
  p <- 10
  jacobian <- core("core_structure_jacobian")(fit$parts$cells, fit$parts$theta, p, 2)
  gamma <- core("core_normal_gamma")(fit$parts$implied)
  stage <- core("core_second_stage")(jacobian, fit$parts$implied, gamma)
  df <- fit$parts$figures$df
  expect_equal(stage$first, df)
  expect_equal(stage$second, df)
  expect_equal(stage$slopes %*% gamma %*% t(stage$slopes) / fit$about$n, fit$parts$estimates_covariance, tolerance = 1e-6, ignore_attr = TRUE)
  expect_equal(core("core_stage_scale")(jacobian, fit$parts$implied, gamma, df), 1)
})

test_that("errors of alpha and omega by the delta method are those of the formula for complete answers", {
  x <- core("source_complete_rows")(sw_demo("plotholders"), paste0("craft", 1:6))
  gamma <- core("core_meat")(core("core_product_influence")(x, rep(1, nrow(x))))
  n <- nrow(x)
  expect_equal(core("core_delta_error")(core("core_alpha"), cov(x), gamma, n), core("core_alpha_error")(x), tolerance = 2e-3)
  omega <- core("core_omega")(cov(x), n)
  expect_equal(core("core_omega_error")(omega, cov(x), n, gamma = gamma), core("core_omega_error")(omega, cov(x), n, x), tolerance = 5e-3)
})

test_that("a duplicated sample in clusters of two is as sure as the sample alone", {
  x <- gapped()
  gamma_of <- function(x, cluster) {
    em <- core("core_em")(x)
    core("core_meat")(core("core_moment_influence")(x, em, core("core_answer_patterns")(x)), cluster)
  }
  n <- nrow(x)
  expect_equal(gamma_of(rbind(x, x), rep(1:n, 2)) / (2 * n), gamma_of(x, NULL) / n * n / (n - 1), tolerance = 1e-6)
})

test_that("gamma of very many people, some at a time, is that of all at once", {
  x <- gapped()
  em <- core("core_em")(x)
  patterns <- core("core_answer_patterns")(x)
  cluster <- rep(1:16, 5)
  for (of in list(NULL, cluster)) {
    expect_equal(core("core_free_gamma")(x, em, patterns, cluster = of, size = 13), core("core_free_gamma")(x, em, patterns, cluster = of))
  }
})

test_that("moments drawn by gamma spread as it says", {
  x <- gapped(300)
  em <- core("core_em")(x)
  gamma <- core("core_observed_gamma")(em, core("core_answer_patterns")(x))
  drawn <- core("with_seed")(1, core("core_drawn_covariances")(em$covariance, gamma, 300, 4000, core("random_draws")))
  expect_equal(rowMeans(drawn), as.vector(em$covariance), tolerance = .02)
  expect_equal(stats::var(drawn[2, ]), gamma[2, 2] / 300, tolerance = .1)
})

test_that("the spread of complete cases' covariances is the same in parts as at once", {
  x <- withr::with_seed(2, matrix(rexp(1300 * 7), 1300)) + rep(1:7, each = 1300)
  parts <- core("core_fourth_products")(colMeans(x))
  for (rows in list(1:700, 701, integer(), 702:1300)) parts$add(x[rows, , drop = FALSE])
  found <- parts$gamma(cov(x), 1300)
  d <- sweep(x, 2, colMeans(x))
  products <- apply(d, 1, function(row) lower(tcrossprod(row)))
  expect_equal(found, cov(t(products)) * 1299 / 1300, tolerance = 1e-12)
})
