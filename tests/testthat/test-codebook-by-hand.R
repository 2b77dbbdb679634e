# Codebooks, keys, layouts, covers and packed studies as people have them beside their answers.

by_hand <- function(folder) {
  made <- withr::with_seed(11, {
    f <- cbind(rnorm(150), rnorm(150))
    x <- sapply(1:10, function(j) cut(f[, 1 + (j > 5)] * ifelse(j == 2, -1, 1) + rnorm(150, sd = .8), c(-Inf, -1, -.2, .5, 1.2, Inf), labels = FALSE))
    x[1:4, 3] <- 9
    data.frame(Nr = 1:150, House = rep(c("A", "B", "C"), 50), stats::setNames(as.data.frame(x), paste0("T", 1:10)))
  })
  book <- data.frame(Variable = names(made), Fragetext = c("Nummer", "Haus", paste("Aussage", 1:10)),
    Skala = c("", "", rep("Ruhe", 5), rep("Reparatur", 5)), Umgepolt = c("", "", ifelse(1:10 == 2, "ja", "nein")),
    Wertelabels = c("", "", rep("1: nie, 2: selten, 3: manchmal, 4: oft, 5: immer, 9: keine Angabe", 10)))
  list(data = made, book = book)
}

drafted <- function(folder, ...) {
  done <- run_cli("start", ..., folder = folder)
  path <- list.files(folder, "-codebook([-]draft)?[.]csv$", full.names = TRUE)
  c(done, list(book = if (done$status == 0) sw_codebook(path[length(path)])$items,
    plan = if (done$status == 0) readLines(list.files(folder, "-plan[.]yml$", full.names = TRUE)[1])))
}

as_told <- function(items, info) {
  items <- items[items$role == "scored", ]
  expect_equal(items$scale, rep(c("Ruhe", "Reparatur"), each = 5), info = info)
  expect_equal(items$direction == "reversed", 1:10 == 2, info = info)
  expect_equal(unique(items$labels), "1 = nie; 2 = selten; 3 = manchmal; 4 = oft; 5 = immer", info = info)
  expect_equal(unique(items$missing), "9", info = info)
  expect_equal(items$wording[4], "Aussage 4", info = info)
}

test_that("a codebook of one's own is taken by its meaning: named, as a second file, on a sheet behind a cover, packed with the data", {
  made <- by_hand()
  folder <- withr::local_tempdir()
  utils::write.csv(made$data, file.path(folder, "house.csv"), row.names = FALSE)
  writeLines(c("Codebuch der Befragung;;;;", ";;;;"), file.path(folder, "eigenes.csv"))
  suppressWarnings(utils::write.table(made$book, file.path(folder, "eigenes.csv"), sep = ";", row.names = FALSE, append = TRUE))
  as_told(drafted(folder, "house.csv", "--codebook", "eigenes.csv")$book, "named")
  as_told(drafted(folder, "house.csv", "eigenes.csv", "--overwrite")$book, "second file")
  expect_match(run_cli("check", "house-plan.yml", folder = folder)$out, "can be followed", all = FALSE)
  packed <- withr::local_tempdir()
  withr::with_dir(folder, utils::zip(file.path(packed, "study.zip"), c("house.csv", "eigenes.csv"), flags = "-q"))
  as_told(drafted(packed, "study.zip")$book, "packed")
  other <- drafted(folder, "house.csv", "--codebook", "house.csv", "--overwrite")
  expect_equal(other$status, 3)
  expect_match(other$err, "no codebook of these columns")
  skip_without("openxlsx")
  sheets <- withr::local_tempdir()
  openxlsx::write.xlsx(list(About = data.frame(Notes = c("Tenants", "2025")), Data = made$data, Codes = made$book),
    file.path(sheets, "house.xlsx"))
  done <- drafted(sheets, "house.xlsx")
  as_told(done$book, "sheet")
  expect_match(done$plan, "^sheet: 2", all = FALSE)
  expect_equal(run_cli("check", "house-plan.yml", folder = sheets)$status, 0)
  expect_equal(sum(drafted(sheets, "house.xlsx", "--sheet", "Data", "--overwrite")$book$role == "scored"), 10)
})

test_that("labels, ranges and directions are read however they are written", {
  labels <- core("labels_by_hand")
  for (text in c("1 = low; 2 = mid; 3 = high", "1: low / 2: mid / 3: high", "1 low, 2 mid, 3 high", "low (1), mid (2), high (3)",
    "low=1, mid=2, high=3")) {
    expect_equal(labels(text), c(low = 1, mid = 2, high = 3), info = text)
  }
  expect_equal(labels("1 (never) to 5 (always)"), c(never = 1, always = 5))
  expect_equal(labels("free text"), numeric())
  expect_equal(core("range_by_hand")("Likert 1 bis 7"), c(1, 7))
  expect_equal(core("range_by_hand")("0-10"), c(0, 10))
  expect_null(core("range_by_hand")("Money"))
  expect_equal(vapply(c("ja", "x", "R", "-", "no", "nein", "+", ""), core("direction_by_hand"), ""),
    c("reversed", "reversed", "reversed", "reversed", "forward", "forward", "forward", ""), ignore_attr = TRUE)
  # One value a row, the item named once.
  rows <- data.frame(item = c("a", "", "b", ""), value = c("1", "2", "1", "2"), value_label = c("no", "yes", "off", "on"))
  expect_equal(core("told_rows")(rows, c("a", "b"))$b$labels, c(off = 1, on = 2))
})

test_that("a key makes letters items, in three forms; a row of right answers among the people is one", {
  key <- c("B", "D", "A", "C", "A", "B")
  people <- withr::with_seed(5, as.data.frame(sapply(key, function(right) sample(c(right, LETTERS[1:4]), 60, TRUE))))
  names(people) <- paste0("k", 1:6)
  folder <- withr::local_tempdir()
  utils::write.csv(cbind(pupil = sprintf("p%02d", 1:60), people), file.path(folder, "test.csv"), row.names = FALSE)
  writeLines(c("question,correct", paste0("k", 1:6, ",", key)), file.path(folder, "table.csv"))
  writeLines(c(paste0("k", 1:6, collapse = ","), paste(key, collapse = ",")), file.path(folder, "row.csv"))
  writeLines(paste(key, collapse = ""), file.path(folder, "letters.txt"))
  for (form in c("table.csv", "row.csv", "letters.txt")) {
    book <- drafted(folder, "test.csv", "--key", form, "--overwrite")$book
    expect_equal(book$answer[book$role == "scored"], key, info = form)
  }
  writeLines("nothing of the kind", file.path(folder, "none.txt"))
  expect_match(drafted(folder, "test.csv", "--key", "none.txt", "--overwrite")$err, "holds no key")
  utils::write.csv(rbind(list("KEY", "B", "D", "A", "C", "A", "B"), cbind(pupil = sprintf("p%02d", 1:60), people)), file.path(folder, "keyed.csv"),
    row.names = FALSE)
  draft <- sw_draft_codebook(file.path(folder, "keyed.csv"))
  expect_equal(draft$items$answer[-1], key)
  expect_equal(nrow(sw_read(file.path(folder, "keyed.csv"), draft)$data), 60)
})

test_that("fixed width is read by a file of places, which the plan keeps", {
  folder <- withr::local_tempdir()
  x <- withr::with_seed(2, matrix(sample(1:4, 300, TRUE), 60))
  writeLines(paste0(sprintf("%03d", 1:60), apply(x, 1, paste, collapse = "")), file.path(folder, "cards.dat"))
  writeLines(c("name,start,width", "person,1,3", paste0("mood", 1:5, ",", 4:8, ",1")), file.path(folder, "places.csv"))
  done <- drafted(folder, "cards.dat", "--layout", "places.csv")
  expect_equal(done$book$item, c("person", paste0("mood", 1:5)))
  expect_match(done$plan, "\"mood5\": 8-8", all = FALSE)
  expect_equal(run_cli("check", "cards-plan.yml", folder = folder)$status, 0)
  for (form in list(c("person 1-3", paste0("mood", 1:5, " ", 4:8)), c("person;1;3", paste0("mood", 1:5, ";", 4:8, ";", 4:8)))) {
    writeLines(form, file.path(folder, "places.txt"))
    expect_equal(unname(core("told_by_layout")(file.path(folder, "places.txt"))), c("1-3", paste0(4:8, "-", 4:8)), info = form[1])
  }
})
