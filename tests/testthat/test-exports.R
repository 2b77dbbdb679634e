# Three exports as platforms write them, from the file to the report, with at most two corrections of the codebook each.

exports <- function(folder) {
  path <- testthat::test_path("..", "..", "data-raw", "make-exports.R")
  if (!file.exists(path)) testthat::skip("not a checkout")
  maker <- new.env()
  sys.source(path, maker)
  withr::with_preserve_seed(maker$make_exports(folder))
}

# start, corrections (item, field, value each), run; short resampling.
from_start_to_report <- function(path, corrections = list(), more = NULL) {
  start <- run_cli("start", path)
  stem <- tools::file_path_sans_ext(path)
  book <- utils::read.csv(paste0(stem, "-codebook.csv"), colClasses = "character", encoding = "UTF-8")
  for (one in corrections) book[book$item == one[[1]], one[[2]]] <- one[[3]]
  data.table::fwrite(book, paste0(stem, "-codebook.csv"))
  plan <- paste0(stem, "-plan.yml")
  text <- readLines(plan)
  writeLines(c(sub("^output: \"results\"", paste0("output: \"", basename(stem), "\""), text), "stability: false", "retention:", "  replicates: 20",
    more), plan)
  run <- run_cli("run", plan, "--quiet")
  folder <- stem
  list(start = start, book = book, plan = text, run = run, folder = folder, report = paste(readLines(file.path(folder, "report.html")),
    collapse = "\n"),
    scores = data.table::fread(file.path(folder, "scores.csv")))
}

test_that("a platform export, a panel side by side and a pilot go from file to report", {
  folder <- withr::local_tempdir()
  files <- exports(folder)

  done <- from_start_to_report(files[["platform"]])
  said <- paste(done$start$out, collapse = " ")
  expect_equal(done$run$status, 0)
  expect_match(said, "17 items and 17 other columns, 3 keyed reversed")
  expect_match(said, "Stimme .*berhaupt nicht zu. and .Strongly disagree. mean the same step")
  expect_match(said, "boxes of which several could be ticked: Q8_1 to Q8_4")
  expect_match(gsub(" +", " ", said), "these statements about the ward?\" (Q4_1 to Q6_5)", fixed = TRUE)
  expect_match(said, "Rows 1, 2, 3 and 4 look like tests or previews")
  expect_match(done$plan, "^group: \"Q2\"", all = FALSE)
  expect_match(done$plan, "^  - cases: \\[\"R_", all = FALSE)
  book <- done$book
  expect_equal(book$item[book$direction == "reversed"], c("Q4_5", "Q5_5", "Q6_5"))
  expect_equal(unique(book$highest[book$scale != ""]), "7")
  expect_equal(book$wording[book$item == "Q5_2"], "I can ask anyone here.")
  expect_true(grepl("I can ask anyone here.", done$report, fixed = TRUE))

  done <- from_start_to_report(files[["panel"]], more = c("validity: false", "invariance: false"))
  expect_match(paste(done$start$out, collapse = " "), "called {item}_t{wave}", fixed = TRUE)
  expect_match(done$plan, "^wide: \"\\{item\\}_t\\{wave\\}\"", all = FALSE)
  expect_equal(done$book$item[done$book$direction == "reversed"], c("rest3", "load4"))
  expect_equal(as.vector(table(done$scores$wave)), c(260, 230, 200))
  raw <- haven::read_sav(files[["panel"]])
  second <- done$scores[done$scores$wave == 2, ]
  rest <- sapply(c("rest1_t2", "rest2_t2", "rest3_t2", "rest4_t2", "rest5_t2"), function(x) as.numeric(raw[[x]]))[match(second$code,
    as.integer(raw$code)), ]
  rest[, 3] <- 6 - rest[, 3]
  full <- stats::complete.cases(rest)
  expect_equal(second$rest_mean[full], rowMeans(rest[full, ]))

  done <- from_start_to_report(files[["pilot"]], list(list("pace", "lowest", ""), list("pace", "highest", "")), c("  missing: listwise",
    "exploration:", "  missing: listwise", "confirmation: false"))
  expect_match(gsub("\\s+", " ", paste(done$start$out, collapse = " ")),
    "body_mean, the mean of body1 to body6 and mood_sum, the sum of mood1 to mood6")
  expect_equal(done$book$item[done$book$direction == "reversed"], c("plan3", "focus3", "mood3", "body3", "help3"))
  expect_true(all(c("body_mean", "body_mean_given") %in% names(done$scores)))
  expect_equal(done$scores$body_mean, as.numeric(sub(",", ".", done$scores$body_mean_given)), tolerance = .01)
})

test_that("totals, boxes, halves and letters are told from items", {
  answers <- withr::with_seed(3, {
    level <- stats::rnorm(60)
    as.data.frame(sapply(1:4, function(i) findInterval(level + stats::rnorm(60), c(-1, 0, 1)) + 1))
  })
  names(answers) <- paste0("q", 1:4)
  answers$q2 <- 5 - answers$q2
  keyed <- transform(answers, q2 = 5 - q2)
  found <- function(...) sw_draft_codebook(cbind(answers, ...))$found
  total <- found(total = rowSums(answers))$totals
  expect_equal(total[c("column", "what")], data.frame(column = "total", what = "sum"))
  expect_equal(total$of[[1]], paste0("q", 1:4))
  expect_equal(found(m = round(rowMeans(keyed), 2))$totals$what, "mean")
  expect_equal(nrow(found(other = rowSums(keyed) + rep(0:1, 30))$totals), 0)
  # Also where its name makes it one of the subscale.
  inside <- sw_draft_codebook(cbind(answers, q5 = rowSums(keyed)))
  expect_equal(inside$items$role, rep(c("scored", "aside"), c(4, 1)))
  expect_equal(inside$items$direction[2], "reversed")
  expect_equal(found(hear = rep(c("radio", "press", "radio,press", "friends", "press,friends", "friends,radio"), 10))$ticked, list("hear"))
  halves <- sw_draft_codebook(data.frame(r1 = rep(seq(1, 5, .5), 10), r2 = rep(seq(5, 1, -.5), 10), r3 = rep(1:5, 18)))$items
  expect_equal(halves$role, rep("scored", 3))
  expect_equal(sw_draft_codebook(cbind(answers, sex = rep(c("f", "m"), 30)))$items$options[5], NA_character_)
  lettered <- function(k) {
    columns <- as.data.frame(rep(list(rep(c("A", "C", "D"), 20)), k), col.names = paste0("t", 1:k))
    sw_draft_codebook(cbind(answers, columns))$items$options[5]
  }
  expect_equal(c(lettered(2), lettered(3)), c(NA, "A C D"))
  expect_equal(found(who = c("test", "Test 2", rep("Ann", 58)))$previews$row, 1:2)
  expect_equal(nrow(found(arm = rep(c("test", "control"), c(20, 40)))$previews), 0)
  one <- sw_draft_codebook(data.frame(a1 = rep(c("Teils / teils", "stimme zu", "Stimme nicht zu!"), 9)))$items
  expect_equal(one$highest, 3)
})

test_that("a packed file and several files are read; what differs is said", {
  folder <- withr::local_tempdir()
  first <- data.frame(id = 1:12, a = rep(1:4, 3), b = rep(4:1, 3))
  second <- data.frame(b = rep(1:2, 4), id = 13:20, a = rep(2:3, 4), c = "x")
  paths <- file.path(folder, c("north.csv", "south.csv"))
  data.table::fwrite(first, paths[1])
  data.table::fwrite(second, paths[2])
  book <- data.frame(item = c("a", "b"), lowest = 1, highest = 4)
  both <- sw_read(paths, book, id = "id")
  expect_equal(both$answers$a, c(first$a, second$a))
  expect_equal(both$data$file, rep(c("north.csv", "south.csv"), c(12, 8)))
  expect_match(paste(sw_log(both)$detail, collapse = " "), "12 rows and 8 rows.*not in all of them: c")
  withr::with_dir(folder, utils::zip("north.zip", "north.csv", flags = "-q"))
  packed <- sw_read(file.path(folder, "north.zip"), book, id = "id")
  expect_equal(packed$answers, sw_read(paths[1], book, id = "id")$answers)
  withr::with_dir(folder, utils::zip("two.zip", basename(paths), flags = "-q"))
  expect_equal(sw_read(file.path(folder, "two.zip"), book, id = "id")$answers, both$answers)
  data.table::fwrite(data.frame(plot = 1:12, size = 1, soil = 2), file.path(folder, "plots.csv"))
  withr::with_dir(folder, utils::zip("other.zip", c("north.csv", "plots.csv"), flags = "-q"))
  expect_error(sw_read(file.path(folder, "other.zip"), book), "holds 2 files", class = "scalewort_error_file")
  out <- gzfile(file.path(folder, "north.csv.gz"), "w")
  writeLines(readLines(paths[1]), out)
  close(out)
  expect_equal(sw_read(file.path(folder, "north.csv.gz"), book)$answers, packed$answers)
  writeLines("damaged", file.path(folder, "bad.zip"))
  expect_error(sw_read(file.path(folder, "bad.zip"), book), "ZIP", class = "scalewort_error_file")
  plan <- file.path(folder, "plan.yml")
  utils::write.csv(book, file.path(folder, "book.csv"), row.names = FALSE)
  writeLines(c("data: [north.csv, south.csv]", "codebook: book.csv"), plan)
  expect_match(run_cli("check", plan)$out, "^The plan can be followed: data north.csv and south.csv, codebook book.csv[.]$", all = FALSE)
  writeLines(c("data: [north.csv, south2.csv]", "codebook: book.csv"), plan)
  expect_match(paste(run_cli("check", plan)$err, collapse = " "), "south2.csv .did you mean .south.csv")
})

test_that("faults are summed up before they are listed, in the words of the caller", {
  data <- data.frame(a = c(rep("sometimes", 9), 1, 2, 3), b = c(rep(7, 5), rep("sometimes", 4), 1, 2, 3))
  book <- data.frame(item = c("a", "b"), lowest = 1, highest = 4)
  expect_error(sw_survey(data, book),
    "18 answers do not fit the codebook: \"sometimes\" is not a number, 13 times in a and b; 7 is outside 1 to 4, 5 times in b",
    fixed = TRUE)
  expect_error(sw_moments(sw_demo("plotholders"), correlation = "spearman", missing = "fiml"), "`missing = \"fiml\"`", fixed = TRUE)
  cli <- run_cli("explore", "--demo", "plotholders", "--factors", "4", "--correlation", "spearman", "--missing", "fiml")
  expect_match(paste(cli$err, collapse = " "), "`--missing fiml` is for Pearson", fixed = TRUE)
  words <- core("command_words")
  entries <- list(list(name = "trust", flag = "--trust"), list(name = "missing", flag = "--missing"))
  expect_equal(words("say `trust = TRUE`, `missing = \"listwise\"`, `sw_retention()` or `scale`", entries),
    "say `--trust`, `--missing listwise`, `scalewort retention` or `scale`")
  expect_equal(words("use `estimator = \"robust\"`", entries, plan = TRUE), "use `estimator: robust`")
})
