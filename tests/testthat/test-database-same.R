# The same figures wherever the answers are: in memory, fetched from a table, added up in chunks, or as sums that a database works out.

in_memory <- function(name = "plotholders", ...) sw_survey(sw_demo(name)$data, demo_book(name), ...)

# Every question a source is asked, of two surveys.
expect_same_answers <- function(one, other, label) {
  items <- core("scored_items")(other)
  few <- items[c(1, 3, 8, 14)]
  ask <- function(question, ...) core(paste0("source_", question))
  same <- function(question, ...) {
    expect_equal(ask(question)(one, ...), ask(question)(other, ...), tolerance = 1e-10, ignore_attr = TRUE, info = paste(label, question))
  }
  same("count", items)
  for (item in few) expect_equal(core("source_tally")(one, item)[c("values", "counts")], core("source_tally")(other, item)[c("values", "counts")],
    info = paste(label, item))
  same("moments", items)
  same("moments", items, "pairwise")
  same("moments", few, "listwise", "spearman")
  same("moments", few, "pairwise", "spearman")
  for (complete in c(TRUE, FALSE)) expect_equal(core("source_pairs")(one, few, complete)[c("r", "std_error", "n", "thresholds", "cases")],
    core("source_pairs")(other, few, complete)[c("r", "std_error", "n", "thresholds", "cases")], tolerance = 1e-10, info = label)
  same("totals", few)
  same("patterns", items)
  crossed <- function(x) {
    found <- core("source_crossed")(x, few[1], list(few[-1]), few, "district")[[1]]
    found <- found[do.call(order, found), ]
    rownames(found) <- NULL
    found
  }
  expect_equal(crossed(one), crossed(other), info = label)
  expect_equal(core("source_people")(one), core("source_people")(other), ignore_attr = TRUE)
}

test_that("every source gives what memory gives, for everybody, one district, and a half of the people", {
  data <- as.data.frame(sw_demo("plotholders")$data)
  memory <- in_memory(id = "id", group = "district")
  survey <- function(...) sw_survey(sw_table(...), demo_book(), id = "id", group = "district")
  lite <- local_sqlite(answers = data)
  postgres <- local_postgres(answers = data)
  national <- local_shards(data)
  sources <- list(
    `SQLite, fetched` = survey(lite, "answers"), `SQLite, chunks` = survey(lite, "answers", memory = .25),
    `SQLite, sums` = survey(lite, "answers", fetch = "sums"), `PostgreSQL, fetched` = survey(postgres, "answers"),
    `PostgreSQL, chunks` = survey(postgres, "answers", memory = .25), `PostgreSQL, sums` = survey(postgres, "answers", fetch = "sums"),
    `foreign partitions, sums` = survey(national$whole, "national", fetch = "sums"),
    `foreign partitions, chunks` = survey(national$whole, "national", memory = .25),
    `list of shards, sums` = survey(national$shards, "part", fetch = "sums"), `list of shards, rows` = survey(national$shards, "part")
  )
  expect_equal(vapply(sources, function(s) class(s$source)[1], ""), rep_len(c("memory_source", "chunks_source", "sums_source", "memory_source",
    "chunks_source", "sums_source", "sums_source", "chunks_source", "sums_source", "memory_source"), length(sources)), ignore_attr = TRUE)
  expect_match(sw_log(sources[["foreign partitions, sums"]])$detail[1], "sums are worked out on 3 servers behind foreign partitions")
  halves <- sw_split(memory, method = "identifier", seed = 3)
  # A fair coin: within four standard errors of a half.
  expect_lt(abs(core("source_count")(halves$calibration)$used - 320), 4 * sqrt(640) / 2)
  for (name in names(sources)) {
    expect_same_answers(sources[[name]], memory, name)
    # What was fetched is memory from here on.
    if (grepl("fetched|rows", name)) next
    one <- core("take_groups")(sources[[name]], "district", "north")
    expect_same_answers(one, core("take_groups")(memory, "district", "north"), paste(name, "north"))
    split <- sw_split(sources[[name]], method = "identifier", seed = 3)
    expect_equal(attr(split, "halves"), attr(halves, "halves"), tolerance = 1e-10, info = name)
  }
})

test_that("verbs give the same tables from chunks, and from sums all that needs no single people", {
  lite <- local_sqlite(answers = sw_demo("plotholders")$data, quiz = sw_demo("plantcare")$data)
  memory <- in_memory(id = "id", group = "district")
  survey <- function(...) sw_survey(sw_table(lite, "answers", ...), demo_book(), id = "id", group = "district")
  chunks <- survey(memory = .25)
  sums <- survey(fetch = "sums")
  # tables: those compared; all but "general", where that is named alone.
  same <- function(work, of = chunks, tables = NULL) {
    one <- work(of)
    other <- work(memory)
    if (is.null(tables) || identical(tables, "general")) tables <- setdiff(names(other$tables), tables)
    expect_equal(one$tables[tables], other$tables[tables], tolerance = 1e-7)
  }
  same(sw_screen)
  same(function(s) sw_answering(s, time = "seconds"))
  same(function(s) sw_reliability(s, by = "district"))
  same(function(s) sw_confirm(s, estimator = "robust"))
  same(function(s) sw_score(s, "regression", from = sw_confirm(s)))
  same(sw_screen, sums, c("items", "flags", "options", "correlations", "missing", "missing_cases", "patterns", "missing_test", "normality"))
  same(sw_keying, sums)
  same(function(s) sw_reliability(s, by = "district"), sums, "compare")
  same(function(s) sw_explore(s, 2, items = c("calm", "craft"), missing = "listwise", errors = "none"), sums, c("pattern", "communalities"))
  same(sw_dif, sums)
  same(function(s) sw_invariance(s, by = "district", steps = c("configural", "metric"), estimator = "ml"), sums)
  same(function(s) sw_confirm(s, estimator = "ml"), sums, c("loadings", "factors"))
  same(function(s) sw_retention(s, replicates = 20, missing = "listwise"), sums)
  expect_match(paste(sw_reliability(sums)$notes, collapse = " "), "no single answers left it")
  quiz <- sw_survey(sw_table(lite, "quiz", fetch = "sums"), demo_book("plantcare"))
  expect_equal(sw_option_curves(quiz)$tables, sw_option_curves(in_memory("plantcare"))$tables)
  expect_equal(setdiff(format(quiz), format(in_memory("plantcare"))), "The answers stay in table quiz (SQLite).")
  # Too little memory for all items at once: as sums, with the reason.
  tight <- survey(memory = .05)
  expect_equal(sw_dif(tight)$tables, sw_dif(memory)$tables)
  expect_equal(sw_screen(tight)$tables$multivariate, sw_screen(memory)$tables$multivariate)
  expect_error(sw_answering(tight), "12 MB|1 MB", class = "scalewort_error_database")
  expect_error(sw_confirm(sums, estimator = "robust"), "single people", class = "scalewort_error_database")
  # More people than memory holds at once: gone through some at a time.
  many <- survey(memory = .2)
  expect_false(core("gives_rows")(many, core("scored_items")(many)))
  likelihood <- sw_confirm(memory, estimator = "ml")
  ordered <- sw_confirm(memory, estimator = "ordinal")
  whole <- list(
    function(s) sw_answering(s, time = "seconds"), function(s) sw_confirm(s, estimator = "robust"),
    function(s) sw_confirm(s, estimator = "robust", missing = "listwise"),
    function(s) sw_explore(s, 3, correlation = "polychoric"), function(s) sw_reliability(s, missing = "listwise", interval = "free"),
    function(s) sw_factorability(s), function(s) sw_score(s, c("regression", "bartlett"), from = likelihood),
    function(s) sw_score(s, "expected", from = ordered)
  )
  for (work in whole) same(work, many, "general")
  expect_match(core("database_note")(many)[[1]]$words, "gone through in chunks")
  expect_error(sw_score(many, c("mean", "regression"), from = likelihood), "two calls", class = "scalewort_error_input")
  set_aside <- function(s) sw_confirm(sw_drop(s, cases = 1:40, reason = "a test"), estimator = "ordinal")
  same(set_aside, many)
  turned <- function(s) sw_answering(sw_survey(s, demo_book("plantcare"), id = "id"))
  quiz <- sw_demo("plantcare")$data
  expect_equal(turned(sw_table(lite, "quiz", memory = .1))$tables, turned(quiz)$tables, tolerance = 1e-10)
})

test_that("moments keep their digits where sums of large numbers would lose them, over many chunks", {
  set.seed(9)
  n <- 150000
  level <- rnorm(n)
  data <- as.data.frame(lapply(c(a = 1, b = 2, c = 3), function(k) round(1e8 + level + rnorm(n), 2)))
  data$a[sample(n, 900)] <- NA
  data <- data[data$a > 1e8 | is.na(data$a), ]
  book <- data.frame(item = c("a", "b", "c"), scale = "s", direction = c("forward", "reversed", "forward"), lowest = 0, highest = 2e8)
  for (way in c("rows", "sums")) {
    # Of whole steps, so that the different answers can be counted.
    steps <- as.data.frame(lapply(data, function(x) round(x * 2) / 2))
    lite <- local_sqlite(answers = steps)
    memory <- sw_survey(steps, book)
    survey <- sw_survey(sw_table(lite, "answers", fetch = way, memory = 1), book)
    found <- core("source_moments")(survey, c("a", "b", "c"))
    for (question in c("patterns", "totals")) expect_equal(core(paste0("source_", question))(survey, c("a", "b", "c")),
      core(paste0("source_", question))(memory, c("a", "b", "c")), tolerance = 1e-8, ignore_attr = TRUE, info = paste(way, question))
    ask <- function(of, question, ...) core(paste0("source_", question))(of, ...)
    # Two-way tables of more than twenty answers are not asked of a database, nor third powers.
    for (missing in if (way == "rows") c("listwise", "pairwise")) expect_equal(ask(survey, "moments", c("a", "b"), missing, "spearman")$covariance,
      ask(memory, "moments", c("a", "b"), missing, "spearman")$covariance, tolerance = 1e-10, info = missing)
    if (way == "rows") expect_equal(ask(survey, "mardia", c("a", "b", "c")), ask(memory, "mardia", c("a", "b", "c")), tolerance = 1e-7)
    expect_equal(core("source_moments")(survey, c("a", "b", "c"), "pairwise")$covariance,
      core("source_moments")(memory, c("a", "b", "c"), "pairwise")$covariance, tolerance = 1e-10)
    expected <- core("source_moments")(memory, c("a", "b", "c"))
    expect_equal(found$n, expected$n)
    expect_equal(found$covariance, expected$covariance, tolerance = 1e-10)
    expect_equal(unname(found$covariance[1, 3]), stats::cov(steps$a, steps$c, use = "complete.obs"), tolerance = 1e-9)
    if (way == "rows") expect_identical(found$covariance, expected$covariance)
  }
})
