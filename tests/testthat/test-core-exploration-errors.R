# A population of nine items on three correlated factors, one of them crossing.
population <- local({
  l <- matrix(0, 9, 3)
  l[cbind(1:9, rep(1:3, each = 3))] <- c(.8, .7, .6, .75, .65, .7, .6, .7, .8)
  l[2, 2] <- .3
  phi <- matrix(.3, 3, 3) + diag(.7, 3)
  s <- l %*% phi %*% t(l)
  diag(s) <- 1
  s
})

errors_of <- function(r, n, extraction, rotation) {
  e <- core("core_extract")(r, 3L, extraction)
  turned <- core("core_rotate")(e$loadings, rotation)
  list(turned = turned, errors = core("core_loading_errors")(n, turned$loadings, turned$correlations, e$uniqueness, extraction, turned))
}

test_that("standard errors of one factor are those of a confirmation of it", {
  r <- tcrossprod(c(.8, .7, .6, .5, .75))
  diag(r) <- 1
  dimnames(r) <- list(letters[1:5], letters[1:5])
  e <- core("core_extract")(r, 1L)
  turned <- core("core_rotate")(e$loadings, "none")
  ours <- core("core_loading_errors")(300, abs(turned$loadings), matrix(1), e$uniqueness, "ml", turned)
  # Standardised loadings of a one-factor model by the delta method, from the information
  # matrix of loadings and unique variances on covariances (Lawley & Maxwell, 1971).
  l <- c(.8, .7, .6, .5, .75)
  psi <- 1 - l^2
  v <- solve(r)
  slope <- c(lapply(1:5, function(i) {
    u <- replace(numeric(5), i, 1)
    outer(u, l) + outer(l, u)
  }), lapply(1:5, function(i) diag(replace(numeric(5), i, 1))))
  information <- 150 * outer(1:10, 1:10, Vectorize(function(a, b) sum(diag(v %*% slope[[a]] %*% v %*% slope[[b]]))))
  covariance <- solve(information)
  # lambda / sqrt(lambda^2 + psi): slopes psi and -lambda / 2 at unit variance
  se <- vapply(1:5, function(i) {
    g <- c(psi[i], -l[i] / 2)
    sqrt(drop(g %*% covariance[c(i, i + 5), c(i, i + 5)] %*% g))
  }, 0)
  expect_equal(as.vector(ours$loadings), se, tolerance = 1e-6)
})

test_that("standard errors are the spread over samples", {
  n <- 600
  root <- chol(population)
  for (case in list(c("ml", "oblimin"), c("minres", "geomin"), c("ml", "varimax"))) {
    truth <- errors_of(population, n, case[1], case[2])
    draws <- withr::with_seed(11, replicate(250, {
      r <- cor(matrix(rnorm(n * 9), n) %*% root)
      e <- core("core_extract")(r, 3L, case[1])
      turned <- core("core_rotate")(core("core_procrustes")(e$loadings, truth$turned$loadings), case[2], starts = 1L)
      m <- core("core_matched")(truth$turned$loadings, turned$loadings, turned$correlations)
      c(m$loadings, m$correlations[lower.tri(diag(3))])
    }))
    ratio <- as.vector(truth$errors$loadings) / apply(draws[1:27, ], 1, sd)
    expect_lt(abs(mean(ratio) - 1), .05)
    expect_true(all(ratio > .8 & ratio < 1.25))
    if (case[2] != "varimax") {
      expect_equal(truth$errors$correlations[lower.tri(diag(3))], apply(draws[28:30, ], 1, sd), tolerance = .15)
    }
  }
})

test_that("where there is no formula, or no interior solution, it is said", {
  expect_equal(errors_of(population, 300, "ml", "promax")$errors$status, "no_formula")
  expect_equal(errors_of(population, 300, "alpha", "oblimin")$errors$status, "no_formula")
  heywood <- matrix(c(1, .9, .9, .9, 1, .7, .9, .7, 1), 3)
  e <- core("core_extract")(heywood, 1L)
  turned <- core("core_rotate")(e$loadings, "none")
  expect_equal(core("core_loading_errors")(100, turned$loadings, matrix(1), e$uniqueness, "ml", turned)$status, "at_bound")
})

test_that("analytic and bootstrap errors agree on the same answers", {
  survey <- small_survey(n = 500)
  analytic <- tidy(sw_explore(survey, 2), "estimates")
  drawn <- tidy(sw_explore(survey, 2, errors = "bootstrap", replicates = 300), "estimates")
  expect_equal(drawn$estimate, analytic$estimate)
  expect_equal(nrow(analytic), 13)
  expect_lt(max(abs(drawn$std.error / analytic$std.error - 1)), .35)
  expect_lt(abs(mean(drawn$std.error / analytic$std.error) - 1), .1)
  expect_true(all(drawn$conf.low < drawn$estimate & drawn$estimate < drawn$conf.high))
  poly <- tidy(sw_explore(survey, 2, extraction = "minres", correlation = "polychoric"), "estimates")
  expect_lt(abs(mean(poly$std.error / analytic$std.error) - 1), .25)
})
