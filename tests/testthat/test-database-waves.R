# Waves of one person side by side, put there by the database.

panel_rows <- function() {
  set.seed(3)
  n <- 400
  level <- matrix(rnorm(n * 3), n) %*% chol(matrix(.5, 3, 3) + diag(.5, 3))
  rows <- do.call(rbind, lapply(1:3, function(w) {
    x <- vapply(1:4, function(j) findInterval(.7 * level[, w] + .3 * w * (j == 1) + rnorm(n, 0, .7), c(-1.2, -.4, .4, 1.2)) + 1, numeric(n))
    x[, 2] <- 6 - x[, 2]
    colnames(x) <- paste0("q", 1:4)
    data.frame(who = paste0("p", seq_len(n)), `wave no` = c("one", "two", "three")[w], site = rep(1:2, n / 2), x, check.names = FALSE)
  }))
  for (q in paste0("q", 1:4)) rows[sample(nrow(rows), 40), q] <- NA
  rows[sample(nrow(rows), nrow(rows) - 60), ]
}

panel_book <- data.frame(item = c(paste0("q", 1:4), "site"), scale = c(rep("s", 4), NA),
  direction = c("forward", "reversed", "forward", "forward", NA), lowest = c(1, 1, 1, 1, NA), highest = c(5, 5, 5, 5, NA),
  role = c(rep("scored", 4), "aside"), labels = c(rep(NA, 4), "1 = north; 2 = south"))

panel_survey <- function(data) sw_survey(data, panel_book, id = "who", wave = "wave no", group = "site", waves = c("one", "two", "three"))

test_that("invariance over waves, and over groups and waves, is that of memory from chunks and from sums", {
  rows <- panel_rows()
  memory <- panel_survey(rows)
  lite <- local_sqlite(panel = rows)
  postgres <- local_postgres(panel = rows)
  sources <- list(panel_survey(sw_table(lite, "panel", memory = .02)), panel_survey(sw_table(lite, "panel", fetch = "sums")),
    panel_survey(sw_table(postgres, "panel", fetch = "sums")), panel_survey(sw_table(postgres, "panel", memory = .02)))
  for (missing in c("auto", "listwise")) {
    for (by in list(NULL, "site")) {
      compare <- function(x) sw_invariance(x, by = by, across = "wave no", missing = missing, estimator = "ml")
      expected <- compare(memory)
      for (source in sources) {
        found <- compare(source)
        expect_equal(found$tables, expected$tables, tolerance = 1e-6)
        expect_equal(found$about[c("n", "n_left_out")], expected$about[c("n", "n_left_out")])
      }
    }
  }
  expect_match(paste(format(sw_invariance(sources[[2]], across = "wave no")), collapse = " "), "`estimator = \"ml\"`, since")
  expect_error(sw_invariance(sources[[2]], across = "wave no", estimator = "robust"), "sums only.*by `estimator = \"ml\"`",
    class = "scalewort_error_input")
})

test_that("robust and ordinal invariance, with weights and clusters of people over waves, are those of memory from chunks", {
  rows <- panel_rows()
  rows$w <- 1 + match(rows$who, unique(rows$who)) %% 5
  rows$w[rows$`wave no` == "three" & rows$who %in% paste0("p", 1:3)] <- 9
  rows$house <- paste0("h", match(rows$who, unique(rows$who)) %/% 4)
  lite <- local_sqlite(panel = rows)
  survey <- function(of, ...) sw_survey(of, panel_book, id = "who", wave = "wave no", group = "site", waves = c("one", "two", "three"), ...)
  same <- function(work, ...) {
    one <- work(survey(sw_table(lite, "panel", memory = .02), ...))
    other <- work(survey(rows, ...))
    for (table in names(other$tables)) expect_equal(one$tables[[table]], other$tables[[table]], tolerance = 1e-6, info = table)
    expect_equal(one$about[c("n", "n_left_out", "missing")], other$about[c("n", "n_left_out", "missing")])
    one
  }
  same(function(s) sw_invariance(s, across = "wave no", estimator = "ordinal"))
  same(function(s) sw_invariance(s, by = "site", across = "wave no"))
  for (missing in c("auto", "listwise")) {
    found <- same(function(s) sw_invariance(s, by = "site", across = "wave no", missing = missing), weight = "w", cluster = "house")
  }
  expect_match(paste(found$notes, collapse = " "), "3 people have another weight in a later wave")
})

test_that("people who are twice in a wave, or in two groups, are not compared; few of them are not counted", {
  rows <- panel_rows()
  moved <- rows
  moved$site[moved$`wave no` == "one" & moved$who == "p1"] <- 2
  moved$area <- moved$site
  lite <- local_sqlite(twice = rbind(rows, rows[1:12, ]), moved = moved)
  of <- function(table, ...) panel_survey(sw_table(lite, table, fetch = "sums", ...))
  compare <- function(x, ...) sw_invariance(x, across = "wave no", estimator = "ml", ...)
  expect_error(compare(of("twice")), "12 times", class = "scalewort_error_input")
  silent <- expect_error(compare(of("twice", smallest = 20)), "two rows in the same wave", class = "scalewort_error_input")
  expect_no_match(conditionMessage(silent), "12")
  expect_error(compare(of("moved"), by = "site"), "site: 1 person", class = "scalewort_error_input")
  expect_error(compare(of("moved"), by = c("site", "area")), "area: 1 person", class = "scalewort_error_input")
  expect_s3_class(compare(of("moved")), "sw_invariance")
  expect_error(compare(panel_survey(moved), by = "site"), "site: 1 person", class = "scalewort_error_input")
  shards <- panel_survey(sw_table(list(local_sqlite(part = rows[1:700, ]), local_sqlite(part = rows[-(1:700), ])), "part", fetch = "sums"))
  expect_error(compare(shards), "several shards", class = "scalewort_error_input")
})
