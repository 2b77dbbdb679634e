# The one door to answers: each question against counting by hand, nobody else at the columns, and results that
# hold a reference only.

# 60 people, some of them set aside, answers missing, an item reversed, one of a test.
door_survey <- function(n = 60) {
  set.seed(4)
  level <- rnorm(n)
  answer <- function(sign = 1) pmin(5, pmax(1, round(3 + sign * level + rnorm(n))))
  data <- data.frame(id = seq_len(n) + 100, area = rep(c("north", "south"), length.out = n), a = answer(), b = answer(-1), c = answer(), d = answer(),
    q = sample(c("A", "B", ""), n, TRUE))
  data$a[3] <- NA
  data$c[c(3, 9)] <- -9
  book <- data.frame(item = c("a", "b", "c", "d", "q"), scale = c("s", "s", "s", "s", ""), direction = c("forward", "reversed", "forward", "forward",
    "forward"), lowest = c(1, 1, 1, 1, NA), highest = c(5, 5, 5, 5, NA), answer = c("", "", "", "", "A"), options = c("", "", "", "", "A B"),
    missing = c("", "", "unseen:-9", "", "skipped:blank"))
  sw_drop(sw_survey(data, book, id = "id", group = "area"), cases = 1:4, reason = "a trial")
}

test_that("a source answers what counting by hand gives, for the cases in use", {
  survey <- door_survey()
  raw <- survey$data[-(1:4), ]
  raw$c[raw$c == -9] <- NA
  keyed <- as.matrix(cbind(raw["a"], b = 6 - raw$b, raw[c("c", "d")]))
  items <- c("a", "b", "c", "d")
  expect_equal(core("source_count")(survey, items), list(used = 56L, aside = 4L, missing = c(a = 0L, b = 0L, c = 1L, d = 0L)))
  expect_equal(core("source_rows")(survey, items), keyed, ignore_attr = "dimnames")
  expect_equal(core("source_rows")(survey, "b", keyed = FALSE)[, 1], as.numeric(raw$b))
  whole <- keyed[complete.cases(keyed), ]
  expect_equal(nrow(whole), 55)
  expect_equal(core("source_complete_rows")(survey, items), whole, ignore_attr = "dimnames")
  found <- core("source_moments")(survey, items)
  expect_equal(found$covariance, cov(whole), ignore_attr = TRUE)
  expect_equal(unname(found$mean), unname(colMeans(whole)))
  expect_equal(core("source_moments")(survey, items, "pairwise")$covariance, cov(keyed, use = "pairwise.complete.obs"), ignore_attr = TRUE)
  expect_equal(core("source_moments")(survey, items, kind = "spearman")$covariance, cor(whole, method = "spearman"), ignore_attr = TRUE)
  tally <- core("source_tally")(survey, "c")
  expect_equal(tally$counts, as.vector(table(factor(raw$c, 1:5))))
  expect_equal(core("source_tally")(survey, "q")$chosen$counts, c(sum(raw$q == "A"), sum(raw$q == "B")))
  totals <- core("source_totals")(survey, items)
  expect_equal(totals$n[totals$n > 0], as.vector(table(rowSums(whole))))
  patterns <- core("source_patterns")(survey, items)
  expect_equal(vapply(patterns, `[[`, 0, "n"), c(55, 1))
  expect_equal(unname(patterns[[2]]$seen), c(1, 2, 4))
  expect_equal(patterns[[1]]$mean, unname(colMeans(whole)))
  expect_equal(core("source_pairs")(survey, items, TRUE)$r, core("core_polychoric")(as.list(as.data.frame(whole)), complete = TRUE)$r,
    ignore_attr = TRUE)
  expect_equal(core("source_columns")(survey, c("id", "area"))$id, 105:160)
  expect_equal(core("group_of")(survey, "area"), raw$area)
  expect_equal(core("case_names")(survey), as.character(105:160))
})

test_that("no file but the source's own touches the columns of a survey, and reversal stands in one", {
  folder <- source_folder()
  skip_if(is.null(folder), "the sources are not beside the tests")
  files <- list.files(folder, "[.]R$", full.names = TRUE)
  others <- files[!grepl("^(source-|survey-make|survey-keying|survey-ask|survey-check|codebook-items)", basename(files))]
  expect_gt(length(others), 100)
  for (file in others) {
    code <- sub("^\\s*#.*$", "", readLines(file))
    touched <- grep("(survey|\\bx|half|\\ball|rest|left|out|parts|source)\\$(data|answers|kept)\\b", code, value = TRUE)
    touched <- touched[!grepl("out\\$answers|out\\$data|seq_len\\(nrow\\(survey\\$data\\)\\)", touched)]
    expect_equal(touched, character(), info = basename(file))
    expect_false(any(grepl("lowest[^,]*\\+[^,]*highest", code)), info = basename(file))
  }
})

# A source that keeps its columns where nobody can see them, and answers all the same.
walled <- function(survey) {
  inner <- survey
  wall <- new.env(parent = emptyenv())
  wall$hash <- "walled"
  wall$ask <- function(question, outer, ...) {
    inner$kept <- outer$kept
    inner$codebook <- outer$codebook
    core(question)(inner, ...)
  }
  class(wall) <- "walled_source"
  survey$source <- wall
  survey
}
questions <- c("count", "moments", "tally", "pairs", "totals", "patterns", "rows", "columns", "names", "everyone")
for (question in questions) local({
  name <- paste0("source_", question)
  registerS3method(name, "walled_source", function(survey, ...) survey$source$ask(name, survey, ...), envir = asNamespace("scalewort"))
})

test_that("every verb works through the door alone", {
  survey <- sw_demo("plotholders")
  behind <- walled(survey)
  expect_null(behind$source$data)
  same <- function(work) expect_equal(work(behind)$tables, work(survey)$tables)
  same(sw_screen)
  same(sw_keying)
  same(function(s) sw_answering(s, time = "seconds"))
  same(function(s) sw_reliability(s, by = "district", missing = "fiml"))
  same(function(s) sw_reliability(s, interval = "percentile", replicates = 100))
  same(function(s) sw_factorability(s, correlation = "polychoric"))
  same(function(s) sw_retention(s, replicates = 20, draws = "shuffled"))
  same(function(s) sw_explore(s, 2, items = c("calm", "craft")))
  same(function(s) sw_stability(s, 2, items = c("calm", "craft"), halves = 5))
  same(function(s) sw_dif(s))
  same(function(s) sw_invariance(s, steps = c("configural", "metric")))
  same(function(s) sw_composites(s, replicates = 20))
  same(function(s) sw_confirm(s, estimator = "ordinal"))
  same(function(s) sw_score(s, c("mean", "regression"), from = sw_confirm(s)))
  same(function(s) sw_validity(sw_confirm(s, missing = "listwise"), replicates = 50, outside = c(seconds = "+")))
  same(function(s) sw_influence(sw_confirm(s), worst = 1))
  expect_equal(augment(sw_score(behind)), augment(sw_score(survey)))
  quiz <- sw_demo("plantcare")
  expect_equal(sw_option_curves(walled(quiz))$tables, sw_option_curves(quiz)$tables)
  expect_equal(sw_split(behind)$calibration$kept, sw_split(survey)$calibration$kept)
  expect_output(print(behind), "640 cases")
})

test_that("results hold a reference: saved they carry no answers, and find the same answers read again", {
  small <- sw_confirm(sw_keep(door_survey(300), items = "s", reason = "a trial"))
  large <- sw_confirm(sw_keep(door_survey(3000), items = "s", reason = "a trial"))
  # What grows with people is which rows are in use: two whole numbers each.
  expect_lt(length(serialize(large, NULL)) - length(serialize(small, NULL)), 2700 * 8 + 200)
  held <- withr::local_tempfile(fileext = ".rds")
  saveRDS(small, held)
  cases <- sw_influence(small, worst = 1)$tables$cases
  rm(small)
  gc()
  again <- readRDS(held)
  error <- expect_error(sw_influence(again, worst = 1), "not here: a saved result holds none", class = "scalewort_error_input")
  expect_match(conditionMessage(error), "Read the same answers again")
  # Others do not do; the same ones do, without being named.
  other <- sw_keep(door_survey(301), items = "s", reason = "a trial")
  expect_error(sw_influence(again, worst = 1), class = "scalewort_error_input")
  survey <- door_survey(300)
  expect_equal(sw_influence(again, worst = 1)$tables$cases, cases)
  # Scores keep none either, and make the data again from the answers.
  scores <- unserialize(serialize(sw_score(survey), NULL))
  expect_equal(augment(scores)$s_mean, augment(sw_score(survey))$s_mean)
  expect_output(print(scores), "1 score for 296 cases", fixed = TRUE)
  # What needs no answers does without.
  rm(survey)
  gc()
  expect_s3_class(sw_structure(sw_explore(door_survey(300), 1, items = "s") |> serialize(NULL) |> unserialize()), "sw_structure")
  # A survey itself is saved with its answers.
  whole <- unserialize(serialize(door_survey(300), NULL))
  expect_equal(sw_reliability(whole)$tables, sw_reliability(door_survey(300))$tables)
  # A column set in one copy stays out of the others.
  copy <- whole
  copy$data$extra <- 1
  expect_false("extra" %in% names(whole$data))
  expect_equal(copy$data$extra[2], 1)
  expect_equal(copy$answers, whole$answers)
})

test_that("results of the same, of some and of other cases know how many they have in common", {
  survey <- sw_demo("plotholders")
  origin <- function(s) core("case_origin")(s)
  overlap <- function(a, b) core("origins_overlap")(origin(a), origin(b))
  halves <- sw_split(survey)
  some <- core("take_cases")(survey, c(2, 9, 17, 640))
  rows <- core("case_rows")
  expect_equal(overlap(survey, survey), 640)
  expect_equal(overlap(halves$calibration, halves$validation), 0)
  expect_equal(overlap(halves$calibration, survey), length(rows(halves$calibration)))
  expect_equal(overlap(halves$validation, some), length(intersect(rows(halves$validation), c(2, 9, 17, 640))))
  expect_equal(rows(some), c(2, 9, 17, 640))
  expect_equal(sum(some$kept), 4)
  # With nobody set aside nothing is held of the cases; putting everybody back gives that again.
  expect_null(unclass(survey)$kept)
  some$kept[] <- TRUE
  expect_null(unclass(some)$kept)
  expect_equal(survey$kept, rep(TRUE, 640))
})

test_that("people are counted by answer, score and cell, item by item", {
  survey <- door_survey()
  keyed <- core("source_rows")(survey, c("a", "b", "c"))
  found <- core("source_crossed")(survey, c("a", "b", "q"), list(c("b", "c"), c("a", "c"), "a"))
  rest <- rowSums(keyed[, c("b", "c")], na.rm = TRUE)
  expect_equal(sum(found[[1]]$n), 56)
  expect_true(all(is.na(found[[2]]$value)))
  for (k in seq_along(found[[1]]$n)) {
    row <- found[[1]][k, ]
    expect_equal(row$n, sum(keyed[, "a"] == row$answer & rest == row$total & 2 - is.na(keyed[, "c"]) == row$given))
  }
  expect_equal(as.vector(tapply(found[[3]]$n, factor(found[[3]]$value, c("A", "B", "")), sum)),
    as.vector(table(factor(survey$data$q[-(1:4)], c("A", "B", "")))))
  of_north <- core("source_crossed")(survey, "c", list("c"), c("a", "c"), "area")[[1]]
  expect_equal(sum(of_north$n), sum(!is.na(keyed[, "c"])))
  expect_equal(sum(of_north$n[of_north$value == "north"]), sum(!is.na(keyed[, "c"]) & survey$data$area[-(1:4)] == "north"))
  # Sums that differ in their last digit are one score, and many columns do not run out of numbers.
  expect_equal(core("crossed_counts")(list(x = c(.1 + .2, .3, .4)))$n, c(2, 1))
  many <- c(rep(list(rep(1:500, 2)), 7), list(rep(1:2, each = 500)))
  expect_equal(core("crossed_counts")(many)$n, rep(1, 1000))
})
