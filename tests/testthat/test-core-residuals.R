survey <- sw_demo("plotholders")
plain <- sw_structure(survey)
fit <- sw_confirm(survey, plain)

# The rows about a pair, in either order.
setequal_rows <- function(estimates, case) {
  (estimates$first == case[[1]] & estimates$second == case[[2]]) | (estimates$first == case[[2]] & estimates$second == case[[1]])
}

test_that("the Jacobian of the implied covariances agrees with differences", {
  structure <- sw_structure(a = paste0("i", 1:3), b = paste0("i", 4:6), c = paste0("i", 7:9)) |>
    sw_add_higher("top", c("a", "b", "c")) |>
    sw_add_pair("i1", "i5") |>
    sw_equate(c("i7", "c"), c("i8", "c"))
  items <- paste0("i", 1:9)
  cells <- core("structure_cells")(structure, items, "variance")
  theta <- withr::with_seed(1, runif(max(cells$free), .3, .8))
  matrices <- function(theta) core("core_structure_matrices")(cells, theta, 9, 4)
  implied <- function(theta) {
    x <- matrices(theta)
    sigma <- x$loading %*% core("core_factor_covariance")(x) %*% t(x$loading) + x$residual
    sigma[lower.tri(sigma, diag = TRUE)]
  }
  expect_equal(core("core_structure_jacobian")(cells, theta, 9, 4), differences(implied, theta), tolerance = 1e-6)
})

test_that("standardised residuals are spread like normals when the structure is true", {
  z <- unlist(lapply(1:120, function(i) {
    x <- simulate_answers(400, two_factor_loadings, two_factor_r, seed = i)
    table <- tidy(sw_confirm(sw_moments(as.data.frame(x)), sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))), "residual_correlations")
    table$statistic
  }))
  expect_lt(abs(mean(z, na.rm = TRUE)), .1)
  expect_equal(sd(z, na.rm = TRUE), 1, tolerance = .12)
})

test_that("robust standard errors of residuals are the spread over samples; with missing answers and by uls, too", {
  structure <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
  survey_of <- function(x) sw_survey(as.data.frame(x), data.frame(item = paste0("i", 1:6), scale = "s", lowest = -1e3, highest = 1e3))
  z <- function(fit) {
    table <- fit$tables$residual_correlations
    table$statistic[order(table$item, table$with)]
  }
  draws <- lapply(1:60, function(i) {
    x <- simulate_answers(400, two_factor_loadings, two_factor_r, seed = 900 + i) / sqrt(withr::with_seed(i, rchisq(400, 9)) / 9)
    colnames(x) <- paste0("i", 1:6)
    gone <- x
    gone[withr::with_seed(i, matrix(runif(2400) < .08, 400))] <- NA
    rbind(z(sw_confirm(survey_of(x), structure, estimator = "robust")), z(sw_confirm(survey_of(gone), structure, estimator = "robust")),
      z(sw_confirm(survey_of(gone), structure, estimator = "ml")), z(sw_confirm(survey_of(x), structure, estimator = "uls")))
  })
  spread <- apply(simplify2array(draws), 1:2, sd)
  # Of the four, the first two allow for heavy tails; the others are for normal answers.
  expect_equal(rowMeans(spread)[1:2], c(1, 1), tolerance = .09)
  expect_true(all(rowMeans(spread)[3:4] > 1.05))
  complete <- survey_of(`colnames<-`(simulate_answers(300, two_factor_loadings, two_factor_r, seed = 5), paste0("i", 1:6)))
  expect_equal(z(sw_confirm(complete, structure, missing = "fiml")), z(sw_confirm(complete, structure)), tolerance = .12)
})
