survey <- sw_demo("plotholders")
results <- list(
  sw_screen(survey), sw_reliability(survey), sw_retention(survey, replicates = 100), sw_explore(survey, 4),
  sw_confirm(survey), sw_score(survey)
)

test_that("print begins with a sentence, fits 80 columns and returns its object", {
  for (x in results) {
    out <- capture.output(returned <- withVisible(print(x)))
    expect_false(returned$visible)
    expect_identical(returned$value, x)
    expect_match(out[1], "^[A-Z0-9].+")
    expect_true(all(nchar(out, "width") <= 80), info = class(x)[1])
    expect_match(out, "^n = ", all = FALSE)
    whole <- capture.output(summary(x))
    expect_true(all(nchar(whole, "width") <= 90), info = class(x)[1])
    expect_gt(length(whole), length(out) / 2)
  }
})

test_that("the answer that the read-me shows is the one that comes", {
  readme <- test_path("..", "..", "README.md")
  skip_if_not(file.exists(readme), "installed without the read-me")
  lines <- readLines(readme, encoding = "UTF-8")
  first <- grep("^Check the keying first", lines)
  shown <- lines[first:(first + which(lines[-seq_len(first)] == "```")[1] - 1)]
  expect_equal(format(sw_reliability(sw_demo("plotholders", codebook = "draft"))), shown)
})

test_that("tidy gives tibbles, glance one row, for every result and table", {
  for (x in results) {
    for (table in names(x$tables)) expect_s3_class(tidy(x, table), "tbl_df")
    expect_equal(nrow(glance(x)), 1)
    expect_true(all(c("n", "missing") %in% names(glance(x))))
    expect_equal(as.data.frame(x), as.data.frame(tidy(x)))
  }
})

test_that("every column that is shown has a header of its own", {
  columns <- unique(unlist(lapply(results, function(x) unlist(lapply(x$tables[names(x$tables) != "correlations"], names)))))
  columns <- setdiff(columns, c(paste0("F", 1:4), grep("_(mean|sum)$", columns, value = TRUE), "id", "wave"))
  expect_equal(setdiff(columns, core("column_glossary")()$column), character())
  expect_false(anyDuplicated(core("column_glossary")()$column) > 0)
})

test_that("numbers are written as journals write them", {
  number <- core("format_number")
  expect_equal(number(c(.8123, -.0004, NA, 1), "coefficient"), c(".812", ".000", "", "1.000"))
  expect_equal(number(c(.0004, .0312, 1), "p"), c("<.001", ".031", "1.000"))
  expect_equal(number(c(3.14159, -2), "value"), c("3.14", "-2.00"))
  expect_equal(number(.1234, "percent"), "12%")
  expect_equal(number(c(5, 2.5), "count"), c("5", "2.50"))
})

test_that("wide tables repeat the names of their rows", {
  table <- tibble::tibble(factor = "f", item = c("a", "b"))
  for (i in 1:15) table[[paste0("column_number_", i)]] <- i / 10
  lines <- core("format_table")(table)
  expect_true(all(nchar(lines) <= 80))
  expect_gt(sum(grepl("^  factor  item", lines)), 1)
})

test_that("surveys, codebooks, moments, structures and limits print", {
  expect_match(format(survey), "640 cases to 22 items", all = FALSE)
  expect_match(format(survey$codebook), "5 keyed reversed", all = FALSE)
  expect_match(format(sw_moments(survey)), "n = ", all = FALSE)
  expect_match(format(sw_structure(survey)), "4 factors, 22 items", all = FALSE)
  expect_match(format(sw_limits()), "Hu & Bentler", all = FALSE)
  for (x in list(survey, survey$codebook, sw_moments(survey), sw_structure(survey), sw_limits())) {
    expect_output(print(x))
    expect_true(all(nchar(format(x), "width") <= 80))
  }
})

test_that("the README shows the output that its example gives", {
  readme <- c("../../README.md", "../../00_pkg_src/scalewort/README.md")
  readme <- readme[file.exists(readme)]
  skip_if(length(readme) == 0, "the README is not beside the tests")
  lines <- readLines(readme[1])
  fences <- which(startsWith(lines, "```"))
  at <- which(grepl("^Check the keying first", lines))
  block <- lines[at:(fences[fences > at][1] - 1)]
  expect_equal(block, format(sw_reliability(sw_demo("plotholders", codebook = "draft"))))
})

test_that("sentences for a paper say what the tables hold, and no more", {
  survey <- sw_demo("plotholders")
  words <- function(x) sentences_of(x)
  found <- sw_explore(survey, 4)
  said <- words(found)
  fit <- tidy(found, "fit")
  expect_match(said, "^The 22 items were explored by maximum likelihood factor analysis of their Pearson correlations")
  expect_match(said, "with oblimin rotation (n = 640). Correlations came by maximum likelihood from everyone", fixed = TRUE)
  expect_match(said, sprintf("Four factors explained 41%% of the items' variance; chi-square(%d) = %.2f", fit$df, fit$chi_square), fixed = TRUE)
  items <- tidy(found, "items")
  reach <- abs(items$loading) >= .40
  expect_match(said, paste("Of 22 items", sum(reach), "loaded .40 or more"), fixed = TRUE)
  ends <- sub("^0", "", sprintf("%.2f", range(abs(items$loading[reach]))))
  expect_match(said, paste("between", ends[1], "and", ends[2]), fixed = TRUE)
  for (item in items$item[!reach]) expect_match(said, paste0("\\b", item, "\\b.* did not"))
  r <- found$parts$factor_correlations
  expect_match(said, paste("Correlations of factors were between", sub("^0", "", sprintf("%.2f", min(r))), "and"), fixed = TRUE)
  expect_false(grepl("Correlations of factors", words(sw_explore(survey, 3, rotation = "varimax"))))
  one <- words(sw_explore(survey, 1, extraction = "pca", rotation = "none"))
  expect_match(one, "One component explained")
  expect_false(grepl("factor|rotation", one))
  noise <- words(sw_explore(survey, 4, limits = sw_limits(loading = .99)))
  expect_match(noise, "No item loaded .99 or more on a factor.", fixed = TRUE)
  expect_false(grepl("did not", noise))
  expect_match(words(sw_explore(survey, 4, missing = "pairwise")), "each correlation from everyone who answered both items")
  published <- sw_moments(datasets::Harman74.cor$cov, n = 145)
  said <- words(sw_confirm(published, sw_structure(f = rownames(datasets::Harman74.cor$cov)[1:4])))
  expect_match(said, "to n = 145 cases\\. Chi-square")
  expect_false(grepl("missing", said))
  retained <- sw_retention(survey, replicates = 100)
  expect_match(words(retained), "95th percentile of 100 random matrices .*, which gave 4, .* Both pointed to 4 factors.")
  scores <- sw_score(survey, form = "t")
  table <- tidy(scores)[tidy(scores)$score %in% paste0(c("calm", "craft", "kinship", "stewardship"), "_mean"), ]
  expect_match(words(scores), "^Four scores were computed, each as the mean of the items ")
  expect_match(words(scores), sprintf("; n = %d to %d of 640", min(table$n), max(table$n)))
  expect_match(words(sw_score(sw_demo("plantcare"), "right")),
    "^One score was computed, as the number of right answers .* an item passed over is not right")
})
