# First codebooks from files as survey services write them.

# A file like an export: byte order mark, semicolons, words for answers, words for none.
exported <- function(folder) {
  set.seed(42)
  n <- 240
  structure <- sw_structure(A = paste0("A", 1:4), B = paste0("B", 1:4))
  answers <- as.data.frame(sw_simulate(structure, n, seed = 9)$data)[unlist(structure$factors)]
  words <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
  answers$A3 <- 6 - answers$A3
  # Nobody ticks the lowest box of B1, so that its own words are four.
  answers$B1 <- pmax(answers$B1, 2)
  text <- as.data.frame(lapply(answers, function(x) words[x]))
  text$A1[c(3, 9)] <- c("N/A", "Prefer not to say")
  text$B2[5] <- "prefer not to say"
  text <- cbind(ResponseId = sprintf("R_%04d", sample(9999, n)), Gender = sample(c("f", "m", "other"), n, TRUE, c(.5, .47, .03)),
    School = rep(c("North", "South"), n / 2), text, Comment = rep(c("", "she said \"no\"", "a; b"), n / 3))
  path <- file.path(folder, "my export.csv")
  file <- file(path, "w", encoding = "UTF-8")
  writeLines("\ufeff", file, sep = "")
  utils::write.table(text, file, sep = ";", row.names = FALSE, qmethod = "double")
  close(file)
  list(path = path, answers = answers)
}

test_that("an export goes from start to scores with nothing edited", {
  folder <- withr::local_tempdir()
  made <- exported(folder)
  start <- run_cli("start", made$path)
  expect_equal(start$status, 0)
  expect_match(start$out, "scalewort check '.*my export-plan.yml'", all = FALSE)
  codebook <- sw_codebook(file.path(folder, "my export-codebook.csv"))$items
  expect_equal(codebook$role[codebook$item %in% c("ResponseId", "Gender", "School", "Comment")], rep("aside", 4))
  items <- codebook[codebook$role == "scored", ]
  expect_equal(unique(items$labels), "1 = Strongly disagree; 2 = Disagree; 3 = Neither; 4 = Agree; 5 = Strongly agree")
  expect_equal(items$item[items$direction == "reversed"], "A3")
  expect_true(all(items$missing == items$missing[1]))
  expect_match(items$missing[1], "\"Prefer not to say\"", fixed = TRUE)
  plan <- readLines(file.path(folder, "my export-plan.yml"))
  expect_match(plan, "^group: \"School\"", all = FALSE)
  expect_match(plan, "^id: \"ResponseId\"", all = FALSE)
  run <- run_cli("run", file.path(folder, "my export-plan.yml"), "--quiet")
  expect_equal(run$status, 0)
  scores <- data.table::fread(file.path(folder, "results", "scores.csv"))
  right <- made$answers
  right$A3 <- 6 - right$A3
  right$A1[c(3, 9)] <- NA
  expect_equal(scores$A_mean, ifelse(rowMeans(!is.na(right[1:4])) >= .8, rowMeans(right[1:4], na.rm = TRUE), NA))
  # The comment comes back as it was, quotes and all.
  expect_equal(scores$Comment[2], "she said \"\"no\"\"")
  back <- sw_read(file.path(folder, "results", "scores.csv"), data.frame(item = "A_mean"))
  expect_equal(back$data$Comment[2], "she said \"no\"")
})

test_that("a step nobody ticked in one item keeps its number there", {
  draft <- function(...) sw_draft_codebook(data.frame(...))$items
  seen <- draft(m1 = rep(c("Never", "Sometimes", "Always"), 10), m2 = rep(c("Sometimes", "Always"), 15), m3 = rep(c("Never", "Always"), 15))
  expect_equal(unique(seen$labels), "1 = Never; 2 = Sometimes; 3 = Always")
  expect_equal(seen$highest, c(3, 3, 3))
  # A subscale without the middle, where another has it, is another format; without an end, it is not.
  formats <- draft(a1 = rep(c("Disagree", "Neutral", "Agree", "Strongly agree"), 6), a2 = rep(c("Disagree", "Neutral", "Agree"), 8),
    a3 = rep(c("Neutral", "Agree"), 12), b1 = rep(c("Disagree", "Agree"), 12), b2 = rep(c("Disagree", "Agree"), 12),
    b3 = rep(c("Disagree", "Agree"), 12), d1 = rep(c("Disagree", "Neutral", "Agree"), 8), d2 = rep(c("Neutral", "Agree"), 12),
    d3 = rep(c("Disagree", "Agree", "Agree"), 8))
  expect_equal(unique(formats$labels[1:3]), "1 = Disagree; 2 = Neutral; 3 = Agree; 4 = Strongly agree")
  expect_equal(unique(formats$labels[4:6]), "1 = Disagree; 2 = Agree")
  expect_equal(unique(formats$labels[7:9]), unique(formats$labels[1:3]))
  # Two words for one step may be two steps: not guessed, but for the middle.
  expect_equal(draft(x1 = rep(c("agree", "totally agree", "completely agree"), 9), x2 = rep(1:3, 9))$role, c("aside", "scored"))
  expect_equal(draft(y1 = rep(c("Strongly agree", "Moderately agree", "Somewhat agree"), 9))$labels,
    "1 = Somewhat agree; 2 = Moderately agree; 3 = Strongly agree")
  expect_equal(draft(x1 = rep(c("agree", "neutral", "Neither"), 9))$labels, "1 = Neither; 1 = neutral; 2 = agree")
})

test_that("a small number that stands alone among numbered items is taken for none", {
  answers <- as.data.frame(matrix(rep(1:5, 24), 30))
  names(answers) <- paste0("q", 1:4)
  draft <- sw_draft_codebook(cbind(answers, schooling = rep(1:6, 5), mood = rep(1:3, 10)))$items
  expect_equal(draft$role, rep(c("scored", "aside"), c(4, 2)))
  expect_equal(c(draft$lowest[5], draft$highest[5]), c(1, 6))
  expect_match(draft$guessed[5], "role")
  # Without numbers in the names neighbours that are answered alike go together.
  names(answers) <- c("glad", "calm", "proud", "keen")
  alone <- sw_draft_codebook(cbind(answers, schooling = rep(1:6, 5)))$items
  expect_equal(alone$scale, c(rep("items", 4), NA))
  expect_equal(alone$role, rep(c("scored", "aside"), c(4, 1)))
  names(answers) <- paste0("rest_", c("home", "work", "road", "night"))
  expect_equal(unique(sw_draft_codebook(cbind(answers, schooling = rep(1:6, 5)))$items$scale[1:4]), "rest")
})

test_that("words of unknown order that answers do not tell are offered for numbering, not guessed", {
  words <- c("gar nie da", "mal so", "immer da")
  data <- expand.grid(p1 = words, p2 = words, p3 = words, stringsAsFactors = FALSE)[rep(1:27, 2), ]
  data <- cbind(data, town = c("Ulm", "Bonn"), r1 = rep_len(1:5, 54))
  draft <- sw_draft_codebook(data)
  items <- draft$items
  expect_equal(items$labels[1], "? = gar nie da; ? = mal so; ? = immer da")
  expect_equal(items$role[1:4], rep("aside", 4))
  expect_true(is.na(items$labels[items$item == "town"]))
  expect_match(paste(format(draft), collapse = " "), "order is not known: number them in `labels`.*p1, p2 and p3")
  path <- withr::local_tempfile(fileext = ".csv")
  sw_write(draft, path)
  expect_equal(sw_codebook(path)$items$labels, items$labels)
  items$role[1:3] <- "scored"
  expect_error(sw_codebook(items[1:3, ]), "labels cannot be read", class = "scalewort_error_codebook")
})

# Five words that no list knows, answered along one trait; two of the items point the other way.
unlisted <- function(n, words) {
  withr::with_seed(3, {
    f <- rnorm(n)
    as.data.frame(lapply(stats::setNames(1:6, paste0("w", 1:6)), function(j) {
      words[cut(f * ifelse(j %in% c(2, 5), -1, 1) + rnorm(n, sd = .7), c(-Inf, -1.2, -.4, .4, 1.2, Inf))]
    }))
  })
}

test_that("words that no list knows stand in the order in which people who answer alike chose them, or in that of levels; both are asked about", {
  words <- c("not a crumb", "a thimble", "a cup", "a bucket", "a lake")
  draft <- sw_draft_codebook(unlisted(250, words))
  expect_equal(unique(draft$items$labels), paste(1:5, "=", words, collapse = "; "))
  expect_equal(draft$items$item[draft$items$direction == "reversed"], c("w2", "w5"))
  expect_match(format(draft), "No list knows these words", all = FALSE)
  levels <- c("a lake", "a cup", "not a crumb", "a bucket", "a thimble")
  factors <- as.data.frame(lapply(unlisted(250, words), factor, levels))
  expect_equal(sw_draft_codebook(factors)$items$labels[1], paste(1:5, "=", levels, collapse = "; "))
  # A word that is not known among words that are costs a word.
  known <- unlisted(250, c("never", "rarely", "now but not then", "often", "always"))
  expect_equal(sw_draft_codebook(known)$items$labels[1], "1 = never; 2 = rarely; 3 = now but not then; 4 = often; 5 = always")
})

test_that("answers in German are known; codes with spaces are quoted", {
  data <- data.frame(z1 = rep(c("trifft gar nicht zu", "trifft eher zu", "trifft voll zu", "keine Angabe"), 5))
  draft <- sw_draft_codebook(data)$items
  expect_equal(draft$labels, "1 = trifft gar nicht zu; 2 = trifft eher zu; 3 = trifft voll zu")
  expect_equal(draft$missing, "\"keine Angabe\"")
  codes <- core("missing_codes")("-9 skipped:\"not shown, sorry\" unseen:-1 \"no answer\";77")
  expect_equal(codes$code, c("-9", "not shown, sorry", "-1", "no answer", "77"))
  expect_equal(codes$kind, c("missing", "skipped", "unseen", "missing", "missing"))
  survey <- sw_survey(data, draft)
  expect_equal(survey$answers$z1[1:4], c(1, 2, 3, NA))
  extra <- sw_survey(data.frame(q = c("1", "2", "not today", "NOT TODAY")),
    data.frame(item = "q", lowest = 1, highest = 2), missing_codes = "not today")
  expect_equal(extra$answers$q, c(1, 2, NA, NA))
  expect_equal(tidy(sw_screen(sw_survey(data.frame(q = c(1, 2, "Not today", 2), r = 1:4), data.frame(item = c("q", "r"),
    missing = c("skipped:\"not today\"", "")))), "missing")$skipped, c(1, 0))
})

test_that("a codebook with several codes comes back from every form as it went", {
  folder <- withr::local_tempdir()
  book <- sw_codebook(data.frame(item = c("a", "b", "c"), lowest = 1, highest = 5, missing = c("-9 -8", "skipped:-7 \"no answer\"", "")))
  for (form in c("csv", "xlsx")) {
    path <- file.path(folder, paste0("book.", form))
    sw_write(book, path)
    expect_equal(sw_codebook(path)$items, book$items, info = form)
  }
  path <- file.path(folder, "book.yml")
  writeLines(c("- item: a", "  lowest: 1", "  highest: 5", "  missing: [-9, -8]", "- item: b", "  lowest: 1", "  highest: 5",
    "  missing: [\"skipped:-7\", no answer]", "- item: c", "  lowest: 1", "  highest: 5", "  missing: \"-9 -8\""), path)
  expect_equal(sw_codebook(path)$items$missing, c("-9 -8", "skipped:-7 \"no answer\"", "-9 -8"))
  survey <- sw_survey(data.frame(a = c(1, -9, -8, 5), b = c("2", "No Answer", "-7", "3"), c = 1:4), sw_codebook(path))
  expect_equal(survey$answers$a, c(1, NA, NA, 5))
  expect_equal(survey$answers$b, c(2, NA, NA, 3))
})

test_that("groups too small to compare stay out and are named, as long as two remain", {
  survey <- sw_demo("plotholders")
  survey$data$area <- replace(as.character(survey$data$district), 1:12, "island")
  bias <- sw_dif(survey, by = "area")
  expect_match(bias$noted$words[bias$noted$code == "too_small_groups"], "fewer than 20 cases: island (12)", fixed = TRUE)
  without <- sw_dif(sw_keep(survey, cases = 13:640, reason = "mainland"), by = "area")
  expect_equal(tidy(bias), tidy(without))
  expect_equal(bias$about$n, 628)
  four <- sw_drop(sw_structure(survey), items = "calm6")
  same <- sw_invariance(survey, four, by = "area", missing = "listwise", steps = c("configural", "metric"))
  expect_match(same$notes, "island \\([0-9]+\\)", all = FALSE)
  expect_equal(tidy(same), tidy(sw_invariance(sw_keep(survey, cases = 13:640, reason = "mainland"), four, by = "area", missing = "listwise",
    steps = c("configural", "metric"))))
  survey$data$area <- rep(c("a", "b"), c(630, 10))
  expect_error(sw_dif(survey, by = "area"), "b: 10", class = "scalewort_error_input")
  expect_error(sw_invariance(survey, four, by = "area"), "too small", class = "scalewort_error_input")
})

test_that("columns of one name, which real exports have, do not stop a first codebook", {
  data <- data.frame(a = rep(1:5, 6), b = rep(5:1, 6), comment = paste("said", 1:30), comment = "more", check.names = FALSE)
  items <- sw_draft_codebook(data)$items
  expect_equal(items$item, c("a", "b", "comment", "comment_1"))
  expect_equal(nrow(sw_survey(data, sw_draft_codebook(data))$data), 30)
})

test_that("numbers before or behind words are the answers, also of words that no list knows, and are read as such", {
  cells <- list(a = c("1 - Nunca jamais", "2", "3 - Talvez"), b = c("Kuku (1)", "Mimi (2)", "Zaza (3)"), c = c("1 = x y", "2", "3 = z"))
  answers <- as.data.frame(lapply(cells, rep, 20))
  names(answers) <- paste0("q", 1:3)
  book <- sw_draft_codebook(answers)
  expect_equal(sw_draft_codebook(transform(answers, q2 = replace(q2, 4, "?")))$items[2, c("labels", "missing")],
    data.frame(labels = "1 = Kuku; 2 = Mimi; 3 = Zaza", missing = "?"), ignore_attr = TRUE)
  # A short word among numbers may be the end of a scale.
  expect_equal(sw_draft_codebook(transform(answers, q4 = rep(c(1:4, 1:4, "nie"), length.out = 60)))$items$missing[4], NA_character_)
  expect_equal(book$items$labels, c("1 = Nunca jamais; 3 = Talvez", "1 = Kuku; 2 = Mimi; 3 = Zaza", "1 = x y; 3 = z"))
  expect_equal(unname(as.matrix(core("source_rows")(sw_survey(answers, book), keyed = FALSE))[1:3, ]), matrix(rep(1:3, 3), 3))
  # A number that the label does not have is no answer.
  answers$q2[5] <- "Mimi (3)"
  expect_error(sw_survey(answers, book), "Mimi (3)", fixed = TRUE, class = "scalewort_error")
})

test_that("a few stray cells, negative codes and labels without a number leave a column the item that it is", {
  answers <- data.frame(a = rep(1:5, 20), b = rep(c(2, 4, 1, 5, 3), 20), c = rep(c(5, 3, 1, 2, 4), 20))
  answers$a[c(3, 40)] <- c("3?", "4-5")
  answers$b[7] <- -77
  answers$c[1:3] <- "."
  book <- sw_draft_codebook(answers)
  expect_equal(book$items$role, rep("scored", 3))
  expect_equal(book$items$missing, c("3? 4-5", "-77", NA))
  expect_match(book$items$guessed[1:2], "missing")
  expect_equal(colSums(is.na(core("source_rows")(sw_survey(answers, book)))), c(a = 2, b = 1, c = 3))
  skip_without("haven")
  said <- haven::labelled(c(1:5, haven::tagged_na("a"))[rep(1:6, 10)], c(low = 1, high = 5, refused = haven::tagged_na("a")))
  expect_equal(sw_draft_codebook(data.frame(a = said, b = said))$items$labels, rep("1 = low; 5 = high", 2))
})

test_that("titles above the names of a sheet and totals and notes below it are left out, and said; people are not", {
  skip_without("openxlsx")
  path <- withr::local_tempfile(fileext = ".xlsx")
  sheet <- data.frame(no = 1:40, q1 = rep(1:5, 8), q2 = rep(5:1, 8), q3 = rep(c(1, 3, 2, 5, 4), 8))
  book <- openxlsx::createWorkbook()
  openxlsx::addWorksheet(book, "typed")
  openxlsx::writeData(book, "typed", "Club survey, typed by hand")
  openxlsx::writeData(book, "typed", "Garden", startRow = 2, startCol = 2)
  openxlsx::writeData(book, "typed", sheet, startRow = 3)
  openxlsx::saveWorkbook(book, path)
  read <- core("read_table")(path, list())
  expect_equal(as.data.frame(read$data), sheet, ignore_attr = TRUE)
  expect_match(core("say")(read$said), "2 rows above the names of the columns stepped over", fixed = TRUE)
  # Totals (one cell was not added up) and a note below an empty line; people below one stay.
  foot <- rbind(NA, c(no = NA, colSums(sheet[-1]) - c(0, 7, 0)), NA, c(99, NA, NA, NA))
  openxlsx::writeData(book, "typed", foot, startRow = 44, colNames = FALSE)
  openxlsx::saveWorkbook(book, path, overwrite = TRUE)
  read <- core("read_table")(path, list())
  expect_equal(as.data.frame(read$data), sheet, ignore_attr = TRUE)
  expect_match(core("say")(read$said), "4 rows at the foot", fixed = TRUE)
  openxlsx::writeData(book, "typed", sheet[1:4, ], startRow = 45, colNames = FALSE)
  openxlsx::saveWorkbook(book, path, overwrite = TRUE)
  expect_gte(nrow(core("read_table")(path, list())$data), 44)
  openxlsx::write.xlsx(sheet, path, overwrite = TRUE)
  expect_no_match(core("say")(core("read_table")(path, list())$said), "stepped over")
})

test_that("a test without its key is drafted: its letters are options, and nothing is scored yet", {
  items <- sw_draft_codebook(core("demo_file")("plantcare.csv"))$items
  expect_gt(sum(!is.na(items$options)), 5)
  expect_equal(unique(items$role), "aside")
})

test_that("nobody is left out for what a column only looks like", {
  answers <- withr::with_seed(8, as.data.frame(lapply(stats::setNames(nm = paste0("q", 1:5)), function(x) sample(5, 80, TRUE))))
  found <- function(...) sw_draft_codebook(cbind(data.frame(...), answers))
  # An item about taking part, a remark that says "correct", a region whose levels go round the compass.
  expect_equal(NROW(found(participation = rep(c("yes", "no"), c(75, 5)))$found$refused), 0)
  expect_equal(found(consent = rep(c("yes", "no"), c(75, 5)))$found$refused$row, 76:80)
  place <- withr::local_tempfile(fileext = ".csv")
  data.table::fwrite(cbind(id = sprintf("p%02d", 1:80), note = rep(c("", "correct", ""), c(40, 1, 39)), answers), place)
  expect_equal(nrow(core("read_table")(place)$data), 80)
  region <- found(region = factor(rep(c("North", "East", "South", "West"), 20), c("North", "East", "South", "West")))
  expect_equal(region$items$role[1], "aside")
  expect_equal(length(region$found$orders), 0)
})
