# Resamples of people who are too many to be held at once.

test_that("people count by a Poisson variate of mean one that follows from who they are, in any order and any parts", {
  set.seed(5)
  x <- matrix(rnorm(500 * 3), 500)
  people <- paste0("person ", seq_len(500))
  add <- function(rows, seed = 2, sums = NULL) core("kernel_add_person_resamples")(x[rows, , drop = FALSE], people[rows], seed, 40, 7, sums)
  whole <- add(1:500)
  order <- sample(500)
  expect_equal(add(order[201:500], sums = add(order[1:200])), whole, tolerance = 1e-12)
  weight <- t(vapply(1:500, function(i) add(i)[1, ], numeric(47)))
  expect_equal(rowSums(weight[, 41:47]), rep(1, 500))
  drawn <- as.vector(weight[, 1:40])
  # 20,000 counts: shares within four standard errors of those of a Poisson variate.
  share <- tabulate(drawn + 1, 6) / length(drawn)
  exact <- stats::dpois(0:5, 1)
  expect_true(all(abs(share - exact) < 4 * sqrt(exact * (1 - exact) / length(drawn))))
  expect_lt(max(abs(stats::cor(weight[, 1:40])[lower.tri(diag(40))])), .25)
  expect_false(isTRUE(all.equal(add(1:500, seed = 3)[, 1:40], whole[, 1:40])))
  found <- core("core_person_resamples")(whole, stats::setNames(c(10, 20, 30), c("a", "b", "c")), 40)
  one <- stats::cov.wt(x, weight[, 4], method = "ML")
  n <- sum(weight[, 4])
  expect_equal(found$replicates[[4]]$covariance, one$cov * n / (n - 1), ignore_attr = TRUE)
  expect_equal(found$replicates[[4]]$mean, c(a = 10, b = 20, c = 30) + one$center, ignore_attr = TRUE)
  rest <- weight[, 42] == 0
  expect_equal(found$left_out[[2]]$covariance, stats::cov(x[rest, ]), ignore_attr = TRUE)
})

test_that("sw_resample() of a table beyond memory has the errors of memory, whatever the order of rows", {
  lite <- local_sqlite(answers = sw_demo("plotholders")$data)
  statistic <- function(m) c(mean_r = mean(stats::cov2cor(m$covariance)[lower.tri(m$covariance)]), first = m$mean[[1]])
  survey <- function(table, ...) sw_survey(sw_table(lite, table, memory = .04), demo_book(), ...)
  run <- function(x, ...) sw_resample(x, statistic, items = "calm", replicates = 600, ...)
  memory <- run(sw_survey(sw_demo("plotholders")$data, demo_book()))
  chunks <- run(survey("answers", id = "id"))
  expect_equal(chunks$estimate, memory$estimate)
  expect_equal(chunks$n, memory$n)
  expect_equal(chunks$std.error, memory$std.error, tolerance = .12)
  expect_equal(chunks[c("conf.low", "conf.high")], memory[c("conf.low", "conf.high")], tolerance = .03)
  turned <- run(survey("SELECT * FROM answers ORDER BY id DESC", id = "id"))
  expect_equal(turned, chunks, tolerance = 1e-8)
  expect_equal(run(survey("answers"), interval = "percentile")$std.error, memory$std.error, tolerance = .12)
  expect_error(sw_resample(survey("answers"), function(x) mean(x), items = "calm", needs = "answers"), class = "scalewort_error_database")
})

test_that("intervals by resampling, of reliability and of a confirmation, are beyond memory those of memory, but for chance", {
  data <- as.data.frame(sw_demo("plotholders")$data)
  lite <- local_sqlite(answers = data)
  memory <- sw_survey(data, demo_book(), id = "id")
  chunks <- sw_survey(sw_table(lite, "answers", memory = .03), demo_book(), id = "id")
  for (interval in c("percentile", "bca")) {
    of <- function(s) tidy(sw_reliability(s, interval = interval, replicates = 800))[c("alpha", "conf.low", "conf.high", "omega_low", "omega_high")]
    expect_equal(of(chunks), of(memory), tolerance = .01)
    changes <- function(s) tidy(sw_reliability(s, interval = interval, replicates = 800), "items")[c("change_low", "change", "change_high")]
    expect_lt(max(abs(changes(chunks) - changes(memory))), .008)
  }
  fit <- function(s) sw_confirm(s, missing = "listwise")
  again <- function(s, ...) sw_resample(fit(s), replicates = 400, ...)
  one <- again(chunks)
  other <- again(memory)
  expect_equal(one[c("kind", "first", "second", "estimate", "n")], other[c("kind", "first", "second", "estimate", "n")], tolerance = 1e-6)
  expect_equal(mean(log(one$std.error / other$std.error)), 0, tolerance = .05)
  expect_lt(abs(again(chunks, "test")$p_bootstrap - again(memory, "test")$p_bootstrap), .03)
})
