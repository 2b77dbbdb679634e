items <- paste0("i", 1:6)
two <- sw_structure(one = paste0("i", 1:3), two = paste0("i", 4:6))
x <- `colnames<-`(simulate_answers(500, two_factor_loadings, two_factor_r, seed = 301), items)
survey <- sw_survey(as.data.frame(x), data.frame(item = items, scale = rep(c("one", "two"), each = 3), lowest = -99, highest = 99))
weights_of <- function(r, blocks, regress, leads, scheme = "path") core("core_block_weights")(r, blocks, regress, leads, scheme, 1e-12)

test_that("one block in mode A is its first principal component", {
  r <- cor(x)
  found <- weights_of(r, list(1:6), FALSE, matrix(0L, 1, 1))
  axis <- eigen(r)$vectors[, 1]
  axis <- axis * sign(sum(axis)) / sqrt(eigen(r)$values[1])
  expect_equal(found$weight[, 1], axis, tolerance = 1e-6)
})

test_that("two blocks in mode B are canonical variates, by any scheme", {
  r <- cor(x)
  a <- 1:3
  b <- 4:6
  root <- eigen(solve(r[a, a]) %*% r[a, b] %*% solve(r[b, b]) %*% r[b, a])
  weight <- Re(root$vectors[, 1])
  weight <- weight / sqrt(as.numeric(weight %*% r[a, a] %*% weight))
  for (scheme in c("path", "factor", "centroid")) {
    found <- weights_of(r, list(a, b), c(TRUE, TRUE), rbind(c(0L, 1L), c(0L, 0L)), scheme)
    expect_true(found$converged)
    expect_equal(abs(found$weight[a, 1]), abs(weight), tolerance = 1e-5)
    expect_equal(as.numeric(found$weight[, 1] %*% r %*% found$weight[, 2]), sqrt(Re(root$values[1])), tolerance = 1e-8)
  }
})

test_that("two blocks in mode A are where weights and correlations with the other composite agree", {
  r <- cor(x)
  found <- weights_of(r, list(1:3, 4:6), c(FALSE, FALSE), rbind(c(0L, 1L), c(0L, 0L)))
  w <- found$weight
  expect_equal(diag(t(w) %*% r %*% w), c(1, 1))
  toward <- r[1:3, 4:6] %*% w[4:6, 2]
  expect_equal(unname(w[1:3, 1] / toward[, 1]), rep(unname(w[1, 1] / toward[1, 1]), 3), tolerance = 1e-8)
})

test_that("the consistent correction gives back common factors", {
  exact <- sw_composites(sw_moments(two_factor_implied, n = 500), two, consistent = TRUE, replicates = 0)
  expect_equal(tidy(exact, "correlations")$correlation, .4, tolerance = 1e-6)
  expect_equal(tidy(exact, "items")$loading, c(.8, .7, .6, .75, .65, .55), tolerance = 1e-6)
  expect_equal(tidy(exact, "composites")$ave[1], (.64 + .49 + .36) / 3, tolerance = 1e-6)
  plain <- sw_composites(sw_moments(two_factor_implied, n = 500), two, replicates = 0)
  rho <- tidy(plain, "composites")$rho_a
  expect_equal(tidy(plain, "correlations")$correlation, .4 * sqrt(prod(rho)), tolerance = 1e-6)
})

test_that("paths are regressions of the composites' scores, and intervals those of a plain loop", {
  v <- sw_composites(survey, two, leads = list(two = "one"), replicates = 120)
  scores <- augment(v)
  path <- tidy(v, "paths")
  expect_equal(path$estimate, unname(coef(lm(scores$two_composite ~ scores$one_composite))[2]), tolerance = 1e-6)
  expect_equal(sd(scores$one_composite), 1, tolerance = 1e-8)
  expect_equal(tidy(v, "composites")$r_squared[2], path$estimate^2, tolerance = 1e-8)
  loop <- vapply(0:119, function(i) {
    y <- x[rep(1:500, core("core_draw_counts")(500, 1, i)), ]
    abs(weights_of(cor(y), list(1:3, 4:6), c(FALSE, FALSE), rbind(c(0L, 1L), c(0L, 0L)))$weight[, 1] %*% cor(y) %*%
      weights_of(cor(y), list(1:3, 4:6), c(FALSE, FALSE), rbind(c(0L, 1L), c(0L, 0L)))$weight[, 2])
  }, 0)
  expect_equal(c(path$conf.low, path$conf.high), quantile(loop, c(.025, .975), names = FALSE), tolerance = 1e-4)
  mixed <- sw_composites(survey, two, mode = c(two = "B"), leads = list(two = "one"), replicates = 0)
  expect_equal(tidy(mixed, "composites")$mode, c("A", "B"))
  expect_true(is.na(tidy(mixed, "composites")$ave[2]))
  expect_match(paste(mixed$notes, collapse = " "), "mode B")
})

test_that("what cannot be a composite is said", {
  expect_error(sw_composites(survey, sw_add_loading(two, "i5", "one")), class = "scalewort_error_structure")
  expect_error(sw_composites(survey, two, mode = "C"), class = "scalewort_error_input")
  expect_error(sw_composites(survey, two, leads = list(two = "one", one = "two")), "circle")
  expect_error(sw_composites(survey, two, leads = list(three = "one")), class = "scalewort_error_input")
  expect_error(sw_composites(survey, two, scheme = "star"), class = "scalewort_error_input")
})

test_that("the answer claims AVE only of composites that have one", {
  survey <- sw_demo("plotholders")
  structure <- sw_structure(craft = paste0("craft", 1:6), kinship = paste0("kin", 1:5))
  say <- function(mode) headline_of(sw_composites(survey, structure, mode = mode, replicates = 20))
  expect_match(say("A"), "^Every composite reaches the bound of AVE")
  expect_false(grepl("AVE", say("B")))
})
