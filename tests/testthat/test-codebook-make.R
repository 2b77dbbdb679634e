test_that("a codebook fills in what was left out and keeps its order", {
  book <- sw_codebook(data.frame(item = c("b", "a"), scale = c("s", "")))
  expect_equal(book$items$item, c("b", "a"))
  expect_equal(book$items$direction, c("forward", "forward"))
  expect_equal(book$items$role, c("scored", "scored"))
  expect_equal(book$items$scale, c("s", NA))
  expect_identical(sw_codebook(book), book)
})

test_that("all faults are listed at once, with rows", {
  wrong <- data.frame(
    item = c("a", "a", "", "d", "e", "f"), direction = c("sideways", "reversed", "", "", "", ""),
    lowest = c(1, "", "x", 5, 1, 1), highest = c(5, "", 5, 1, 5, ""), role = c("", "", "", "", "boss", ""),
    wordng = "w"
  )
  error <- expect_error(sw_codebook(wrong), class = "scalewort_error_codebook")
  expect_match(error$faults, "row 1: direction \"sideways\"", all = FALSE)
  expect_match(error$faults, "row 2: item \"a\" stands twice", all = FALSE)
  expect_match(error$faults, "row 2: a reversed item needs lowest and highest", all = FALSE)
  expect_match(error$faults, "row 3: the item has no name", all = FALSE)
  expect_match(error$faults, "row 3: lowest \"x\" is not a number", all = FALSE)
  expect_match(error$faults, "row 4: lowest 5 is not below highest 1", all = FALSE)
  expect_match(error$faults, "row 5: role \"boss\"", all = FALSE)
  expect_match(error$faults, "row 6: lowest and highest go together", all = FALSE)
  expect_match(error$faults, "did you mean \"wording\"", all = FALSE)
  expect_length(error$faults, 9)
})

test_that("CSV and YAML codebooks say the same", {
  folder <- withr::local_tempdir()
  csv <- file.path(folder, "book.csv")
  writeLines(c("item,scale,direction,lowest,highest", "a,s,forward,1,5", "b,s,reversed,1,5"), csv)
  yaml <- file.path(folder, "book.yml")
  writeLines(c(
    "items:", "  - {item: a, scale: s, lowest: 1, highest: 5}",
    "  - {item: b, scale: s, direction: reversed, lowest: 1, highest: 5}"
  ), yaml)
  expect_equal(sw_codebook(csv)$items, sw_codebook(yaml)$items)
})

test_that("YAML is read without evaluating anything", {
  path <- withr::local_tempfile(fileext = ".yml")
  marker <- withr::local_tempfile()
  writeLines(c("items:", paste0("  - item: !expr file.create('", marker, "')")), path)
  try(sw_codebook(path), silent = TRUE)
  expect_false(file.exists(marker))
})

test_that("missing codes tell skipped from unseen", {
  codes <- core("missing_codes")("skipped:-9 unseen:-8, 99")
  expect_equal(codes$code, c("-9", "-8", "99"))
  expect_equal(codes$kind, c("skipped", "unseen", "missing"))
})

test_that("a number of options is spelled out where the key's letters tell the rest", {
  items <- sw_codebook(data.frame(item = c("q1", "q2", "q3"), answer = c("B", "a c", "2"), options = c("4", "3", "1 2 3")))$items
  expect_equal(items$options, c("A B C D", "a b c", "1 2 3"))
  expect_error(sw_codebook(data.frame(item = "q1", answer = "E", options = "4")), "not among the options", class = "scalewort_error_codebook")
})
