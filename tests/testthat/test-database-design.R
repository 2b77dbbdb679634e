# People with weights and in clusters who are too many to be held at once: the tables of memory.

designed_data <- function() {
  set.seed(4)
  data <- as.data.frame(sw_demo("plotholders")$data)
  data$w <- round(exp(rnorm(nrow(data), 0, .5)), 3)
  data$school <- sample(sprintf("s%02d", 1:30), nrow(data), TRUE)
  data$w[5] <- NA
  data
}

test_that("weights and clusters count beyond memory as they do in memory", {
  data <- designed_data()
  lite <- local_sqlite(answers = data)
  for (design in list(list(weight = "w", cluster = "school"), list(weight = "w"), list(cluster = "school"))) {
    survey <- function(of) do.call(sw_survey, c(list(of, demo_book(), id = "id", group = "district"), design))
    memory <- survey(data)
    # Three columns of all people fit, not more.
    chunks <- survey(sw_table(lite, "answers", memory = .03))
    expect_s3_class(chunks$source, "chunks_source")
    # Far out, p of fits differ by more than the fits.
    same <- function(work, but = character()) {
      one <- work(chunks)
      other <- work(memory)
      for (table in setdiff(names(other$tables), but)) {
        expect_equal(one$tables[[table]], other$tables[[table]], tolerance = 1e-6, info = paste(toString(design), class(one)[1], table))
      }
    }
    gamma <- function(s, ...) core("as_moments")(s, names(sw_demo("plotholders")$answers)[1:6], spread = TRUE, ...)$gamma
    expect_equal(gamma(chunks), gamma(memory), tolerance = 1e-7)
    expect_equal(gamma(chunks, missing = "listwise"), gamma(memory, missing = "listwise"), tolerance = 1e-7)
    same(sw_screen)
    # A jackknife over other groups of people.
    same(sw_reliability, "general")
    general <- function(s) sw_reliability(s)$tables$general
    here <- general(memory)
    beyond <- general(chunks)
    expect_equal(beyond$omega_hierarchical, here$omega_hierarchical, tolerance = 1e-6)
    width <- function(x) x$hierarchical_high - x$hierarchical_low
    expect_true(all(abs(log(width(beyond) / width(here))) < log(2)))
    same(function(s) sw_confirm(s, estimator = "robust"))
    same(function(s) sw_confirm(s, estimator = "robust", missing = "listwise"))
    # Clusters have people in both groups.
    for (missing in c("auto", "listwise")) same(function(s) sw_invariance(s, by = "district", missing = missing))
  }
  expect_error(sw_score(survey(sw_table(lite, "answers", memory = .03)), form = "t"), NA)
  # Somebody without a weight is set aside, which a statement cannot do.
  expect_error(sw_score(sw_survey(sw_table(lite, "answers", memory = .03), demo_book(), id = "id", weight = "w")), "set aside",
    class = "scalewort_error_database")
})

test_that("scores that the database works out have weighted norms, and percentiles among the people of all shards", {
  data <- designed_data()
  data$w[5] <- 1
  lite <- local_sqlite(answers = data)
  forms <- c("z", "t", "percentile")
  memory <- sw_score(sw_survey(data, demo_book(), id = "id", weight = "w"), c("mean", "sum"), form = forms)
  table <- tidy(memory)
  by_hand <- stats::cov.wt(as.matrix(stats::na.omit(data.frame(memory$tables$scores$calm_mean))), data$w[!is.na(memory$tables$scores$calm_mean)],
    method = "ML")
  n <- table$n[1]
  expect_equal(c(table$mean[1], table$sd[1]), c(by_hand$center, sqrt(by_hand$cov * n / (n - 1))), ignore_attr = TRUE)
  expect_equal(table$sem[1], table$sd[1] * sqrt(1 - table$reliability[1]))
  both <- stats::na.omit(cbind(memory$tables$scores$calm_mean, memory$tables$scores$craft_mean, data$w))
  r <- tidy(memory, "correlations")
  expect_equal(r$calm_mean[r$score == "craft_mean"], stats::cov.wt(both[, 1:2], both[, 3] / sum(both[, 3]), cor = TRUE)$cor[2])
  same <- function(connections, name, ..., of = memory) {
    asked <- sw_score(sw_survey(sw_table(connections, name, ...), demo_book(), id = "id", weight = if (identical(of, memory)) "w"), c("mean", "sum"),
      form = forms)
    expect_equal(asked$tables[c("scales", "correlations")], of$tables[c("scales", "correlations")])
    sw_write(asked, connections, "scores")
    written <- do.call(rbind, lapply(if (is.list(connections)) connections else list(connections), DBI::dbReadTable, "scores"))
    expected <- as.data.frame(of$tables$scores)
    written <- written[match(expected$id, written$id), ]
    for (score in names(asked$parts$asked)) expect_equal(written[[score]], as.vector(expected[[score]]), info = score)
  }
  same(lite, "answers", memory = .01)
  asked <- sw_score(sw_survey(sw_table(lite, "answers", memory = .01), demo_book(), id = "id", weight = "w"))
  expect_match(asked$notes, "Weighted by w", all = FALSE)
  plain <- sw_score(sw_survey(data, demo_book(), id = "id"), c("mean", "sum"), form = forms)
  same(list(local_sqlite(part = data[1:150, ]), local_sqlite(part = data[-(1:150), ])), "part", fetch = "sums", of = plain)
})

test_that("answers far from normal have the errors that their people give, not those of normal answers", {
  set.seed(6)
  x <- exp(matrix(rnorm(500 * 5), 500) %*% chol(.5 + diag(.5, 5)))
  x <- as.data.frame(pmin(round(x), 9))
  x[cbind(sample(500, 60), sample(5, 60, TRUE))] <- NA
  book <- data.frame(item = names(x), scale = "s", lowest = 0, highest = 9)
  lite <- local_sqlite(answers = x)
  memory <- sw_survey(x, book)
  chunks <- sw_survey(sw_table(lite, "answers", memory = .01), book)
  gamma <- core("as_moments")(chunks, spread = TRUE)$gamma
  expect_equal(gamma, core("as_moments")(memory, spread = TRUE)$gamma, tolerance = 1e-7)
  expect_equal(sw_reliability(chunks)$tables$scales, sw_reliability(memory)$tables$scales, tolerance = 1e-7)
  # Kept in the database, they are taken as normal, which here is far too sure; the result says so.
  sums <- sw_survey(sw_table(lite, "answers", fetch = "sums"), book)
  expect_lt(core("as_moments")(sums, spread = TRUE)$gamma[1, 1], gamma[1, 1] / 2)
  expect_match(paste(sw_reliability(sums)$notes, collapse = " "), "Errors are those of normal answers")
})

test_that("moments without each group of people are, beyond memory, those of the others", {
  data <- designed_data()
  data <- data[!is.na(data$w), ]
  lite <- local_sqlite(answers = data)
  items <- names(sw_demo("plotholders")$answers)[1:8]
  survey <- function(...) sw_survey(sw_table(lite, "answers", memory = .02), demo_book(), id = "id", ...)
  memory <- sw_survey(data, demo_book(), id = "id")
  answers <- core("source_rows")(memory, items)
  group <- core("kernel_person_groups")(as.character(data$id), 3, 5)
  expect_true(all(abs(tabulate(group, 5) / nrow(data) - .2) < .1))
  full <- stats::complete.cases(answers)
  found <- core("moments_without_by_rows")(survey(), items, TRUE, 5, 3)
  for (g in 1:5) expect_equal(found[[g]]$covariance, stats::cov(answers[full & group != g, ]), tolerance = 1e-10)
  narrow <- core("only_items")(survey(weight = "w"), items)
  narrow$whole <- items
  weighted <- core("moments_without_by_rows")(narrow, items, FALSE, 5, 3)
  for (g in 1:5) {
    rest <- group != g
    by_hand <- core("moments_by_likelihood")(answers[rest, ], 8, data$w[rest])
    expect_equal(weighted[[g]]$n, sum(data$w[rest]) / mean(data$w), tolerance = 1e-10)
    expect_equal(weighted[[g]]$mean, by_hand$mean, tolerance = 1e-6)
    expect_equal(stats::cov2cor(weighted[[g]]$covariance), stats::cov2cor(by_hand$covariance), tolerance = 1e-6)
  }
})

test_that("scores over people some at a time spread as over all at once, in clusters too", {
  set.seed(7)
  x <- matrix(rnorm(900 * 4), 900)
  weight <- runif(900, .5, 2)
  cluster <- sample(letters, 900, TRUE)
  score <- function(x) cbind(x, x^2)
  parts <- split(1:900, rep(1:7, length.out = 900))
  rows <- function(of) function(each) lapply(parts, function(i) each(x[i, ], weight[i], if (of) cluster[i]))
  for (of in c(FALSE, TRUE)) {
    whole <- core("core_meats")(x, 900, if (of) cluster, weight)
    apart <- core("core_meats")(rows(of), 900)
    expect_equal(apart$whole(score), whole$whole(score), ignore_attr = TRUE)
    expect_equal(apart$diagonal(score), whole$diagonal(score), ignore_attr = TRUE)
  }
})

test_that("statements on means are fitted beyond memory by likelihood, and refused in words where moments do not tell how sure means are", {
  lite <- local_sqlite(answers = sw_demo("plotholders")$data)
  memory <- sw_survey(sw_demo("plotholders")$data, demo_book(), id = "id")
  chunks <- sw_survey(sw_table(lite, "answers", memory = .03), demo_book(), id = "id")
  structure <- sw_add_means(sw_structure(memory))
  fit <- function(s, ...) sw_confirm(s, structure, estimator = "robust", ...)
  expect_equal(fit(chunks)$tables$estimates, fit(memory)$tables$estimates, tolerance = 1e-6)
  expect_error(fit(chunks, missing = "listwise"), "how sure means are", class = "scalewort_error_structure")
})

test_that("how a table was gone through is said in German, too", {
  lite <- local_sqlite(answers = as.data.frame(sw_demo("plotholders")$data))
  for (more in list(list(memory = .03), list(fetch = "sums"), list(fetch = "sums", smallest = 10))) {
    survey <- sw_survey(do.call(sw_table, c(list(lite, "answers"), more)), demo_book())
    said <- core("say")(core("database_note")(survey)[[1]]$said, "de", "report")
    expect_match(said, "Die (Antworten|Anzahlen)")
    expect_no_match(said, "\\b(the|of|are|is|what|people)\\b")
  }
})
