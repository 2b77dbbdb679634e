# What we write, judged by others' validators of the open standards.

test_that("scored data written as DDI are valid by the standard's own schema", {
  schema <- xml2::read_xml(system.file("codebook.xsd", package = "rddi", mustWork = TRUE))
  path <- withr::local_tempfile(fileext = ".xml")
  for (survey in list(sw_demo("plotholders"), sw_demo("plantcare"))) {
    survey$codebook$items$wording[1] <- "Less than <five> & \"more\" \u2264 6"
    sw_write(sw_score(survey, form = c("t", "percentile"), interval = TRUE), path, overwrite = TRUE)
    valid <- xml2::xml_validate(xml2::read_xml(path), schema)
    expect_true(valid, info = paste(attr(valid, "errors"), collapse = "\n"))
  }
  # The schema would say so.
  broken <- xml2::read_xml(path)
  xml2::xml_set_name(xml2::xml_find_first(broken, "//d:var", c(d = "ddi:codebook:2_5")), "variable")
  expect_false(xml2::xml_validate(broken, schema))
})

# Is this YAML valid by the shipped schema, as a validator of the standard sees it?
valid_by_standard <- function(yaml, folder) {
  path <- file.path(folder, "plan.json")
  value <- yaml::yaml.load(yaml, handlers = list(seq = as.list))
  writeLines(jsonlite::toJSON(value, auto_unbox = TRUE, null = "null", digits = NA), path)
  schema <- system.file("schema", "plan.json", package = "scalewort")
  system2(python_with("jsonschema"), c("-m", "jsonschema", "-i", shQuote(path), shQuote(schema)), stdout = FALSE, stderr = FALSE) == 0
}

valid_by_us <- function(yaml, folder) {
  path <- file.path(folder, "plan.yml")
  writeLines(yaml, path)
  tryCatch({
    core("read_plan")(path)
    TRUE
  }, scalewort_error_input = function(e) FALSE)
}

test_that("plans are judged as a validator of the JSON Schema standard judges them", {
  skip_without("a JSON Schema validator")
  folder <- withr::local_tempdir()
  base <- "data: a.csv\ncodebook: b.csv\n"
  good <- c(
    "", "seed: 3\n", "group: [district, region]\n", "exploration: false\n", "exploration:\n  factors: 4\n  rotation: geomin\n",
    "scores:\n  method: [mean, regression]\n  form: [z, t]\n", "limits:\n  alpha: [0.6, 0.9]\n", "reports: [html, docx]\n",
    "flip:\n  - items: [q1]\n    reason: runs against the others\n", "structure:\n  calm: [c1, c2]\n  craft: [k1, k2]\n"
  )
  bad <- c(
    "seed: x\n", "exploration:\n  factors: many\n", "exploration:\n  factors: 2.5\n", "colour: red\n", "reports: [pdf]\n", "flip:\n  - q1\n",
    "flip:\n  - items: [q1]\n    why: no\n", "scores:\n  methods: mean\n", "theme: pink\n", "limits:\n  alpha: high\n", "language: [en]\n"
  )
  for (more in good) {
    expect_true(valid_by_standard(paste0(base, more), folder), info = more)
    expect_true(valid_by_us(paste0(base, more), folder), info = more)
  }
  for (more in bad) {
    expect_false(valid_by_standard(paste0(base, more), folder), info = more)
    expect_false(valid_by_us(paste0(base, more), folder), info = more)
  }
  expect_false(valid_by_standard("data: a.csv\n", folder))
  expect_false(valid_by_us("data: a.csv\n", folder))
})

test_that("a workbook names no part that is not in it, and a reader that did not write it opens it", {
  path <- withr::local_tempfile(fileext = ".xlsx")
  sw_write(sw_score(sw_demo("plotholders")), path)
  folder <- withr::local_tempdir()
  parts <- utils::unzip(path, exdir = folder)
  rels <- grep("[.]rels$", list.files(folder, recursive = TRUE, all.files = TRUE), value = TRUE)
  for (file in rels) {
    links <- xml2::xml_find_all(xml2::read_xml(file.path(folder, file)), "//*[local-name() = 'Relationship'][not(@TargetMode)]")
    home <- dirname(dirname(file))
    target <- xml2::xml_attr(links, "Target")
    there <- file.exists(file.path(folder, ifelse(startsWith(target, "/"), target, file.path(home, target))))
    expect_true(all(there), info = paste(file, target[!there]))
  }
  types <- xml2::read_xml(file.path(folder, "[Content_Types].xml"))
  named <- xml2::xml_attr(xml2::xml_find_all(types, "//*[local-name() = 'Override']"), "PartName")
  expect_true(all(file.exists(file.path(folder, named))), info = paste(named[!file.exists(file.path(folder, named))]))
  skip_without("openpyxl")
  code <- paste0("import openpyxl; b = openpyxl.load_workbook('", path, "'); s = b[b.sheetnames[0]]; print(s.max_row, s.cell(1, 1).value)")
  expect_equal(system2(python_with("openpyxl"), c("-c", shQuote(code)), stdout = TRUE), "641 id")
})

test_that("the names of values of every coded column are in DDI", {
  book <- data.frame(item = c("q1", "q2", "sex"), scale = c("s", "s", NA), lowest = c(1, 1, NA), highest = c(3, 3, NA),
    labels = c("1=no; 2=it depends; 3=yes & more", NA, "1=woman; 2=man"), missing = c("skipped:-9", NA, NA), role = c("scored", "scored", "aside"))
  data <- data.frame(q1 = c(1, 2, 3, -9), q2 = c(1, 3, 2, 2), sex = c(1, 2, 2, 1))
  path <- withr::local_tempfile(fileext = ".xml")
  sw_write(sw_score(sw_survey(data, book), method = "mean"), path)
  of <- function(name) {
    categories <- xml2::xml_find_all(xml2::read_xml(path), paste0("//d:var[@name='", name, "']/d:catgry"), c(d = "ddi:codebook:2_5"))
    stats::setNames(xml2::xml_text(xml2::xml_find_first(categories, "d:labl", c(d = "ddi:codebook:2_5"))),
      xml2::xml_text(xml2::xml_find_first(categories, "d:catValu", c(d = "ddi:codebook:2_5"))))
  }
  expect_equal(of("q1"), c(`1` = "no", `2` = "it depends", `3` = "yes & more", `-9` = "skipped"))
  expect_true("woman" %in% of("sex") || "woman" %in% names(of("sex")))
  expect_true(xml2::xml_validate(xml2::read_xml(path), xml2::read_xml(system.file("codebook.xsd", package = "rddi", mustWork = TRUE))))
})

test_that("SAV and DOCX open in readers that did not write them", {
  skip_without("foreign", "python's docx", "pandoc")
  survey <- sw_demo("plotholders")
  survey$codebook$items$labels[1] <- "1=never; 5=always"
  scores <- sw_score(survey)
  path <- withr::local_tempfile(fileext = ".sav")
  sw_write(scores, path)
  back <- suppressWarnings(foreign::read.spss(path, use.value.labels = FALSE, to.data.frame = TRUE))
  expect_equal(as.vector(back$calm_mean), as.vector(augment(scores)$calm_mean))
  expect_equal(sum(back$calm1, na.rm = TRUE), sum(survey$answers$calm1, na.rm = TRUE))
  expect_setequal(names(attr(back$calm1, "value.labels")), c("never", "always"))
  expect_equal(unname(attr(back, "variable.labels")["calm2"]), survey$codebook$items$wording[2])
  page <- withr::local_tempfile(fileext = ".docx")
  sw_report(sw_reliability(survey), page)
  code <- paste0("import docx; d = docx.Document('", page, "'); print(len(d.tables)); print(' '.join(p.text for p in d.paragraphs))")
  read <- system2(python_with("docx"), c("-c", shQuote(code)), stdout = TRUE)
  expect_gt(as.numeric(read[1]), 1)
  expect_match(paste(read[-1], collapse = " "), "Alpha", fixed = TRUE)
})

test_that("Parquet is read back by the format's description alone: words, gaps, whole and broken numbers", {
  skip_without("python")
  scores <- sw_score(sw_demo("plotholders"))
  path <- withr::local_tempfile(fileext = ".parquet")
  sw_write(scores, path)
  found <- jsonlite::fromJSON(paste(system2(python_with("json"), c(shQuote(test_path("fixtures", "read-parquet.py")), shQuote(path)), stdout = TRUE),
    collapse = ""))
  data <- augment(scores)
  # Codes for no answer are no answers in a file without labels.
  items <- sw_demo("plotholders")$codebook$items
  for (item in items$item[!is.na(items$missing)]) data[[item]][data[[item]] %in% c(-8, -9)] <- NA
  expect_setequal(names(found), names(data))
  for (name in names(data)) expect_equal(found[[name]], as.vector(unclass(data[[name]])), info = name)
  expect_true(anyNA(found$calm_mean))
})
