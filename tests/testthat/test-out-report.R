test_that("a report is one file with its tables, figures and record", {
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
  expect_equal(lengths(regmatches(html, gregexpr("<img ", html))), 10)
  expect_equal(lengths(regmatches(html, gregexpr("src=\"data:image/png;base64", html))), 10)
  expect_false(grepl("(src|href)=\"(http|//)", html))
  tables <- lengths(regmatches(html, gregexpr("<table>", html)))
  expect_equal(tables, lengths(regmatches(html, gregexpr("class=\"label\">Table", html))))
  expect_gt(tables, 10)
  alpha <- core("coefficient_text")(tidy(results[[3]])$alpha)
  for (one in alpha) expect_true(grepl(one, html, fixed = TRUE))
  expect_true(grepl("On record", html, fixed = TRUE))
  expect_true(grepl("Everybody who answered anything counts, by maximum likelihood: 640 people.", html, fixed = TRUE))
  halves <- sw_split(survey)
  some <- list(sw_reliability(survey), sw_explore(halves$calibration, 4), sw_confirm(halves$validation))
  expect_match(core("say")(core("people_counted")(some)), "rests on 320 of them, the confirmation on 320 others.$")
  expect_match(core("say")(core("people_counted")(list(sw_explore(survey, 4, missing = "listwise")))), "^Only people who answered every item")
  expect_null(core("people_counted")(list(sw_screen(survey))))
})

test_that("text from data cannot act as HTML", {
  data <- data.frame(`<b>x</b>` = c(1:5, 1:5), b = c(2, 1, 3, 5, 4, 1, 2, 4, 4, 5), check.names = FALSE)
  survey <- sw_survey(data, data.frame(item = names(data), scale = "<script>alert(1)</script>"))
  path <- withr::local_tempfile(fileext = ".html")
  sw_report(sw_reliability(survey), path)
  html <- paste(readLines(path, warn = FALSE), collapse = "\n")
  expect_false(grepl("<script>alert", html, fixed = TRUE))
  expect_false(grepl("<b>x</b>", html, fixed = TRUE))
})

test_that("the whole path of a quiz makes a report, with its option curves and group bias", {
  path <- withr::local_tempfile(fileext = ".html")
  run <- run_cli("report", "--demo", "plantcare", "--out", path, "--quiet")
  expect_equal(run$status, 0)
  html <- paste(readLines(path, warn = FALSE), collapse = "\n")
  for (title in c("Option curves", "Differential item functioning", "How people answered", "Subscale scores")) {
    expect_true(grepl(paste0(">", title, "</h2>"), html, fixed = TRUE), info = title)
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

# Chromium by any of its names; NULL without one.
browser <- function() {
  if (nzchar(Sys.getenv("LD_PRELOAD"))) skip("no browser starts under preloaded libraries")
  found <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
  found <- found[nzchar(found)]
  if (length(found) > 0) unname(found[1])
}

test_that("a browser shows the whole report, without complaint and without asking the network", {
  skip_without("chromium")
  survey <- sw_demo("plotholders")
  folder <- withr::local_tempdir()
  path <- file.path(folder, "report.html")
  sw_report(list(survey, sw_reliability(survey), sw_score(survey)), path)
  # A page of ours that reads the report in a frame of its own and writes down what is in it.
  complaints <- file.path(folder, "log.txt")
  dom <- system2(browser(), c("--headless", "--no-sandbox", "--disable-gpu", "--enable-logging=stderr", "--v=0",
    "--host-resolver-rules='MAP * ~NOTFOUND'",
    "--virtual-time-budget=4000", "--dump-dom", shQuote(paste0("file://", path))), stdout = TRUE, stderr = complaints)
  expect_false(any(grepl("CONSOLE|net_error|ERR_", readLines(complaints, warn = FALSE))))
  html <- paste(dom, collapse = "\n")
  document <- xml2::read_html(html)
  images <- xml2::xml_find_all(document, "//img")
  expect_equal(length(images), 3)
  expect_true(all(nzchar(xml2::xml_attr(images, "alt"))))
  tables <- xml2::xml_find_all(document, "//table")
  for (table in tables) {
    columns <- length(xml2::xml_find_all(table, "./thead/tr/th"))
    cells <- vapply(xml2::xml_find_all(table, "./tbody/tr"), function(row) length(xml2::xml_find_all(row, "./td")), 1L)
    expect_true(all(cells == columns))
  }
  expect_false(any(grepl("^(https?:)?//", xml2::xml_attr(xml2::xml_find_all(document, "//*[@src or @href]"), "href"))))
  links <- sub("^#", "", xml2::xml_attr(xml2::xml_find_all(document, "//nav//a"), "href"))
  expect_true(all(links %in% xml2::xml_attr(xml2::xml_find_all(document, "//*[@id]"), "id")))
  ids <- xml2::xml_attr(xml2::xml_find_all(document, "//*[@id]"), "id")
  expect_false(anyDuplicated(ids) > 0)
  picture <- file.path(folder, "page.png")
  system2(browser(), c("--headless", "--no-sandbox", "--disable-gpu", "--window-size=390,844", paste0("--screenshot=", shQuote(picture)),
    shQuote(paste0("file://", path))), stdout = FALSE, stderr = FALSE)
  expect_gt(file.size(picture), 10000)
})

test_that("DOCX holds real tables with captions, notes and figures", {
  skip_without("pandoc")
  survey <- sw_demo("plotholders")
  result <- sw_reliability(survey)
  path <- withr::local_tempfile(fileext = ".docx")
  sw_report(list(survey, result), path, title = "A <b> & *c*", author = "A. Gardener")
  folder <- withr::local_tempdir()
  utils::unzip(path, exdir = folder)
  document <- xml2::read_xml(file.path(folder, "word", "document.xml"))
  text <- paste(xml2::xml_text(xml2::xml_find_all(document, "//w:t")), collapse = " ")
  tables <- xml2::xml_find_all(document, "//w:tbl")
  styles <- xml2::xml_attr(xml2::xml_find_all(document, "//w:pStyle"), "val")
  expect_equal(sum(styles == "TableCaption"), length(tables))
  expect_equal(sum(styles == "TableNote"), length(tables) - 1)
  expect_equal(length(xml2::xml_find_all(document, "//*[local-name() = 'pic']")), 2)
  expect_match(text, "A <b> & *c*", fixed = TRUE)
  rows <- xml2::xml_find_all(tables[[1]], ".//w:tr")
  cells <- vapply(xml2::xml_find_all(rows[[2]], ".//w:tc"), function(cell) xml2::xml_text(cell), "")
  expect_equal(cells[c(1, 4)], c("calm", core("coefficient_text")(tidy(result)$alpha[1])))
  own <- xml2::read_xml(file.path(folder, "word", "styles.xml"))
  border <- xml2::xml_find_all(own, "//w:style[@w:styleId='Table']//w:tblBorders/*")
  expect_setequal(xml2::xml_name(border), c("top", "bottom"))
})

test_that("Markdown has its figures beside it, and headings come in two languages", {
  survey <- sw_demo("plotholders")
  folder <- withr::local_tempdir()
  path <- file.path(folder, "report.md")
  sw_report(list(sw_reliability(survey)), path, language = "de")
  lines <- readLines(path, encoding = "UTF-8")
  expect_match(lines, "^## Reliabilit\u00e4t", all = FALSE)
  expect_match(lines, "^\\*\\*Tabelle 1\\*\\*", all = FALSE)
  shown <- regmatches(lines, regexpr("report-figures/[a-z_]+-[0-9]+.png", lines))
  expect_length(shown, 2)
  expect_true(all(file.exists(file.path(folder, shown))))
  expect_match(lines, "Interne Konsistenz der Subskalen", all = FALSE, fixed = TRUE)
  expect_match(lines, "| Subskala | Items |", all = FALSE, fixed = TRUE)
  expect_match(lines, "erf\u00fcllt \u2265 0,70", all = FALSE, fixed = TRUE)
  expect_match(lines, "Alpha: calm 0,719, craft 0,813, kinship 0,", all = FALSE, fixed = TRUE)
  expect_error(sw_report(sw_reliability(survey), path, language = "xx"), class = "scalewort_error_input")
})

test_that("every title, caption and column of a report has its word in the other language", {
  survey <- sw_demo("plotholders")
  structure <- sw_structure(survey)
  held <- sw_confirm(survey, structure)
  results <- list(
    sw_screen(survey), sw_keying(survey), sw_answering(survey), sw_dif(survey), sw_option_curves(sw_demo("plantcare")),
    sw_reliability(survey, by = "district"), sw_factorability(survey), sw_retention(survey, replicates = 50), sw_explore(survey, 4),
    sw_stability(survey, 4, halves = 5), held, sw_influence(held, worst = 2), sw_invariance(survey, structure, by = "district"),
    sw_validity(held, replicates = 50), sw_composites(survey, structure, replicates = 20), sw_score(survey, form = "t")
  )
  words <- core("report_words")("de")
  tables <- lapply(unlist(lapply(results, core("report_tables")), recursive = FALSE), core("readable"))
  known <- core("words_of_language")("de")
  expect_equal(setdiff(grep("^caption_", names(tables), value = TRUE), names(known)), character())
  expect_equal(setdiff(unlist(lapply(results, function(x) names(x$tables))), c(names(known$.tables), "verdicts")), character())
  columns <- core("column_header")(unique(unlist(lapply(tables, names))))
  same <- "^([0-9]+|n|p|id|wave|df|df 2|alpha|omega|lambda [246]|glb|sem|smc|F[1-4]|rho A|band [1-3]|[A-Z]{2,}( weight|, null)?|Bartlett|ten Berge)$"
  own <- "^(with )?(calm|craft|kinship|stewardship|F[1-4])$|minus 2 log-likelihood|Cook's distance"
  expect_equal(setdiff(grep(same, grep(own, columns, value = TRUE, invert = TRUE), value = TRUE, invert = TRUE), names(words$columns)), character())
  expect_equal(core("translated")(c("verdict", "with calm", "F1"), words$columns), c("Urteil", "mit calm", "F1"))
})

test_that("several forms of a report come from one call, with the same figures", {
  skip_without("pandoc")
  folder <- withr::local_tempdir()
  paths <- file.path(folder, c("r.html", "r.md", "r.docx"))
  expect_equal(sw_report(sw_reliability(sw_demo("plotholders")), paths), paths)
  expect_true(all(file.size(paths) > 5000))
  html <- paste(readLines(paths[1], warn = FALSE), collapse = "")
  coded <- regmatches(html, gregexpr("(?<=base64,)[A-Za-z0-9+/=]+", html, perl = TRUE))[[1]]
  beside <- list.files(file.path(folder, "r-figures"), full.names = TRUE)
  expect_equal(lapply(coded, jsonlite::base64_dec), lapply(beside, function(f) readBin(f, "raw", file.size(f))))
  expect_error(sw_report(sw_reliability(sw_demo("plotholders")), file.path(folder, c("s.html", "s.pdf"))), class = "scalewort_error_file")
  expect_false(file.exists(file.path(folder, "s.html")))
})

test_that("the styles of a reference document of the user's are taken", {
  skip_without("pandoc")
  folder <- withr::local_tempdir()
  # Another reference document: pandoc's own, which has not our styles.
  other <- file.path(folder, "other.docx")
  system2(rmarkdown::pandoc_exec(), c("-o", shQuote(other), "--print-default-data-file", "reference.docx"))
  styles_of <- function(path) {
    utils::unzip(path, "word/styles.xml", exdir = folder, overwrite = TRUE)
    xml2::xml_attr(xml2::xml_find_all(xml2::read_xml(file.path(folder, "word", "styles.xml")), "//w:style"), "styleId")
  }
  path <- file.path(folder, "r.docx")
  result <- sw_keying(sw_demo("plotholders"))
  sw_report(result, path, reference = other)
  expect_false("TableSmall" %in% styles_of(path))
  sw_report(result, path, overwrite = TRUE)
  expect_true("TableSmall" %in% styles_of(path))
  expect_error(sw_report(result, file.path(folder, "s.docx"), reference = "gone.docx"), "no such file", class = "scalewort_error_file")
})

test_that("only works that the report cites are in its references", {
  found <- core("references_in")("alpha (Cronbach, 1951); interval after Feldt (1965); Hu & Bentler (1999). Nobody, 1974.")
  expect_equal(sub(" \\(.*", "", found), c("Cronbach, L. J.", "Feldt, L. S.", "Hu, L., & Bentler, P. M."))
})

test_that("sixty items in eight subscales still make a report under five megabytes", {
  structure <- do.call(sw_structure, split(paste0("q", 1:60), rep(paste0("s", 1:8), length.out = 60)))
  survey <- sw_simulate(structure, 400)
  path <- withr::local_tempfile(fileext = ".html")
  sw_report(list(survey, sw_screen(survey), sw_reliability(survey), sw_confirm(survey, structure), sw_score(survey)), path)
  expect_lt(file.size(path), 5e6)
})
