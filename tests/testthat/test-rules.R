# Rules and thresholds: each of these changed by a hair passed every other test once.

test_that("readings of misfit gain by BIC, with the logarithm of n", {
  fit <- sw_confirm(sw_demo("plotholders"), estimator = "ml", missing = "listwise")
  own <- fit$parts$figures
  readings <- fit$tables$readings
  expect_gt(nrow(readings), 0)
  small <- fit$tables$fit$corrected[1] / own$chi_square
  expect_lt(small, 1)
  by_fit <- small * (own$chi_square - readings$chi_square) - (own$df - readings$df) * log(fit$about$n)
  changes <- fit$tables$modifications
  score <- small * changes$index[match(paste(readings$item, readings$with), paste(changes$item, changes$with))] - log(fit$about$n)
  expect_equal(readings$gain, by_fit)
  expect_true(all(score > 8))
  expect_true(all(readings$gain > 8))
})

test_that("an item is accused of its keying at a level shared by all items, and items beside are up to forty", {
  # One of ten turned, so weak that it is beyond one test's level and not beyond ten's.
  r <- matrix(.5, 10, 10)
  r[10, ] <- r[, 10] <- -.15
  diag(r) <- 1
  rest <- .15 * 9 / sqrt(9 + 72 * .5)
  n_at <- function(z) round((z / atanh(rest))^2 + 3)
  expect_false(core("core_keying")(r, n_at(2))$turned[10])
  expect_true(core("core_keying")(r, n_at(3))$turned[10])
  survey <- sw_demo("plotholders")
  calm <- core("survey_scales")(survey)$calm
  expect_setequal(core("items_beside")(survey, calm), setdiff(core("scored_items")(survey), calm))
})

test_that("a table of sums withholds counts below the smallest, and gives those that reach it", {
  data <- data.frame(id = 1:40, q = rep(1:4, c(5, 4, 4, 27)), w = rep_len(1:5, 40))
  connection <- local_sqlite(a = data)
  book <- data.frame(item = c("q", "w"), scale = "s", lowest = 1, highest = 5)
  survey <- sw_survey(sw_table(connection, "a", fetch = "sums", smallest = 5), book, id = "id")
  tally <- core("source_tally")(survey, "q")
  expect_equal(tally$counts[tally$values == 1], 5)
  expect_true(2 %in% tally$hidden)
  expect_false(1 %in% tally$hidden)
})

test_that("what changed between two chunks is seen", {
  connection <- local_sqlite(a = sw_demo("plotholders")$data)
  survey <- sw_survey(sw_table(connection, "a", fetch = "rows", memory = .03), sw_demo("plotholders")$codebook, id = "id")
  expect_false(core("gives_rows")(survey, core("scored_items")(survey)))
  DBI::dbExecute(connection, "UPDATE a SET calm1 = 6 - calm1 WHERE calm1 IN (1, 2)")
  expect_error(sw_reliability(survey), class = "scalewort_error_database")
})

test_that("an item is marked where its equality is surely amiss, and misfit by columns, whatever items are called", {
  culprits <- data.frame(item = c("a", "b"), p_holm = c(.01, .01))
  marks <- core("item_marks")(list(invariance = list(tables = list(culprits = culprits, named = data.frame(item = "b")))), list())
  expect_named(marks, "b")
  items <- c("Q1[SQ001]", "I (like", "Q1", "x")
  readings <- data.frame(name = c("Q1[SQ001] and I (like", "s: Q1 x | y z"), item = c("Q1[SQ001]", ""), with = c("I (like", ""))
  expect_setequal(core("misread_items")(readings[1, ], items), c("Q1[SQ001]", "I (like"))
  expect_setequal(core("misread_items")(readings[2, ], items), c("Q1", "x"))
})

test_that("waves that begin with one word are numbered, others are not", {
  expect_equal(core("numbers_of")(c("t10", "t2")), c(10, 2))
  expect_true(all(is.na(core("numbers_of")(c("t1", "u2")))))
  expect_equal(core("wave_order")(c("post2", "pre1"))$how, "appearance")
})

test_that("the jackknife over clusters has its factor", {
  survey <- sw_demo("plotholders")
  x <- core("source_rows")(survey, core("survey_scales")(survey)$craft)
  x <- x[complete.cases(x), ][1:200, ]
  cluster <- rep_len(1:10, 200)
  sums <- core("core_cluster_sums")(x, cluster, colMeans(x))
  alpha <- function(s) core("core_level_coefficients")(core("core_levels_of_sums")(s, NULL))["within", "alpha"]
  value <- alpha(sums)
  less <- log(1 - vapply(1:10, function(g) alpha(sums[-g, ]), 0))
  error <- sqrt(9 / 10 * sum((less - mean(less))^2))
  ends <- core("core_level_intervals")(sums, rbind(within = c(alpha = value, omega = NA), between = c(NA, NA)), .95, 50, core("random_draws"))
  expect_equal(ends$low[1, 1], 1 - (1 - value) * exp(qt(.975, 9) * error), ignore_attr = TRUE)
})

test_that("small groups are not said to let no step fail beside one that did", {
  words <- function(codes) core("say")(core("small_group_message")("a", codes))
  expect_match(words(c(configural = "near", metric = "missed")), "may fail there by chance")
  expect_match(words(c(configural = "missed", metric = "untested")), "chi-square is too large")
  expect_match(words(c(configural = "met", metric = "near")), "can hardly fail")
})

test_that("a table of sums tells nothing of few people by subtraction", {
  set.seed(5)
  data <- data.frame(id = 1:200, a = rep_len(1:4, 200), b = rep(1:4, c(3, 6, 91, 100)), c = sample(1:4, 200, TRUE), d = sample(1:4, 200, TRUE))
  data$c[50] <- NA
  data$d[1:40] <- NA
  connection <- local_sqlite(a = data)
  book <- data.frame(item = c("a", "b", "c", "d"), scale = "s", lowest = 1, highest = 4)
  made <- function(query = "a", least = 5) sw_survey(sw_table(connection, query, fetch = "sums", smallest = least), book, id = "id")
  survey <- made()
  # Three gave one answer: alone, they would be what is left of the whole; the next larger count goes with them.
  hidden <- core("source_tally")(survey, "b")
  expect_equal(list(hidden$hidden, hidden$withheld, hidden$counts[hidden$values > 2]), list(c(1, 2), 9, c(91, 100)))
  # One of 200 missing.
  expect_equal(core("source_count")(survey, c("a", "c", "d"))$missing, c(a = 0, c = NA, d = 40))
  items <- tidy(sw_screen(made()))
  expect_true(all(is.na(items[items$item == "c", c("n", "missing")])))
  expect_error(sw_moments(made(), items = c("a", "c"), missing = "listwise"),
    "differ from everybody by fewer than 5", class = "scalewort_error_database")
  expect_equal(sw_moments(made(), items = c("a", "d"), missing = "listwise")$n, 160)
  # Asked after those who answered a and d, those who answered a, c and d as well are one fewer.
  survey <- made()
  sw_moments(survey, items = c("a", "d"), missing = "listwise")
  expect_error(sw_moments(survey, items = c("a", "c", "d"), missing = "listwise"), "by fewer than 5 people", class = "scalewort_error_database")
  expect_error(sw_moments(made(), items = c("a", "c", "d"), missing = "pairwise"), "by fewer than 5 people", class = "scalewort_error_database")
  expect_equal(sw_moments(made("SELECT * FROM a WHERE c IS NOT NULL"), items = c("a", "c", "d"), missing = "listwise")$n,
    sum(!is.na(data$c) & !is.na(data$d)))
  expect_equal(sw_moments(made(least = 1), items = c("a", "c", "d"), missing = "pairwise")$n_left_out, 0)
})

test_that("a file that unpacks to too much, or has too many columns, is refused in words unless it is trusted", {
  table <- environment(core("options_table"))
  sizes <- core("options_table")()$sizes
  withr::defer(table$kept$sizes <- sizes)
  table$kept$sizes[c("unpacked", "columns")] <- list(.01, 30)
  book <- data.frame(item = paste0("q", 1:3), lowest = 1, highest = 5)
  rows <- as.data.frame(matrix(3L, 5000, 3, dimnames = list(NULL, book$item)))
  folder <- withr::local_tempdir()
  packed <- file.path(folder, "a.csv.gz")
  data.table::fwrite(rows, packed)
  wide <- file.path(folder, "wide.csv")
  utils::write.csv(cbind(rows[1:9, ], matrix(1, 9, 40)), wide, row.names = FALSE)
  sheet <- file.path(folder, "a.xlsx")
  sw_write(sw_score(sw_demo("plotholders")), sheet)
  expect_error(sw_read(packed, book), "unpacks to more than", class = "scalewort_error_file")
  expect_error(sw_read(sheet, book), "unpacks to more than", class = "scalewort_error_file")
  expect_error(sw_read(wide, book), "has 43 columns, more than 30", class = "scalewort_error_file")
  expect_equal(core("source_count")(sw_read(packed, book, trust = TRUE))$used, 5000)
  expect_equal(core("source_count")(sw_read(wide, book, trust = TRUE))$used, 9)
})
