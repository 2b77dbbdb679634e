# Several answers fetched in one number.

test_that("packed answers are those of the columns, whatever their range, gaps, words and turns, on SQLite and PostgreSQL", {
  set.seed(8)
  n <- 400
  data <- data.frame(id = seq_len(n), a = sample(-3:3, n, TRUE), b = sample(c(0L, 100L, 37L), n, TRUE), c = sample(0:1, n, TRUE),
    d = sample(c("never", "often", "always"), n, TRUE), e = round(rnorm(n), 1), f = sample(c(1:5, 99L), n, TRUE), g = sample(2000:2003, n, TRUE),
    h = as.numeric(sample(1:5, n, TRUE)), i = sample(c(0L, 900000000L), n, TRUE))
  for (item in letters[1:9]) data[sample(n, 30), item] <- NA
  book <- data.frame(item = letters[1:9], scale = "s", lowest = c(-3, 0, 0, 1, -9, 1, 2000, 1, 0), highest = c(3, 100, 1, 3, 9, 5, 2003, 5, 9e8),
    direction = c("reversed", rep("forward", 6), "reversed", "forward"), labels = c(NA, NA, NA, "1 = never; 2 = often; 3 = always", rep(NA, 5)),
    missing = c(rep(NA, 5), "99", NA, NA, NA))
  memory <- sw_survey(data, book, id = "id")
  for (connection in list(local_sqlite(some = data), local_postgres(some = data))) {
    survey <- sw_survey(sw_table(connection, "some", memory = .015), book, id = "id")
    packs <- lapply(core("packed_items")(survey$source, letters[1:9]), `[[`, "items")
    expect_equal(packs, list(c("a", "b", "c", "d"), "e", c("f", "g", "h"), "i"))
    found <- core("source_by_rows")(survey, letters[1:9], function(x, ...) x)
    expect_equal(do.call(rbind, found), core("source_rows")(memory, letters[1:9]))
    found <- core("source_by_rows")(survey, c("h", "c", "e"), function(x, ...) x, keyed = FALSE)
    expect_equal(do.call(rbind, found), core("source_rows")(memory, c("h", "c", "e"), keyed = FALSE))
  }
  # Eleven digits of base seven are more than a number of 32 bits holds with one more.
  wide <- as.data.frame(matrix(sample(1:6, 30 * 24, TRUE), 30))
  lite <- local_sqlite(wide = wide)
  survey <- sw_survey(sw_table(lite, "wide", memory = .001), data.frame(item = names(wide), scale = "s", lowest = 1, highest = 6))
  expect_equal(lengths(lapply(core("packed_items")(survey$source, names(wide)), `[[`, "items")), c(11, 11, 2))
  expect_equal(do.call(rbind, core("source_by_rows")(survey, names(wide), function(x, ...) x)), as.matrix(wide), ignore_attr = TRUE)
  # An answer that was not there when the table was taken in is no digit.
  survey <- sw_survey(sw_table(lite, "wide", memory = .001), data.frame(item = names(wide), scale = "s", lowest = 1, highest = 9))
  DBI::dbExecute(lite, "UPDATE wide SET V3 = 9 WHERE rowid = 4")
  expect_equal(expect_error(core("source_moments")(survey, names(wide)), class = "scalewort_error_database")$reason, "changed")
})

test_that("sums of two products in one number are those of each alone, to the last digit", {
  set.seed(9)
  x <- as.data.frame(matrix(sample(c(-3:3, NA), 400 * 7, TRUE, c(rep(.14, 7), .02)), 400))
  book <- data.frame(item = names(x), scale = "s", lowest = -3, highest = 3)
  book$direction <- rep_len(c("forward", "reversed"), 7)
  complete <- as.matrix(x[stats::complete.cases(x), ]) %*% diag(rep_len(c(1, -1), 7))
  connections <- list(local_sqlite(answers = x), local_postgres(answers = x))
  for (connection in connections) {
    survey <- sw_survey(sw_table(connection, "answers", fetch = "sums"), book)
    keying <- core("keying_of")(survey, names(x))
    centre <- core("provisional_means")(survey, names(x), keying)
    base <- core("packed_base")(survey$source, names(x), keying, centre)
    found <- core("packed_products")(survey, names(x), keying, centre, base)
    expect_identical(found$n, as.numeric(nrow(complete)))
    d <- sweep(complete, 2, centre)
    expect_identical(found$sum, unname(colSums(d)))
    expect_identical(found$products, replace(unname(crossprod(d)), upper.tri(diag(7)), 0))
    expect_equal(found, core("plain_products")(survey, names(x), keying, centre))
    # Pairs, each by those who answered both.
    both <- core("packed_pairs")(survey, names(x), keying, centre, base)
    gaps <- sweep(sweep(as.matrix(x), 2, rep_len(c(1, -1), 7), "*"), 2, centre)
    seen <- 1 * !is.na(gaps)
    there <- replace(gaps, is.na(gaps), 0)
    expect_identical(both, list(pairs = unname(crossprod(seen)), sums = unname(crossprod(there, seen)),
      products = replace(unname(crossprod(there)), upper.tri(diag(7)), 0)))
    expect_equal(both, core("plain_pairs")(survey, names(x), keying, centre))
    # Numbers beyond 64 bits, half answers and few items are added up one by one.
    none <- function(source, of = names(x)) core("packed_base")(source, of, core("keying_of")(survey, of), centre[seq_along(of)])
    many <- as.list.environment(survey$source)
    many$rows <- 1e9
    expect_null(none(many))
    expect_null(none(survey$source, names(x)[1:3]))
  }
  half <- x
  half$V2[3] <- 1.5
  lite <- local_sqlite(answers = half)
  survey <- sw_survey(sw_table(lite, "answers", fetch = "sums"), book)
  expect_null(none(survey$source))
  expect_equal(core("source_moments")(survey, names(x))$covariance, stats::cov(as.matrix(half[stats::complete.cases(half), ]) %*%
    diag(rep_len(c(1, -1), 7))), ignore_attr = TRUE)
})
