test_that("a report is one file with its tables, figures and record", {
  skip_if_not(rmarkdown::pandoc_available("2.0"), "pandoc is not there")
  survey <- sw_demo("plotholders")
  path <- withr::local_tempfile(fileext = ".html")
  results <- list(
    survey, sw_screen(survey), sw_reliability(survey), sw_retention(survey, replicates = 100), sw_explore(survey, 4),
    sw_confirm(survey), sw_score(survey)
  )
  expect_equal(sw_report(results, path, title = "A <report> & more", author = "A. Gardener"), path)
  html <- paste(readLines(path, warn = FALSE), collapse = "\n")
  expect_lt(file.size(path), 5e6)
  expect_true(grepl("lang=\"en\"", html, fixed = TRUE))
  expect_true(grepl("A &lt;report&gt; &amp; more", html, fixed = TRUE))
  expect_equal(lengths(regmatches(html, gregexpr("<img ", html))), 9)
  expect_equal(lengths(regmatches(html, gregexpr("src=\"data:image/png;base64", html))), 9)
  expect_false(grepl("(src|href)=\"(http|//)", html))
  tables <- lengths(regmatches(html, gregexpr("<table>", html)))
  expect_equal(tables, lengths(regmatches(html, gregexpr("class=\"label\">Table", html))))
  expect_gt(tables, 10)
  alpha <- core("coefficient_text")(tidy(results[[3]])$alpha)
  for (one in alpha) expect_true(grepl(one, html, fixed = TRUE))
  expect_true(grepl("On record", html, fixed = TRUE))
})

test_that("text from data cannot act as HTML", {
  data <- data.frame(`<b>x</b>` = c(1:5, 1:5), b = c(2, 1, 3, 5, 4, 1, 2, 4, 4, 5), check.names = FALSE)
  survey <- sw_survey(data, data.frame(item = names(data), scale = "<script>alert(1)</script>"))
  skip_if_not(rmarkdown::pandoc_available("2.0"), "pandoc is not there")
  path <- withr::local_tempfile(fileext = ".html")
  sw_report(sw_reliability(survey), path)
  html <- paste(readLines(path, warn = FALSE), collapse = "\n")
  expect_false(grepl("<script>alert", html, fixed = TRUE))
  expect_false(grepl("<b>x</b>", html, fixed = TRUE))
})

test_that("the whole path of a quiz makes a report, with its option curves and group bias", {
  skip_if_not(rmarkdown::pandoc_available("2.0"), "pandoc is not there")
  path <- withr::local_tempfile(fileext = ".html")
  run <- run_cli("report", "--demo", "plantcare", "--out", path, "--quiet")
  expect_equal(run$status, 0)
  html <- paste(readLines(path, warn = FALSE), collapse = "\n")
  for (title in c("Option curves", "Differential item functioning", "How people answered", "Subscale scores")) {
    expect_true(grepl(paste0("<h1>", title), html, fixed = TRUE), info = title)
  }
  expect_true(grepl("The key looks wrong: q08", html, fixed = TRUE))
})

test_that("what is no result, or a path that will not do, is refused", {
  survey <- sw_demo("plotholders")
  expect_error(sw_report(letters, "x.html"), class = "scalewort_error_input")
  expect_error(sw_report(list(), "x.html"), class = "scalewort_error_input")
  expect_error(sw_report(survey, "x.pdf"), class = "scalewort_error_file")
  path <- withr::local_tempfile(fileext = ".html")
  file.create(path)
  expect_error(sw_report(survey, path), "there already", class = "scalewort_error_file")
  expect_error(sw_report(survey, file.path(path, "no", "x.html")), "no such folder", class = "scalewort_error_file")
})
