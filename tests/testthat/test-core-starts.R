# Fits that do not end well at first, and fits that no data could have.

test_that("residual covariances that no data could have make a fit improper, and are named", {
  # Four items of one factor and pairs whose residuals would have to correlate beyond one.
  r <- diag(4)
  r[lower.tri(r)] <- c(.95, .30, .30, .30, .30, .30)
  r[upper.tri(r)] <- t(r)[upper.tri(r)]
  dimnames(r) <- rep(list(letters[1:4]), 2)
  structure <- sw_structure(f = letters[1:4]) |> sw_add_pair("a", "b") |> sw_fix("a", "f", value = .98) |> sw_fix("f", value = 1)
  fit <- sw_confirm(sw_moments(r, n = 200), structure)
  residual <- fit$parts$matrices$residual
  own <- stats::cov2cor(residual)[2, 1]
  expect_equal(fit$about$status, if (abs(own) > 1) "improper" else "ok")
  possible <- core("core_possible")(list(residual = matrix(c(1, 2, 2, 1), 2), factor = diag(1), path = matrix(0)), diag(2))
  expect_equal(unname(possible), c(-1 / 3, 1, 1))
  note <- core("impossible_residuals")(matrix(c(1, -3.25, 0, -3.25, 1, .2, 0, .2, 1), 3), c("x", "y", "z"))[[1]]$words
  expect_match(note, "x and y (-3.250)", fixed = TRUE)
  expect_no_match(note, "z")
})

test_that("small designs end at the same best minimum by either scaling, and searches are counted", {
  different <- 0
  open <- 0
  for (i in 1:30) {
    set.seed(i)
    loadings <- matrix(0, 6, 2)
    loadings[1:3, 1] <- runif(3, .2, .8)
    loadings[4:6, 2] <- runif(3, .2, .8)
    common <- loadings %*% matrix(c(1, .4, .4, 1), 2) %*% t(loadings)
    x <- matrix(rnorm(360), 60) %*% chol(common + diag(1 - diag(common)))
    colnames(x) <- paste0("x", 1:6)
    two <- sw_structure(a = paste0("x", 1:3), b = paste0("x", 4:6))
    fits <- lapply(c("variance", "first"), function(scaling) sw_confirm(sw_moments(as.data.frame(x)), two, scaling = scaling, improper = "bound"))
    status <- vapply(fits, function(f) f$about$status, "")
    open <- open + sum(status == "not_converged")
    if (all(status == "ok")) different <- different + (abs(fits[[1]]$parts$figures$chi_square - fits[[2]]$parts$figures$chi_square) > 1e-4)
    starts <- vapply(fits, function(f) f$about$options$starts, 0L)
    held <- vapply(fits, function(f) tidy(f, "convergence")$verdict[7] == "no", TRUE)
    expect_true(all(starts[held | status != "ok"] > 1))
    expect_true(all(vapply(fits, function(f) f$about$options$reached, 0L) >= 1L))
  }
  expect_equal(different, 0)
  expect_lte(open, 2)
})

test_that("a proper minimum is taken before a lower impossible one, which is said", {
  at <- function(status, value, proper) list(status = status, discrepancy = value, proper = proper)
  ends <- list(at("ok", .1, FALSE), at("not_converged", .05, FALSE), at("ok", .3, TRUE), at("ok", .2, TRUE), at("ok", .2, TRUE))
  turn <- 0
  found <- core("core_best_of_starts")(function(start) {
    turn <<- turn + 1
    ends[[turn]]
  }, 0, function() as.list(1:4), proper = function(f) f$proper)
  expect_equal(found[c("discrepancy", "starts", "reached", "lower")], list(discrepancy = .2, starts = 5L, reached = 2L, lower = TRUE))
  turn <- 2
  one <- core("core_best_of_starts")(function(start) ends[[3]], 0, function() stop("not asked for"), proper = function(f) f$proper)
  expect_equal(one$starts, 1L)
})

test_that("starts are the same every time, and rescaling keeps what a structure implies", {
  survey <- small_survey()
  structure <- sw_structure(survey)
  fit <- sw_confirm(survey, structure, scaling = "first", missing = "listwise")
  items <- rownames(fit$parts$observed)
  cells <- core("structure_cells")(structure, items, "variance")
  theta <- core("core_rescaled_theta")(cells, fit$parts$matrices)
  m <- core("core_structure_matrices")(cells, theta, length(items), length(structure$factors))
  expect_equal(m$loading %*% m$factor %*% t(m$loading) + m$residual, fit$parts$implied, ignore_attr = TRUE)
  start <- core("core_structure_start")(cells, fit$parts$observed, length(structure$factors))
  expect_identical(core("core_further_starts")(cells, start, fit$parts$observed), core("core_further_starts")(cells, start, fit$parts$observed))
})

test_that("a loading that is fixed gives its factor a variance, and no df 0 is judged", {
  set.seed(2)
  f <- rnorm(400)
  style <- rnorm(400, 0, .5)
  sign <- c(1, 1, 1, -1, -1, -1)
  x <- as.data.frame(sapply(1:6, function(j) .7 * sign[j] * f + style + rnorm(400, 0, .6)))
  names(x) <- paste0("q", 1:6)
  structure <- sw_structure(f = names(x), style = names(x)) |> sw_unlink("f", "style")
  for (q in names(x)) structure <- sw_fix(structure, q, "style", value = 1)
  fit <- sw_confirm(sw_moments(x), structure)
  expect_gt(fit$parts$figures$cfi, .99)
  factors <- tidy(fit, "factors")
  expect_equal(factors$estimate[factors$kind == "factor variance" & factors$factor == "style"], .25, tolerance = .25)
  none <- sw_confirm(sw_moments(x), sw_structure(f = names(x)[1:3]))
  verdicts <- tidy(none)$verdict
  expect_equal(unique(verdicts[!is.na(verdicts)]), "untested")
  expect_equal(core("verdict_column")(tidy(none), "verdict")[3], "cannot be tested: df 0")
  expect_match(format(none)[1], "Its fit cannot be tested")
})

test_that("information criteria count the same whether means are spoken of or not, and restricted means cost likelihood", {
  survey <- small_survey()
  items <- core("structure_items")(sw_structure(survey))
  plain <- sw_confirm(survey, missing = "listwise")
  full <- sw_confirm(survey, missing = "fiml")
  complete <- sum(stats::complete.cases(core("source_rows")(survey, items)))
  if (complete == nrow(survey$data)) expect_equal(plain$parts$figures$aic, full$parts$figures$aic, tolerance = 1e-6)
  free <- sw_confirm(survey, sw_add_means(sw_structure(survey)), missing = "listwise")
  expect_equal(free$parts$figures$aic, plain$parts$figures$aic, tolerance = 1e-8)
  strict <- sw_confirm(survey, sw_add_means(sw_structure(survey), equal = items[1:3]), missing = "listwise")
  x <- core("source_rows")(survey, items)
  x <- x[stats::complete.cases(x), ]
  log_density <- function(sigma, mean) {
    d <- sweep(x, 2, mean)
    sum(-.5 * (length(mean) * log(2 * pi) + log(det(sigma)) + rowSums((d %*% solve(sigma)) * d)))
  }
  expect_equal(strict$parts$figures$log_likelihood, log_density(strict$parts$implied, strict$parts$implied_mean))
})
