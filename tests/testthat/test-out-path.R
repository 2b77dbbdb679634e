# The whole path from answers to scores, and what it says on the way.

paths <- lapply(c(plotholders = "plotholders", plantcare = "plantcare"), function(name) core("whole_path")(sw_demo(name)))

test_that("the path goes every step it can and hands on what it found", {
  plot <- paths$plotholders
  expect_setequal(names(plot), c("screening", "keying", "answering", "dif", "survey", "reliability", "factorability", "retention", "exploration",
    "stability", "confirmation", "invariance", "validity", "scores"))
  expect_null(attr(plot, "left_out"))
  expect_equal(ncol(plot$exploration$parts$pattern), plot$retention$parts$agreement$first)
  # What the codebook declares is tested on everybody, as it stands, and scored.
  expect_equal(plot$confirmation$about$n + plot$confirmation$about$n_left_out, 640)
  expect_equal(plot$exploration$about$n + plot$exploration$about$n_left_out, 640)
  expect_setequal(rownames(plot$confirmation$parts$observed), core("scored_items")(plot$survey))
  split <- core("run_steps")(list(answers = sw_demo("plotholders")), list(split = TRUE), list(seed = 1, limits = sw_limits()), only = "confirmation")
  expect_equal(split$results$exploration$about$n + split$results$confirmation$about$n + split$results$exploration$about$n_left_out +
    split$results$confirmation$about$n_left_out, 640)
  expect_equal(plot$scores$about$n, 640)
  expect_false(any(grepl("same cases", plot$confirmation$notes)))
  # A quiz has option curves, and one factor makes no composites.
  expect_true("option_curves" %in% names(paths$plantcare))
  expect_false("composites" %in% names(paths$plantcare))
})

test_that("factors take the name of the one subscale their items come from", {
  survey <- sw_demo("plotholders")
  named <- function(...) names(core("named_by_subscale")(sw_structure(...), survey)$factors)
  expect_equal(named(F1 = c("craft1", "craft2"), F2 = c("kin1", "kin2")), c("craft", "kinship"))
  # Mixed, or two factors of one subscale: no name is clear.
  expect_equal(named(F1 = c("craft1", "kin1", "craft2"), F2 = c("soil1", "soil2")), c("F1", "stewardship"))
  expect_equal(named(F1 = c("craft1", "craft2"), F2 = c("craft3", "craft4"), F3 = c("calm1", "calm2")), c("F1", "F2", "calm"))
  explored <- core("run_steps")(list(answers = survey), list(structure = list(from = "exploration")), list(seed = 1, limits = sw_limits()),
    only = "confirmation")$results$confirmation
  expect_setequal(names(explored$parts$structure$factors), c("craft", "kinship", "stewardship", "calm"))
  expect_match(explored$notes, "Factors have the names of the subscales .* craft \\(F1\\)", all = FALSE)
})

test_that("items that scores count and the structure left out are named", {
  plot <- paths$plotholders
  expect_true("calm6" %in% rownames(plot$confirmation$parts$observed))
  expect_null(plot$scores$parts$unlike)
  amended <- core("run_steps")(list(answers = sw_demo("plotholders")), list(structure = list(from = sw_drop(sw_structure(sw_demo("plotholders")),
    items = "calm6"))), list(seed = 1, limits = sw_limits()), only = c("confirmation", "scores"))$results
  expect_match(headline_of(amended$scores), "^Not scored as confirmed: the scores count calm6, which the structure does not have")
})

test_that("exploring leaves out only what surely loads nowhere, and from 100 people only", {
  table <- data.frame(item = rep(c("a", "b", "c"), each = 2), factor = c("F1", "F2"), conf.low = c(.2, -.1, -.2, -.45, .1, -.3),
    conf.high = c(.6, .1, .3, .1, .39, .39))
  found <- function(n) {
    pattern <- matrix(c(.4, 0, .05, -.2, .3, .1), 3, byrow = TRUE, dimnames = list(c("a", "b", "c"), c("F1", "F2")))
    made <- structure(list(parts = list(pattern = pattern), tables = list(estimates = table), about = list(n = n)),
      class = c("sw_exploration", "sw_result"))
    core("structure_by_limits")(made, .40)
  }
  expect_equal(found(100)$left_out, "c")
  expect_equal(found(99)$left_out, character())
})

test_that("one factor is spoken of in the singular, and nothing is claimed of pairs that are not there", {
  quiz <- paths$plantcare
  sentence <- headline_of
  # Everybody is compared, and the question that was made unfair is seen.
  expect_equal(quiz$invariance$about$n, 500)
  expect_match(sentence(quiz$invariance), "first to look at is q10 (intercept", fixed = TRUE)
  words <- sentences_of(quiz$validity)
  expect_match(words, "^Composite reliability was \\.[0-9]+, average variance extracted .* \\.[0-9]+\\.")
  expect_false(grepl("between", words))
  expect_match(sentences_of(quiz$reliability), "The subscale used the cases")
  expect_match(sentences_of(quiz$confirmation), "n = 500 cases\\.")
  alone <- sw_composites(sw_demo("plantcare"), sw_structure(all = c("q01", "q02", "q03", "q04")), replicates = 20)
  expect_false(grepl("told apart", sentence(alone)))
  expect_false("Correlations of factors, root of AVE on the diagonal" %in% names(core("report_tables")(quiz$validity)))
})

test_that("a report leaves out tables without rows, and says what is long", {
  path <- withr::local_tempfile(fileext = ".html")
  structure <- do.call(sw_structure, split(paste0("q", 1:36), rep(c("a", "b", "c"), 12)))
  survey <- sw_simulate(structure, 300)
  screening <- sw_screen(survey)
  sw_report(list(survey, screening), path)
  html <- paste(readLines(path, warn = FALSE), collapse = "\n")
  expect_holds(html, "The items, as answered<span class=\"rows\">36 rows</span>")
  expect_holds(html, "<div class=\"table long\" role=\"region\" tabindex=\"0\"")
  if (nrow(screening$tables$flags) == 0) expect_false(grepl("What was flagged", html, fixed = TRUE))
  expect_false(grepl("Missing answers</caption>", html, fixed = TRUE))
  expect_false(grepl(">none<", html, fixed = TRUE))
})

test_that("a figure is as tall as its items need, on file as on the page", {
  size <- function(path) {
    bytes <- readBin(path, "raw", 24)
    c(sum(as.integer(bytes[17:20]) * 256^(3:0)), sum(as.integer(bytes[21:24]) * 256^(3:0)))
  }
  path <- withr::local_tempfile(fileext = ".png")
  few <- sw_screen(sw_demo("plantcare"))
  core("save_figure")(autoplot(few), path)
  expect_equal(size(path), c(1280, 1024))
  many <- sw_screen(sw_simulate(do.call(sw_structure, split(paste0("q", 1:60), rep(letters[1:4], 15))), 200))
  core("save_figure")(autoplot(many, "options"), path)
  expect_equal(size(path), c(1280, 250 + 20 * 60))
  core("save_figure")(autoplot(sw_dif(sw_demo("plantcare"))), path)
  expect_equal(size(path), c(1280, 560))
  breaks <- core("whole_breaks")
  expect_equal(breaks(1:22), 1:22)
  expect_equal(breaks(1:60), c(1, seq(5, 60, 5)))
  expect_equal(breaks(1:10, 8), c(1, 2, 4, 6, 8, 10))
})

test_that("a wide table is set smaller in DOCX, and its columns stay whole", {
  skip_without("pandoc")
  wide <- as.data.frame(matrix(.5, 3, 14, dimnames = list(NULL, paste0("a_long_column_", 1:14))))
  block <- core("table_block")(wide, "Wide", "", list(digits = 3, words = core("report_words")("en")), list2env(list(table = 0)))[[1]]
  lines <- core("markdown_table")(block, core("report_words")("en"), plain = FALSE)
  expect_match(lines, "[a long column 1]{custom-style=\"Table Small\"}", fixed = TRUE, all = FALSE)
  narrow <- core("table_block")(wide[1:3], "Narrow", "", list(digits = 3, words = core("report_words")("en")), list2env(list(table = 0)))[[1]]
  expect_false(any(grepl("custom-style", core("markdown_table")(narrow, core("report_words")("en"), plain = FALSE))))
  expect_false(any(grepl("custom-style", core("markdown_table")(block, core("report_words")("en"), plain = TRUE))))
  styles <- xml2::read_xml(unz(system.file("report", "reference.docx", package = "scalewort"), "word/styles.xml"))
  expect_length(xml2::xml_find_all(styles, "//w:style[@w:styleId='TableSmall']"), 1)
})

# Both waves of the demo data in one file, with a plan beside it.
two_waves <- function(folder, lines = character()) {
  source <- system.file("extdata", package = "scalewort")
  waves <- lapply(file.path(source, c("plotholders.csv", "plotholders-wave2.csv")), utils::read.csv)
  utils::write.csv(do.call(rbind, waves), file.path(folder, "both.csv"), row.names = FALSE)
  file.copy(file.path(source, "plotholders-codebook.csv"), folder)
  plan <- file.path(folder, "plan.yml")
  writeLines(c("data: both.csv", "codebook: plotholders-codebook.csv", "id: id", "group: district", "wave: wave", lines), plan)
  plan
}

test_that("with waves the first is analysed, and all are scored and compared", {
  folder <- withr::local_tempdir()
  plan <- two_waves(folder, c("invariance:", "  across: wave", "composites: false", "reports: [md, docx]"))
  results <- withr::with_dir(folder, sw_run("plan.yml"))
  one <- paths$plotholders
  for (step in c("screening", "dif", "reliability", "retention", "exploration", "confirmation")) {
    expect_equal(tidy(results[[step]]), tidy(one[[step]]), info = step)
  }
  expect_equal(results$scores$about$n, 1040)
  expect_match(sw_log(results$survey)$detail, "analyses use the first \\(640 cases\\)", all = FALSE)
  # Compared are all waves of everybody, not of a half.
  expect_equal(results$invariance$about$n + results$invariance$about$n_left_out, 640)
  expect_false(any(grepl("several rows", unlist(lapply(results, `[[`, "notes")))))
  expect_true(file.exists(file.path(folder, "results", "report.docx")))
})

test_that("rows of one person taken as independent are named", {
  survey <- sw_read(two_waves(withr::local_tempdir()) |> dirname() |> file.path("both.csv"),
    system.file("extdata", "plotholders-codebook.csv", package = "scalewort"), id = "id", wave = "wave")
  words <- "^400 people have several rows .* Keep one wave"
  expect_match(sw_reliability(survey)$notes, words, all = FALSE)
  expect_match(sw_explore(survey, 4)$notes, words, all = FALSE)
  expect_match(sw_confirm(survey)$notes, words, all = FALSE)
  expect_false(any(grepl(words, sw_confirm(survey, estimator = "robust", cluster = "id", missing = "listwise")$notes)))
  first <- core("first_wave")(survey)
  expect_equal(first$data$wave[first$kept], rep(1L, 640))
  expect_false(any(grepl("several rows", sw_reliability(first)$notes)))
  survey$data$wave <- c("spring", "autumn")[survey$data$wave]
  named <- sw_survey(survey$data, survey$codebook, id = "id", wave = "wave")
  expect_equal(unique(named$data$wave[core("first_wave")(named)$kept]), "spring")
})

# The demo data without subscales and with every item keyed forward.
unscaled <- function() {
  survey <- sw_demo("plotholders")
  survey$codebook$items$scale <- NA_character_
  survey$codebook$items$direction <- "forward"
  survey
}

test_that("verbs that need no subscales do without", {
  survey <- sw_demo("plotholders")
  bare <- survey
  bare$codebook$items$scale <- NA_character_
  expect_equal(tidy(sw_factorability(bare)), tidy(sw_factorability(survey)))
  expect_equal(tidy(sw_retention(bare, replicates = 50)), tidy(sw_retention(survey, replicates = 50))[-10, ])
  expect_equal(tidy(sw_explore(bare, 4)), tidy(sw_explore(survey, 4)))
  structure <- sw_structure(survey)
  expect_equal(tidy(sw_confirm(bare, structure)), tidy(sw_confirm(survey, structure)))
  expect_equal(tidy(sw_invariance(bare, structure, by = "district")), tidy(sw_invariance(survey, structure, by = "district")))
  expect_equal(sw_moments(bare)$covariance, sw_moments(survey)$covariance)
  expect_equal(names(sw_moments(bare)$scales), "all")
  expect_s3_class(sw_screen(bare), "sw_screening")
  expect_s3_class(sw_answering(bare), "sw_answering")
  expect_error(sw_reliability(bare), "Fill in `scale`", class = "scalewort_error_input")
  expect_error(sw_score(bare), class = "scalewort_error_input")
})

test_that("without subscales the factors found become these, reversed items turned, and give what the codebook would have given", {
  found <- core("whole_path")(unscaled())
  known <- core("run_steps")(list(answers = sw_demo("plotholders")), list(split = TRUE), list(seed = 1, limits = sw_limits()),
    only = c("validity", "reliability"))$results
  expect_null(attr(found, "left_out"))
  expect_match(sw_log(found$survey)$detail, "the factors found: F1 \\(craft", all = FALSE)
  items <- found$survey$codebook$items
  expect_setequal(items$item[items$direction == "reversed"], c("calm3", "calm5", "craft3", "kin3", "soil3"))
  expect_true(is.na(items$scale[items$item == "calm6"]))
  expect_equal(found$confirmation$parts$figures$chi_square, known$confirmation$parts$figures$chi_square, tolerance = 1e-6)
  expect_equal(sort(found$validity$tables$factors$composite_reliability), sort(known$validity$tables$factors$composite_reliability),
    tolerance = 1e-5)
  alpha <- function(x) tidy(x$reliability)$alpha
  # Likelihood looks at the other items, too, and here they are one fewer.
  expect_equal(alpha(found)[match(c("F1", "F2", "F3"), tidy(found$reliability)$scale)], alpha(known)[2:4], tolerance = 1e-3)
  expect_match(found$scores$notes[1], "name them in the codebook")
  expect_false(any(grepl("structure left out", found$scores$notes)))
})

test_that("where no structure comes out the rest of the path still does, and says why", {
  set.seed(8)
  noise <- as.data.frame(matrix(sample(1:5, 100 * 4, TRUE), 100))
  book <- data.frame(item = names(noise), scale = "s", lowest = 1, highest = 5)
  ran <- core("whole_path")(sw_survey(noise, book))
  expect_true(all(c("screening", "reliability", "scores") %in% names(ran)))
  expect_false("dif" %in% names(ran))
  # Asked for, the same is an error.
  expect_error(core("run_steps")(list(answers = sw_survey(noise[1:2], book[1:2, ])), list(exploration = list(factors = 2)),
    list(seed = 1, limits = sw_limits())), class = "scalewort_error")
})

test_that("an item that loads against its factor is named, with what that does", {
  held <- sw_confirm(unscaled(), sw_structure(sw_demo("plotholders")))
  expect_match(held$notes, "calm3 on calm, calm5 on calm, craft3 on craft, kin3 on kinship and soil3 on stewardship load against", all = FALSE)
  expect_match(sw_confirm(sw_demo("plantcare"))$notes, "^q08 on plantcare loads against .* count it against the rest", all = FALSE)
  expect_false(any(grepl("loads? against", sw_confirm(sw_demo("plotholders"))$notes)))
})
