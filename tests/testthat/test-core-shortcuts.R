# What a shortcut finds is what the long way gives.

people <- function(n, p, seed) {
  set.seed(seed)
  x <- outer(rnorm(n), rep(.7, p)) + matrix(rnorm(n * p), n)
  `colnames<-`(x, paste0("i", seq_len(p)))
}

test_that("products shared among threads are the plain ones, to the same digit for any number of threads", {
  set.seed(1)
  a <- matrix(rnorm(300 * 250), 300)
  b <- matrix(rnorm(250 * 400), 250)
  by_threads <- lapply(c("1", "2"), function(threads) {
    withr::local_envvar(SCALEWORT_THREADS = threads)
    list(core("kernel_product")(a, b), core("kernel_crossproduct")(b), core("kernel_inverse")(crossprod(b[, 1:240])))
  })
  expect_identical(by_threads[[1]], by_threads[[2]])
  expect_equal(by_threads[[1]][[1]], a %*% b, tolerance = 1e-13)
  expect_equal(by_threads[[1]][[2]], crossprod(b), tolerance = 1e-13)
  expect_equal(by_threads[[1]][[3]] %*% crossprod(b[, 1:240]), diag(240), tolerance = 1e-6)
  # Sizes that no piece divides; and many more rows than columns.
  a <- matrix(rnorm(301 * 517), 301)
  b <- matrix(rnorm(517 * 403), 517)
  expect_equal(core("kernel_product")(a, b), a %*% b, tolerance = 1e-13)
  expect_equal(core("kernel_crossproduct")(b), crossprod(b), tolerance = 1e-13)
  tall <- matrix(rnorm(8701 * 37), 8701)
  expect_equal(core("kernel_crossproduct")(tall), crossprod(tall), tolerance = 1e-13)
})

test_that("what is left over, and score tests, of a fit with weights are those of the whole matrices", {
  set.seed(5)
  m <- 150
  j <- matrix(rnorm(m * 4), m)
  w <- runif(m, .5, 2)
  gamma <- crossprod(matrix(rnorm(200 * m), 200)) / 200
  scale <- runif(m, .5, 1)
  at <- core("core_weighted_inference")(j, w, gamma, 300)
  hat <- diag(m) - j %*% solve(crossprod(j, w * j), t(w * j))
  e <- as.vector(hat %*% rnorm(m))
  left <- hat %*% gamma %*% t(hat)
  found <- core("kernel_weighted_left")(core("weighted_fit")(at, j, w, gamma), scale, e)
  expect_equal(found$diagonal, diag(left), tolerance = 1e-10)
  scaled <- left * outer(scale, scale)
  expect_equal(c(found$square, found$form), c(sum(scaled^2), sum(e * (scaled %*% e))), tolerance = 1e-10)
  expect_equal(c(at$first, at$second, at$whole), {
    u <- (w * hat) %*% gamma
    c(sum(diag(u)), sum(u * t(u)), sum(t(w * gamma) * (w * gamma)))
  }, tolerance = 1e-10)
  # Candidates of the moments after the first two rows, one of them among the free parameters.
  jc <- cbind(c(0, 0, replace(numeric(m), 3:40, rnorm(38))), c(5, 5, j[, 2]), c(0, 0, replace(numeric(m), 7, 1)))
  scores <- core("core_weighted_scores")(at, j, w, gamma, jc, e, c(0L, 0L, seq_len(m)))
  own <- hat %*% jc[-(1:2), ]
  slope <- colSums(w * own * e)
  expect_equal(scores$change[-2], (slope / colSums(w * own * own))[-2], tolerance = 1e-10)
  expect_equal(scores$index[-2], (300 * slope^2 / colSums(w * own * (gamma %*% (w * own))))[-2], tolerance = 1e-10)
  expect_true(is.na(scores$index[2]))
})

test_that("moments without each group are those of the others, weighted or not", {
  x <- people(90, 4, 2)
  of <- rep_len(1:7, 90)
  own <- runif(90, .5, 2)
  found <- core("core_moments_without")(x, of, 7)
  weighted <- core("core_moments_without")(x, of, 7, own)
  for (g in 1:7) {
    left <- x[of != g, ]
    expect_equal(found[[g]]$covariance, cov(left), tolerance = 1e-12)
    n <- nrow(left)
    expect_equal(weighted[[g]]$covariance, cov.wt(left, own[of != g] / sum(own[of != g]), method = "ML")$cov * n / (n - 1), tolerance = 1e-12)
  }
})

test_that("moments without each part of many rows are those of the others that are complete, reversed, left out and on two threads, too", {
  x <- round(people(150000, 3, 5) * 2)
  columns <- list(a = as.integer(x[, 1]), b = x[, 2], c = as.integer(x[, 3]))
  columns$a[7:30] <- NA
  part <- rep_len(c(0L, 3L, 1L, 2L), 150000)
  for (threads in c("1", "2")) {
    withr::local_envvar(SCALEWORT_THREADS = threads)
    found <- core("core_moments_without_parts")(columns, c(0, 9, 0), c(1, -1, 1), part, 3)
    keyed <- cbind(a = columns$a, b = 9 - columns$b, c = columns$c)
    for (g in 1:3) {
      left <- stats::na.omit(keyed[part > 0 & part != g, ])
      expect_equal(found[[g]]$n, nrow(left))
      expect_equal(found[[g]]$mean, colMeans(left), tolerance = 1e-12)
      expect_equal(found[[g]]$covariance, cov(left), tolerance = 1e-12)
    }
  }
})

test_that("patterns are gathered in order, with weighted moments", {
  x <- people(60, 3, 3)
  x[1:20, 1] <- NA
  x[21:25, 2:3] <- NA
  x[26, 3] <- NA
  w <- runif(60, .5, 2)
  found <- core("core_answer_patterns")(x, w)
  expect_equal(lapply(found, `[[`, "seen"), list(1:3, 2:3, 1L, 1:2))
  expect_equal(found[[2]]$n, sum(w[1:20]))
  expect_equal(found[[2]]$covariance, unname(cov.wt(x[1:20, 2:3], w[1:20] / sum(w[1:20]), method = "ML")$cov), tolerance = 1e-12)
  expect_equal(found[[4]]$mean, unname(x[26, 1:2]))
  expect_true(all(found[[4]]$covariance == 0))
})

test_that("likelihood without each group, begun near its end, ends where it does from afar; complete answers need no iteration", {
  x <- people(120, 5, 4)
  colnames(x) <- letters[1:5]
  complete <- core("core_em")(x)
  expect_equal(complete$covariance, cov(x) * 119 / 120, tolerance = 1e-12)
  expect_identical(complete$iterations, 0L)
  x[cbind(sample(120, 40), rep_len(1:5, 40))] <- NA
  of <- rep_len(1:6, 120)
  for (weight in list(NULL, runif(120, .5, 2))) {
    far <- core("core_em")(x, weight)
    without <- core("core_em_without")(x, of, 6, far, weight)
    for (g in 1:6) {
      alone <- core("core_em")(x[of != g, ], weight[of != g])
      expect_equal(without[[g]][c("status", "mean", "covariance")], alone[c("status", "mean", "covariance")], tolerance = 1e-6)
    }
    expect_lt(core("core_em_without")(x, rep(1:2, c(1, 119)), 1, far, weight)[[1]]$iterations, far$iterations)
  }
  # Without anybody who answers an item otherwise there is no solution.
  x[of != 2, 3] <- 1
  expect_identical(core("core_em_without")(x, of, 6, core("core_em")(x))[[2]]$status, "not_converged")
})

test_that("the same content has the same hash, whatever R wrote it, and other content another", {
  hash <- core("hash_of")
  x <- data.frame(a = c(1, 2, NA), b = c("x", "y", NA))
  file <- withr::local_tempfile()
  saveRDS(x, file)
  expect_identical(hash(readRDS(file)), hash(x))
  expect_false(hash(x) == hash(x[3:1, ]))
  expect_match(hash(x), "^[0-9a-f]{32}$")
})

test_that("a general factor looked for beside another is the one found from many starts", {
  set.seed(5)
  x <- rnorm(400) %o% rep(.6, 12) + (matrix(rnorm(1200), 400) %x% t(rep(.5, 4))) + matrix(rnorm(4800, 0, .6), 400)
  whole <- core("core_general_factor")(cor(x), 3)
  parts <- lapply(1:4, function(g) cor(x[rep_len(1:4, 400) != g, ]))
  near <- core("core_general_near")(parts, whole)
  for (g in 1:4) expect_equal(near[[g]]$general, core("core_general_factor")(parts[[g]], 3)$general, tolerance = 1e-5)
})

test_that("noncentralities and quantiles stand where the distribution says, small and large", {
  for (of in list(c(10, 3), c(2500, 1200), c(1e5, 170), c(8, 40))) for (at in c(.05, .95)) {
    found <- core("core_noncentrality")(of[1], of[2], at)
    if (found > 0) expect_equal(pchisq(of[1], of[2], ncp = found), at, tolerance = 1e-8) else expect_lte(pchisq(of[1], of[2]), at)
    expect_equal(pchisq(core("quantile_noncentral")(at, of[2], of[1]), of[2], ncp = of[1]), at, tolerance = 1e-8)
  }
})

test_that("the slopes of a rotation's constraints are zero-crossings of its minimum, and those without rotation have a closed form", {
  set.seed(6)
  loadings <- kronecker(diag(3), matrix(.7, 4, 1)) + rnorm(36, 0, .1)
  rotated <- core("core_rotate")(loadings, "oblimin", normalise = "none")
  criterion <- list(criterion = "oblimin", parameter = 0, target = matrix(0, 1, 1), oblique = TRUE)
  slopes <- core("kernel_constraint_slopes")(rotated$loadings, rotated$correlations, criterion, TRUE, FALSE)
  expect_equal(dim(slopes), c(6, 36 + 3))
  # Turned a little, loadings and correlations move along the constraint's slope by what the criterion's own gradient changes.
  constraint <- function(l, phi) {
    g <- core("kernel_criterion")(l, "oblimin", 0, matrix(0, 1, 1))$gradient
    inner <- crossprod(l, g) %*% solve(phi)
    inner[row(inner) != col(inner)]
  }
  step <- matrix(rnorm(36), 12) * 1e-6
  per_step <- function(moved, from) (moved - from) * 1e6
  expect_equal(as.vector(slopes[, 1:36] %*% as.vector(step)) * 1e6, per_step(constraint(rotated$loadings + step, rotated$correlations),
    constraint(rotated$loadings, rotated$correlations)), tolerance = 1e-4)
  plain <- core("unrotated_jacobian")(loadings, rep(.5, 12))
  at <- function(l, psi) crossprod(l, l / psi)[lower.tri(diag(3))]
  expect_equal(as.vector(plain[, 1:36] %*% as.vector(step)) * 1e6, per_step(at(loadings + step, rep(.5, 12)), at(loadings, rep(.5, 12))),
    tolerance = 1e-4)
  expect_equal(as.vector(plain[, 37:48] %*% rep(1, 12)), per_step(at(loadings, rep(.5, 12) + 1e-6), at(loadings, rep(.5, 12))), tolerance = 1e-4)
})

test_that("products of a structure's slopes are those of its Jacobian, with means and paths", {
  structure <- sw_structure(a = paste0("i", 1:4), b = paste0("i", 5:8), c = paste0("i", 9:12)) |> sw_add_higher("top", c("a", "b", "c"))
  cells <- core("core_free_intercepts")(core("structure_cells")(structure, paste0("i", 1:12), "variance", rep(1, 12)), 12)
  theta <- seq(.3, .9, length.out = max(cells$free))
  jacobian <- core("core_structure_jacobian")(cells, theta, 12, 4L)
  expect_equal(core("core_jacobian_products")(cells, theta, 12, 4L), crossprod(jacobian), tolerance = 1e-12)
})

test_that("rows and columns of a judged table stay judged; tables are stacked with their kinds", {
  table <- core("judged_table")(core("plain_table")(a = 1:3, b = c(.1, NA, .3), nothing = NULL), b = "alpha")
  expect_named(table, c("a", "b"))
  expect_identical(attr(table[2:3, ], "judged"), attr(table, "judged"))
  expect_identical(attr(table[c("b", "a")], "judged"), attr(table, "judged"))
  expect_identical(table[["a"]], 1:3)
  below <- core("stacked")(list(table, NULL, core("plain_table")(a = 4L, b = NA)))
  expect_identical(below, list2DF(list(a = 1:4, b = c(.1, NA, .3, NA))))
})

test_that("influence on ordered answers added up in parts is that of all at once, gaps and people without answers too", {
  set.seed(12)
  x <- matrix(findInterval(rnorm(900 * 4) + rnorm(900), c(-1, 0, 1)), 900)
  x[sample(length(x), 300)] <- NA
  x[7, ] <- NA
  columns <- stats::setNames(as.data.frame(x), letters[1:4])
  whole <- core("core_polychoric")(columns, covariance = TRUE)
  codes <- lapply(seq_along(columns), function(j) match(columns[[j]], whole$values[[j]]))
  part <- function(rows, sums) core("kernel_add_ordered_influence")(lapply(codes, `[`, rows), whole, whole$cases, sums)
  sums <- part(501:900, part(1:500, NULL))
  expect_equal(whole$cases, sum(rowSums(!is.na(x)) > 0))
  expect_equal(core("core_spread_of_influence")(sums, whole$cases), whole$covariance, tolerance = 1e-12)
  # The diagonal over n is the squared error, whether or not people without answers are there.
  error <- sqrt(diag(whole$covariance)[-seq_len(sum(lengths(whole$thresholds)))] / whole$cases)
  expect_equal(error, whole$std_error[lower.tri(whole$std_error)], tolerance = .05)
  without <- core("core_polychoric")(columns[rowSums(!is.na(x)) > 0, ], covariance = TRUE)
  expect_equal(without$covariance, whole$covariance, tolerance = 1e-12)
})

test_that("alpha's error from products of four answers is that from single cases", {
  set.seed(13)
  x <- matrix(rexp(300 * 5), 300) + rexp(300)
  gamma <- core("core_meat")(core("core_product_influence")(x, rep(1, 300)))
  expect_equal(core("core_alpha_error_of")(stats::cov(x), gamma, 300), core("core_alpha_error")(x), tolerance = 1e-12)
})

test_that("scores spread the same over all cases at once and over parts of them", {
  set.seed(14)
  x <- matrix(rnorm(60), 20)
  parts <- function(each) lapply(split(1:20, rep(1:3, c(5, 9, 6))), function(rows) each(x[rows, , drop = FALSE]))
  score <- function(x) cbind(x[, 1] * x[, 2], x[, 3]^2)
  one <- core("core_meats")(x, 20)
  other <- core("core_meats")(parts, 20)
  expect_equal(other$whole(score), one$whole(score))
  expect_equal(other$whole(score), crossprod(score(x)) / 20)
  expect_equal(other$diagonal(score), diag(one$whole(score)))
})

test_that("tails of large noncentralities are those that R adds up, and stand where a sum of normal squares does beyond what R can", {
  tail <- core("noncentral_tail")
  for (of in list(c(10300, 1, 1e4), c(20400, 2, 2e4), c(30100, 170, 3e4), c(101500, 1225, 1e5))) {
    for (upper in c(FALSE, TRUE)) {
      expect_equal(tail(of[1], of[2], of[3], upper), pchisq(of[1], of[2], ncp = of[3], lower.tail = !upper), tolerance = 1e-7)
    }
  }
  # Third moments say what is left of the normal distribution (Cornish & Fisher, 1938).
  df <- 1225
  ncp <- 1.47e7
  z <- qnorm(.05)
  skew <- sqrt(8) * (df + 3 * ncp) / (df + 2 * ncp)^1.5
  edge <- df + ncp + sqrt(2 * (df + 2 * ncp)) * (z + skew * (z^2 - 1) / 6)
  expect_equal(tail(edge, df, ncp), .05, tolerance = 1e-5)
  expect_silent(found <- core("core_noncentrality")(edge, df, .05))
  expect_equal(found, ncp, tolerance = 1e-8)
})
