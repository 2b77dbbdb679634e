# Figures that were wrong, each against what it has to be.

survey <- sw_demo("plotholders")

test_that("composites do not depend on the order of the subscales", {
  items <- tidy(sw_composites(survey, replicates = 0), "items")
  turned <- sw_structure(survey)
  turned$factors <- rev(turned$factors)
  other <- tidy(sw_composites(survey, turned, replicates = 0), "items")
  expect_equal(other$weight[match(items$item, other$item)], items$weight)
})

test_that("HTMT takes the size of correlations, not their sign", {
  r <- matrix(c(1, .7, -.6, -.6, .7, 1, -.6, -.6, -.6, -.6, 1, .7, -.6, -.6, .7, 1), 4)
  blocks <- list(a = 1:2, b = 3:4)
  expect_equal(core("core_htmt")(r, blocks)[1, 2], .6 / .7)
  expect_equal(core("core_htmt")(r, blocks, geometric = TRUE)[1, 2], .6 / .7)
  x <- simulate_answers(300, kronecker(diag(2), c(.8, .8)) |> `dimnames<-`(list(letters[1:4], c("f", "g"))), matrix(c(1, -.9, -.9, 1), 2))
  drawn <- core("core_resample_htmt")(x, blocks, 60, 1)
  turned <- core("core_resample_htmt")(sweep(x, 2, c(1, 1, -1, -1), "*"), blocks, 60, 1)
  expect_equal(drawn, turned)
  # One resample by hand.
  counts <- core("core_draw_counts")(300, 1, 0)
  expect_equal(drawn[1, 2], core("core_htmt")(cor(x[rep(1:300, counts), ]), blocks)[1, 2])
  expect_equal(core("core_resample_htmt")(x, blocks, 3, 1, geometric = TRUE)[1, 2],
    core("core_htmt")(cor(x[rep(1:300, counts), ]), blocks, TRUE)[1, 2])
})

test_that("stratified alpha and tests between alphas rest on one set of people", {
  for (missing in c("listwise", "fiml")) {
    found <- tidy(sw_reliability(survey, missing = missing), "composite")
    x <- core("source_rows")(survey)
    s <- if (missing == "fiml") core("core_em")(x)$covariance else cov(x[complete.cases(x), ])
    scales <- core("survey_scales")(survey)
    totals <- sapply(scales, function(a) sapply(scales, function(b) sum(s[a, b])))
    alpha <- sapply(scales, function(a) length(a) / (length(a) - 1) * (1 - sum(diag(s[a, a])) / sum(s[a, a])))
    expect_equal(found$reliability[1], 1 - sum(diag(totals) * (1 - alpha)) / sum(totals), info = missing)
    expect_equal(found$n[1], if (missing == "fiml") sum(rowSums(!is.na(x)) > 0) else sum(complete.cases(x)), info = missing)
  }
})

test_that("the best keying of sixteen items is found as by trying all", {
  for (i in 1:12) {
    r <- withr::with_seed(i, cor(matrix(rnorm(16 * 20), 20)))
    size <- function(s) sum(outer(s, s) * r)
    expect_equal(size(core("core_best_signs")(r)), size(core("core_best_signs")(r, exact = 16)), info = as.character(i))
  }
})

test_that("generalised least squares looks from several starts and counts them", {
  found <- lapply(1:6, function(i) {
    r <- withr::with_seed(i, cor(matrix(rnorm(40 * 8), 40) + rnorm(40) * .8))
    core("core_extract")(r, 2, "gls")
  })
  expect_true(all(vapply(found, `[[`, 0L, "starts") == 18L))
  # No single start goes lower.
  for (i in 1:6) {
    r <- withr::with_seed(i, cor(matrix(rnorm(40 * 8), 40) + rnorm(40) * .8))
    ml <- core("core_extract")(r, 2, "ml")$uniqueness
    one <- core("kernel_extract")(r, 2, pmin(pmax(ml, .01), .99), list(method = "gls", lower_bound = .005, tolerance = 1e-9, max_iterations = 200L))
    expect_gte(one$discrepancy, found[[i]]$discrepancy - 1e-7)
  }
})

test_that("hull never takes the last point, and says when it cannot say", {
  hull <- core("core_hull")
  expect_equal(hull(0:4, c(.1, .6, .9, .95, .94), c(0, 6, 11, 15, 18))$factors, 2)
  expect_true(is.na(hull(0:2, c(.1, .95, .94), c(0, 6, 11))$factors))
  x <- withr::with_seed(1, matrix(rnorm(300 * 6), 300) + rnorm(300))
  colnames(x) <- letters[1:6]
  rules <- tidy(sw_retention(sw_moments(as.data.frame(x)), replicates = 50))
  own <- rules[rules$rule == "hull", ]
  expect_true(is.na(own$suggestion) || own$suggestion == 1)
  if (is.na(own$suggestion)) expect_match(own$looked_at, "undefined")
})

test_that("seconds per item are of all items shown", {
  all <- tidy(sw_answering(survey, time = "seconds"), "cases")
  fewer <- tidy(sw_answering(sw_drop(survey, items = c("calm6", "kin5"), reason = "fewer"), time = "seconds"), "cases")
  both <- intersect(fewer$id, all$id)
  expect_gt(length(both), 20)
  expect_equal(fewer$seconds_per_item[match(both, fewer$id)], all$seconds_per_item[match(both, all$id)])
})

test_that("composite reliability without an item is of raw scores, as the one with it", {
  held <- sw_confirm(survey, missing = "listwise")
  items <- tidy(sw_validity(held, replicates = 0), "items")
  l <- tidy(held, "loadings")
  own <- l[l$factor == "craft" & l$item != "craft3", ]
  residual <- tidy(held, "residuals")
  left <- sum(residual$estimate[residual$item %in% own$item & residual$item == residual$with])
  expect_equal(items$reliability_without[items$item == "craft3"], sum(own$estimate)^2 / (sum(own$estimate)^2 + left))
})

test_that("robust tests with restricted means are centred on the sample's means throughout", {
  few <- sw_keep(survey, items = c("calm", "craft"), reason = "fewer")
  structure <- sw_add_means(sw_structure(few), equal = list(c("craft1", "craft5")))
  fit <- sw_confirm(few, structure, estimator = "robust", missing = "listwise")
  p <- fit$parts
  x <- core("source_rows")(few, rownames(p$observed))
  x <- x[complete.cases(x), ]
  d <- sweep(x, 2, colMeans(x))
  # Trace of U Gamma by definition: weight of the saturated moments, and their covariances.
  at <- which(lower.tri(p$observed, diag = TRUE), arr.ind = TRUE)
  z <- cbind(d, sapply(seq_len(nrow(at)), function(k) d[, at[k, 1]] * d[, at[k, 2]]))
  gamma <- crossprod(sweep(z, 2, colMeans(z))) / nrow(z)
  inverse <- solve(p$implied)
  q <- ncol(x)
  w <- matrix(0, ncol(z), ncol(z))
  w[1:q, 1:q] <- inverse
  for (a in seq_len(nrow(at))) for (b in seq_len(nrow(at))) {
    i <- at[a, ]
    j <- at[b, ]
    each <- inverse[i[1], j[1]] * inverse[i[2], j[2]] + inverse[i[1], j[2]] * inverse[i[2], j[1]]
    w[q + a, q + b] <- each / 2 * (if (i[1] == i[2]) .5 else 1) * (if (j[1] == j[2]) .5 else 1) * 2
  }
  delta <- core("core_structure_jacobian")(p$cells, p$theta, q, 2)
  u <- w - w %*% delta %*% solve(t(delta) %*% w %*% delta) %*% t(delta) %*% w
  expect_equal(p$figures$scale, sum(u * gamma) / p$figures$df, tolerance = 1e-4)
})

test_that("structures that are not identified in one group are not compared over groups", {
  expect_error(sw_invariance(survey, sw_structure(a = "calm1", b = c("craft1", "craft2", "craft4")), by = "district"), "not identified",
    class = "scalewort_error_structure")
  expect_error(sw_invariance(survey, sw_structure(a = c("calm1", "calm2")), by = "district"), "not identified", class = "scalewort_error_structure")
})

test_that("what failed raw has an answer or a sentence", {
  expect_s3_class(sw_explore(survey, 1, errors = "bootstrap", replicates = 40), "sw_exploration")
  book <- survey$codebook
  book$items$scale[book$items$item == "calm6"] <- "alone"
  lone <- sw_survey(survey$data, book)
  for (interval in c("percentile", "bca")) {
    table <- tidy(sw_reliability(lone, interval = interval, replicates = 100))
    expect_true(is.na(table$conf.low[table$scale == "alone"]))
    expect_lt(table$conf.low[table$scale == "craft"], table$alpha[table$scale == "craft"])
  }
  one <- sw_survey(data.frame(a = rep(1:5, 10)), data.frame(item = "a", scale = "s", lowest = 1, highest = 5))
  expect_error(autoplot(sw_screen(one)), "no correlations to draw", class = "scalewort_error_input")
  page <- withr::local_tempfile(fileext = ".html")
  expect_error(sw_report(list(sw_screen(one)), page), NA)
  gone <- survey$data
  gone$calm1 <- NA
  curves <- sw_option_curves(sw_survey(gone, survey$codebook))
  expect_false(any(is.nan(tidy(curves, "curves")$share)))
})
