# The report of the whole job: the page in front, sections and appendix, its other language, its form in Word.

memory <- new.env()

whole_report <- function() {
  if (is.null(memory$results)) memory$results <- walked_path()
  memory$results
}

walked_path <- function() {
  survey <- sw_demo("plotholders")
  survey$source$data$age <- rep(c(30, 40, 50, NA), 160)
  survey$source$data$recorded <- rep(c("2026-03-02 10:00:00", "2026-04-01 12:00:00"), 320)
  core("run_steps")(list(answers = survey), list(retention = list(replicates = 20), stability = list(halves = 5), validity = list(replicates = 20)),
    list(seed = 1, limits = sw_limits()))$results
}

document_of <- function(language = "en", ...) {
  settings <- list(title = "T", author = "", digits = 3, language = language, theme = "auto", ...)
  settings$words <- core("report_words")(language)
  core("report_document")(whole_report(), settings)
}

blocks_of <- function(document, kind) Filter(function(b) b$kind == kind, document$blocks)

test_that("the page in front says who answered, what decides for each subscale, what was decided", {
  document <- document_of()
  heads <- vapply(blocks_of(document, "heading"), function(b) unname(b$text), "")
  expect_equal(unname(heads[1:3]), c("What was measured, on whom", "What was decided", "What to know first"))
  who <- blocks_of(document, "bullets")[[1]]$items
  expect_true("Answers from 2026-03-02 to 2026-04-01." %in% who)
  expect_true("Age: mean 40.0, standard deviation 8.2, from 30 to 50." %in% who)
  expect_match(who, "^Groups by district: north \\(", all = FALSE)
  front <- blocks_of(document, "table")[[1]]$columns
  expect_equal(front$subscale, c("calm", "craft", "kinship", "stewardship"))
  scales <- whole_report()$reliability$tables$scales
  expect_equal(front$`alpha [95% CI]`[2], sprintf("%s [%s,\u00a0%s]", sub("^0", "", sprintf("%.2f", scales$alpha[2])),
    sub("^0", "", sprintf("%.2f", scales$conf.low[2])), sub("^0", "", sprintf("%.2f", scales$conf.high[2]))))
  expect_match(front$`what to do`[1], "read calm6")
  expect_match(front$`what to do`[4], "before comparing groups look at soil5")
  expect_match(front$fit[2], "craft5")
  decided <- blocks_of(document, "bullets")[[2]]$items
  expect_match(decided, "^The declared structure was tested on [0-9]+ people", all = FALSE)
  know <- blocks_of(document, "bullets")[[3]]$items
  expect_lte(length(know), 3)
  expect_match(know[1], "soil5")
  texts <- unlist(lapply(document$blocks, `[[`, "text"))
  expect_false(any(grepl("split in two halves", texts)))
  said <- paste(unlist(lapply(document$blocks, `[[`, "answers")), collapse = " ")
  expect_match(said, "over groups \\(district: north n = [0-9]+, south n = [0-9]+\\)")
  # No sentence in the document is R code.
  said <- unlist(lapply(document$blocks, function(b) c(b$text, b$items, b$answers)))
  expect_false(any(grepl("sw_[a-z]+\\(|augment\\(|tidy\\(", said)))
})

test_that("items stand with their wordings, long tables behind", {
  document <- document_of()
  tables <- blocks_of(document, "table")
  captions <- vapply(tables, `[[`, "", "caption")
  pattern <- tables[[which(startsWith(captions, "Pattern of loadings"))]]
  expect_equal(pattern$columns$wording[pattern$columns$item == "kin2"], "We lend each other tools and time.")
  appendix <- which(vapply(document$blocks, function(b) b$kind == "heading" && b$text == "Appendix", TRUE))
  place <- function(caption) which(vapply(document$blocks, function(b) b$kind == "table" && b$caption == caption, TRUE))
  for (caption in c("Loadings", "Means, standard deviations and correlations", "Steps of invariance")) expect_lt(place(caption), appendix)
  for (caption in c("Structure matrix: correlations of items and factors", "Observed and random eigenvalues", "The items as they were read",
    "Loadings with their errors")) expect_gt(place(caption), appendix)
  summary <- tables[[which(captions == "Means, standard deviations and correlations")]]$columns
  scores <- whole_report()$scores$tables
  expect_equal(summary$`2`[2], sub("^0", "", sprintf("%.3f", scores$scales$reliability[2])))
  expect_equal(summary$`1`[2], sub("^0", "", sprintf("%.3f", scores$correlations$calm_mean[2])))
  record <- tables[[which(captions == "The items as they were read")]]$columns
  expect_equal(record$`no answer`[record$item == "soil1"], whole_report()$survey$codebook$items$missing[18])
  expect_equal(whole_report()$invariance$about$n, 640)
  groups <- tables[[which(captions == "The groups")[1]]]$columns
  expect_setequal(groups$as, c("reference", "compared"))
})

test_that("in German nothing but names and wordings is English, and decimals have commas", {
  withr::local_options(OutDec = ",")
  document <- document_of("de")
  said <- unlist(lapply(document$blocks, function(b) {
    cells <- if (b$kind == "table") unlist(b$columns[!tolower(names(b$columns)) %in% c("wortlaut")])
    if (b$kind == "code") NULL else c(b$text, b$items, b$answers, b$questions, b$caption, b$note, b$alt, names(b$columns), cells)
  }))
  said <- said[!grepl("[(][0-9]{4}[a-z]?[)][.]", said) & !grepl(": (by|order|robust|correlation|factors|level|replicates|method|estimator) ", said)]
  english <- grep("\\b(the|of|is|are|with|from|which|these|people|answers?)\\b", gsub("`[^`]*`", "", said), value = TRUE)
  english <- grep("skipped:|plotholders|Schlüssel|keeps", english, value = TRUE, invert = TRUE)
  expect_equal(unname(english), character())
  expect_false(any(grepl("(^|[ (=<])-?[0-9]*[.][0-9]{2,3}($|[ ,;)])", grep("scalewort|Versionen", said, value = TRUE, invert = TRUE))))
  figures <- blocks_of(document, "figure")
  expect_true("Wie jedes Item beantwortet wurde" %in% vapply(figures, `[[`, "", "caption"))
})

test_that("cells of tables are words of the language alone, in lists, before brackets and behind numbers; the rest stays", {
  said <- function(text) core("cells_in")(text, core("report_words")("de"))
  expect_equal(said(c("right answer", "hard and easy", "95th percentile of chance (Horn, 1965)", "mean of a, b; 4 of 5 needed")),
    c("richtige Antwort", "schwer und leicht", "95. Perzentil des Zufalls (Horn, 1965)", "Mittel von a, b; 4 von 5 ben\u00f6tigt"))
  expect_equal(said(c(NA, "Nobody knows .83, 1.5 or R 4.2.2 in file a.1.csv.")), c(NA, "Nobody knows 0,83, 1,5 or R 4.2.2 in file a.1.csv."))
  expect_equal(core("cells_in")("unchanged .5", core("report_words")("en")), "unchanged .5")
})

test_that("numbers and quotes are written as the language writes them; a small negative effect is no minus nought", {
  withr::local_options(OutDec = ",")
  expect_equal(core("decimals")(c(-.0004, -.5, 0), 2), c("0,00", "-0,50", "0,00"))
  message_of <- core("message_of")
  groups <- list(message_of("spellings_of_one", names = core("messages_of")("in_quotes", name = c("Female", "female"))))
  expect_equal(core("say")(message_of("joined_spellings", groups = groups), "de"),
    "Als eine Gruppe gez\u00e4hlt: \u201eFemale\u201c und \u201efemale\u201c.")
  expect_equal(core("say")(message_of("reliability_was", reliability = c(.82, .85), sem = c(.59, .66)), "de"),
    "Reliabilit\u00e4t: zwischen 0,82 und 0,85; Standardmessfehler: 0,59 bis 0,66.")
})

test_that("the words for the paper say what the verdict rests on, and no more of residual correlations than was tested", {
  shipped <- function(name) system.file("extdata", name, package = "scalewort")
  few <- sw_survey(utils::read.csv(shipped("plotholders.csv"))[1:70, ], shipped("plotholders-codebook.csv"))
  result <- sw_confirm(few)
  said <- sentences_of(result)
  fit <- result$tables$fit
  raw <- result$tables$residual_correlations$residual
  # Many are larger than .10 among 70 people, few can be shown to be.
  expect_gt(sum(abs(raw) > .1), 20)
  shown <- sum(result$tables$residual_correlations$verdict %in% "missed")
  expect_match(said, if (shown == 0) "none was shown to be larger" else paste(shown, if (shown == 1) "was" else "were", "shown to be larger"))
  corrected <- fit$corrected[fit$figure == "cfi"]
  expect_gt(corrected - fit$value[fit$figure == "cfi"], .01)
  expect_match(said, paste0("figures corrected for n: chi-square = .*p .*CFI = ", core("coefficient_text")(corrected)), perl = TRUE)
  explored <- sw_explore(few, 4)$tables$fit
  expect_match(sentences_of(sw_explore(few, 4)), "\\(corrected for n: [0-9.]+, p [^)]*\\); RMSEA")
  expect_false(isTRUE(all.equal(explored$p.value, explored$corrected_p)))
})

test_that("every work named in a table or sentence of the report has its full reference", {
  blocks <- document_of()$blocks
  text <- core("document_text")(Filter(function(b) is.null(b$items) || !any(grepl("^[A-Z].*[(][0-9]{4}[)][.]", b$items)), blocks))
  work <- "\\p{Lu}[\\p{L}-]+(?:(?:, | & | et al[.] )[^.;()]{0,40}?)? [(](?:1[89]|20)[0-9]{2}[)]"
  named <- unlist(regmatches(text, gregexpr(work, text, perl = TRUE)))
  references <- core("references_in")(paste(named, collapse = "; "))
  known <- vapply(unique(named), function(one) length(core("references_in")(one)) > 0, TRUE)
  expect_gt(length(known), 15)
  expect_equal(names(known)[!known], character())
  expect_gt(length(references), 10)
})

test_that("the checklist says where each element stands, or that it is missing", {
  blocks <- document_of(checklist = TRUE)$blocks
  table <- utils::tail(Filter(function(b) b$kind == "table", blocks), 1)[[1]]
  where <- stats::setNames(table$columns$where, table$columns$element)
  expect_equal(where[["Content validity"]], "missing")
  expect_equal(where[["Rival structures"]], "missing")
  number <- which(vapply(Filter(function(b) b$kind == "table", blocks), `[[`, "", "caption") == "Fit of the structure")
  expect_equal(where[["Structural validity"]], paste("Table", number))
  expect_equal(where[["How many people answered and when"]], "What was measured, on whom")
  about <- blocks[[length(blocks) - 1]]$text
  expect_match(about, paste0("Of ", length(where), " elements .*, ", sum(where == "missing"), " are not in this report"))
  expect_match(paste(unlist(lapply(blocks, `[[`, "items")), collapse = " "), "Mokkink, L. B.")
})

test_that("Word counts its captions, repeats heads, turns wide tables; the text before the appendix takes twelve pages at most", {
  skip_without("pandoc")
  folder <- withr::local_tempdir()
  path <- file.path(folder, "report.docx")
  results <- whole_report()
  sw_report(c(list(results$survey), Filter(function(x) inherits(x, "sw_result"), results)), path)
  utils::unzip(path, exdir = folder)
  document <- xml2::read_xml(file.path(folder, "word", "document.xml"))
  fields <- xml2::xml_attr(xml2::xml_find_all(document, "//w:fldSimple"), "instr")
  tables <- xml2::xml_find_all(document, "//w:tbl")
  expect_equal(sum(grepl("SEQ Table", fields)), length(tables))
  expect_equal(sum(grepl("SEQ Figure", fields)), length(xml2::xml_find_all(document, "//*[local-name() = 'pic']")))
  expect_equal(length(xml2::xml_find_all(document, "//w:tblHeader")), length(tables))
  expect_true(all(nzchar(xml2::xml_attr(xml2::xml_find_all(document, "//*[local-name() = 'docPr']"), "descr"))))
  turns <- xml2::xml_attr(xml2::xml_find_all(document, "//w:pgSz"), "orient")
  expect_true("landscape" %in% turns && is.na(utils::tail(turns, 1)))
  skip_without("libreoffice")
  own <- shQuote(paste0("-env:UserInstallation=file://", folder, "/office"))
  system2("soffice", c(own, "--headless", "--convert-to", "pdf", "--outdir", shQuote(folder), shQuote(path)), stdout = FALSE, stderr = FALSE,
    env = "LD_LIBRARY_PATH=")
  pdf <- file.path(folder, "report.pdf")
  expect_gt(file.size(pdf), 1e5)
  text <- system2("pdftotext", c("-layout", shQuote(pdf), "-"), stdout = TRUE)
  pages <- split(text, cumsum(grepl("\f", text)))
  expect_lte(which(vapply(pages, function(page) any(grepl("^\f? *Appendix$", page)), TRUE))[1], 12)
  expect_match(pages[[1]], "What to know first", all = FALSE)
})

test_that("an interval stands behind the figure it belongs to; the note names the interval's source", {
  of <- c(omega_low = "omega", hierarchical_low = "omega_hierarchical", rest_low = "item_rest_r", reliability_low = "composite_reliability",
    ave_low = "ave", htmt_low = "htmt", srmr_low = "srmr_unbiased", omega_sum_low = "omega_sum")
  seen <- 0
  for (x in Filter(function(x) inherits(x, "sw_result"), unclass(whole_report()))) {
    for (table in x$tables) for (low in intersect(names(of), names(table))) {
      seen <- seen + 1
      expect_equal(names(table)[match(low, names(table)) - 1], of[[low]], info = paste(class(x)[1], low))
    }
  }
  expect_gte(seen, length(of))
  judged <- function(x) core("say")(core("judged_by")(x))
  expect_match(judged(whole_report()$reliability), "interval 95% (Yuan & Bentler, 2000)", fixed = TRUE)
  complete <- sw_reliability(as.data.frame(simulate_answers(200, matrix(.6, 5, 1))), interval = "feldt")
  expect_match(judged(complete), "interval 95% (Feldt, 1965)", fixed = TRUE)
})

test_that("a figure is drawn in the language that is read: legends, remarks and titles", {
  built <- ggplot2::ggplot_build(core("in_language")("de", core("autoplot")(whole_report()$retention)))
  colours <- Filter(function(s) "colour" %in% s$aesthetics, built$plot$scales$scales)[[1]]
  expect_equal(colours$get_labels()[1], "den Items gemeinsam")
  expect_true("4 Faktoren nach der Regel" %in% unlist(lapply(built$data, function(d) as.character(d$label))))
  expect_equal(built$plot$labels$title, "4 Faktoren: Eigenwerte gegen Zufall")
  expect_equal(core("reading_language")(), "en")
})
