test_that("help and version come from every command", {
  expect_match(run_process("--version")$out, "^scalewort [0-9.]+", all = FALSE)
  overview <- run_cli("--help")
  expect_equal(overview$status, 0)
  for (command in names(core("cli_commands")())) {
    expect_match(overview$out, paste0("^  ", command), all = FALSE)
  }
  help <- run_cli("explore", "--help")
  expect_equal(help$status, 0)
  expect_match(help$out, "--rotation", all = FALSE)
  expect_match(help$out, "scalewort explore --demo plotholders --factors 4", all = FALSE)
})

test_that("each analysis runs on the demo data and gives its answer first", {
  first <- list(
    screen = "22 items screened", keying = "No item is shown to point", answering = "Of 640 cases", options = "22 items in 3 score bands",
    dif = "of 22 items work", reliability = "Alpha: calm", factorability = "The items can be factored", split = "half",
      retention = "4 factors: the two rules that decide say 4 and 5, of which 4 stand",
    confirm = "Chi-square", score = "4 scores for 640 cases"
  )
  for (command in names(first)) {
    run <- run_cli(command, "--demo", "plotholders")
    expect_equal(run$status, 0, info = command)
    expect_match(paste(run$out[1:2], collapse = " "), first[[command]], info = command)
    expect_true(all(nchar(run$out, "width") <= 80), info = command)
    expect_equal(run$err, "", info = command)
  }
  run <- run_cli("explore", "--demo", "plotholders", "--factors", "4", "--rotation", "promax")
  expect_match(run$out[1], "4 factors \\(maximum likelihood, promax rotation\\)")
})

test_that("the commands for factors take every option of their verbs", {
  demo <- c("--demo", "plotholders")
  folder <- withr::local_tempdir()
  polychoric <- run_cli("retention", demo, "--correlation", "polychoric", "--replicates", "50", "--draws", "shuffled", "--most", "4")
  expect_equal(polychoric$status, 0)
  expect_match(polychoric$out, "shuffled", all = FALSE)
  several <- run_cli("explore", demo, "--factors", "2,3", "--format", "csv")
  expect_match(several$out[1], "^factors,chi_square")
  full <- run_cli("explore", demo, "--factors", "4", "--extraction", "minres", "--rotation", "geomin", "--orthogonal", "--epsilon", ".02", "--full")
  expect_match(full$out, "least squares, geomin, orthogonal rotation", all = FALSE)
  expect_match(full$out, "^Estimates$", all = FALSE)
  dropped <- run_cli("explore", demo, "--factors", "4", "--drop", "calm6,kin5", "--reason", "weak", "--structure", "found.yml", folder = folder)
  expect_match(dropped$out, "2  kin5 +weak", all = FALSE)
  expect_length(sw_structure(file.path(folder, "found.yml"))$factors, 4)
  expect_equal(run_cli("explore", demo, "--factors", "4", "--drop", "calm6")$status, 3)
  expect_equal(run_cli("explore", demo)$status, 2)
  expect_equal(run_cli("explore", demo, "--factors", "two")$status, 2)
  target <- file.path(folder, "target.csv")
  loadings <- tidy(sw_explore(sw_demo("plotholders"), 4))[c("item", "F1", "F2", "F3", "F4")]
  loadings[-1] <- lapply(loadings[-1], function(l) ifelse(abs(l) < .3, 0, NA))
  data.table::fwrite(loadings, target)
  aimed <- run_cli("explore", demo, "--factors", "4", "--rotation", "target", "--target", target)
  expect_match(aimed$out[1], "target rotation")
  stability <- run_cli("stability", demo, "--factors", "4", "--halves", "5", "--by", "district")
  expect_equal(stability$status, 0)
  expect_match(stability$out, "north +south", all = FALSE)
  halves <- run_cli("split", demo, "--method", "matched", "--tries", "5", "--out", "halves", folder = folder)
  expect_equal(halves$status, 0)
  expect_setequal(list.files(file.path(folder, "halves")), c("calibration.csv", "validation.csv"))
  expect_equal(nrow(read.csv(file.path(folder, "halves", "calibration.csv"))), 320)
  expect_equal(run_cli("split", demo, "--out", "halves", folder = folder)$status, 3)
  expect_equal(run_cli("split", demo, "--out", "halves.csv", folder = folder)$status, 0)
  one_file <- utils::read.csv(file.path(folder, "halves.csv"))
  expect_equal(as.vector(table(one_file$half)), c(320, 320))
  expect_equal(run_cli("explore", demo, "--factors", "3", "--extraction", "alpha", "--items", "calm,craft")$status, 0)
})

test_that("reliability takes resampled intervals, weights and levels", {
  run <- run_cli("reliability", "--demo", "plotholders", "--interval", "bca", "--replicates", "200", "--format", "json")
  expect_equal(run$status, 0)
  scales <- jsonlite::fromJSON(paste(run$out, collapse = "\n"))$tables$scales
  expect_true(all(scales$omega_low < scales$omega))
  weighted <- run_cli("reliability", "--demo", "plotholders", "--weights", "calm=2,craft=1,kinship=1,stewardship=1", "--table", "composite")
  expect_match(weighted$out, "weighted sum 2 calm", all = FALSE)
  expect_equal(run_cli("reliability", "--demo", "plotholders", "--weights", "calm")$status, 2)
  expect_equal(run_cli("reliability", "--demo", "plotholders", "--weights", "calm=1")$status, 3)
  full <- run_cli("reliability", "--demo", "plotholders", "--full")
  expect_match(full$out, "For a methods section", all = FALSE)
})

test_that("start drafts a codebook and a plan, and run does what it says", {
  folder <- withr::local_tempdir()
  file.copy(system.file("extdata", "plotholders.csv", package = "scalewort"), folder)
  start <- run_process("start", "plotholders.csv", folder = folder)
  expect_equal(start$status, 0)
  expect_match(start$out, "Guessed, to be checked", all = FALSE)
  expect_setequal(list.files(folder), c("plotholders.csv", "plotholders-codebook.csv", "plotholders-plan.yml"))
  expect_equal(run_process("start", "plotholders.csv", folder = folder)$status, 3)
  plan <- file.path(folder, "plotholders-plan.yml")
  lines <- c(readLines(plan), "composites: false", "invariance: false", "dif: false", "exploration:", "  factors: 4",
    "set_aside:", "  - items: [calm6]", "    reason: asks about the time of day")
  writeLines(lines, plan)
  run <- run_process("run", "plotholders-plan.yml", "--quiet", folder = folder)
  expect_equal(run$status, 0)
  expect_equal(run$err, "")
  screening <- read.csv(file.path(folder, "results", "screening.csv"))
  expect_equal(nrow(screening), 21)
  writeLines(c("dat: x.csv", "flip:", "  - items: [a]"), plan)
  wrong <- run_cli("run", "plotholders-plan.yml", folder = folder)
  expect_equal(wrong$status, 3)
  expect_match(wrong$err, "did you mean \"data\"")
  expect_match(wrong$err, "key \"codebook\" is missing")
  expect_match(wrong$err, "line 3: flip: key \"reason\" is missing")
})

test_that("CSV and JSON hold the same numbers as the verb", {
  table <- tidy(sw_reliability(sw_demo("plotholders")))
  run <- run_process("reliability", "--demo", "plotholders", "--format", "csv")
  read <- read.csv(text = run$out)
  expect_equal(read$alpha, table$alpha, tolerance = 1e-12)
  json <- jsonlite::fromJSON(run_cli("reliability", "--demo", "plotholders", "--format", "json")$out)
  expect_equal(json$tables$scales$alpha, table$alpha)
  expect_equal(json$about$n, 640)
  markdown <- run_cli("reliability", "--demo", "plotholders", "--format", "md", "--table", "items")$out
  expect_length(markdown, 24)
  expect_true(all(grepl("^\\|.*\\|$", markdown)))
})

test_that("files go in and scores come out", {
  folder <- withr::local_tempdir()
  file.copy(system.file("extdata", c("plotholders.csv", "plotholders-codebook.csv"), package = "scalewort"), folder)
  run <- run_process("score", "plotholders.csv", "--codebook", "plotholders-codebook.csv", "--id", "id", "--out", "scored.csv", folder = folder)
  expect_equal(run$status, 0)
  scored <- read.csv(file.path(folder, "scored.csv"))
  expect_equal(nrow(scored), 640)
  expect_equal(scored$calm_mean, as.vector(augment(sw_score(sw_demo("plotholders")))$calm_mean))
  again <- run_cli("score", "plotholders.csv", "--codebook", "plotholders-codebook.csv", "--out", "scored.csv", folder = folder)
  expect_equal(again$status, 3)
  expect_match(again$err, "there already")
})

test_that("fixed-width text and sheets are read from the command line", {
  folder <- withr::local_tempdir()
  set.seed(91)
  writeLines(paste0(sprintf("%02d", 1:40), vapply(1:40, function(i) paste(sample(5, 3, TRUE), collapse = ""), "")), file.path(folder, "packed.txt"))
  writeLines(c("item,scale,lowest,highest", "a,s,1,5", "b,s,1,5", "c,s,1,5"), file.path(folder, "book.csv"))
  run <- run_cli("screen", "packed.txt", "--codebook", "book.csv", "--layout", "id=1-2,answers=3-5", "--id", "id", folder = folder)
  expect_equal(run$status, 0)
  expect_match(run$out[1], "3 items screened")
  expect_equal(run_cli("screen", "packed.txt", "--codebook", "book.csv", "--layout", "1-2", folder = folder)$status, 2)
  pages <- run_cli("options", "--demo", "plantcare", "--pages", "pages.pdf", "--table", "flags", folder = folder)
  expect_equal(pages$status, 0)
  expect_gt(file.size(file.path(folder, "pages.pdf")), 5000)
})

test_that("wrong usage ends with 2, bad input with 3, and nothing is half-written", {
  folder <- withr::local_tempdir()
  usage <- list(
    "relaibility", c("screen", "--demo", "plotholders", "--bogus"), "screen", c("screen", "x.csv"),
    c("explore", "--demo", "plotholders"), c("screen", "--demo", "plotholders", "--format", "pdf"),
    c("run", "a.yml", "b.yml")
  )
  # A value that the table of options rules out is wrong usage, whatever the option.
  usage <- c(usage, list(
    c("screen", "--demo", "nothing"), c("options", "--demo", "plantcare", "--bands", "1"),
    c("retention", "--demo", "plotholders", "--replicates", "1"),
    c("reliability", "--demo", "plotholders", "--level", "2"), c("explore", "--demo", "plotholders", "--rotation", "spin"),
    c("report", "--demo", "plotholders", "--language", "xx"), c("score", "--demo", "plotholders", "--method", "nope")
  ))
  for (args in usage) {
    run <- do.call(run_cli, c(as.list(args), folder = folder))
    expect_equal(run$status, 2, info = paste(args, collapse = " "))
    expect_equal(run$out, character(), info = paste(args, collapse = " "))
    expect_match(run$err, "^Error: ")
  }
  writeLines(c("a,b", "1,x"), file.path(folder, "bad.csv"))
  writeLines("item\na\nb", file.path(folder, "book.csv"))
  writeLines("", file.path(folder, "empty.csv"))
  input <- list(
    c("screen", "none.csv", "--codebook", "book.csv"), c("screen", "bad.csv", "--codebook", "book.csv", "--out", "o.txt"),
    c("screen", "bad.csv", "--codebook", "none.csv"), c("screen", "empty.csv", "--codebook", "book.csv"),
    c("explore", "--demo", "plotholders", "--factors", "99"),
    c("confirm", "--demo", "plotholders", "--structure", "none.yml"), c("score", "bad.csv", "--codebook", "book.csv", "--out", "o.csv"),
    c("report", "bad.csv", "--codebook", "book.csv", "--out", "o.html"),
    c("start", "none.csv"), c("run", "none.yml"),
    c("dif", "--demo", "plotholders", "--by", "town"), c("answering", "--demo", "plotholders", "--time", "id"),
    c("keying", "bad.csv", "--codebook", "book.csv")
  )
  before <- list.files(folder, all.files = TRUE)
  for (args in input) {
    run <- do.call(run_cli, c(as.list(args), folder = folder))
    expect_equal(run$status, 3, info = paste(args, collapse = " "))
    expect_match(run$err, "Error: ")
  }
  expect_equal(list.files(folder, all.files = TRUE), before)
})

test_that("the demonstration writes everything and names it", {
  folder <- withr::local_tempdir()
  run <- run_process("demo", "--out", "shown", folder = folder)
  expect_equal(run$status, 0)
  written <- trimws(grep("^  ", run$out, value = TRUE))
  expect_true(all(file.exists(file.path(folder, written))))
  expect_setequal(basename(written), list.files(file.path(folder, "shown")))
  expect_true("report.html" %in% basename(written))
  report <- paste(readLines(file.path(folder, "shown", "report.html"), warn = FALSE), collapse = "\n")
  expect_true(grepl("keying changed", report, fixed = TRUE))
  fit <- read.csv(file.path(folder, "shown", "fit.csv"))
  expect_equal(fit$figure[1], "chi_square")
  expect_equal(run_cli("demo", "--out", "shown", folder = folder)$status, 3)
})

test_that("a computation that did not converge ends with 4", {
  exit <- core("cli_exit")
  expect_equal(exit(list(about = list(status = "not_converged"))), 4L, ignore_attr = TRUE)
  expect_equal(exit(list(about = list(status = "ok"))), 0L, ignore_attr = TRUE)
})

test_that("confirming and what follows it: from a saved exploration, by groups, for validity, composites, influence and power", {
  demo <- c("--demo", "plotholders")
  folder <- withr::local_tempdir()
  saved <- file.path(folder, "found.rds")
  diagram <- file.path(folder, "diagram.svg")
  expect_equal(run_cli("explore", demo, "--factors", "4", "--out", saved, "--quiet")$status, 0)
  run <- run_cli("confirm", demo, "--trust", "--structure", saved, "--estimator", "ordinal", "--diagram", diagram, "--quiet")
  expect_equal(run$status, 0)
  expect_match(run$out, "Adjusted chi-square", all = FALSE)
  expect_match(readLines(diagram, n = 2), "<svg", all = FALSE)
  first <- list(
    invariance = list(c("--by", "district"), "[Ee]qual loadings hold"), validity = list(c("--replicates", "40"), "All factors can be told apart"),
    composites = list(c("--replicates", "40"), "4 composites"), influence = list(c("--worst", "1"), "moves the estimates most"),
    power = list(c("--parameter", "calm,craft", "--replicates", "50", "--n", "100"), "The parameter of calm and craft")
  )
  for (command in names(first)) {
    run <- run_cli(command, demo, first[[command]][[1]])
    expect_equal(run$status, 0, info = command)
    expect_match(paste(run$out[1:3], collapse = " "), first[[command]][[2]], info = command)
    expect_true(all(nchar(run$out, "width") <= 80), info = command)
  }
  expect_equal(run_process("invariance", demo, "--by", "nowhere")$status, 3)
  expect_equal(run_process("power", demo, "--n", "many")$status, 2)
})

test_that("factor scores on the command line come from a saved confirmation, and are asked for by its file", {
  folder <- withr::local_tempdir()
  wrong <- run_cli("score", "--demo", "plotholders", "--method", "regression")
  expect_equal(wrong$status, 2)
  expect_match(wrong$err, "need --from FILE.rds")
  expect_equal(run_cli("confirm", "--demo", "plotholders", "--out", "held.rds", "--quiet", folder = folder)$status, 0)
  run <- run_cli("score", "--demo", "plotholders", "--trust", "--from", "held.rds", "--method", "bartlett", "--out", "s.csv", "--quiet",
    folder = folder)
  expect_equal(run$status, 0)
  closed <- run_cli("score", "--demo", "plotholders", "--from", "held.rds", folder = folder)
  expect_equal(closed$status, 3)
  expect_match(closed$err, "--trust")
  written <- utils::read.csv(file.path(folder, "s.csv"))
  by_hand <- augment(sw_score(sw_demo("plotholders"), "bartlett", from = sw_confirm(sw_demo("plotholders"))))
  expect_equal(written$calm_bartlett, as.vector(by_hand$calm_bartlett))
})

test_that("scores, a person's steps and simulated answers come from the command line", {
  folder <- withr::local_tempdir()
  run <- run_cli("score", "--demo", "plotholders", "--form", "t", "--groups", "3", "--out", "s.csv", "--schema", "--quiet", folder = folder)
  expect_equal(run$status, 0)
  expect_true(all(c("calm_mean_t", "calm_mean_band") %in% names(read.csv(file.path(folder, "s.csv")))))
  expect_true(file.exists(file.path(folder, "s.schema.json")))
  explained <- run_cli("explain", "--demo", "plotholders", "--case", "P277")
  expect_match(explained$out[1], "calm_mean [0-9.]+ = \\(")
  expect_equal(run_cli("explain", "--demo", "plotholders")$status, 2)
  expect_equal(run_cli("explain", "--demo", "plotholders", "--case", "nobody")$status, 3)
  drawn <- run_cli("simulate", "--demo", "plotholders", "--n", "20", "--seed", "3")
  expect_equal(nrow(read.csv(text = drawn$out)), 20)
})

test_that("completion and the manual page know every command, and the page that ships is current", {
  commands <- names(core("cli_commands")())
  for (shell in c("bash", "zsh")) {
    lines <- core("completion_lines")(shell)
    for (command in commands) expect_match(lines, paste0("^    ", command, "\\) COMPREPLY"), all = FALSE)
  }
  if (nzchar(Sys.which("bash"))) {
    script <- withr::local_tempfile(lines = c(core("completion_lines")("bash"), "COMP_WORDS=(scalewort sc)", "COMP_CWORD=1", "_scalewort",
      "echo ${COMPREPLY[@]}"))
    expect_equal(system2("bash", script, stdout = TRUE), "screen score")
  }
  expect_equal(readLines(system.file("manual", "scalewort.1", package = "scalewort")), unlist(strsplit(core("man_lines")(), "\n")))
})

test_that("output that cannot be written whole is said so, in words and by its code", {
  if (!file.exists("/dev/full")) skip("no full device is there")
  program <- system.file("exec", "scalewort", package = "scalewort")
  run <- function(args, to) {
    said <- withr::local_tempfile()
    code <- suppressWarnings(system2(program, c(args, "2>", said, to), stdout = ""))
    list(code = code, said = paste(readLines(said), collapse = " "))
  }
  for (args in c("reliability --demo plotholders", "score --demo plotholders --format csv --quiet", "--help")) {
    lost <- run(args, "> /dev/full")
    expect_equal(lost$code, 5, info = args)
    expect_match(lost$said, "could not be written whole", info = args)
    # Whoever reads only the beginning has enough.
    expect_equal(nchar(run(args, "| head -1 > /dev/null")$said), 0, info = args)
  }
})
