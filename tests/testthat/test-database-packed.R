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
