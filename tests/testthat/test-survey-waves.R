# One order of waves, whoever asks.

panel <- function(names, as = identity) {
  set.seed(4)
  f <- rnorm(80)
  data <- data.frame(id = rep(1:80, 2), time = as(rep(names, each = 80)))
  for (j in 1:4) data[[paste0("a", j)]] <- pmin(5, pmax(1, round(2.6 + c(f, f + .8) + rnorm(160, 0, .6))))
  data
}
book <- data.frame(item = paste0("a", 1:4), scale = "a", lowest = 1, highest = 5)
rise <- function(survey) mean(tidy(sw_score(survey), "change")$change)

test_that("a rise is a rise whatever the waves are called", {
  expect_gt(rise(sw_survey(panel(c("pre", "post")), book, id = "id", wave = "time")), .4)
  expect_gt(rise(sw_survey(panel(c(2, 10)), book, id = "id", wave = "time")), .4)
  expect_gt(rise(sw_survey(panel(c("t2", "t10")), book, id = "id", wave = "time")), .4)
  expect_gt(rise(sw_survey(panel(c("9.5.2024", "01.03.2025")), book, id = "id", wave = "time")), .4)
  expect_gt(rise(sw_survey(panel(c("z", "a"), function(x) factor(x, c("z", "a"))), book, id = "id", wave = "time")), .4)
  # Rows the other way round: numbers and dates keep their order, names follow the data.
  back <- function(names) panel(names)[160:1, ]
  expect_gt(rise(sw_survey(back(c("2024-01-05", "2024-11-20")), book, id = "id", wave = "time")), .4)
  expect_gt(rise(sw_survey(back(c("pre", "post")), book, id = "id", wave = "time", waves = c("pre", "post"))), .4)
  expect_lt(rise(sw_survey(back(c("pre", "post")), book, id = "id", wave = "time")), -.4)
  # The codebook's labels order them, too.
  labelled <- rbind(cbind(book, role = "scored", labels = ""), data.frame(item = "time", scale = "", lowest = NA, highest = NA, role = "aside",
    labels = "1 = pre; 2 = post"))
  expect_gt(rise(sw_survey(back(c("pre", "post")), labelled, id = "id", wave = "time")), .4)
})

test_that("a guessed order is said; the same first wave is taken everywhere", {
  survey <- sw_survey(panel(c("pre", "post")), book, id = "id", wave = "time")
  expect_match(sw_score(survey)$notes[1], "Which wave is first was guessed: \"pre\" and \"post\"", fixed = TRUE)
  first <- core("first_wave")(survey)
  expect_equal(unique(first$data$time[first$kept]), "pre")
  steps <- sw_invariance(survey, across = "time", steps = "metric")
  expect_equal(steps$parts$labels$label, c("wave pre", "wave post"))
  named <- sw_survey(panel(c("pre", "post")), book, id = "id", wave = "time", waves = c("post", "pre"))
  expect_false(any(grepl("guessed", sw_score(named)$notes)))
  expect_equal(core("survey_waves")(named), c("post", "pre"))
  expect_error(sw_survey(panel(c("pre", "post")), book, id = "id", wave = "time", waves = c("pre", "pots")), "pots", class = "scalewort_error_input")
  expect_error(sw_survey(panel(c("pre", "post")), book, id = "id", waves = "pre"), "no column of waves", class = "scalewort_error_input")
})

test_that("identifiers that stand in several rows are people, not cases", {
  survey <- sw_survey(panel(c("pre", "post")), book, id = "id")
  expect_match(paste(format(survey), collapse = " "), "80 people in 160 rows: if these are waves")
  scores <- sw_score(survey)
  expect_match(format(scores)[1], "1 score for 80 people in 160 rows")
  expect_match(paste(sw_reliability(survey)$notes, collapse = " "), "80 people in 160 rows")
  expect_match(sw_explain(scores, 7)$notes, "stands in 2 rows; this is row 7")
})

test_that("a plan and the command line set the order of waves, too", {
  folder <- withr::local_tempdir()
  data.table::fwrite(panel(c("pre", "post"))[160:1, ], file.path(folder, "d.csv"))
  data.table::fwrite(book, file.path(folder, "b.csv"))
  writeLines(c("data: d.csv", "codebook: b.csv", "id: id", "wave: time", "waves: [pre, post]"), file.path(folder, "plan.yml"))
  survey <- core("planned_survey")(core("read_plan")(file.path(folder, "plan.yml")), core("beside_plan")(file.path(folder, "plan.yml")))
  expect_gt(rise(survey), .4)
  run <- run_cli("score", "d.csv", "--codebook", "b.csv", "--id", "id", "--wave", "time", "--waves", "pre,post", "--table", "change", "--format",
    "csv", folder = folder)
  expect_gt(mean(utils::read.csv(text = run$out)$change), .4)
  writeLines(c("data: d.csv", "codebook: b.csv", "wave: time", "waves: [pre, pots]"), file.path(folder, "plan.yml"))
  expect_error(sw_run(file.path(folder, "plan.yml"), check = TRUE), "line 4: waves: there is no wave \"pots\"", class = "scalewort_error_input")
})
