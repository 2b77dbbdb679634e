# Exports of survey platforms: headers in several rows, two languages, numbered words, columns of the platform's own.

export <- function(rows = 3, n = 60) {
  english <- c("Strongly disagree", "Disagree", "Neither agree nor disagree", "Agree", "Strongly agree")
  german <- c("Stimme gar nicht zu", "Stimme nicht zu", "Teils/teils", "Stimme zu", "Stimme voll zu")
  withr::with_seed(4, {
    level <- rnorm(n)
    lang <- rep(c("en", "en", "de"), length.out = n)
    item <- function() {
      value <- findInterval(level + rnorm(n), c(-1.5, -.5, .5, 1.5)) + 1
      words <- ifelse(lang == "en", english[value], german[value])
      words[1:5] <- toupper(words[1:5])
      words[6:9] <- paste0(" ", words[6:9], " ")
      words[10] <- "Prefer not to say"
      list(words = words, value = replace(value, 10, NA))
    }
    items <- replicate(4, item(), simplify = FALSE)
    data <- data.frame(StartDate = "2026-03-01 10:00:00", Status = rep(c("Response", "Preview"), length.out = n), UserLanguage = lang)
    for (k in 1:4) data[[paste0("Q5_", k)]] <- items[[k]]$words
    rating <- rep(0:10, length.out = n)
    data$Q9 <- ifelse(rating == 0, "0 - not at all", ifelse(rating == 10, "10 completely", rating))
    data$Q10 <- "text"
    data$Q10 <- paste(sample(letters, n, TRUE), seq_len(n))
  })
  asked <- c("Start date", "Response type", "User language", paste0("How is your work? - ", c("I enjoy it", "I learn", "I belong", "It matters")),
    "Would you recommend us?", "Anything else?")
  tags <- paste0("{\"ImportId\":\"QID", seq_along(asked), "\"}")
  path <- withr::local_tempfile(fileext = ".csv", .local_envir = parent.frame())
  table <- rbind(names(data), if (rows > 1) asked, if (rows > 2) tags, as.matrix(data))
  utils::write.table(table, path, sep = ",", row.names = FALSE, col.names = FALSE, qmethod = "double")
  list(path = path, values = sapply(items, `[[`, "value"))
}

test_that("one, two or three rows of headers give the same answers, and wordings where they stand", {
  for (rows in 1:3) {
    file <- export(rows)
    draft <- sw_draft_codebook(file$path)
    book <- as.data.frame(draft)
    at <- match(paste0("Q5_", 1:4), book$item)
    expect_equal(book$highest[at], rep(5, 4), info = rows)
    expect_equal(book$scale[at], rep("Q5", 4))
    if (rows > 1) expect_equal(book$wording[at], c("I enjoy it", "I learn", "I belong", "It matters"))
    survey <- sw_read(file$path, draft)
    expect_equal(core("source_count")(survey)$used, 60)
    expect_equal(unname(core("source_rows")(survey, book$item[at])), unname(file$values), info = rows)
    if (rows == 3) expect_match(sw_log(survey)$detail, "two more rows of headers left out", all = FALSE)
    aside <- book$item[book$role == "aside"]
    expect_true(all(c("StartDate", "Status", "UserLanguage", "Q10") %in% aside))
    expect_equal(book$labels[book$item == "Q9"], "0 = not at all; 10 = completely")
    # Once in any language and spelling.
    expect_equal(lengths(strsplit(book$labels[at[1]], ";")), 10)
    expect_match(book$missing[at[1]], "Prefer not to say")
  }
})

test_that("answers are no headers", {
  words <- data.frame(a = rep(c("Never", "Often", "Always"), 10), b = rep(c("Often", "Never", "Always"), 10), c = rep(c("Always", "Often",
    "Never"), 10))
  expect_null(core("leave_out_header_rows")(words)$said)
  # Somebody whose answers are rare stays.
  odd <- rbind(data.frame(a = "Sometimes", b = "Never", c = "Often"), words)
  expect_equal(nrow(core("leave_out_header_rows")(odd)$data), 31)
  numbers <- data.frame(a = 1:12, b = 1:12)
  expect_identical(core("leave_out_header_rows")(numbers)$data, numbers)
})

test_that("steps of two languages pair off in order, or stay apart", {
  found <- core("answer_family")(c("Agree", "Disagree", "Stimme zu", "stimme nicht zu"))
  expect_equal(found$family, "agreement")
  expect_equal(length(unique(found$places)), 2)
  steps <- core("paired_steps")(c(.1, .2, .5, .8, .9), c(.05, .5, .95))
  expect_equal(steps$second, c(.1, .5, .9))
  expect_null(core("answer_family")(c("Agree", "Nie", "blue")))
  expect_equal(core("numbered_answers")(c("1", "2 rarely", "3")), c(1, 2, 3), ignore_attr = TRUE)
  expect_null(core("numbered_answers")(c("1 low", "1 high", "2")))
  expect_null(core("numbered_answers")(c("agree", "2")))
  for (name in c("StartDate", "IPAddress", "Duration (in seconds)", "ResponseId", "RecipientEmail", "UserLanguage", "LocationLatitude")) {
    expect_true(core("is_metadata")(name), info = name)
  }
  for (name in c("calm1", "status_anxiety1", "Q5_1", "locus", "ideal1", "language_use3")) expect_false(core("is_metadata")(name), info = name)
})
